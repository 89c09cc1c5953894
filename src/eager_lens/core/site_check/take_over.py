"""What a check found, taken into the job: addresses, MAC addresses, serials, firmware, measured rates, and proofs."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Any, NamedTuple

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.limits import CLOCK_WITHIN_S
from eager_lens.core.clock.zones import zone_named
from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.edits import Edit, set_each
from eager_lens.core.job.measured import settings_of
from eager_lens.core.job.model import Camera, Job
from eager_lens.core.job.place import was_dark
from eager_lens.core.job.proof import Check, FillReading
from eager_lens.core.job.proving import add_fill_reading, latest_checks, record_checks
from eager_lens.core.scan.found import Found, changes_of
from eager_lens.core.scan.found import take_over as take_addresses_over
from eager_lens.core.site_check.consequences import LARGEST_MBPS, settings_at, settings_found, settings_unlike
from eager_lens.core.site_check.days_so_far import days_tests, fill_readings
from eager_lens.core.site_check.matching import matched
from eager_lens.core.site_check.readings import UTC_FORM, CheckRun, DeviceRead, StreamRead
from eager_lens.core.site_check.stream_texts import duration_words
from eager_lens.core.units import count, figure

LEAST_READ_S = 1.0


def run_moment(run: CheckRun) -> datetime:
    """When a run began."""
    return datetime.strptime(run.at, UTC_FORM).replace(tzinfo=UTC)


def local_words(job: Job, run: CheckRun) -> str:
    """When a run began, by the job's own clock."""
    return run_moment(run).astimezone(zone_named(job.time_zone)).strftime("%Y-%m-%d %H:%M")


class Wanted(NamedTuple):
    """What is taken over of a check.

    Attributes:
        identity: addresses, MAC addresses, serials, firmware. proofs: the acceptance tests *Stream* and *Clock*.
        settings: where a stream runs at other settings, the plan follows the device; else the device is to be set.
        rates: the plan reckons with the bit rates as they were read. That is for long readings by day and by night: one of some
            seconds is a sample of its moment.
    """

    identity: bool = True
    proofs: bool = True
    settings: bool = False
    rates: bool = False


USUAL = Wanted()


class Offered(NamedTuple):
    """What a check has that may be taken over: how many devices, tests, cameras at other settings, and cameras with a rate."""

    identity: int
    proofs: int
    settings: int
    rates: int


def _sure_part(job: Job, run: CheckRun) -> tuple[list[Found], CheckRun]:
    """What was found of devices that are known to be themselves, and the run with only what was read of those."""
    found = [
        one for one in matched(job, run.heard_and_told(), run.arp_heard) if _is_sure(one.seen is not None, one.outcome)
    ]
    sure = {one.device.id for one in found if one.device is not None}
    return found, run.model_copy(update={"read": tuple(read for read in run.read if read.device in sure)})


def offered(assessment: Assessment, run: CheckRun, by: str = "") -> Offered:
    """What may be taken over of a check, by how many of each there are."""
    job = assessment.job
    found, run = _sure_part(job, run)
    return Offered(
        len(changes_of(found).keys() | _certificates(job, run).keys()),
        len(_new_proofs(assessment, run, by)) + len(_new_readings(assessment, run, by)),
        len(_settings(job, run)),
        len(_rates(job, run, False)),
    )


def take_over(assessment: Assessment, run: CheckRun, by: str = "", wanted: Wanted = USUAL) -> Edit:
    """One step: what was found becomes what is built, and the proofs that a check can give are filled in.

    Addresses are taken from devices that answered alone, and nothing of a device that may be another; a rate is taken with its
    time of day and length, under the settings at which it was read.

    Raises:
        RefusedInput: when there is nothing in it that is not in the job already.
    """
    job = assessment.job
    steps: list[Edit] = []
    found, run = _sure_part(job, run)
    if wanted.identity and changes_of(found):
        steps.append(take_addresses_over(found))
    if wanted.identity and (certificates := _certificates(job, run)):
        steps.append(set_each("Certificates", certificates))
    if wanted.settings and (settings := _settings(job, run)):
        steps.append(set_each("Settings", settings))
    if wanted.rates and (rates := _rates(job, run, wanted.settings)):
        steps.append(set_each("Rates", rates))
    if wanted.proofs and (proofs := _new_proofs(assessment, run, by)):
        steps.append(record_checks(proofs))
    if wanted.proofs:
        steps += [add_fill_reading(one) for one in _new_readings(assessment, run, by)]
    if not steps:
        raise RefusedInput("site check", "nothing new to take over: all findings are already in the job")

    def apply(now: Job) -> Job:
        for step in steps:
            now = step.apply(now)
        return now

    many = len({read.device for read in run.read}) or len(found)
    return Edit(f"Take over {count(many, 'device')} as built", apply)


def _settings(job: Job, run: CheckRun) -> dict[str, dict[str, Any]]:
    """By camera the settings that its stream has and the plan has not."""
    cameras = {camera.id: camera for camera in job.cameras}
    values: dict[str, dict[str, Any]] = {}
    for read in run.read:
        camera = cameras.get(read.device)
        if camera is not None and (settings := settings_found(camera, read)):
            values[camera.id] = settings
    return values


def _certificates(job: Job, run: CheckRun) -> dict[str, dict[str, Any]]:
    """By device the certificate that it showed, where none is remembered of it: one that changed is not taken over, it is
    cleared by hand once the device was looked at."""
    known = {device.id: device.certificate_sha256 for device in job.devices()}
    shown = {read.device: read.told.certificate for read in run.read if read.told is not None and read.told.certificate}
    return {device: {"certificate_sha256": one} for device, one in shown.items() if known.get(device) == ""}


def _new_proofs(assessment: Assessment, run: CheckRun, by: str) -> list[Check]:
    known = latest_checks(assessment.job)
    found = [*_proofs(assessment.job, run, by), *days_tests(assessment, run, by, _local_minute(assessment.job, run))]
    return [check for check in found if known.get((check.device, check.check)) != check]


def _new_readings(assessment: Assessment, run: CheckRun, by: str) -> list[FillReading]:
    found = fill_readings(assessment, run, by, _local_minute(assessment.job, run))
    return [one for one in found if one not in assessment.job.fill_readings]


def _local_minute(job: Job, run: CheckRun) -> str:
    return run_moment(run).astimezone(zone_named(job.time_zone)).strftime("%Y-%m-%dT%H:%M")


def _is_sure(heard: bool, outcome: str) -> bool:
    return heard and outcome in ("as planned", "by address alone", "elsewhere")


def _rates(job: Job, run: CheckRun, as_read: bool) -> dict[str, dict[str, Any]]:
    """By camera the rate that was read; ``as_read``: the plan has the stream's own settings then."""
    cameras = {camera.id: camera for camera in job.cameras}
    values: dict[str, dict[str, Any]] = {}
    for read in run.read:
        camera, stream = cameras.get(read.device), read.main
        if camera is None or stream is None or not _is_measured(stream):
            continue
        own = settings_at(camera, stream)
        taken: dict[str, Any] = {
            "measured_mbps": round(stream.mean_mbps, 4),
            "measured_low_mbps": None,
            "measured_high_mbps": None,
            "measured_from": f"site check {local_words(job, run)}, {figure(stream.read_s, 2)} s",
            "measured_when": "night" if was_dark(job, run_moment(run)) else "day",
            "measured_min": max(1e-3, round(stream.read_s / 60, 4)),
            "measured_at": None if as_read or own == settings_of(camera) else own,
        }
        if any(getattr(camera, name) != value for name, value in taken.items()):
            values[camera.id] = taken
    return values


def _is_measured(stream: StreamRead) -> bool:
    return stream.outcome == "opened" and 0 < stream.mean_mbps <= LARGEST_MBPS and stream.read_s >= LEAST_READ_S


def _proofs(job: Job, run: CheckRun, by: str) -> list[Check]:
    at = _local_minute(job, run)
    cameras = {camera.id: camera for camera in job.cameras}
    found = []
    for read in run.read:
        camera = cameras.get(read.device)
        if camera is None:
            continue
        for kind, passed, value, measured in _proofs_of(camera, read):
            outcome = "passed" if passed else "failed"
            found.append(
                Check.model_validate(
                    {
                        "device": camera.id,
                        "check": kind,
                        "outcome": outcome,
                        "by": by,
                        "at": at,
                        "value": value,
                        "measured": measured,
                        "how": "site check",
                    }
                )
            )
    return found


def _proofs_of(camera: Camera, read: DeviceRead) -> list[tuple[str, bool, str, float | None]]:
    """The proofs that a check gives of a camera: test, whether it passed, the value with its origin, and what was measured."""
    found: list[tuple[str, bool, str, float | None]] = []
    main = read.main
    if main is not None and main.outcome == "opened":
        size = f"{main.width_px} × {main.height_px}, {figure(main.fps)} fps, {figure(main.mean_mbps)} Mb/s"
        found.append(("stream", not settings_unlike(camera, read), f"{size} (site check)", None))
    elif main is not None and main.outcome != "not tried":
        found.append(("stream", False, f"{main.words} (site check)", None))
    if read.clock_off_s is not None:
        sign = "+" if read.clock_off_s >= 0 else "-"
        value = f"{sign}{duration_words(abs(read.clock_off_s))} (site check, {read.clock_by})"
        found.append(("clock", abs(read.clock_off_s) <= CLOCK_WITHIN_S, value, round(read.clock_off_s, 3)))
    return found
