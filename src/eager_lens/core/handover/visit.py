"""A return visit: two states of a job compared by device and by what it costs, and what is due, on one page.

The earlier state is a job file as it was handed over (or offered); the later one is the job now, with what the latest site
check found of streams on top, if there is one.
"""

from __future__ import annotations

import calendar
from collections.abc import Callable, Collection, Iterable, Iterator
from datetime import date, datetime
from typing import Any, NamedTuple

from eager_lens.core.assess.assessment import Assessment, assess
from eager_lens.core.assess.finding import names_listed
from eager_lens.core.assess.limits import CLOCK_WITHIN_S
from eager_lens.core.exchange.sheets import Bullets, Sheet, SheetColumn, SheetTable
from eager_lens.core.exchange.texts import t
from eager_lens.core.job.edits import set_each
from eager_lens.core.job.fields import CAMERA_FIELDS, NETWORK_FIELDS, RECORDER_FIELDS, DeviceField
from eager_lens.core.job.model import Camera, Device, Job, Recorder, by_id
from eager_lens.core.job.proving import latest_checks
from eager_lens.core.reference.acceptance import acceptance_test
from eager_lens.core.site_check.consequences import settings_read
from eager_lens.core.site_check.readings import CheckRun
from eager_lens.core.site_check.take_over import run_moment
from eager_lens.core.site_check.verdicts import rows_of
from eager_lens.core.sizing.drive_life import card_years
from eager_lens.core.units import count, figure

MOST_ALONE = 12
"""So many changes are worked out by themselves, those of most cameras first."""
LEAST_DAYS_OFF = 0.5
LEFT_OUT = frozenset({"note", "measured_from", "measured_when", "measured_min", "events_from", "registered"})
YEARLY = ("drives", "clock", "clip", "motion", "power-cut", "restart", "remote", "credentials")
"""Tests that are due again when a service is."""
DRIVE_YEARS = 5.0
"""After so many years of writing round the clock drives are replaced before they fail (practice; makers differ)."""
WORN_SHARE = 0.8


class FieldChange(NamedTuple):
    """A field that is another on some devices.

    Attributes:
        field: its heading. before, now: its values, in words. devices: ids. values: the new values by device, for working
            out what they cost. days: promised of the recorder that it costs most, before and with this alone; None where it
            changes no days. since: since when, as the event log has it; None where it does not say.
    """

    field: str
    before: str
    now: str
    devices: tuple[str, ...]
    values: dict[str, dict[str, Any]]
    days: tuple[float, float] | None = None
    since: date | None = None


class VisitFound(NamedTuple):
    """What a comparison found.

    Attributes:
        changes: by field, those that cost days first. added, removed: names of devices. days: by recorder's name, promised
            before and now. clocks: device, seconds off, and how fast it drifts since the run before (s a day, or None).
        firmware: device, planned, found. strangers: what answers and is not in the job. wear: in words. due: tests that are
            due again, with when they were made last. next_service: the date.
    """

    changes: tuple[FieldChange, ...]
    added: tuple[str, ...]
    removed: tuple[str, ...]
    days: tuple[tuple[str, float | None, float | None], ...]
    clocks: tuple[tuple[str, float, float | None], ...]
    firmware: tuple[tuple[str, str, str], ...]
    strangers: tuple[str, ...]
    wear: tuple[str, ...]
    due: tuple[tuple[str, str, str], ...]
    next_service: date | None


Since = Callable[[Collection[str]], date | None]


def as_found(assessment: Assessment, run: CheckRun | None) -> Assessment:
    """The job with the stream settings that a run of the site check read."""
    cameras = by_id(assessment.job.cameras)
    values: dict[str, dict[str, Any]] = {}
    for read in run.read if run is not None else ():
        camera = cameras.get(read.device)
        if camera is not None and read.main is not None and (settings := settings_read(camera, read.main)):
            values[camera.id] = settings
    return assess(set_each("As found", values).apply(assessment.job), assessment) if values else assessment


def visit(
    before: Assessment,
    now: Assessment,
    today: date,
    runs: tuple[CheckRun | None, CheckRun | None] = (None, None),
    since: Since = lambda ids: None,
) -> VisitFound:
    """Compare two states.

    Args:
        before: as it was handed over. now: the job as it is. today: the day of the visit. runs: an earlier run of the site
            check and the latest, if there are any. since: since when devices are as they are, from the event log.
    """
    found = as_found(now, runs[1])
    old, new = _devices(before.job), _devices(found.job)
    changes = sorted(_changes(before.job, found.job), key=lambda one: -len(one.devices))
    worked = [_costed(before, one) if at < MOST_ALONE else one for at, one in enumerate(changes)]
    dated = [one._replace(since=since(one.devices)) for one in worked]
    dated.sort(key=lambda one: (-abs(one.days[0] - one.days[1]) if one.days else 0.0, -len(one.devices)))
    recorders = [
        (recorder.name, before.recorder(recorder.id).promised_days, found.recorder(recorder.id).promised_days)
        for recorder in found.job.recorders
        if recorder.id in before.facts.recorders
    ]
    began = handed_over_on(now.job)
    return VisitFound(
        tuple(dated),
        tuple(device.name for key, device in new.items() if key not in old),
        tuple(device.name for key, device in old.items() if key not in new),
        tuple(recorders),
        tuple(_clocks(now, runs)),
        tuple(_firmware(now, runs[1])),
        tuple(_strangers(now, runs[1])),
        tuple(_wear(found, began, today)),
        tuple(_due(now.job, today)),
        next_service_on(now.job),
    )


def _devices(job: Job) -> dict[str, Device]:
    return {device.id: device for device in job.devices()}


def _fields_of(device: Device) -> tuple[DeviceField, ...]:
    return (
        CAMERA_FIELDS
        if isinstance(device, Camera)
        else RECORDER_FIELDS
        if isinstance(device, Recorder)
        else NETWORK_FIELDS
    )


def _changes(before: Job, now: Job) -> Iterator[FieldChange]:
    """Fields that differ, devices with the same change together."""
    old = _devices(before)
    groups: dict[tuple[str, str, str], dict[str, dict[str, Any]]] = {}
    for device in now.devices():
        earlier = old.get(device.id)
        if earlier is None or type(earlier) is not type(device) or earlier == device:
            continue
        for field in _fields_of(device):
            if field.id in LEFT_OUT:
                continue
            was, is_now = field.show(earlier, before), field.show(device, now)
            if was != is_now:
                unit = f" {field.unit}" if field.unit else ""
                key = (
                    field.heading,
                    f"{was}{unit}" if was else t("visit.none"),
                    f"{is_now}{unit}" if is_now else t("visit.none"),
                )
                value = {field.id: getattr(device, field.id)} if hasattr(device, field.id) else {}
                groups.setdefault(key, {})[device.id] = value
    for (heading, was, is_now), values in groups.items():
        yield FieldChange(heading, was, is_now, tuple(values), values)


def _costed(before: Assessment, change: FieldChange) -> FieldChange:
    """A change with what it alone costs in days, from the earlier state."""
    values = {device: fields for device, fields in change.values.items() if fields}
    if not values:
        return change
    after = assess(set_each("This alone", values).apply(before.job), before)
    found = None
    for recorder in before.job.recorders:
        pair = (before.recorder(recorder.id).promised_days, after.recorder(recorder.id).promised_days)
        if pair[0] is None or pair[1] is None or abs(pair[0] - pair[1]) < LEAST_DAYS_OFF:
            continue
        if found is None or pair[1] - pair[0] < found[1] - found[0]:
            found = (pair[0], pair[1])
    return change._replace(days=found)


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
    by_address = {one.address: one.firmware for one in run.heard if one.firmware} if run is not None else {}
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
            yield t("visit.drives_of_years_of_writing_round", name=recorder.name, years=figure(years, 2))
    for camera in assessment.job.cameras:
        if camera.card_gb and camera.card_written_tb:
            life = card_years(camera.card_written_tb, assessment.camera(camera.id).gb_per_day)
            if life is not None and years >= WORN_SHARE * life:
                yield t(
                    "visit.card_of_of_about_years_replace",
                    name=camera.name,
                    years=figure(years, 2),
                    life=figure(life, 2),
                )


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
            yield names.get(device, t("visit.whole_site")), test.label, made.isoformat()


# ---- the sheet -----------------------------------------------------------------------------------------------------

MOST_ROWS = 14


def visit_sheet(found: VisitFound, earlier: str, now: Assessment) -> Sheet:
    """The visit on one page. ``earlier``: what the job is compared with, in words."""
    names = now.facts.name
    rows = [_change_row(one, names) for one in found.changes]
    if len(rows) > MOST_ROWS:
        rest = sum(len(one.devices) for one in found.changes[MOST_ROWS - 1 :])
        rows = [
            *rows[: MOST_ROWS - 1],
            (count(len(rows) - MOST_ROWS + 1, "more change"), t("visit.on", devices=count(rest, "device")), "", ""),
        ]
    columns = (
        SheetColumn(t("visit.what_changed"), 0.36),
        SheetColumn(t("visit.where"), 0.34),
        SheetColumn(t("visit.since"), 0.1),
        SheetColumn(t("visit.what_it_costs"), 0.2),
    )
    blocks: list[SheetTable | Bullets] = []
    days = tuple((name, _days(was), _days(is_now)) for name, was, is_now in found.days)
    if days:
        wide = (
            SheetColumn(t("visit.recorder"), 0.5),
            SheetColumn(t("visit.days_promised_then"), 0.25, "right"),
            SheetColumn(t("visit.now"), 0.25, "right"),
        )
        blocks.append(SheetTable(wide, days, t("visit.days_kept")))
    if rows:
        blocks.append(SheetTable(columns, tuple(rows), t("visit.what_is_not_as_it_was")))
    blocks.append(Bullets(tuple(_lines(found)), t("visit.what_to_do")))
    same = "" if rows or found.added or found.removed else t("visit.every_device_is_as_it_was")
    return Sheet(t("visit.return_visit"), t("visit.compared_with", earlier=earlier, same=same), tuple(blocks))


def _days(days: float | None) -> str:
    return t("visit.no_limit") if days is None else figure(days)


def _change_row(one: FieldChange, name: Callable[[str], str]) -> tuple[str, str, str, str]:
    where = f"{count(len(one.devices), 'device')}: {names_listed([name(device) for device in one.devices], 3)}"
    cost = (
        ""
        if one.days is None
        else t("visit.retention_to_days", value=figure(one.days[0], 2), value_2=figure(one.days[1], 2))
    )
    return (
        t("visit.to", field=one.field, before=one.before, now=one.now),
        where,
        one.since.isoformat() if one.since else "",
        cost,
    )


def _lines(found: VisitFound) -> Iterable[str]:
    if found.added:
        yield t("visit.new_in_the_job_prove_them", added=names_listed(list(found.added), 6))
    if found.removed:
        yield t("visit.no_longer_in_the_job", removed=names_listed(list(found.removed), 6))
    for name, off, drift in found.clocks[:8]:
        rate = (
            t("visit.drifting_s_a_day", drift=figure(abs(drift), 2)) if drift is not None and abs(drift) > 0.01 else ""
        )
        yield t(
            "visit.clock_of_s_set_its_time",
            name=name,
            off=figure(abs(off)),
            value="ahead" if off > 0 else "behind",
            rate=rate,
        )
    for name, planned, seen in found.firmware[:8]:
        yield t("visit.firmware_of_is_on_it_is", name=name, seen=seen, planned=planned)
    if found.strangers:
        strangers = names_listed(list(found.strangers), 4)
        yield t(
            "visit.that_the_job_does_not_know",
            devices=count(len(found.strangers), "device answers", "devices answer"),
            strangers=strangers,
        )
    yield from found.wear[:8]
    by_test: dict[str, list[str]] = {}
    for device, test, _ in found.due:
        by_test.setdefault(test, []).append(device)
    for test, devices in by_test.items():
        yield t("visit.is_due_again", test=test, devices=names_listed(devices, 4))
    if found.next_service is not None:
        yield t("visit.next_service", isoformat=found.next_service.isoformat())
