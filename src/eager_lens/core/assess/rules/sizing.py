"""Findings about sizing: days kept against days asked, drives, pixels on the subject, and what the figures rest on."""

from __future__ import annotations

import heapq
import math
from collections.abc import Iterator, Sequence

from eager_lens.core.assess.cap_cost import cap_cost
from eager_lens.core.assess.capped_need import capped_need_tb
from eager_lens.core.assess.codes import Code
from eager_lens.core.assess.enough_drives import Drives, enough_drives
from eager_lens.core.assess.exceptions import exception_figures
from eager_lens.core.assess.facts import Facts
from eager_lens.core.assess.figures import CameraFigures, erased, placing_of
from eager_lens.core.assess.finding import Finding, Severity, names_listed
from eager_lens.core.assess.limits import LEAST_SUBSTREAM_MBPS, PURPOSE_FPS, STEEP_DEG
from eager_lens.core.assess.traits import Trait, given_mbps
from eager_lens.core.job.cap_edit import cap_edit
from eager_lens.core.job.capping import usual_cap_fields, usual_cap_of
from eager_lens.core.job.edits import Edit, both, set_each, set_fields
from eager_lens.core.job.model import Camera, Recorder
from eager_lens.core.optics.placing import PX_PER_M, focal_for, width_for
from eager_lens.core.plain_text import sentence_case
from eager_lens.core.sizing.control import CAMERA_PORT_MBPS
from eager_lens.core.units import count, days_figure, figure
from eager_lens.core.validation import at_least, at_most

TOLD_ONE_BY_ONE = 5
"""Up to so many cameras that miss their purpose are told one by one; of more, all in one finding."""


def days_short(facts: Facts) -> Iterator[Finding]:
    """The days that were asked cannot be promised: a fault where not even the mean keeps them, else a warning."""
    least = facts.job.retention.least_days
    for recorder in facts.job.recorders:
        got, keeping = facts.recorder_figures[recorder.id], facts.keeping[recorder.id]
        if got.mean_days is None or got.promised_days is None or keeping is None or got.keeps == "no storage":
            continue  # without storage there is one thing to say, and ``drives_wrong`` says it
        if recorder.erase_after_days is not None and not at_least(recorder.erase_after_days, least):
            yield Finding(
                Code.ERASED_EARLY,
                Severity.FAULT,
                "sizing",
                f"{recorder.name} erases after {figure(recorder.erase_after_days)} days; {figure(least)} were asked",
                "What is older is gone, however much room the drives have.",
                f"Have it erase after {figure(least)} days or later.",
                (recorder.id,),
                set_fields([recorder.id], f"Erase after {figure(least)} days", erase_after_days=least),
            )
        elif not at_least(got.promised_days, least):
            need_tb = keeping.space_gb_for(least) / 1000
            capping, need_capped_tb = _with_caps(facts, recorder, need_tb)
            drives = enough_drives(recorder, need_capped_tb)
            enough = at_least(got.usable_tb, need_capped_tb)
            on_the_mean = at_least(got.mean_days, least)
            dearer = _dearest_exception(facts, recorder, got.gb_per_day)
            yield Finding(
                Code.DAYS_DOUBTFUL if on_the_mean else Code.DAYS_SHORT,
                Severity.WARNING if on_the_mean else Severity.FAULT,
                "sizing",
                f"{recorder.name} can promise {days_figure(got.promised_days)} of {figure(least)} days",
                f"That many are kept on the year's worst day, 19 times in 20; {days_figure(got.mean_days)} are expected. "
                f"{figure(got.usable_tb)} TB take {figure(got.gb_per_day)} GB a day; the promise needs {figure(need_tb)} TB."
                f"{dearer}",
                f"{_way_out(capping, drives, enough)} What helps most lists the settings.",
                (recorder.id,),
                capping if enough else None if drives is None else both(capping, drives.edit),
            )


def _with_caps(facts: Facts, recorder: Recorder, need_tb: float) -> tuple[Edit | None, float]:
    """The edit that caps the recorder's cameras, None where none lacks it; and what the promise needs then. In a large job, where
    this is asked at each edit, it is told as in proportion to what is stored: at most that, for less of it is in doubt."""
    own = ((camera, facts.camera_figures[camera.id]) for camera in facts.cameras_on[recorder.id])
    found = [(camera, figures) for camera, figures in own if figures.usual_cap_mbps is not None]
    if not found:
        return None, need_tb
    free, figures = [camera for camera, _ in found], [figures for _, figures in found]
    saved = sum(one.gb_per_day * (1 - one.capped_mbps / one.rate_mbps) for one in figures)
    whole = facts.recorder_figures[recorder.id].gb_per_day
    exact = capped_need_tb(facts, recorder)
    return _capping(free, figures), need_tb * (1 - saved / whole) if exact is None else exact


def _capping(free: Sequence[Camera], figures: Sequence[CameraFigures]) -> Edit:
    """The edit that caps cameras that lack a maximum; their figures know the usual one."""
    caps = [one.usual_cap_mbps for one in figures if one.usual_cap_mbps is not None]
    return cap_edit([camera.id for camera in free], caps, free[0].name if len(free) == 1 else "")


def _way_out(capping: Edit | None, drives: Drives | None, enough: bool) -> str:
    """A setting comes before drives: no doubt that it takes away is worth buying space for."""
    if capping is None:
        return _drives_words(drives)
    if enough:
        return f"{capping.label}: that is enough, and costs no drive."
    return f"{capping.label}; that is not enough by itself. {_drives_words(drives)}"


def _drives_words(drives: Drives | None) -> str:
    if drives is None:
        return "No drives that fit its bays are enough: record less, or add a recorder."
    lost = "" if drives.stay else " What is recorded on the old ones is lost."
    return f"{sentence_case(drives.words)} hold {figure(drives.usable_tb)} TB, enough for the promise.{lost}"


def _dearest_exception(facts: Facts, recorder: Recorder, usual_gb: float) -> str:
    """The exception that stores most, where one stores more than the schedules as painted."""
    found = exception_figures(facts, [recorder]) if facts.job.exceptions else []
    most = max(found, key=lambda one: one.gb_per_day, default=None)
    if most is None or most.gb_per_day <= usual_gb:
        return ""
    return f" “{most.exception.name}” stores {figure(most.gb_per_day)} GB a day."


def days_over(facts: Facts) -> Iterator[Finding]:
    """Pictures may stay longer than they may, or far longer than anybody asked for."""
    least, most = facts.job.retention.least_days, facts.job.retention.most_days
    for recorder in facts.job.recorders:
        keeping = facts.keeping[recorder.id]
        if keeping is None or facts.recorder_figures[recorder.id].keeps == "no storage":
            continue
        days = erased(keeping.longest(), recorder)
        longest = figure(math.ceil(days - 1e-9), 9)
        if most is not None and not at_most(days, most):
            yield Finding(
                Code.DAYS_OVER,
                Severity.FAULT,
                "sizing",
                f"{recorder.name} may keep {longest} days; {figure(most)} are allowed",
                "In quiet times the drives hold more than the customer or the law lets you keep.",
                f"Set the recorder to erase after {figure(most)} days, and enter it here; the handover sheet says so then.",
                (recorder.id,),
                set_fields([recorder.id], f"Erase after {figure(most)} days", erase_after_days=most),
            )
        elif most is None and recorder.erase_after_days is None and days > FAR_LONGER * least > 0:
            yield Finding(
                Code.DAYS_OPEN,
                Severity.NOTE,
                "sizing",
                f"{recorder.name} may keep {longest} days; {figure(least)} were asked, and nobody said when it erases",
                f"Signs and the customer's sheet say {longest} days then, for that is how old a picture may get.",
                f"Ask the customer; where {figure(least)} days are meant, have the recorder erase after them.",
                (recorder.id,),
                set_fields([recorder.id], f"Erase after {figure(least)} days", erase_after_days=least),
            )


FAR_LONGER = 2.0
"""Pictures that may get so many times as old as was asked are told of."""


def costly_codec(facts: Facts) -> Iterator[Finding]:
    """MJPEG stores every picture in full."""
    costly = facts.with_trait["mjpeg"]
    if costly:
        gb = sum(facts.camera_figures[camera.id].gb_per_day for camera in costly)
        yield Finding(
            Code.COSTLY_CODEC,
            Severity.WARNING,
            "sizing",
            f"MJPEG on {names_listed([camera.name for camera in costly])} takes {figure(gb)} GB a day",
            "Every picture is stored in full, many times the size of H.264 or H.265.",
            "Select H.264 or H.265 where camera and recorder know it.",
            tuple(camera.id for camera in costly),
        )


def unknown_scene(facts: Facts) -> Iterator[Finding]:
    """A scene that the table does not hold."""
    strange = facts.with_trait["unknown scene"]
    if strange:
        yield Finding(
            Code.UNKNOWN_SCENE,
            Severity.WARNING,
            "sizing",
            f"{count(len(strange), 'camera')} with a scene that is not known here",
            f"{names_listed([f'{camera.name}: {camera.scene}' for camera in strange])}. "
            "The most demanding scene was assumed instead.",
            "Select a scene from the list.",
            tuple(camera.id for camera in strange),
        )


NAMED = 20
"""So many of the cameras that store most are led to."""


def assumed_rates(facts: Facts) -> Iterator[Finding]:
    """How much of the figures is assumption."""
    assumed = facts.with_trait["estimated rate"]
    if assumed:
        stored = [facts.camera_figures[camera.id].gb_per_day for camera in assumed]
        largest = [assumed[at] for at in heapq.nlargest(NAMED, range(len(stored)), key=stored.__getitem__)]
        yield Finding(
            Code.ASSUMED_RATES,
            Severity.NOTE,
            "sizing",
            f"{count(len(assumed), 'bit rate')} of {figure(len(facts.job.cameras), 9)} assumed, not measured",
            f"Real scenes of a kind differ several times over. Most is stored by {names_listed([c.name for c in largest[:3]])}.",
            "Run one camera of each kind in place, read its bit rate, and enter it as measured.",
            tuple(camera.id for camera in largest),
        )


def entered_rates(facts: Facts) -> Iterator[Finding]:
    """Rates of which nobody says that they were read off the running camera."""
    entered = facts.with_trait["entered rate"]
    if entered:
        yield Finding(
            Code.ENTERED_RATES,
            Severity.NOTE,
            "sizing",
            f"{count(len(entered), 'bit rate')} entered; nobody says when measured",
            f"{names_listed([camera.name for camera in entered])}. A data sheet's or a menu's figure says little of a scene, and "
            "a rate read by day says little of the night; so the range stays as wide as of an estimate.",
            "Select by day, by night or both under Measured when, where the rate was read off the running camera.",
            tuple(camera.id for camera in entered),
        )


def hardly_serves_its_purpose(facts: Facts) -> Iterator[Finding]:
    """Purposes without a distance, with too few frames, at low quality, or seen from too steeply above."""
    for trait, code, severity, title, why, action in PURPOSES:
        found = facts.with_trait[trait]
        if not found:
            continue
        ids = tuple(camera.id for camera in found)
        fix = None
        if code == Code.PURPOSE_FRAMES:
            values = {camera.id: {"fps": PURPOSE_FPS[camera.purpose]} for camera in found}
            fix = set_each(f"Enough frames on {count(len(ids), 'camera')}", values)
        elif code == Code.PURPOSE_COARSE:
            fix = set_fields(ids, f"Medium quality on {count(len(ids), 'camera')}", quality="medium")
        names = names_listed([camera.name for camera in found])
        yield Finding(code, severity, "sizing", f"{names}: {title}", why, action, ids, fix)


PURPOSES: tuple[tuple[Trait, Code, Severity, str, str, str], ...] = (
    (
        "purpose without distance",
        Code.PURPOSE_FAR,
        Severity.NOTE,
        "a purpose, but no distance to the target",
        "Without it nobody can say whether the pixels are enough.",
        "Enter how far the target is, on the Purpose tab.",
    ),
    (
        "few frames",
        Code.PURPOSE_FRAMES,
        Severity.WARNING,
        "few frames a second for the purpose",
        "Somebody who passes is seen well on one of a few frames; with so few it may be none.",
        "8 fps to identify, 6 to recognise, 5 to observe, 4 to detect are usual least values.",
    ),
    (
        "coarse",
        Code.PURPOSE_COARSE,
        Severity.WARNING,
        "low quality where people must be told apart",
        "Coarse compression takes faces and plates away first, by night most.",
        "Medium quality or better; what it costs stands in the row.",
    ),
    (
        "steep",
        Code.PURPOSE_STEEP,
        Severity.WARNING,
        "faces are seen from too steeply above",
        f"More than {STEEP_DEG:.0f}° from above a face shows its forehead, and a cap hides the rest.",
        "Mount it lower, or farther from the target with a longer lens.",
    ),
    (
        "ground unseen",
        Code.TARGET_BLIND,
        Severity.WARNING,
        "the target is under the camera, or the ground there in the blind strip",
        "Who stands there is seen from above or cut off below; what lies on the ground, or crawls, is not seen.",
        "A shorter lens, a lower mount, or aim it nearer; the Purpose tab shows the strip.",
    ),
)


def unlikely_rates(facts: Facts) -> Iterator[Finding]:
    """Bit rates that no encoder makes of such a picture: read far too low, or so high that kb/s stand for Mb/s."""
    likely: tuple[tuple[Trait, str], ...] = (
        ("rate too low", "no encoder sends such a picture in so little"),
        ("rate too high", "no such picture takes so much; were kb/s typed as Mb/s?"),
    )
    for trait, why in likely:
        for camera in facts.with_trait[trait]:
            asked_mbps = facts.camera_figures[camera.id].asked_mbps
            yield Finding(
                Code.RATE_UNLIKELY,
                Severity.WARNING,
                "sizing",
                f"{camera.name}: {figure(given_mbps(camera) or 0.0)} Mb/s are hardly possible",
                f"Some {figure(asked_mbps)} Mb/s are likely with its settings and view: {why}",
                "Read it off the camera again, and see whether resolution, frame rate and codec are those of the camera.",
                (camera.id,),
            )


def unlikely_substreams(facts: Facts) -> Iterator[Finding]:
    """Substreams of less than moving pictures take."""
    small = facts.with_trait["substream too low"]
    if small:
        yield Finding(
            Code.RATE_UNLIKELY,
            Severity.WARNING,
            "sizing",
            f"{names_listed([camera.name for camera in small])}: a substream of "
            f"{figure(min(camera.substream_mbps for camera in small))} Mb/s is hardly possible",
            f"Moving pictures take more than {figure(LEAST_SUBSTREAM_MBPS)} Mb/s; was a figure of kb/s moved by a place too many?",
            "Read it off the camera again, in Mb/s.",
            tuple(camera.id for camera in small),
        )


def purpose_missed(facts: Facts) -> Iterator[Finding]:
    """Too few pixels on the subject for what the camera is there for."""
    missing = facts.with_trait["purpose missed"]
    if len(missing) > TOLD_ONE_BY_ONE:
        yield Finding(
            Code.PURPOSE_MISSED,
            Severity.FAULT,
            "sizing",
            f"{count(len(missing), 'camera')} have too few pixels for what they are wanted for",
            f"{names_listed([camera.name for camera in missing])}. No software adds pixels that were not recorded.",
            "The Purpose tab shows the focal length that each needs; select several rows to set one lens for all.",
            tuple(camera.id for camera in missing),
        )
        return
    for camera in missing:
        seen = placing_of(camera)
        if seen is None or not camera.purpose:
            continue
        focal_mm = focal_for(camera.purpose, camera.sensor_width_mm, camera.width_px, seen.sight_m)
        width_px = width_for(camera.purpose, camera.sensor_width_mm, camera.focal_mm, seen.sight_m)
        yield Finding(
            Code.PURPOSE_MISSED,
            Severity.FAULT,
            "sizing",
            f"{camera.name} is to {camera.purpose}; {figure(seen.px_per_m)} px/m are good for {seen.good_for}",
            f"{PX_PER_M[camera.purpose]:g} px per m are wanted {figure(camera.target_m or 0.0)} m away (IEC 62676-4). "
            "No software adds pixels that were not recorded.",
            f"At least {figure(focal_mm)} mm of focal length, or {width_px} px across, or the camera nearer.",
            (camera.id,),
        )


def caps(facts: Facts) -> Iterator[Finding]:
    """A rate control without its cap, a cap that the picture cannot live on, or one that the camera does not hold."""
    for camera in facts.with_trait["no cap"]:
        yield Finding(
            Code.NO_CAP,
            Severity.WARNING,
            "sizing",
            f"{camera.name}: {camera.rate_control} is set, but no cap is given",
            "It is reckoned with what the picture asks for, until the cap is known.",
            "Type the cap in Mb/s, or set constant quality.",
            (camera.id,),
        )
    for camera in facts.with_trait["low cap"]:
        got, usual_mbps = facts.camera_figures[camera.id], usual_cap_of(camera)
        is_higher = usual_mbps is not None and usual_mbps > (camera.cap_mbps or 0.0)
        usual = f"Cap {camera.name} at {figure(usual_mbps or 0.0)} Mb/s"
        yield Finding(
            Code.LOW_CAP,
            Severity.WARNING,
            "sizing",
            f"{camera.name} is held to {figure(camera.cap_mbps or 0.0)} Mb/s; its picture asks for about {figure(got.asked_mbps)}",
            f"{sentence_case(cap_cost(got.at_cap)) if got.at_cap else ''}. What a cap takes away is detail, most of it when much "
            "happens: just when the picture is wanted. Six steps double the coarseness.",
            "Raise the cap, or ask for less: fewer frames, a smaller picture, a lower quality that is selected.",
            (camera.id,),
            set_fields([camera.id], usual, **usual_cap_fields(camera)) if is_higher else None,
        )
    for camera in facts.with_trait["cap not held"]:
        read, cap = camera.measured_mbps or 0.0, camera.cap_mbps or 0.0
        yield Finding(
            Code.CAP_NOT_HELD,
            Severity.WARNING,
            "sizing",
            f"{camera.name} does not hold its cap: {figure(read)} Mb/s were read, {figure(cap)} are set",
            "The cap was never typed into the camera, or its firmware does not keep it. The days are reckoned with what was read.",
            "Look at the maximum bit rate on the camera's page and set it again; then read its rate once more.",
            (camera.id,),
        )


def no_maximum(facts: Facts) -> Iterator[Finding]:
    """Cameras that send whatever their pictures ask for."""
    free = facts.with_trait["no maximum"]
    if free:
        figures = [facts.camera_figures[camera.id] for camera in free]
        mbps, high_mbps = sum(one.rate_mbps for one in figures), sum(one.high_mbps for one in figures)
        yield Finding(
            Code.UNCAPPED,
            Severity.NOTE,
            "sizing",
            f"{names_listed([camera.name for camera in free])}: no maximum bit rate",
            f"Together they send about {figure(mbps)} Mb/s, and up to {figure(high_mbps)} in one case of ten: whatever noise and "
            f"movement ask for. Drives that are to hold a promise must be bought for that.{_costs_of_none(facts)}",
            "Set a maximum bit rate on the camera (capped VBR), and plan with it.",
            tuple(camera.id for camera in free),
            _capping(free, figures),
        )


def _costs_of_none(facts: Facts) -> str:
    """What having no maximum costs in drives."""
    need_tb = capped_tb = 0.0
    for recorder in facts.job.recorders:
        keeping, held_tb = facts.keeping[recorder.id], capped_need_tb(facts, recorder)
        if keeping is not None and held_tb is not None:
            need_tb += keeping.space_gb_for(facts.job.retention.least_days) / 1000
            capped_tb += held_tb
    return (
        f" The promise needs {figure(need_tb)} TB; with the usual maximum {figure(capped_tb)}." if need_tb > 0 else ""
    )


def over_the_port(facts: Facts) -> Iterator[Finding]:
    """Pictures that ask for more than a camera's port carries."""
    for camera in facts.with_trait["over its port"]:
        asked = facts.camera_figures[camera.id].asked_mbps
        yield Finding(
            Code.OVER_PORT,
            Severity.FAULT,
            "sizing",
            f"{camera.name} would send {figure(asked)} Mb/s; its port carries {figure(CAMERA_PORT_MBPS)}",
            "What does not fit is lost, frame by frame.",
            "Take H.265 or H.264, fewer frames, or a smaller picture.",
            (camera.id,),
        )


RULES = (
    days_short,
    caps,
    no_maximum,
    over_the_port,
    days_over,
    hardly_serves_its_purpose,
    unlikely_rates,
    unlikely_substreams,
    purpose_missed,
    costly_codec,
    unknown_scene,
    assumed_rates,
    entered_rates,
)
