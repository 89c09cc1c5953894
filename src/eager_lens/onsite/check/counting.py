"""RTP packets counted into pictures: how many, how large, which are key frames, and when by the camera's own clock.

Nothing is put together or decoded: the heads of the payloads tell all of it (H.264: RFC 6184; H.265: RFC 7798; JPEG: RFC
2435), so forty streams of 8 MP cost no more than their packets, and no decoder sees what a hostile device sends.
"""

from __future__ import annotations

import base64
import binascii
import itertools
import statistics
import struct
from collections.abc import Sequence

from eager_lens.core.reference.streams import CODECS
from eager_lens.core.site_check.readings import StreamRead
from eager_lens.onsite.check.parameter_sets import size_of

ENCODINGS = {"H264": "h264", "H265": "h265", "JPEG": "mjpeg"}
START_CODE_BYTES = 4
JPEG_HEAD_BYTES = 605
"""Markers and tables that a JPEG file has before its scan, which RTP does not carry (RFC 2435, appendix B)."""

MOST_PICTURES = 200_000
LEAST_PACKET_BYTES = 12
SENDER_REPORT = 200
NTP_TO_UNIX_S = 2_208_988_800
LARGEST_FPS = 240.0
OUT_OF_TIME = 2.0
"""Time stamps that differ from the time of arrival by more than this factor are ignored."""

_WRAP = 1 << 32


class Counted:
    """The pictures of one stream as its packets come in."""

    def __init__(self, encoding: str, clock_hz: int, parameter_sets: Sequence[str] = ()) -> None:
        self.codec = ENCODINGS.get(encoding, encoding.lower())
        self._clock_hz = clock_hz
        self._sizes: list[int] = []
        self._stamps: list[int] = []
        self._arrived_s: list[float] = []
        self._keys: list[int] = []
        self._size_px: tuple[int, int] | None = None
        self._report: tuple[int, float] | None = None
        self._ahead_s: float | None = None
        self._away_s = 0.0
        self.octets = 0
        for text in parameter_sets:
            try:
                self._unit_begins(base64.b64decode(text, validate=True))
            except (binascii.Error, ValueError):
                continue

    @property
    def pictures(self) -> int:
        """How many began."""
        return len(self._sizes)

    @property
    def is_full(self) -> bool:
        """Whether no more are counted."""
        return len(self._sizes) >= MOST_PICTURES

    def kept_away(self, seconds: float, pictures: int) -> None:
        """Nobody was there to take packets for so long: all pictures after the first so many came in that much earlier than was
        noted."""
        self._away_s += seconds
        self._arrived_s[pictures:] = [one - seconds for one in self._arrived_s[pictures:]]

    # ---- packets ----------------------------------------------------------------------------------------------------

    def take(self, packet: bytes, now_s: float) -> None:
        """A packet (RFC 3550, 5.1), and when it came in, seconds since 1970."""
        if len(packet) < LEAST_PACKET_BYTES or packet[0] >> 6 != 2:
            return
        (stamp,) = struct.unpack_from(">I", packet, 4)
        start = LEAST_PACKET_BYTES + 4 * (packet[0] & 15)
        if packet[0] & 0x10 and len(packet) >= start + 4:
            start += 4 + 4 * struct.unpack_from(">H", packet, start + 2)[0]
        end = len(packet) - (packet[-1] if packet[0] & 0x20 else 0)
        self.octets += len(packet)
        if end <= start:
            return
        if not self._stamps or stamp != self._stamps[-1] % _WRAP:
            if self.is_full:
                return
            self._picture_begins(stamp, now_s)
        self._payload(packet[start:end])

    def _picture_begins(self, stamp: int, now_s: float) -> None:
        if self._stamps:
            before = self._stamps[-1]
            stamp = before + (stamp - before + _WRAP // 2) % _WRAP - _WRAP // 2
        self._stamps.append(stamp)
        self._arrived_s.append(now_s - self._away_s)
        self._sizes.append(0)
        if self._report is not None:
            # The quickest of all tells the clock, since every delay makes a picture come in later.
            told_stamp, told_s = self._report
            ahead_s = told_s + ((stamp - told_stamp + _WRAP // 2) % _WRAP - _WRAP // 2) / self._clock_hz - now_s
            self._ahead_s = ahead_s if self._ahead_s is None else max(self._ahead_s, ahead_s)

    def _payload(self, payload: bytes) -> None:
        if self.codec == "mjpeg":
            self._jpeg(payload)
        elif self.codec == "h264":
            self._h264(payload)
        elif self.codec == "h265" and len(payload) > 2:
            self._h265(payload)
        else:
            self._sizes[-1] += len(payload)

    def _h264(self, payload: bytes) -> None:
        kind = payload[0] & 31
        if kind == 24:
            self._gathered(payload, 1)
        elif kind == 28 and len(payload) > 2:
            begins = payload[1] & 0x80
            self._sizes[-1] += len(payload) - 2 + (1 + START_CODE_BYTES if begins else 0)
            if begins:
                self._unit_begins(bytes((payload[0] & 0xE0 | payload[1] & 31,)) + payload[2:64])
        elif kind != 28:
            self._whole(payload)

    def _h265(self, payload: bytes) -> None:
        kind = payload[0] >> 1 & 63
        if kind == 48:
            self._gathered(payload, 2)
        elif kind == 49:
            begins = payload[2] & 0x80
            self._sizes[-1] += len(payload) - 3 + (2 + START_CODE_BYTES if begins else 0)
            if begins:
                head = bytes((payload[0] & 0x81 | (payload[2] & 63) << 1, payload[1]))
                self._unit_begins(head + payload[3:64])
        else:
            self._whole(payload)

    def _gathered(self, payload: bytes, at: int) -> None:
        """Several units in one packet, each after its length."""
        while at + 2 < len(payload):
            (length,) = struct.unpack_from(">H", payload, at)
            unit = payload[at + 2 : at + 2 + length]
            if not unit:
                return
            self._whole(unit)
            at += 2 + length

    def _whole(self, unit: bytes) -> None:
        self._sizes[-1] += len(unit) + START_CODE_BYTES
        self._unit_begins(unit)

    def _unit_begins(self, unit: bytes) -> None:
        if not unit or self.codec not in ("h264", "h265"):
            return
        if self.codec == "h264":
            kind = unit[0] & 31
            is_key, is_set = kind == 5, kind == 7
        else:
            kind = unit[0] >> 1 & 63
            is_key, is_set = 16 <= kind <= 23, kind == 33
        if is_set:
            self._size_px = size_of(self.codec, unit) or self._size_px
        if is_key and self._sizes and (not self._keys or self._keys[-1] != len(self._sizes) - 1):
            self._keys.append(len(self._sizes) - 1)

    def _jpeg(self, payload: bytes) -> None:
        if len(payload) <= 8:
            return
        begins = payload[1:4] == b"\x00\x00\x00"
        start = 8 + (4 if 64 <= payload[4] <= 127 else 0)
        if begins and payload[5] >= 128 and len(payload) >= start + 4:
            start += 4 + struct.unpack_from(">H", payload, start + 2)[0]
        self._sizes[-1] += max(0, len(payload) - start) + (JPEG_HEAD_BYTES if begins else 0)
        if begins:
            self._keys.append(len(self._sizes) - 1)
            if payload[6] and payload[7]:
                self._size_px = (payload[6] * 8, payload[7] * 8)

    def take_report(self, packet: bytes) -> None:
        """A control packet: a sender report tells what time the camera takes it to be (RFC 3550, 6.4.1)."""
        if len(packet) < 20 or packet[0] >> 6 != 2 or packet[1] != SENDER_REPORT:
            return
        seconds, fraction, stamp = struct.unpack_from(">III", packet, 8)
        self._report = (stamp, seconds - NTP_TO_UNIX_S + fraction / _WRAP)

    # ---- what it comes to -------------------------------------------------------------------------------------------

    def clock_off_s(self) -> float | None:
        """By how much the camera's clock is ahead of this computer's; None without a sender report."""
        return self._ahead_s

    def _times_s(self) -> tuple[list[float], str]:
        """When each picture was taken by the stream's own stamps, where they keep time; else when it came in, and a word on it."""
        arrived_s = [one - self._arrived_s[0] for one in self._arrived_s] if self._arrived_s else []
        # With pictures that refer to later ones they are sent in another order than shown: sorted, they are sending times.
        stamps = sorted(self._stamps)
        stamped_s = [(one - stamps[0]) / self._clock_hz for one in stamps]
        if len(stamped_s) < 2 or arrived_s[-1] <= 0:
            return stamped_s, ""
        pace = stamped_s[-1] / arrived_s[-1]
        # A second that comes at once at the beginning, from a buffer, is no clock that runs wild.
        keeps = abs(stamped_s[-1] - arrived_s[-1]) <= 1.5 or 1 / OUT_OF_TIME <= pace <= OUT_OF_TIME
        if keeps:
            return stamped_s, ""
        return arrived_s, "its time stamps are wrong, so the figures use the time of arrival"

    @property
    def span_s(self) -> float:
        """From the first picture to the last."""
        times_s, _ = self._times_s()
        return times_s[-1] if times_s else 0.0

    def read(self) -> StreamRead:
        """What was counted. The mean is that of whole groups of pictures, where there was one."""
        times_s, odd = self._times_s()
        span_s = times_s[-1] if times_s else 0.0
        fps = (len(self._sizes) - 1) / span_s if span_s > 0 else 0.0
        if fps > LARGEST_FPS:
            return StreamRead(outcome="stopped", words=f"it sends more than {LARGEST_FPS:g} pictures a second")
        if self._size_px is None and self.codec in CODECS:
            return StreamRead(outcome="stopped", words="it opened, but its pictures cannot be decoded")
        first, last = 0, len(self._sizes) - 1
        if self.codec != "mjpeg" and len(self._keys) >= 2:
            first, last = self._keys[0], self._keys[-1]
        whole_s = times_s[last] - times_s[first]
        mean = sum(self._sizes[first:last]) * 8 / whole_s / 1e6 if whole_s > 0 else 0.0
        gaps = [times_s[b] - times_s[a] for a, b in itertools.pairwise(self._keys)]
        gap_s = statistics.median(gaps) if gaps else 0.0
        wide, high = self._size_px or (0, 0)
        return StreamRead(
            outcome="opened",
            words=odd,
            codec=self.codec,
            width_px=wide,
            height_px=high,
            fps=round(fps, 3),
            key_frame_s=round(gap_s, 3) if gap_s > 0 else None,
            mean_mbps=mean,
            peak_mbps=self._peak_mbps(times_s),
            read_s=span_s,
        )

    def _peak_mbps(self, times_s: Sequence[float]) -> float:
        """The busiest second."""
        most, total, start = 0, 0, 0
        for at, size in enumerate(self._sizes):
            total += size
            while times_s[at] - times_s[start] >= 1.0:
                total -= self._sizes[start]
                start += 1
            most = max(most, total)
        return most * 8 / 1e6
