"""Findings about sizing: days kept against days asked, drives, pixels on the subject, and what the figures rest on."""

from __future__ import annotations

import heapq
from collections.abc import Iterator

from eager_lens.core.assess.codes import Code
from eager_lens.core.assess.facts import Facts
from eager_lens.core.assess.figures import RecorderFigures, placing_of
from eager_lens.core.assess.finding import Finding, Severity, names_listed
from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.edits import Edit, set_fields
from eager_lens.core.job.model import Recorder
from eager_lens.core.optics.placing import PX_PER_M, focal_for, width_for
from eager_lens.core.sizing.drives import drive_array
from eager_lens.core.units import count, figure
from eager_lens.core.validation import at_least, at_most

TOLD_ONE_BY_ONE = 5
"""Up to so many cameras that miss their purpose are told one by one; of more, all in one finding."""


def days_short(facts: Facts) -> Iterator[Finding]:
    """The promise of days is not kept, or only if scenes are quiet."""
    least = facts.job.retention.least_days
    for recorder in facts.job.recorders:
        got = facts.recorder_figures[recorder.id]
        if got.days is None or got.trouble or got.days_low is None:
            continue
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
        elif not at_least(got.days, least):
            fix, remedy = _more_drives(recorder, got, least)
            yield Finding(
                Code.DAYS_SHORT,
                Severity.FAULT,
                "sizing",
                f"{figure(least - got.days)} days short at {recorder.name}",
                f"It keeps {figure(got.days)} days and {figure(least)} were asked: "
                f"{figure(got.usable_tb)} TB take {figure(got.gb_per_day)} GB a day.",
                remedy or "Fewer frames, a smaller picture, motion hours, or larger drives.",
                (recorder.id,),
                fix,
            )
        elif not at_least(got.days_low, least):
            yield Finding(
                Code.DAYS_DOUBTFUL,
                Severity.WARNING,
                "sizing",
                f"{recorder.name} may fall short if scenes are busy",
                f"{figure(got.days)} days expected, {figure(got.days_low)} if its scenes are busy (1 case of 10); "
                f"{figure(least)} were asked.",
                "Read the bit rate on the cameras that store most and enter it: a measured bit rate narrows the range.",
                (recorder.id,),
            )


def _more_drives(recorder: Recorder, got: RecorderFigures, least_days: float) -> tuple[Edit | None, str]:
    """The fewest further drives of the same size, in free bays, that keep the days; with what they bring."""
    for drives in range(recorder.drives + 1, recorder.bays + 1):
        try:
            array = drive_array(
                drives, recorder.drive_tb, recorder.raid_level, recorder.hot_spares, recorder.reserve_share
            )
        except RefusedInput:
            continue
        days = array.usable_tb * 1000 / got.gb_per_day
        if at_least(days, least_days):
            more = count(drives - recorder.drives, f"more {figure(recorder.drive_tb)} TB drive")
            label = f"Add {more} to {recorder.name}"
            return set_fields(
                [recorder.id], label, drives=drives
            ), f"{more} in free bays would keep {figure(days)} days."
    return None, ""


def days_over(facts: Facts) -> Iterator[Finding]:
    """Pictures stay longer than they may."""
    most = facts.job.retention.most_days
    if most is None:
        return
    for recorder in facts.job.recorders:
        days = facts.recorder_figures[recorder.id].days
        if days is not None and not at_most(days, most):
            yield Finding(
                Code.DAYS_OVER,
                Severity.WARNING,
                "sizing",
                f"{recorder.name} would keep {figure(days)} days; {figure(most)} are allowed",
                "The drives hold more than the customer or the law lets you keep.",
                f"Set the recorder to erase after {figure(most)} days, and enter it here; the handover sheet says so then.",
                (recorder.id,),
                set_fields([recorder.id], f"Erase after {figure(most)} days", erase_after_days=most),
            )


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


def assumed_rates(facts: Facts) -> Iterator[Finding]:
    """How much of the figures is assumption."""
    assumed = facts.with_trait["estimated rate"]
    if assumed:
        largest = heapq.nlargest(20, assumed, key=lambda camera: facts.camera_figures[camera.id].gb_per_day)
        yield Finding(
            Code.ASSUMED_RATES,
            Severity.NOTE,
            "sizing",
            f"{count(len(assumed), 'bit rate')} of {figure(len(facts.job.cameras), 9)} assumed, not measured",
            f"Real scenes differ by a factor of three. Most is stored by {names_listed([c.name for c in largest[:3]])}.",
            "Run one camera of each kind in place, read its bit rate, and enter it as measured.",
            tuple(camera.id for camera in largest),
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
    """A rate control without its cap, or a cap that the picture cannot live on."""
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
        asked, cap = facts.camera_figures[camera.id].asked_mbps, camera.cap_mbps or 0.0
        yield Finding(
            Code.LOW_CAP,
            Severity.WARNING,
            "sizing",
            f"{camera.name} is held to {figure(cap)} Mb/s; its picture asks for about {figure(asked)}",
            "What a cap takes away is detail, and most of it when much happens: just when the picture is wanted.",
            "Raise the cap, or ask for less: fewer frames, a smaller picture, a lower quality that is selected.",
            (camera.id,),
        )


RULES = (
    days_short,
    caps,
    days_over,
    purpose_missed,
    costly_codec,
    unknown_scene,
    assumed_rates,
)
