"""Lines about a camera's streams: whether they open, how they are set, what they send, and the days that follow."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.figures.rates import cap_of
from eager_lens.core.assess.finding import Severity
from eager_lens.core.job.model import Camera
from eager_lens.core.site_check.consequences import (
    KeptDays,
    main_profile,
    passes_its_cap,
    rate_is_off,
    settings_unlike,
)
from eager_lens.core.site_check.lines import SiteCode, SiteLine
from eager_lens.core.site_check.readings import DeviceRead
from eager_lens.core.site_check.stream_texts import planned_words, profile_words, settings_words
from eager_lens.core.units import days_figure, figure

SUBSTREAM_OFF = 2.0
"""Factor by which a substream may exceed its planned rate before a verdict says so."""

LONGEST_EXPOSURE_MS = 40.0
"""At 25 fps a picture has no more time than this; with longer ones the camera sends fewer pictures by night."""


def camera_lines(
    assessment: Assessment, days: Sequence[KeptDays], camera: Camera, read: DeviceRead
) -> Iterator[SiteLine]:
    """What a reading says of a camera's streams. ``days``: what recorders keep with what was found."""
    yield from _opening_lines(read)
    yield from _settings_lines(assessment, days, camera, read)
    yield from _substream_lines(camera, read)
    yield from _night_lines(camera, read)
    yield from _rule_lines(camera, read)


def _opening_lines(read: DeviceRead) -> Iterator[SiteLine]:
    main = read.main
    if main is None or main.outcome in ("not tried", "opened") or read.login in ("refused", "locked"):
        return
    if main.outcome == "refused":
        if read.login == "in":
            words = "Its open protocol accepts the noted password, its stream does not: the stream may need a separate user."
            yield SiteLine(Severity.FAULT, SiteCode.NO_STREAM, words)
        return
    code = SiteCode.STREAM_STOPS if main.outcome == "stopped" else SiteCode.NO_STREAM
    yield SiteLine(Severity.FAULT, code, f"Its main stream does not open: {main.words}.")


def _settings_lines(
    assessment: Assessment, days: Sequence[KeptDays], camera: Camera, read: DeviceRead
) -> Iterator[SiteLine]:
    main = read.main if read.main is not None and read.main.outcome == "opened" else None
    profile = main_profile(read)
    settings = settings_unlike(camera, read)
    cap = settings.keys() & {"cap_mbps", "rate_control"}
    then = _days_words(assessment, days, camera)
    planned_mbps = assessment.camera(camera.id).load_mbps
    sends = f"it sends {figure(main.mean_mbps)} Mb/s, {figure(planned_mbps)} planned" if main is not None else ""
    if settings.keys() - cap:
        found = settings_words(main) if main is not None else profile_words(profile) if profile is not None else ""
        rest = "".join((f"; {sends}" if sends else "", then))
        yield SiteLine(
            Severity.WARNING, SiteCode.SETTINGS, f"It runs at {found}, planned {planned_words(camera)}{rest}."
        )
    if cap and profile is not None:
        is_set = (
            "has no maximum bit rate"
            if profile.cap_mbps is None
            else f"is set to {figure(profile.cap_mbps)} Mb/s at most"
        )
        more = "" if settings.keys() - cap else then
        lower = profile.cap_mbps is not None and profile.cap_mbps < (cap_of(camera) or 0.0)
        words = f"It {is_set}, planned {figure(cap_of(camera) or 0.0)} Mb/s{more}."
        yield SiteLine(Severity.NOTE if lower else Severity.WARNING, SiteCode.CAP, words)
    if main is None or settings.keys() - cap:
        return
    if passes_its_cap(camera, main):
        words = f"{sends[:1].upper()}{sends[1:]}{'' if cap else then}: more than the planned maximum of "
        words += f"{figure(camera.cap_mbps or 0.0)} Mb/s. It is not set, or the camera ignores it."
        yield SiteLine(Severity.WARNING, SiteCode.RATE, words)
    elif rate_is_off(assessment, camera, main):
        yield SiteLine(Severity.WARNING, SiteCode.RATE, f"{sends[:1].upper()}{sends[1:]}{'' if cap else then}.")


def _days_words(assessment: Assessment, days: Sequence[KeptDays], camera: Camera) -> str:
    names = {recorder.id: recorder.name for recorder in assessment.job.recorders}
    parts = [
        f"{names.get(one.recorder, 'its recorder')} keeps {days_figure(one.found)} days instead of {days_figure(one.planned)}"
        for one in days
        if one.camera == camera.id
    ]
    return f": with it, {' and '.join(parts)}" if parts else ""


def _substream_lines(camera: Camera, read: DeviceRead) -> Iterator[SiteLine]:
    sub = read.substream
    if sub is None or (read.main is not None and read.main.outcome != "opened"):
        return
    if sub.outcome not in ("opened", "not tried"):
        yield SiteLine(Severity.WARNING, SiteCode.SUBSTREAM, f"Its substream does not open: {sub.words}.")
    elif sub.mean_mbps > camera.substream_mbps * SUBSTREAM_OFF:
        words = f"Its substream sends {figure(sub.mean_mbps)} Mb/s, {figure(camera.substream_mbps)} planned."
        yield SiteLine(Severity.NOTE, SiteCode.SUBSTREAM, words)


def _night_lines(camera: Camera, read: DeviceRead) -> Iterator[SiteLine]:
    night = read.told.night if read.told is not None else None
    longest_ms = night.longest_exposure_ms if night is not None else None
    if longest_ms is not None and longest_ms > max(LONGEST_EXPOSURE_MS, 1000.0 / camera.fps):
        words = (
            f"It may expose for {figure(longest_ms)} ms: by night it then sends fewer than the planned {figure(camera.fps)} fps, "
            "and what moves is blurred."
        )
        yield SiteLine(Severity.NOTE, SiteCode.NIGHT, words)


def _rule_lines(camera: Camera, read: DeviceRead) -> Iterator[SiteLine]:
    motion = read.told.motion if read.told is not None else None
    # One that takes no rules detects in a way of its own, of which the open protocol tells nothing.
    if motion is None or not motion.kinds or not camera.motion_rule_on:
        return
    if not motion.rules and not motion.detectors:
        words = "Its motion rule is off, and the plan has one: recording by motion would keep nothing of it."
        yield SiteLine(Severity.WARNING, SiteCode.RULE, words)
