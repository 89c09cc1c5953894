"""Answers that the job has already: of a site check, and of acceptance tests that were made lately."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import datetime, timedelta
from typing import NamedTuple

from eager_lens.core.fault_finder.clock_outcome import clock_outcome
from eager_lens.core.fault_finder.inference import TestAnswer
from eager_lens.core.fault_finder.table import FaultTable
from eager_lens.core.job.model import Camera, Device, Job
from eager_lens.core.site_check.lines import SiteCode
from eager_lens.core.site_check.readings import CheckRun, DeviceRead
from eager_lens.core.site_check.verdicts import Row

PROVED_H = 24.0
"""An acceptance test says something of today for so long (assumed); a fault comes later."""

Answered = tuple[str, str]
"""A test of the table, and its outcome in words."""

AS_ANSWERS: dict[SiteCode, tuple[Answered, ...]] = {
    SiteCode.SHARED: (("held", "another, or two in turn"),),
    SiteCode.IN_ITS_PLACE: (("held", "another, or two in turn"),),
    SiteCode.ELSEWHERE: (("search", "at an unused address"), ("ping", "no answer")),
    SiteCode.NOT_HEARD: (("ping", "no answer"), ("login", "nothing opens"), ("search", "not in the list")),
    SiteCode.REFUSED: (("login", "refused"),),
    SiteCode.LOCKED: (("login", "locked"),),
    SiteCode.SET_UP: (("login", "wants first-use set-up"),),
    SiteCode.NO_PAGE: (("login", "nothing opens"),),
    SiteCode.NO_STREAM: (("stream", "nothing"),),
    SiteCode.STREAM_STOPS: (("stream", "breaks or stutters"),),
    SiteCode.EVENT_PORT: (("events-taken", "switched off, or another port"),),
}
"""What a site check found wrong, as answers to the table's tests."""

OF_RECORDINGS = {"active": "receiving", "error": "password refused", "idle": "no connection"}
"""The state of a recorder's job for a camera, as the answer to *what does it say?*. A job in error most often has no log-in."""

CHECK_MAKES = frozenset({"ping", "held", "search", "login", "stream", "clock", "status", "events-taken"})
"""The tests that a site check makes."""

OF_PROOF: dict[str, dict[str, tuple[Answered, ...]]] = {
    "stream": {"passed": (("stream", "plays well"), ("ping", "answers")), "failed": ()},
    "picture": {"passed": (("status", "receiving"),), "failed": ()},
    "motion": {"passed": (("mark", "yes"), ("rule-read", "on")), "failed": (("mark", "no"),)},
    "chain": {"passed": (("event-seen", "yes"),), "failed": (("event-seen", "no"),)},
    "power": {"passed": (("power", "as planned, about {power_w}"),), "failed": ()},
    "link": {"passed": (("link", "on"), ("speed", "as planned, none")), "failed": ()},
    "clock": {"passed": (("clock", "right"),), "failed": ()},
    "credentials": {"passed": (("login", "taken"),), "failed": (("login", "refused"),)},
    "drives": {"passed": (("drives", "healthy, recording"),), "failed": (("drives", "failed, or not recording"),)},
    "rssi": {"passed": (("signal", "as planned"),), "failed": (("signal", "6 dB or more weaker"),)},
}
"""Acceptance tests as answers: by the test and its result."""


class KnownAnswers(NamedTuple):
    """Answers from one place: in words, when it was, and the answers."""

    source: str
    at: str
    answers: tuple[TestAnswer, ...]


def answers_of_check(table: FaultTable, row: Row, run: CheckRun | None = None) -> list[TestAnswer]:
    """What a site check has answered of a device, each test once: what it found wrong, and with its run what was right."""
    words = [found for line in row.lines for found in AS_ANSWERS.get(line.code, ())]
    if run is not None and row.device is not None:
        read = next((one for one in run.read if one.device == row.device.id), None)
        words += _right(row, read)
        words += _channel(row.device, run)
    return _as_answers(table, words)


def _right(row: Row, read: DeviceRead | None) -> Iterable[Answered]:
    codes = {line.code for line in row.lines}
    elsewhere = {SiteCode.SHARED, SiteCode.IN_ITS_PLACE, SiteCode.ELSEWHERE, SiteCode.NOT_HEARD, SiteCode.NOT_REACHED}
    if not row.asked or codes & elsewhere:
        return
    yield "ping", "answers"
    if row.device is not None and row.device.mac_address and SiteCode.BY_ADDRESS not in codes:
        yield "held", "{mac}"
    if read is None:
        return
    if read.login in ("in", "open"):
        yield "login", "taken"
    if read.main is not None and read.main.outcome == "opened":
        yield "stream", "plays well"
    if read.clock_off_s is not None:
        yield "clock", clock_outcome(read.clock_off_s)


def _channel(device: Device, run: CheckRun) -> Iterable[Answered]:
    """What the recorder said of its channel, where it was asked."""
    place = device.registered[0] if isinstance(device, Camera) and device.registered else None
    read = next((one for one in run.read if place is not None and one.device == place.recorder), None)
    told = read.told.recordings if read is not None and read.told is not None else None
    for recording in told or ():
        if recording.address == device.address and recording.state.lower() in OF_RECORDINGS:
            yield "status", OF_RECORDINGS[recording.state.lower()]


def answers_of_proof(table: FaultTable, job: Job, device: Device, now: datetime) -> KnownAnswers:
    """What acceptance tests of the device, or of its recorder's drives, have answered lately; the last of each test."""
    since = now - timedelta(hours=PROVED_H)
    recorders = {place.recorder for place in device.registered} if isinstance(device, Camera) else set()
    words: dict[str, tuple[Answered, ...]] = {}
    latest = ""
    for check in (one for one in job.checks if one.counts):
        own = check.device == device.id or (check.check == "drives" and check.device in recorders)
        moment = _moment(check.at)
        if own and check.check in OF_PROOF and moment is not None and since <= moment <= now:
            words[check.check] = OF_PROOF[check.check][check.outcome]
            latest = max(latest, check.at)
    answers = _as_answers(table, [one for found in words.values() for one in found])
    return KnownAnswers("acceptance tests", latest, tuple(answers))


def _moment(text: str) -> datetime | None:
    try:
        return datetime.fromisoformat(text).replace(tzinfo=None)
    except ValueError:
        return None


def _as_answers(table: FaultTable, words: Iterable[Answered]) -> list[TestAnswer]:
    found: dict[str, TestAnswer] = {}
    for test_id, outcome in words:
        found.setdefault(test_id, TestAnswer(test_id, table.test(test_id).outcomes.index(outcome)))
    return list(found.values())
