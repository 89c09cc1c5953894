"""What a device tells of itself by the open protocol, as a check keeps it. Nothing here is judged, and no password is in it.

Texts and lists are bounded: a device may send anything. What could not be read stands in ``not_read``, and what is not by the
standard in ``notes``, so that a row can say both.
"""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, StringConstraints

from eager_lens.core.validation import AnySign, Number, Plain, Whole

Word = Annotated[str, StringConstraints(strict=True, max_length=400)]
MOST_PROFILES, MOST_CHANNELS, MOST_NAMES = 64, 1024, 64

NightMode = Literal["", "on", "off", "auto"]


class IdentityTold(Plain):
    """Who it is, from the device service. Texts are empty where it left them so."""

    make: Word = ""
    model: Word = ""
    firmware: Word = ""
    serial: Word = ""
    hardware: Word = ""


class InterfaceTold(Plain):
    """An interface of it: its lasting name there, MAC address, address with prefix length, and whether a DHCP server gave it."""

    token: Word = ""
    name: Word = ""
    mac_address: Word = ""
    address: Word = ""
    prefix: Whole = 0
    is_dhcp: bool = False


class NetworkTold(Plain):
    """Its network settings. ``ports``: of the services that are on, as ``HTTP 80``."""

    interfaces: Annotated[tuple[InterfaceTold, ...], Field(max_length=16)] = ()
    gateway: Word = ""
    dns: Annotated[tuple[Word, ...], Field(max_length=8)] = ()
    host_name: Word = ""
    ports: Annotated[tuple[Word, ...], Field(max_length=16)] = ()


class TimeTold(Plain):
    """Its time settings. ``off_s``: by which its clock is ahead of the laptop's, to a second; None where it told no time.

    ``zone`` is as it wrote it (a POSIX zone by the standard).
    """

    off_s: AnySign | None = None
    by_time_server: bool = False
    zone: Word = ""
    is_daylight: bool = False
    servers: Annotated[tuple[Word, ...], Field(max_length=8)] = ()


class UserTold(Plain):
    """A user, and what the user may do there."""

    name: Word
    level: Word = ""


class AllowedRange(Plain):
    """From the least to the most that a device takes."""

    least: Number
    most: Number


class OptionsTold(Plain):
    """What an encoder takes with one codec: picture sizes, frame rates (fps; ``rates`` where it lists them), caps (Mb/s),
    key-frame intervals (frames), picture quality. ``codecs``: all that it takes."""

    codec: Word = ""
    codecs: Annotated[tuple[Word, ...], Field(max_length=16)] = ()
    rates: Annotated[tuple[Number, ...], Field(max_length=128)] = ()
    quality: AllowedRange | None = None
    takes_constant: bool = False
    sizes: Annotated[tuple[tuple[Whole, Whole], ...], Field(max_length=64)] = ()
    fps: AllowedRange | None = None
    cap_mbps: AllowedRange | None = None
    key_frames: AllowedRange | None = None


class ProfileTold(Plain):
    """A stream as it is set.

    Attributes:
        token, encoder, source_settings: the lasting names at the device of it, of its encoder, and of how it takes its picture.
            by: the service that told it.
        cap_mbps: the most that it may send; None where no limit was told. is_constant: whether it always sends that much.
        key_frames: frames from one key frame to the next; key_frame_s follows from the frame rate.
        options, further: what its encoder takes with the codec that it has now, and with others.
        address: where the stream is opened, as it told it; host and user in it are never used.
    """

    token: Word
    name: Word = ""
    source: Word = ""
    by: Literal["media 1", "media 2"] = "media 1"
    codec: Word = ""
    width_px: Whole = 0
    height_px: Whole = 0
    fps: Number = 0
    cap_mbps: Number | None = None
    is_constant: bool | None = None
    key_frames: Number | None = None
    quality: Number | None = None
    address: Word = ""
    snapshot: Word = ""
    encoder: Word = ""
    source_settings: Word = ""
    options: OptionsTold | None = None
    further: Annotated[tuple[OptionsTold, ...], Field(max_length=16)] = ()

    def options_for(self, codec: str) -> OptionsTold | None:
        """What its encoder takes with a codec; None where that was not told."""
        return next((one for one in (self.options, *self.further) if one is not None and one.codec == codec), None)

    @property
    def key_frame_s(self) -> float | None:
        """Seconds from one key frame to the next; None where that cannot be told."""
        return self.key_frames / self.fps if self.key_frames and self.fps else None


class NightTold(Plain):
    """What the picture in the dark depends on: the infrared filter, and the longest exposure in ms (None: not told)."""

    infrared_filter: NightMode = ""
    longest_exposure_ms: Number | None = None
    wide_range: NightMode = ""


class RuleTold(Plain):
    """A motion rule or a detector, with its settings as ``name value``."""

    name: Word
    kind: Word = ""
    settings: Annotated[tuple[Word, ...], Field(max_length=32)] = ()


class MotionTold(Plain):
    """What it detects.

    Attributes:
        token: the lasting name of its analytics. kinds: rules that it takes. topics: events about motion that it offers.
        is_pulled: whether events could be fetched. in_motion: what the last such event said.
    """

    token: Word = ""
    rules: Annotated[tuple[RuleTold, ...], Field(max_length=64)] = ()
    detectors: Annotated[tuple[RuleTold, ...], Field(max_length=64)] = ()
    kinds: Annotated[tuple[Word, ...], Field(max_length=64)] = ()
    topics: Annotated[tuple[Word, ...], Field(max_length=32)] = ()
    is_pulled: bool | None = None
    in_motion: bool | None = None


class RecordingTold(Plain):
    """A recording of a recorder.

    Attributes:
        address: of the device that it records, from its receiver or source. state: of its job, as ``Active``; empty where not told.
        oldest, newest: the first and last picture that it holds, UTC as ``2026-03-02T12:00:00Z``; empty where not told.
    """

    token: Word
    name: Word = ""
    channel: Whole = 0
    address: Word = ""
    state: Word = ""
    oldest: Word = ""
    newest: Word = ""

    @property
    def is_running(self) -> bool:
        """Whether its job said that it runs."""
        return self.state.lower() == "active"


class NotRead(Plain):
    """What could not be read, and why."""

    what: Word
    why: Word


class Told(Plain):
    """All that a device told in one reading.

    Attributes:
        port, is_secure, path: where its device service answered, and whether over TLS. certificate: SHA-256 of the one that it
            showed, in hex.
        services: names of those that it offers. needs_no_login: it told what is behind a log-in without one.
        users: None where they were not told; none at all: it still waits for its first.
        shown_text: what it writes into its picture; None where it offers no text there.
        recordings: None where it has no such service. replay: where the first of them is played back.
    """

    port: Whole = 80
    is_secure: bool = False
    path: Word = ""
    certificate: Word = ""
    services: Annotated[tuple[Word, ...], Field(max_length=32)] = ()
    needs_no_login: bool = False
    identity: IdentityTold | None = None
    network: NetworkTold | None = None
    time: TimeTold | None = None
    users: Annotated[tuple[UserTold, ...], Field(max_length=64)] | None = None
    scopes: Annotated[tuple[Word, ...], Field(max_length=MOST_NAMES)] = ()
    profiles: Annotated[tuple[ProfileTold, ...], Field(max_length=MOST_PROFILES)] = ()
    night: NightTold | None = None
    motion: MotionTold | None = None
    shown_text: Word | None = None
    recordings: Annotated[tuple[RecordingTold, ...], Field(max_length=MOST_CHANNELS)] | None = None
    replay: Word = ""
    not_read: Annotated[tuple[NotRead, ...], Field(max_length=32)] = ()
    notes: Annotated[tuple[Word, ...], Field(max_length=32)] = ()

    def main_and_sub(self) -> tuple[ProfileTold | None, ProfileTold | None]:
        """The main stream and the substream among its profiles: of the first picture source the largest, of equal ones the
        first, and the largest that is smaller."""
        source = self.profiles[0].source if self.profiles else ""
        own = [one for one in self.profiles if one.source == source and one.codec]
        by_size = sorted(own, key=lambda one: -one.width_px * one.height_px)
        main = by_size[0] if by_size else None
        sub = next((one for one in by_size if main is not None and _is_smaller(one, main)), None)
        return main, sub


def _is_smaller(one: ProfileTold, main: ProfileTold) -> bool:
    return one.width_px * one.height_px < main.width_px * main.height_px
