"""Lines about any device that was read: its log-in, certificate, firmware, clock, and what is odd about it."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import UTC, datetime

from eager_lens.core.assess.finding import Severity
from eager_lens.core.assess.limits import CLOCK_WITHIN_S
from eager_lens.core.assess.rules.labels import is_older
from eager_lens.core.clock.zones import posix_offset_s, zone_offset_s
from eager_lens.core.job.make_profiles import profile_of
from eager_lens.core.job.model import Camera, Device, Job, Recorder
from eager_lens.core.site_check.lines import SiteCode, SiteLine
from eager_lens.core.site_check.readings import UTC_FORM, CheckRun, DeviceRead, Login
from eager_lens.core.site_check.stream_texts import HOUR_S, duration_words

HOUR_NEAR_S = 60.0


def device_lines(job: Job, run: CheckRun, device: Device, read: DeviceRead) -> Iterator[SiteLine]:
    """What a reading says of a device, whatever it is."""
    yield from _login_lines(device, read)
    yield from _certificate_lines(device, read)
    if read.trouble:
        yield SiteLine(Severity.WARNING, SiteCode.ODD, read.trouble)
    yield from _firmware_lines(job, device, read)
    yield from _clock_lines(read, run)
    yield from _zone_lines(job, run, read)


_LOGINS: dict[Login, tuple[Severity, SiteCode, str]] = {
    "locked": (
        Severity.FAULT,
        SiteCode.LOCKED,
        "Locked after too many wrong log-ins: wait, then find out which device keeps trying.",
    ),
    "set-up wanted": (Severity.FAULT, SiteCode.SET_UP, "Not set up yet: it needs its first password."),
    "open": (
        Severity.WARNING,
        SiteCode.NO_LOGIN,
        "It answers without a log-in, so anyone on the network can change it: switch its log-in on.",
    ),
    "plain text": (
        Severity.WARNING,
        SiteCode.PLAIN_TEXT,
        "It asks for the password in plain text, so the password was not sent: switch on digest authentication.",
    ),
}
"""What a log-in that went in one of these ways means."""


def _login_lines(device: Device, read: DeviceRead) -> Iterator[SiteLine]:
    if read.default_works:
        words = "It accepts its default password, so anyone can log in: set a new one now."
        yield SiteLine(Severity.FAULT, SiteCode.DEFAULT_PASSWORD, words)
    if read.login == "refused":
        at = "Its open protocol" if read.told is not None else "Its stream"
        words = (
            f"{at} refused the noted password; it may need a user of its own. Nothing more was tried, so that the account is "
            "not locked."
        )
        yield SiteLine(Severity.FAULT, SiteCode.REFUSED, words)
    elif read.login in _LOGINS:
        yield SiteLine(*_LOGINS[read.login])
    elif read.login == "not tried" and read.main is not None and read.main.outcome == "refused":
        yield SiteLine(Severity.WARNING, SiteCode.PLAIN_TEXT, f"Log-in failed: {read.main.words}.")
    elif read.login == "no answer" and read.told is None and read.main is None:
        yield SiteLine(Severity.WARNING, SiteCode.NO_PAGE, "A device is there, but its web port does not answer.")
    if isinstance(device, Camera | Recorder) and read.told is None and read.why_not_told and not read.other_certificate:
        words = f"Its settings cannot be read: {read.why_not_told}. Switch its open protocol on."
        yield SiteLine(Severity.WARNING, SiteCode.PROTOCOL_OFF, words)


def _certificate_lines(device: Device, read: DeviceRead) -> Iterator[SiteLine]:
    if read.other_certificate:
        words = (
            f"It shows another certificate (SHA-256 {read.other_certificate[:16]} …) than the one that the job remembers. After "
            "a reset or an update that is usual; otherwise another device answers in its place. Compare the label, then clear "
            "the remembered certificate. Nothing was sent to it."
        )
        yield SiteLine(Severity.FAULT, SiteCode.CERTIFICATE, words)


def _firmware_lines(job: Job, device: Device, read: DeviceRead) -> Iterator[SiteLine]:
    found = read.told.identity.firmware if read.told is not None and read.told.identity is not None else ""
    wanted = profile_of(device.make, job.make_profiles)
    # Only of a make that the job describes: what is assumed of the others is no reason to update anything.
    if found and wanted in job.make_profiles and is_older(found, wanted.firmware_now):
        words = f"Its firmware is {found}; the make profile wants {wanted.firmware_now}."
        yield SiteLine(Severity.NOTE, SiteCode.FIRMWARE, words)


def _clock_lines(read: DeviceRead, run: CheckRun) -> Iterator[SiteLine]:
    off_s = read.clock_off_s
    if off_s is None or abs(off_s) <= CLOCK_WITHIN_S:
        return
    way = "ahead" if off_s > 0 else "behind"
    hours = round(off_s / HOUR_S)
    likely = ""
    if hours and abs(off_s - hours * HOUR_S) < HOUR_NEAR_S:
        likely = ": whole hours, so its time zone or daylight saving is probably wrong"
    elif run.laptop_synchronised is False:
        likely = "; the laptop's own clock is not synchronised, so check both"
    words = f"Its clock is {duration_words(abs(off_s))} {way}{likely}. A search by time finds the wrong minute."
    yield SiteLine(Severity.FAULT, SiteCode.CLOCK, words)


def _zone_lines(job: Job, run: CheckRun, read: DeviceRead) -> Iterator[SiteLine]:
    told = read.told.time if read.told is not None else None
    if told is None or not told.zone or (told.is_daylight and "," not in told.zone):
        return  # it says that it is summer time, and not when that ends
    utc = datetime.strptime(run.at, UTC_FORM).replace(tzinfo=UTC)
    own_s, planned_s = posix_offset_s(told.zone, utc), zone_offset_s(job.time_zone, utc)
    if own_s is None or own_s == planned_s:
        return
    words = (
        f"Its time zone is {told.zone}, {duration_words(abs(own_s - planned_s))} {'ahead of' if own_s > planned_s else 'behind'} "
        f"{job.time_zone}: times in the picture and in searches are off by that."
    )
    yield SiteLine(Severity.WARNING, SiteCode.ZONE, words)
