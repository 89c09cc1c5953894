"""Lines about a recorder: which cameras it receives, how far back its pictures go, whether it takes events, what it will keep."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from datetime import datetime
from typing import NamedTuple

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.finding import Severity
from eager_lens.core.job.model import Camera, Recorder
from eager_lens.core.site_check.consequences import KeptDays
from eager_lens.core.site_check.lines import SiteCode, SiteLine
from eager_lens.core.site_check.readings import UTC_FORM, CheckRun, DeviceRead
from eager_lens.core.site_check.told import RecordingTold
from eager_lens.core.units import count, days_figure

MOST_NAMED = 8
DAY_S = 86_400.0


class CameraHeld(NamedTuple):
    """A camera on a recorder, with the recording of it (None: there is none) and its age in days (None: not told)."""

    camera: Camera
    recording: RecordingTold | None
    oldest_days: float | None


def cameras_held(assessment: Assessment, run: CheckRun, recorder: Recorder, read: DeviceRead) -> list[CameraHeld]:
    """Each camera that is registered on a recorder with what the recorder told of it; none where it told no recordings."""
    if read.told is None or read.told.recordings is None:
        return []
    by_address = {one.address: one for one in read.told.recordings if one.address}
    found = []
    for camera in assessment.facts.cameras_on.get(recorder.id, ()):
        recording = by_address.get(camera.address) if camera.address else None
        found.append(CameraHeld(camera, recording, _age_days(run, recording)))
    return found


def _age_days(run: CheckRun, recording: RecordingTold | None) -> float | None:
    if recording is None or not recording.oldest:
        return None
    age = datetime.strptime(run.at, UTC_FORM) - datetime.strptime(recording.oldest, UTC_FORM)
    return max(0.0, age.total_seconds() / DAY_S)


def recorder_lines(
    assessment: Assessment, days: Sequence[KeptDays], run: CheckRun, recorder: Recorder, read: DeviceRead
) -> Iterator[SiteLine]:
    """What a reading says of a recorder."""
    held = cameras_held(assessment, run, recorder, read)
    bad = [f"{one.camera.name} ({_why(one.recording)})" for one in held if _why(one.recording)]
    if bad:
        words = f"{count(len(bad), 'camera')} without a recording: {'; '.join(bad[:MOST_NAMED])}{_and_more(bad)}."
        yield SiteLine(Severity.FAULT, SiteCode.CHANNEL, words)
    if read.events_open is False:
        words = f"Nothing accepts events at TCP port {recorder.event_tcp_port}, so motion would record nothing."
        yield SiteLine(Severity.FAULT, SiteCode.EVENT_PORT, words)
    yield from days_lines(days, recorder)


def oldest_words(held: Sequence[CameraHeld]) -> str:
    """How far back the pictures of a recorder's cameras go; empty where it told that of none."""
    ages = [(one.oldest_days, one.camera.name) for one in held if one.oldest_days is not None]
    if not ages:
        return ""
    oldest_days, name = min(ages)
    return f"{days_figure(oldest_days)} days back ({name}, the least of {count(len(ages), 'camera')})"


def _why(recording: RecordingTold | None) -> str:
    if recording is None:
        return "no recording from its address"
    if recording.is_running or not recording.state:
        return ""  # what was not told is no fault
    return _STATES.get(recording.state.lower(), f"state {recording.state}")


_STATES = {"idle": "it receives nothing", "error": "its job is in error"}
"""States of a recording job as the standard has them, in words."""


def days_lines(days: Sequence[KeptDays], recorder: Recorder) -> Iterator[SiteLine]:
    """What a recorder will keep with what was found of its cameras."""
    for one in (one for one in days if one.recorder == recorder.id and not one.camera):
        kept = f"{days_figure(one.found)} days instead of {days_figure(one.planned)}"
        words = f"As its cameras are set and send now, it keeps {kept}."
        yield SiteLine(Severity.WARNING if one.found < one.planned else Severity.NOTE, SiteCode.FEWER_DAYS, words)


def _and_more(all_of_them: Sequence[str]) -> str:
    more = len(all_of_them) - MOST_NAMED
    return f" and {more} more" if more > 0 else ""
