"""Working of what a camera sees at its target."""

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.figures.devices import placing_of
from eager_lens.core.optics.lens import LENS_VIEW
from eager_lens.core.optics.placing import FACE_M, PX_PER_M, focal_for
from eager_lens.core.present.workings.base import Working, WorkingLine, calculated
from eager_lens.core.units import figure


def view(camera_id: str, assessment: Assessment) -> Working:
    """Pixels on the target, and what they serve."""
    camera = assessment.facts.find_camera(camera_id)
    title = f"View, {camera.name}"
    seen = placing_of(camera)
    if seen is None:
        line = WorkingLine("target", "the distance is not entered yet", "plan")
        return Working(title, "none", LENS_VIEW.formula, (line,), LENS_VIEW.source)
    _, lines = calculated(
        LENS_VIEW,
        {
            "sensor_width_mm": (camera.sensor_width_mm, "plan"),
            "focal_mm": (camera.focal_mm, "plan"),
            "width_px": (camera.width_px, "plan"),
            "distance_m": (seen.sight_m, "calculated"),
        },
    )
    blind = "no ground in the picture" if seen.blind_m is None else f"{figure(seen.blind_m)} m"
    more = [
        WorkingLine("lens above the ground", f"{figure(camera.mount_height_m)} m", "plan"),
        WorkingLine("target", f"{figure(camera.target_m or 0.0)} m away, a face at {figure(FACE_M)} m", "plan"),
        WorkingLine("width of the picture there", f"{figure(seen.width_m)} m", "calculated"),
        WorkingLine("good for", seen.good_for, "calculated"),
        WorkingLine("tilted down by", f"{figure(seen.tilt_deg)}°", "calculated"),
        WorkingLine("blind strip up to", blind, "calculated"),
    ]
    if camera.purpose:
        needed_mm = focal_for(camera.purpose, camera.sensor_width_mm, camera.width_px, seen.sight_m)
        more.append(WorkingLine(f"wanted: {camera.purpose}", f"{figure(PX_PER_M[camera.purpose])} px/m", "plan"))
        more.append(WorkingLine("focal length needed", f"{figure(needed_mm)} mm", "calculated"))
    formula = f"distance = hypot(target, lens - face); {LENS_VIEW.formula}; unseen = height / tan(tilt + half the upright angle)"
    return Working(title, f"{figure(seen.px_per_m)} px/m", formula, (*lines, *more), LENS_VIEW.source)
