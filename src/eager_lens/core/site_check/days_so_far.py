"""What a check says of the days that recorders have kept so far: the oldest picture of each camera."""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.job.model import Recorder
from eager_lens.core.job.proof import Check, FillReading
from eager_lens.core.site_check.readings import CheckRun
from eager_lens.core.site_check.recorder_lines import cameras_held
from eager_lens.core.units import count, figure


class KeptSoFar(NamedTuple):
    """How far back a recorder's pictures go: the days that all of its cameras are held, the camera that is held least, and how
    many cameras were told."""

    recorder: Recorder
    days: float
    least: str
    cameras: int


def kept_so_far(assessment: Assessment, run: CheckRun) -> Iterator[KeptSoFar]:
    """By recorder how far back pictures go, where it told that of all cameras that are registered on it."""
    for recorder in assessment.job.recorders:
        read = run.of_device(recorder.id)
        held = cameras_held(assessment, run, recorder, read) if read is not None else []
        ages = [(one.oldest_days, one.camera.name) for one in held if one.oldest_days is not None]
        if ages and len(ages) == len(held):
            days, name = min(ages)
            yield KeptSoFar(recorder, days, name, len(ages))


def fill_readings(assessment: Assessment, run: CheckRun, by: str, at: str) -> list[FillReading]:
    """The readings for *Days so far*. How full the drives are, no device of the open protocol tells."""
    return [
        FillReading(recorder=one.recorder.id, at=at, oldest_days=round(one.days, 2), by=by[:200])
        for one in kept_so_far(assessment, run)
    ]


def days_tests(assessment: Assessment, run: CheckRun, by: str, at: str) -> list[Check]:
    """The acceptance test of the days kept, where it is decided: pictures are as old as is asked for, or older than they may be.
    Younger ones prove nothing: the drives may still be filling."""
    asked = assessment.job.retention
    found = []
    for one in kept_so_far(assessment, run):
        too_old = asked.most_days is not None and one.days > asked.most_days + 1
        if not too_old and one.days < asked.least_days:
            continue
        value = f"{figure(one.days, 3)} days or more of {count(one.cameras, 'camera')} (site check, oldest picture)"
        found.append(
            Check(
                device=one.recorder.id,
                check="days",
                outcome="failed" if too_old else "passed",
                by=by[:200],
                at=at,
                value=value,
                measured=round(one.days, 2),
                how="site check",
            )
        )
    return found
