"""Findings about sizing: days kept against days asked, drives, pixels on the subject, and what the figures rest on."""

from __future__ import annotations

import heapq
import math
from collections.abc import Iterator, Sequence

from eager_lens.core.assess.figures.cap_cost import cap_cost, coarser
from eager_lens.core.assess.figures.capped_need import capped_need_tb
from eager_lens.core.assess.figures.devices import (
    CameraFigures,
    Trait,
    erased,
    misses_purpose,
    placing_of,
    promise_words,
)
from eager_lens.core.assess.figures.enough_drives import Drives, enough_drives
from eager_lens.core.assess.figures.exceptions import exception_figures
from eager_lens.core.assess.figures.facts import Facts
from eager_lens.core.assess.figures.rates import cap_of
from eager_lens.core.assess.finding import Finding, FindingKind, Severity, cameras_named, names_listed
from eager_lens.core.assess.incremental.traits import trait
from eager_lens.core.assess.limits import PURPOSE_FPS, TOLD_APART
from eager_lens.core.job.cap_edit import cap_edit
from eager_lens.core.job.capping import usual_cap_fields, usual_cap_of
from eager_lens.core.job.edits import Edit, both, set_each, set_fields
from eager_lens.core.job.measured import measured_elsewhere
from eager_lens.core.job.model import Camera, Recorder
from eager_lens.core.optics.placing import FACE_M, PX_PER_M, focal_for, width_for
from eager_lens.core.plain_text import sentence_case
from eager_lens.core.reference.streams import stream_assumptions
from eager_lens.core.sizing.control import CAMERA_PORT_MBPS, CONSTANT_SPREAD
from eager_lens.core.units import count, days_figure, figure
from eager_lens.core.validation import at_least, at_most

TOLD_ONE_BY_ONE = 5
"""Up to this many cameras that miss their purpose get their own finding; more share one."""


ERASED_EARLY = FindingKind("erased-early", "sizing")
DAYS_DOUBTFUL = FindingKind("days-doubtful", "sizing", colours="days", way_out="more days")
DAYS_SHORT = FindingKind("days-short", "sizing", colours="days", way_out="more days")


def days_short(facts: Facts) -> Iterator[Finding]:
    """The days that were asked cannot be promised: a fault where not even the mean keeps them, else a warning."""
    least = facts.job.retention.least_days
    for recorder in facts.job.recorders:
        got, keeping = facts.recorder_figures[recorder.id], facts.keeping[recorder.id]
        if got.mean_days is None or got.promised_days is None or keeping is None or got.keeps == "no storage":
            continue  # without storage there is one thing to say, and ``drives_wrong`` says it
        if recorder.erase_after_days is not None and not at_least(recorder.erase_after_days, least):
            yield Finding(
                ERASED_EARLY,
                Severity.FAULT,
                f"{recorder.name} erases after {figure(recorder.erase_after_days)} of {figure(least)} days",
                "Older recordings are erased even if the drives have room.",
                f"Set it to erase after {figure(least)} days or later.",
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
                DAYS_DOUBTFUL if on_the_mean else DAYS_SHORT,
                Severity.WARNING if on_the_mean else Severity.FAULT,
                promise_words(recorder.name, got.promised_days, least),
                "That many days are kept even on the worst day of the year, with 95 % probability; "
                f"{days_figure(got.mean_days)} are expected. The recorder stores {figure(got.gb_per_day)} GB a day on "
                f"{figure(got.usable_tb)} TB; the promise needs {figure(need_tb)} TB.{dearer}",
                f"{_way_out(capping, drives, enough)} The tab What helps most compares all settings.",
                (recorder.id,),
                capping if enough else None if drives is None else both(capping, drives.edit),
                button=_button(capping, drives, enough),
            )


def _button(capping: Edit | None, drives: Drives | None, enough: bool) -> str:
    if enough or drives is None:
        return "Cap bit rates"
    return drives.button if capping is None else "Cap and fit drives"


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
        return f"{capping.label}. That is enough and needs no new drives."
    return f"{capping.label}. That alone is not enough. {_drives_words(drives)}"


def _drives_words(drives: Drives | None) -> str:
    if drives is None:
        return "No drives that fit its bays are enough, so record less or add a recorder."
    lost = "" if drives.stay else " Recordings on the old drives are lost."
    return f"{sentence_case(drives.words)} have {figure(drives.usable_tb)} TB, enough for the promise.{lost}"


def _dearest_exception(facts: Facts, recorder: Recorder, usual_gb: float) -> str:
    """The exception that stores most, where one stores more than the schedules as painted."""
    found = exception_figures(facts, [recorder]) if facts.job.exceptions else []
    most = max(found, key=lambda one: one.gb_per_day, default=None)
    if most is None or most.gb_per_day <= usual_gb:
        return ""
    return f" “{most.exception.name}” stores {figure(most.gb_per_day)} GB a day."


DAYS_OVER = FindingKind("days-over", "sizing", settled_after=True)
DAYS_OPEN = FindingKind("days-open", "sizing")


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
                DAYS_OVER,
                Severity.FAULT,
                f"{recorder.name} may keep {longest} days, more than the {figure(most)} allowed",
                "In quiet times the drives hold more days than the customer or the law allows.",
                f"Set the recorder to erase after {figure(most)} days, and enter that here; the handover sheet then says so.",
                (recorder.id,),
                set_fields([recorder.id], f"Erase after {figure(most)} days", erase_after_days=most),
            )
        elif most is None and recorder.erase_after_days is None and days > FAR_LONGER * least > 0:
            yield Finding(
                DAYS_OPEN,
                Severity.NOTE,
                f"{recorder.name} may keep {longest} days instead of {figure(least)}",
                f"No limit is set, so signs and the customer's sheet must say {longest} days, the longest that a recording may "
                "be kept.",
                f"Ask the customer. If {figure(least)} days is also the limit, set the recorder to erase after that.",
                (recorder.id,),
                set_fields([recorder.id], f"Erase after {figure(least)} days", erase_after_days=least),
            )


FAR_LONGER = 2.0
"""Factor by which recordings may exceed the required days before a finding says so."""


COSTLY_CODEC = FindingKind("costly-codec", "sizing", way_out="another codec")


@trait
def sends_single_pictures(camera: Camera, _: CameraFigures) -> bool:
    """Whether it sends every picture by itself."""
    return camera.codec == "mjpeg"


def costly_codec(facts: Facts) -> Iterator[Finding]:
    """MJPEG stores every picture in full."""
    costly = facts.having(sends_single_pictures)
    if costly:
        gb = sum(facts.camera_figures[camera.id].gb_per_day for camera in costly)
        yield Finding(
            COSTLY_CODEC,
            Severity.WARNING,
            f"{names_listed([camera.name for camera in costly])}: MJPEG takes {figure(gb)} GB a day",
            "Every picture is stored in full, many times the size of H.264 or H.265.",
            "Select H.264 or H.265 if camera and recorder support it.",
            tuple(camera.id for camera in costly),
        )


UNKNOWN_SCENE = FindingKind("unknown-scene", "sizing")


@trait
def has_unknown_scene(camera: Camera, _: CameraFigures) -> bool:
    """Whether its scene is none that rates are known of."""
    return camera.scene not in stream_assumptions().scenes


def unknown_scene(facts: Facts) -> Iterator[Finding]:
    """A scene that the table does not hold."""
    strange = facts.having(has_unknown_scene)
    if strange:
        yield Finding(
            UNKNOWN_SCENE,
            Severity.WARNING,
            f"{count(len(strange), 'camera')} with an unknown scene",
            f"{names_listed([f'{camera.name}: {camera.scene}' for camera in strange])}. The most demanding scene is assumed "
            "instead.",
            "Select a scene from the list.",
            tuple(camera.id for camera in strange),
        )


NAMED = 20
"""So many of the cameras that store most are led to."""


ASSUMED_RATES = FindingKind("assumed-rates", "sizing")


@trait
def has_estimated_rate(_: Camera, figures: CameraFigures) -> bool:
    """Whether nobody read or set its bit rate."""
    return figures.rate_origin == "assumed"


def assumed_rates(facts: Facts) -> Iterator[Finding]:
    """How much of the figures is assumption."""
    assumed = facts.having(has_estimated_rate)
    if assumed:
        stored = [facts.camera_figures[camera.id].gb_per_day for camera in assumed]
        largest = [assumed[at] for at in heapq.nlargest(NAMED, range(len(stored)), key=stored.__getitem__)]
        yield Finding(
            ASSUMED_RATES,
            Severity.NOTE,
            f"{count(len(assumed), 'bit rate')} of {figure(len(facts.job.cameras), 9)} estimated, not measured",
            f"Real bit rates can be several times higher or lower. {names_listed([c.name for c in largest[:3]])} store most.",
            "Run one camera of each type in its place, read its bit rate, and enter it as measured.",
            tuple(camera.id for camera in largest),
        )


ENTERED_RATES = FindingKind("entered-rates", "sizing")


@trait
def has_entered_rate(_: Camera, figures: CameraFigures) -> bool:
    """Whether its bit rate was entered, and nobody said when it was read."""
    return figures.rate_origin == "entered"


def entered_rates(facts: Facts) -> Iterator[Finding]:
    """Rates of which nobody says that they were read off the running camera."""
    entered = facts.having(has_entered_rate)
    if entered:
        yield Finding(
            ENTERED_RATES,
            Severity.NOTE,
            f"{count(len(entered), 'bit rate')} entered without a time of measurement",
            f"{names_listed([camera.name for camera in entered])}: a figure from a data sheet says little about a scene, and a "
            "rate read by day says little about the night. The range therefore stays as wide as for an estimate.",
            "If the rate was read from the running camera, select by day, by night or both in the column Measured when.",
            tuple(camera.id for camera in entered),
        )


PURPOSE_FRAMES = FindingKind("purpose-frames", "sizing")
PURPOSE_COARSE = FindingKind("purpose-coarse", "sizing")


@trait
def has_no_distance(camera: Camera, _: CameraFigures) -> bool:
    """Whether it has a purpose, and nobody said how far away."""
    return bool(camera.purpose) and camera.target_m is None


@trait
def has_few_frames(camera: Camera, _: CameraFigures) -> bool:
    """Whether it sends few frames for its purpose."""
    return bool(camera.purpose) and camera.fps < PURPOSE_FPS[camera.purpose]


@trait
def is_coarse(camera: Camera, _: CameraFigures) -> bool:
    """Whether its compression takes faces away that are to be told apart."""
    return camera.quality == "low" and camera.purpose in TOLD_APART


@trait
def is_steep(camera: Camera, _: CameraFigures) -> bool:
    """Whether a face at the target is seen from too steeply above."""
    if camera.purpose not in TOLD_APART or camera.target_m is None:
        return False
    return math.degrees(math.atan2(camera.mount_height_m - FACE_M, camera.target_m)) > STEEP_DEG


STEEP_DEG = 30.0
"""From more than so steeply above, a face shows its forehead only (practice; some ask for half of it)."""

UNDER_DEG = 70.0
"""From more than so steeply above, a camera is under its own mast: of people heads are seen (assumed)."""


@trait
def sees_no_ground(camera: Camera, _: CameraFigures) -> bool:
    """Whether the target stands under the camera, or the ground there lies in the strip that it does not see, where more than
    faces is to be seen."""
    if not camera.purpose or camera.purpose in TOLD_APART or camera.target_m is None:
        return False
    if math.degrees(math.atan2(camera.mount_height_m - FACE_M, camera.target_m)) > UNDER_DEG:
        return True
    seen = placing_of(camera)
    return seen is not None and seen.blind_m is not None and seen.blind_m > camera.target_m


def hardly_serves_its_purpose(facts: Facts) -> Iterator[Finding]:
    """Purposes without a distance, with too few frames, at low quality, or seen from too steeply above."""
    for held, kind, severity, title, why, action in PURPOSES:
        found = facts.having(held)
        if not found:
            continue
        ids = tuple(camera.id for camera in found)
        fix = None
        if kind == PURPOSE_FRAMES:
            values = {camera.id: {"fps": PURPOSE_FPS[camera.purpose]} for camera in found}
            fix = set_each("Raise the frame rate", values)
        elif kind == PURPOSE_COARSE:
            fix = set_fields(ids, "Use medium quality", quality="medium")
        names = names_listed([camera.name for camera in found])
        yield Finding(kind, severity, f"{names}: {title}", why, action, ids, fix)


PURPOSE_FAR = FindingKind("purpose-far", "sizing")
PURPOSE_STEEP = FindingKind("purpose-steep", "sizing")
TARGET_BLIND = FindingKind("target-blind", "sizing")


PURPOSES: tuple[tuple[Trait, FindingKind, Severity, str, str, str], ...] = (
    (
        has_no_distance,
        PURPOSE_FAR,
        Severity.NOTE,
        "a purpose, but no distance to the target",
        "Without the distance, pixel density cannot be calculated.",
        "Enter the distance to the target on the Purpose tab.",
    ),
    (
        has_few_frames,
        PURPOSE_FRAMES,
        Severity.WARNING,
        "low frame rate for the purpose",
        "A passer-by is clearly visible in only a few frames; at this frame rate perhaps in none.",
        "Usual minimum: 8 fps to identify, 6 to recognise, 5 to observe, 4 to detect.",
    ),
    (
        is_coarse,
        PURPOSE_COARSE,
        Severity.WARNING,
        "low quality where people must be told apart",
        "Strong compression blurs faces and number plates first, most of all at night.",
        "Select medium quality or better; the row shows what it costs.",
    ),
    (
        is_steep,
        PURPOSE_STEEP,
        Severity.WARNING,
        "faces are seen from too steep an angle",
        f"Seen from more than {STEEP_DEG:.0f}° above, a face is mostly forehead, and a cap hides the rest.",
        "Mount the camera lower, or farther away with a longer focal length.",
    ),
    (
        sees_no_ground,
        TARGET_BLIND,
        Severity.WARNING,
        "the target is below the picture",
        "A person there is seen from above or cut off; anyone lying or crawling is not seen.",
        "Use a shorter focal length, mount the camera lower, or aim it nearer. The Purpose tab shows the blind strip.",
    ),
)


RATE_UNLIKELY = FindingKind("rate-implausible", "sizing")


UNLIKELY_LOW, UNLIKELY_HIGH = 0.05, 20.0
"""A bit rate under this share of what the picture asks for, or over so many times that, is likely a slip: no encoder gets there, or
kb/s were typed as Mb/s. The model's own range goes down to a tenth in the dark."""

LEAST_SLIP_MBPS = 20.0
"""Under this a high rate is no slip of the unit."""


def given_mbps(camera: Camera) -> float | None:
    """The bit rate that somebody read, entered or set."""
    # A smart codec's cap is a ceiling that it seldom reaches: nobody set it as the rate.
    # A measured rate outranks the one that was set.
    cap = camera.cap_mbps if camera.rate_control in ("CBR", "capped VBR") else None
    return cap if camera.measured_mbps is None else camera.measured_mbps


@trait
def has_unlikely_low_rate(camera: Camera, figures: CameraFigures) -> bool:
    """Whether no encoder sends such a picture in so little."""
    return camera.measured_mbps is not None and camera.measured_mbps < UNLIKELY_LOW * figures.asked_mbps


@trait
def has_unlikely_high_rate(camera: Camera, figures: CameraFigures) -> bool:
    """Whether no such picture takes so much."""
    given = given_mbps(camera)
    return given is not None and given >= LEAST_SLIP_MBPS and given > UNLIKELY_HIGH * figures.asked_mbps


def unlikely_rates(facts: Facts) -> Iterator[Finding]:
    """Bit rates that no encoder makes of such a picture: read far too low, or so high that kb/s stand for Mb/s."""
    likely: tuple[tuple[Trait, str], ...] = (
        (has_unlikely_low_rate, "no encoder sends such a picture at so low a rate"),
        (has_unlikely_high_rate, "that is too much for such a picture; were kb/s entered as Mb/s?"),
    )
    for held, why in likely:
        for camera in facts.having(held):
            asked_mbps = facts.camera_figures[camera.id].asked_mbps
            yield Finding(
                RATE_UNLIKELY,
                Severity.WARNING,
                f"{camera.name}: {figure(given_mbps(camera) or 0.0)} Mb/s is not plausible",
                f"About {figure(asked_mbps)} Mb/s would be expected for its settings and view: {why}",
                "Read the bit rate from the camera again, and compare resolution, frame rate and codec.",
                (camera.id,),
            )


LEAST_SUBSTREAM_MBPS = 0.02
"""No substream of moving pictures is sent in less."""


@trait
def has_unlikely_substream(camera: Camera, _: CameraFigures) -> bool:
    """Whether no moving pictures fit into its substream."""
    return 0 < camera.substream_mbps < LEAST_SUBSTREAM_MBPS


def unlikely_substreams(facts: Facts) -> Iterator[Finding]:
    """Substreams of less than moving pictures take."""
    small = facts.having(has_unlikely_substream)
    if small:
        yield Finding(
            RATE_UNLIKELY,
            Severity.WARNING,
            f"{names_listed([camera.name for camera in small])}: a {figure(min(camera.substream_mbps for camera in small))} "
            "Mb/s substream is not plausible",
            f"Video needs more than {figure(LEAST_SUBSTREAM_MBPS)} Mb/s. Was a figure in kb/s converted wrongly?",
            "Read it from the camera again, in Mb/s.",
            tuple(camera.id for camera in small),
        )


PURPOSE_MISSED = FindingKind("purpose-missed", "sizing", way_out="serve purpose")


@trait
def misses_its_purpose(camera: Camera, _: CameraFigures) -> bool:
    """Whether there are too few pixels on the target for its purpose."""
    return misses_purpose(camera)


def purpose_missed(facts: Facts) -> Iterator[Finding]:
    """Too few pixels on the subject for what the camera is there for."""
    missing = facts.having(misses_its_purpose)
    if len(missing) > TOLD_ONE_BY_ONE:
        yield Finding(
            PURPOSE_MISSED,
            Severity.FAULT,
            f"{count(len(missing), 'camera has', 'cameras have')} too few pixels for the purpose",
            f"{names_listed([camera.name for camera in missing])}: no software can add pixels that were not recorded.",
            "The Purpose tab shows the focal length that each needs. Select several rows to set one for all.",
            tuple(camera.id for camera in missing),
        )
        return
    for camera in missing:
        seen = placing_of(camera)
        if seen is None or not camera.purpose:
            continue
        focal_mm = focal_for(camera.purpose, camera.sensor_width_mm, camera.width_px, seen.sight_m)
        width_px = width_for(camera.purpose, camera.sensor_width_mm, camera.focal_mm, seen.sight_m)
        enough = "these serve no purpose" if seen.good_for == "nothing" else f"these are enough to {seen.good_for}"
        yield Finding(
            PURPOSE_MISSED,
            Severity.FAULT,
            f"{camera.name}: {figure(seen.px_per_m)} px/m, not enough to {camera.purpose}",
            f"To {camera.purpose} at {figure(camera.target_m or 0.0)} m, {PX_PER_M[camera.purpose]:g} px/m are needed (IEC "
            f"62676-4); {enough}. No software can add pixels that were not recorded.",
            f"Use a focal length of at least {figure(focal_mm)} mm or a resolution {width_px} px wide, or mount the camera "
            "nearer.",
            (camera.id,),
        )


NO_CAP = FindingKind("no-cap", "sizing")
LOW_CAP = FindingKind("low-cap", "sizing", button="Raise cap")
CAP_NOT_HELD = FindingKind("cap-not-held", "sizing")


@trait
def lacks_its_cap(camera: Camera, _: CameraFigures) -> bool:
    """Whether its rate control has no maximum to go by."""
    return camera.rate_control in ("capped VBR", "CBR") and camera.cap_mbps is None


LOW_CAP_STEPS = 3.0
"""A cap that makes a picture so many steps of the quantiser coarser on the mean of day or night costs as much as the next lower
quality of a camera's menu."""


@trait
def has_low_cap(_: Camera, figures: CameraFigures) -> bool:
    """Whether its maximum spoils the picture."""
    return figures.at_cap is not None and coarser(figures.at_cap) >= LOW_CAP_STEPS


@trait
def passes_its_cap(camera: Camera, _: CameraFigures) -> bool:
    """Whether more was read than its maximum lets through, at the settings of now."""
    cap_mbps = cap_of(camera)
    if camera.measured_mbps is None or cap_mbps is None or measured_elsewhere(camera) is not None:
        return False
    return camera.measured_mbps > cap_mbps * (1 + CONSTANT_SPREAD)


def caps(facts: Facts) -> Iterator[Finding]:
    """A rate control without its cap, a cap that the picture cannot live on, or one that the camera does not hold."""
    for camera in facts.having(lacks_its_cap):
        yield Finding(
            NO_CAP,
            Severity.WARNING,
            f"{camera.name}: {camera.rate_control} without a maximum bit rate",
            "Until it is entered, the estimate for an uncapped stream is used.",
            "Enter the maximum bit rate in Mb/s, or select VBR.",
            (camera.id,),
        )
    for camera in facts.having(has_low_cap):
        got, usual_mbps = facts.camera_figures[camera.id], usual_cap_of(camera)
        is_higher = usual_mbps is not None and usual_mbps > (camera.cap_mbps or 0.0)
        usual = f"Cap {camera.name} at {figure(usual_mbps or 0.0)} Mb/s"
        yield Finding(
            LOW_CAP,
            Severity.WARNING,
            f"{camera.name}: cap {figure(camera.cap_mbps or 0.0)} Mb/s, about {figure(got.asked_mbps)} Mb/s needed",
            f"{sentence_case(cap_cost(got.at_cap)) if got.at_cap else ''}. A cap costs detail, most of all when much is "
            "happening, which is when the picture matters. Six steps double the coarseness.",
            "Raise the cap, or lower the frame rate, resolution or quality.",
            (camera.id,),
            set_fields([camera.id], usual, **usual_cap_fields(camera)) if is_higher else None,
        )
    for camera in facts.having(passes_its_cap):
        read, cap = camera.measured_mbps or 0.0, camera.cap_mbps or 0.0
        yield Finding(
            CAP_NOT_HELD,
            Severity.WARNING,
            f"{camera.name}: {figure(read)} Mb/s measured, above its cap of {figure(cap)}",
            "The cap was not set in the camera, or its firmware ignores it. Days are calculated with the measured rate.",
            "Check the maximum bit rate in the camera, set it again, and measure once more.",
            (camera.id,),
        )


UNCAPPED = FindingKind("uncapped", "sizing", way_out="cap", button="Cap bit rates")


@trait
def has_no_maximum(_: Camera, figures: CameraFigures) -> bool:
    """Whether it could have a maximum bit rate, and has none."""
    return figures.usual_cap_mbps is not None


def no_maximum(facts: Facts) -> Iterator[Finding]:
    """Cameras that send whatever their pictures ask for."""
    free = facts.having(has_no_maximum)
    if free:
        figures = [facts.camera_figures[camera.id] for camera in free]
        mbps, high_mbps = sum(one.rate_mbps for one in figures), sum(one.high_mbps for one in figures)
        yield Finding(
            UNCAPPED,
            Severity.NOTE,
            f"{cameras_named([camera.name for camera in free])}: no maximum bit rate",
            f"Together they send about {figure(mbps)} Mb/s, and more than {figure(high_mbps)} in one case of ten, depending on "
            f"noise and movement. Drives for a promise must be bought for the higher figure.{_costs_of_none(facts)}",
            "Set a maximum bit rate in the camera (capped VBR), and plan with it.",
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
        f" The promise needs {figure(need_tb)} TB; with the usual maximum {figure(capped_tb)} TB."
        if need_tb > 0
        else ""
    )


OVER_PORT = FindingKind("over-port", "sizing")


@trait
def is_over_its_port(_: Camera, figures: CameraFigures) -> bool:
    """Whether its settings ask for more than its port sends."""
    return not at_most(figures.asked_mbps, CAMERA_PORT_MBPS)


def over_the_port(facts: Facts) -> Iterator[Finding]:
    """Pictures that ask for more than a camera's port carries."""
    for camera in facts.having(is_over_its_port):
        asked = facts.camera_figures[camera.id].asked_mbps
        yield Finding(
            OVER_PORT,
            Severity.FAULT,
            f"{camera.name}: {figure(asked)} Mb/s on a {figure(CAMERA_PORT_MBPS)} Mb/s port",
            "Frames that do not fit are lost.",
            "Use H.265 or H.264, a lower frame rate, or a lower resolution.",
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
