"""Which single change buys most days? Each lever is one edit of the job, assessed like any other."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterator, Mapping
from typing import Any, NamedTuple

from eager_lens.core.assess.assessment import Assessment, assess
from eager_lens.core.assess.figures.cap_cost import cap_cost, worst_of
from eager_lens.core.assess.figures.enough_drives import enough_drives, larger_drives
from eager_lens.core.assess.figures.rates import at_cap_of, holds_its_rate
from eager_lens.core.assess.limits import keeps
from eager_lens.core.job.cap_edit import cap_values, cap_words
from eager_lens.core.job.edits import Edit, set_each, set_fields
from eager_lens.core.job.model import Camera, Recorder, changed
from eager_lens.core.plain_text import sentence_case
from eager_lens.core.reference.resolutions import of_width, smaller_than
from eager_lens.core.units import count, figure

LOWER_QUALITY = {"high": "medium", "medium": "low"}
FPS_STEPS = (25.0, 20.0, 15.0, 12.0, 10.0, 8.0, 6.0, 5.0, 4.0)
LARGEST_WIDTH_PX = 1920
LONGER_KEY_FRAME_S = 4.0
MOST_OF = 3
"""So many of the cameras that store most are a lever of their own."""


class Lever(NamedTuple):
    """One change: its id, what it does in words, what it costs, the edit, and the days that the recorder can promise then.

    ``days`` is None where nothing would be recorded any more; ``gained`` is what it adds to the days of now.
    """

    id: str
    words: str
    price: str
    edit: Edit
    days: float | None
    gained: float


def levers(assessment: Assessment, recorder_id: str) -> Iterator[Lever]:
    """The levers for a recorder, as they are worked out; the caller sorts by what they gain.

    A measured rate is carried to other settings by the model. Cameras that hold a constant rate keep it whatever is set.
    """
    recorder = assessment.facts.recorders[recorder_id]
    now = assessment.recorder(recorder_id).promised_days
    for lever_id, words, price, edit in _edits(assessment, recorder):
        days = assess(edit.apply(assessment.job), assessment).recorder(recorder_id).promised_days
        gained = float("inf") if days is None else days - (now or 0.0)
        yield Lever(lever_id, words, price, edit, days, gained)


def missing(assessment: Assessment, recorder_id: str, found: Collection[str]) -> list[str]:
    """Why levers that somebody may look for are not among those found, one sentence each."""
    recorder, cameras = assessment.facts.recorders[recorder_id], assessment.facts.cameras_on[recorder_id]
    reasons = []
    if "drive" not in found:
        reasons.append("It has no drives yet." if not recorder.drives else "No bay is free.")
    holding = [camera for camera in cameras if holds_its_rate(camera)]
    if holding:
        whom = count(len(holding), "camera")
        reasons.append(
            f"{whom} at a constant bit rate: only another rate changes what {'it' if len(holding) == 1 else 'they'} store."
        )
    free = [camera for camera in cameras if not holds_its_rate(camera)]
    if free:
        for lever_id, words in MISSING.items():
            if lever_id not in found:
                reasons.append(words)
        if "codec" not in found and "h265" not in recorder.codecs:
            reasons.append("The recorder does not take H.265.")
    return reasons


MISSING = {
    "fps": f"Frame rates are at {FPS_STEPS[-1]:g} fps or lower already.",
    "quality": "Quality is low everywhere.",
    "key-frame": f"The key-frame interval is {LONGER_KEY_FRAME_S:g} s or longer already.",
    "picture": f"No resolution is wider than {LARGEST_WIDTH_PX} px.",
    "post": "Post-recording is under 4 s, or nothing is recorded on motion.",
}
"""Why a change of settings is not offered."""


def _edits(assessment: Assessment, recorder: Recorder) -> Iterator[tuple[str, str, str, Edit]]:
    yield from _caps(assessment, recorder)
    yield from _drives(recorder)
    yield from _enough(assessment, recorder)
    cameras = [c for c in assessment.facts.cameras_on[recorder.id] if not holds_its_rate(c)]
    makers: tuple[tuple[str, str, Callable[[Camera], Mapping[str, Any]]], ...] = (
        ("fps", "motion is less smooth", _fewer_frames),
        ("quality", "finer detail is lost first", _one_lower),
        ("key-frame", "a clip starts up to 4 s late", _rarer_key_frames),
        ("picture", "fewer pixels on the subject", _smaller_picture),
        ("post", "more fragments of one visit", _shorter_after),
    )
    words = {
        "fps": "Frame rate one step lower",
        "quality": "Quality one step lower",
        "key-frame": f"Key-frame interval {LONGER_KEY_FRAME_S:g} s",
        "picture": f"Resolution at most {LARGEST_WIDTH_PX} px wide",
        "post": "Half the post-recording",
    }
    for lever_id, price, change in makers:
        yield from _on_cameras(lever_id, words[lever_id], price, cameras, change)
    if "h265" in recorder.codecs:
        yield from _on_cameras("codec", "H.265 everywhere", "cameras and viewers must support it", cameras, _h265)
    figures = assessment.facts.camera_figures
    most = sorted(cameras, key=lambda camera: -figures[camera.id].gb_per_day)[:MOST_OF]
    names = ", ".join(camera.name for camera in most)
    yield from _on_cameras("most", f"Quality one step lower only on {names}", "finer detail there", most, _one_lower)


def _on_cameras(
    lever_id: str, words: str, price: str, cameras: list[Camera], change: Callable[[Camera], Mapping[str, Any]]
) -> Iterator[tuple[str, str, str, Edit]]:
    """One change of all cameras that it changes; none where it changes nothing."""
    changes = {camera.id: fields for camera in cameras if (fields := change(camera))}
    if changes:
        whom = count(len(changes), "camera")
        yield lever_id, f"{words} ({whom})", price, set_each(f"{words} on {whom}", changes)


def _caps(assessment: Assessment, recorder: Recorder) -> Iterator[tuple[str, str, str, Edit]]:
    """Maximum bit rates where there are none, with what they take from the picture that they take most from."""
    cameras = assessment.facts.cameras_on[recorder.id]
    values = cap_values(cameras)
    if values:
        assumed = assessment.job.assumed.as_assumed()
        held = [changed(camera, **values[camera.id]) for camera in cameras if camera.id in values]
        worst = worst_of(cost for camera in held if (cost := at_cap_of(camera, assumed)) is not None)
        price = "a setting on each camera" if worst is None else f"the softest picture is {cap_cost(worst)}"
        caps = [fields["cap_mbps"] for fields in values.values()]
        words = f"{cap_words(caps)} ({count(len(values), 'camera')})"
        yield CAP, words, price, set_each(words, values)


CAP = "cap"
"""The lever that comes first: it takes a doubt away instead of buying space for it."""


def _drives(recorder: Recorder) -> Iterator[tuple[str, str, str, Edit]]:
    if 0 < recorder.drives < recorder.bays:
        size = figure(recorder.drive_tb)
        edit = set_fields([recorder.id], f"Add a {size} TB drive to {recorder.name}", drives=recorder.drives + 1)
        yield "drive", f"One more {size} TB drive", "a drive, and a free bay", edit
    larger = next(iter(larger_drives(recorder)), None)
    if recorder.drives and larger is not None:
        words = f"Drives of {figure(larger)} TB instead of {figure(recorder.drive_tb)} TB"
        edit = set_fields([recorder.id], f"{words} in {recorder.name}", drive_tb=larger)
        yield "larger", words, f"{count(recorder.drives, 'drive')}, and existing recordings are lost", edit


def _enough(assessment: Assessment, recorder: Recorder) -> Iterator[tuple[str, str, str, Edit]]:
    """Drives that reach the promise, where one more is not enough."""
    keeping, least = assessment.facts.keeping[recorder.id], assessment.job.retention.least_days
    if keeping is None or keeps(assessment.recorder(recorder.id).promised_days, least):
        return
    drives = enough_drives(recorder, keeping.space_gb_for(least) / 1000)
    if drives is not None and drives.words != f"1 more {figure(recorder.drive_tb)} TB drive":
        price = "drives" if drives.stay else "drives, and existing recordings are lost"
        yield "enough", sentence_case(drives.words), price, drives.edit


def _fewer_frames(camera: Camera) -> Mapping[str, Any]:
    lower = next((step for step in FPS_STEPS if step < camera.fps), None)
    return {} if lower is None else {"fps": lower}


def _one_lower(camera: Camera) -> Mapping[str, Any]:
    lower = LOWER_QUALITY.get(camera.quality)
    return {} if lower is None else {"quality": lower}


def _rarer_key_frames(camera: Camera) -> Mapping[str, Any]:
    if camera.codec == "mjpeg" or camera.key_frame_s >= LONGER_KEY_FRAME_S:
        return {}
    return {"key_frame_s": LONGER_KEY_FRAME_S}


def _smaller_picture(camera: Camera) -> Mapping[str, Any]:
    if camera.width_px <= LARGEST_WIDTH_PX:
        return {}
    smaller = [size for size in smaller_than(camera.width_px, camera.height_px) if size[0] <= LARGEST_WIDTH_PX]
    width_px, height_px = smaller[0] if smaller else of_width(camera.width_px, camera.height_px, LARGEST_WIDTH_PX)
    return {"width_px": width_px, "height_px": height_px}


def _shorter_after(camera: Camera) -> Mapping[str, Any]:
    return {"post_recording_s": camera.post_recording_s / 2} if camera.post_recording_s >= 4 else {}


def _h265(camera: Camera) -> Mapping[str, Any]:
    return {} if camera.codec == "h265" else {"codec": "h265"}
