"""A return visit: two states of a job compared by device and by what it costs, and what is due, on one page.

The earlier state is a job file as it was handed over (or offered); the later one is the job now, with what the latest site
check found of streams on top, if there is one.
"""

from __future__ import annotations

import calendar
from collections import Counter
from collections.abc import Callable, Collection, Iterable, Iterator
from datetime import date, datetime
from typing import Any, NamedTuple

from eager_lens.core.assess.assessment import Assessment, assess
from eager_lens.core.assess.figures.devices import days_words
from eager_lens.core.assess.finding import names_listed
from eager_lens.core.assess.limits import CLOCK_WITHIN_S
from eager_lens.core.job.edits import set_each
from eager_lens.core.job.model import Job, by_id
from eager_lens.core.job.proving import latest_checks
from eager_lens.core.outgoing.formats.sheets import Bullets, Sheet, SheetColumn, SheetTable
from eager_lens.core.outgoing.handover.changed_since import Since, changed_since, recorded_since
from eager_lens.core.plain_text import sentence_case
from eager_lens.core.reference.acceptance import acceptance_test
from eager_lens.core.site_check.consequences import settings_found
from eager_lens.core.site_check.readings import CheckRun
from eager_lens.core.site_check.take_over import run_moment
from eager_lens.core.site_check.verdicts import rows_of
from eager_lens.core.sizing.drive_life import card_years
from eager_lens.core.units import count, figure

YEARLY = ("drives", "clock", "clip", "motion", "power-cut", "restart", "remote", "credentials")
"""Tests that are due again when a service is."""
DRIVE_YEARS = 5.0
"""Years of continuous recording after which drives are replaced (practice; makers differ)."""
WORN_SHARE = 0.8


class VisitFound(NamedTuple):
    """What a comparison found.

    Attributes:
        changes: how the plan differs, those that cost days first. recorded: by list of what was done and found, how many entries
            are new or other, and how many are gone. added, removed: names of devices. days: by recorder's name, promised before
            and now, in words. clocks: device, seconds off, and how fast it drifts since the run before (s a day, or None).
        firmware: device, planned, found. strangers: what answers and is not in the job. wear: in words. due: tests that are
            due again, with when they were made last. next_service: the date.
    """

    changes: tuple[Since, ...]
    recorded: dict[str, tuple[int, int]]
    added: tuple[str, ...]
    removed: tuple[str, ...]
    days: tuple[tuple[str, str, str], ...]
    clocks: tuple[tuple[str, float, float | None], ...]
    firmware: tuple[tuple[str, str, str], ...]
    strangers: tuple[str, ...]
    wear: tuple[str, ...]
    due: tuple[tuple[str, str, str], ...]
    next_service: date | None


SinceWhen = Callable[[Collection[str]], date | None]


def as_found(assessment: Assessment, run: CheckRun | None) -> Assessment:
    """The job with the stream settings that a run of the site check read."""
    cameras = by_id(assessment.job.cameras)
    values: dict[str, dict[str, Any]] = {}
    for read in run.read if run is not None else ():
        camera = cameras.get(read.device)
        if camera is not None and (settings := settings_found(camera, read)):
            values[camera.id] = settings
    return assess(set_each("As found", values).apply(assessment.job), assessment) if values else assessment


def visit(
    before: Assessment,
    now: Assessment,
    today: date,
    runs: tuple[CheckRun | None, CheckRun | None] = (None, None),
    since: SinceWhen = lambda ids: None,
) -> VisitFound:
    """Compare two states.

    Args:
        before: as it was handed over. now: the job as it is. today: the day of the visit. runs: an earlier run of the site
            check and the latest, if there are any. since: since when devices are as they are, from the event log.
    """
    found = as_found(now, runs[1])
    changes = [one._replace(since=since(one.ids)) for one in changed_since(before, found)]
    recorders = [
        (recorder.name, _promised(before, recorder.id), _promised(found, recorder.id))
        for recorder in found.job.recorders
        if recorder.id in before.facts.recorders
    ]
    began = handed_over_on(now.job)
    return VisitFound(
        tuple(changes),
        recorded_since(before.job, now.job),
        _names(before.job, found.job),
        _names(found.job, before.job),
        tuple(recorders),
        tuple(_clocks(now, runs)),
        tuple(_firmware(now, runs[1])),
        tuple(_strangers(now, runs[1])),
        tuple(_wear(found, began, today)),
        tuple(_due(now.job, today)),
        next_service_on(now.job),
    )


def _promised(assessment: Assessment, recorder_id: str) -> str:
    got = assessment.recorder(recorder_id)
    return days_words(got.promised_days, got.keeps)


def _names(before: Job, now: Job) -> tuple[str, ...]:
    """Devices that only the later state has, by name."""
    known = {device.id for device in before.devices()}
    return tuple(device.name for device in now.devices() if device.id not in known)


def _clocks(
    assessment: Assessment, runs: tuple[CheckRun | None, CheckRun | None]
) -> Iterator[tuple[str, float, float | None]]:
    earlier, latest = runs
    if latest is None:
        return
    had = {read.device: read.clock_off_s for read in earlier.read} if earlier is not None else {}
    days = (run_moment(latest) - run_moment(earlier)).total_seconds() / 86_400 if earlier is not None else 0.0
    for read in latest.read:
        off, before = read.clock_off_s, had.get(read.device)
        if off is not None and abs(off) > CLOCK_WITHIN_S:
            drift = (off - before) / days if before is not None and days >= 1 else None
            yield assessment.facts.name(read.device), off, drift


def _firmware(assessment: Assessment, run: CheckRun | None) -> Iterator[tuple[str, str, str]]:
    by_address = {one.address: one.firmware for one in run.heard_and_told() if one.firmware} if run is not None else {}
    for device in assessment.facts.devices:
        found = by_address.get(device.address, "")
        if found and device.firmware and found != device.firmware:
            yield device.name, device.firmware, found


def _strangers(assessment: Assessment, run: CheckRun | None) -> Iterator[str]:
    if run is not None:
        yield from (row.found for row in rows_of(assessment, run) if row.device is None)


def _wear(assessment: Assessment, began: date | None, today: date) -> Iterator[str]:
    if began is None:
        return
    years = (today - began).days / 365.25
    for recorder in assessment.job.recorders:
        if recorder.drives and years >= WORN_SHARE * DRIVE_YEARS:
            yield f"Drives of {recorder.name}: in use for {figure(years, 2)} years; replace them one at a time."
    for camera in assessment.job.cameras:
        if camera.card_gb and camera.card_written_tb:
            life = card_years(camera.card_written_tb, assessment.camera(camera.id).gb_per_day)
            if life is not None and years >= WORN_SHARE * life:
                yield f"Memory card of {camera.name}: used for {figure(years, 2)} of about {figure(life, 2)} years; replace it."


def handed_over_on(job: Job) -> date | None:
    """When the job was first proved: the day of its first acceptance test."""
    days = [day for check in job.checks if check.counts and (day := _day(check.at)) is not None]
    return min(days, default=None)


def _day(text: str) -> date | None:
    try:
        return datetime.fromisoformat(text).date()
    except ValueError:
        return None


def next_service_on(job: Job) -> date | None:
    """When the next service is due, counted from the latest acceptance test."""
    days = [day for check in job.checks if check.counts and (day := _day(check.at)) is not None]
    return months_later(max(days), job.service_months) if days and job.service_months else None


def months_later(day: date, months: int) -> date:
    """The same day of a later month, or its last where it has no such day."""
    year, month = divmod(day.year * 12 + day.month - 1 + months, 12)
    return date(year, month + 1, min(day.day, calendar.monthrange(year, month + 1)[1]))


def _due(job: Job, today: date) -> Iterator[tuple[str, str, str]]:
    """Tests that are older than a service interval."""
    names = {device.id: device.name for device in job.devices()}
    for (device, test_id), check in latest_checks(job).items():
        test, made = acceptance_test(test_id), _day(check.at)
        if test is None or made is None or test_id not in YEARLY or not job.service_months:
            continue
        if months_later(made, job.service_months) <= today:
            yield names.get(device, "whole site"), test.label, made.isoformat()


# ---- the sheet -----------------------------------------------------------------------------------------------------

MOST_ROWS = 14


def visit_sheet(found: VisitFound, earlier: str, now: Assessment) -> Sheet:
    """The visit on one page. ``earlier``: what the job is compared with, in words."""
    rows = [_change_row(one) for one in found.changes]
    if len(rows) > MOST_ROWS:
        rest = Counter(_part_of(one) for one in found.changes[MOST_ROWS - 1 :])
        parts = ", ".join(f"{part} {many}" for part, many in rest.items())
        rows = [*rows[: MOST_ROWS - 1], (count(len(rows) - MOST_ROWS + 1, "more change"), parts, "", "")]
    columns = (
        SheetColumn("What changed", 0.36),
        SheetColumn("Where", 0.34),
        SheetColumn("Since", 0.1),
        SheetColumn("What it costs", 0.2),
    )
    blocks: list[SheetTable | Bullets] = []
    if found.days:
        wide = (
            SheetColumn("Recorder", 0.5),
            SheetColumn("Days promised then", 0.25, "right"),
            SheetColumn("Now", 0.25, "right"),
        )
        blocks.append(SheetTable(wide, found.days, "Days kept"))
    if rows:
        blocks.append(SheetTable(columns, tuple(rows), "What has changed on site"))
    blocks.append(Bullets(tuple(_lines(found)), "What to do"))
    same = (
        "" if rows else " The plan has not changed: devices, links, schedules, rules, addresses and sums are the same."
    )
    return Sheet("Return visit", f"Compared with {earlier}.{same}", tuple(blocks))


LIST_WORDS = {"network": "network", "power_units": "power", "links": "wiring", "subnets": "addresses"}
"""Parts of a job by other words than its file has."""

RECORD_WORDS = {
    "checks": "acceptance test",
    "walks": "walk",
    "fill_readings": "drive reading",
    "snags": "snag",
    "accepted": "intended finding",
    "mounting": "mounting step",
    "commissioning": "commissioning step",
    "rehearsal": "rehearsal",
    "handed_over": "handover",
}


def _part_of(one: Since) -> str:
    return LIST_WORDS.get(one.list, one.list.replace("_", " "))


def _change_row(one: Since) -> tuple[str, str, str, str]:
    what = f"{one.what}: {one.before} to {one.now}" if one.what else sentence_case(one.now)
    where = f"{_part_of(one)}: {names_listed(list(one.parts), 3)}" if one.ids != ("",) else "whole site"
    return what, where, one.since.isoformat() if one.since else "", _cost(one)


def _cost(one: Since) -> str:
    """What a change alone costs, in words; a cell is never empty, for that could mean either."""
    if not one.worked_out:
        return "not calculated separately"
    parts = []
    if one.days is not None:
        parts.append(f"retention {figure(one.days[0], 2)} to {figure(one.days[1], 2)} days")
    return "; ".join([*parts, *one.findings]) or "no days"


def _lines(found: VisitFound) -> Iterable[str]:
    if found.added:
        yield f"New in the job: {names_listed(list(found.added), 6)}. Test them."
    if found.removed:
        yield f"No longer in the job: {names_listed(list(found.removed), 6)}."
    for name, (new, gone) in found.recorded.items():
        words = count(new, RECORD_WORDS[name])
        yield f"Recorded since: {words}." + (f" {gone} that were recorded are no longer there." if gone else "")
    for name, off, drift in found.clocks[:8]:
        rate = f", drifting {figure(abs(drift), 2)} s a day" if drift is not None and abs(drift) > 0.01 else ""
        yield f"Clock of {name}: {figure(abs(off))} s {'ahead' if off > 0 else 'behind'}{rate}. Set its time server."
    for name, planned, seen in found.firmware[:8]:
        yield f"Firmware of {name}: {seen} installed, {planned} noted."
    if found.strangers:
        strangers = names_listed(list(found.strangers), 4)
        yield f"{count(len(found.strangers), 'device answers', 'devices answer')} not in the job: {strangers}."
    yield from found.wear[:8]
    by_test: dict[str, list[str]] = {}
    for device, test, _ in found.due:
        by_test.setdefault(test, []).append(device)
    for test, devices in by_test.items():
        yield f"{test} is due again: {names_listed(devices, 4)}."
    if found.next_service is not None:
        yield f"Next service: {found.next_service.isoformat()}."
