"""A loop sent frame by frame at its rate, over and over, to one client; with sender reports of the device's clock."""

from __future__ import annotations

import asyncio
import secrets
import struct
import time
from collections.abc import Callable, Sequence

from eager_lens.onsite.stand_ins.rtp import CLOCK_HZ, Cut, sender_report
from eager_lens.onsite.stand_ins.timepiece import StandInClock

REPORT_S = 1.0
LATE_S = 2.0
"""What a link has not carried after so long is dropped, up to the next key frame."""


class Link:
    """A port with a link speed in Mb/s: packets wait their turn."""

    def __init__(self, mbps: float) -> None:
        self._bytes_per_s = mbps * 1e6 / 8
        self._free_at_s = 0.0

    def wait_s(self, octets: int) -> float:
        """Take a place on the link; seconds until the bytes are sent."""
        now_s = time.monotonic()
        self._free_at_s = max(now_s, self._free_at_s) + octets / self._bytes_per_s
        return self._free_at_s - now_s

    @property
    def behind_s(self) -> float:
        """How far it is behind."""
        return self._free_at_s - time.monotonic()


class Sender:
    """Sends a loop from its first frame, until it is cancelled.

    Attributes:
        packets, octets: what was sent, RTP headers not counted.
    """

    def __init__(
        self,
        cut: Cut,
        clock: StandInClock,
        link: Link,
        send: Callable[[Sequence[bytes]], bool],
        report: Callable[[bytes], None],
    ) -> None:
        """``send`` takes the RTP packets of a frame and tells whether there is room for more; ``report`` takes RTCP."""
        self.cut = cut
        self.ssrc = secrets.randbits(32)
        self.sequence = secrets.randbits(16)
        self.first_stamp = secrets.randbits(32)
        self.packets = self.octets = 0
        self._clock, self._link, self._send, self._report = clock, link, send, report

    async def run(self) -> None:
        """Send until cancelled."""
        loop, begun_s = self.cut.loop, time.monotonic()
        number, reported_s, dropping = 0, -REPORT_S, False
        while True:
            due_s = number / loop.fps
            await asyncio.sleep(max(0.0, begun_s + due_s - time.monotonic()))
            at = number % len(loop.frames)
            if due_s - reported_s >= REPORT_S:
                reported_s = due_s
                self._send_report(begun_s)
            dropping = (dropping and not loop.keys[at]) or self._link.behind_s > LATE_S
            if not dropping:
                wait_s = self._link.wait_s(self.cut.frame_bytes[at])
                if wait_s > 1 / loop.fps:
                    await asyncio.sleep(wait_s - 1 / loop.fps)
                dropping = not self._send(self._packets(at, round(due_s * CLOCK_HZ)))
            number += 1

    def _packets(self, at: int, since: int) -> list[bytes]:
        payloads = self.cut.frames[at]
        stamp, last = (self.first_stamp + since) & 0xFFFFFFFF, len(payloads) - 1
        packets = []
        for place, payload in enumerate(payloads):
            marked = (place == last) << 7 | self.cut.payload_type
            packets.append(struct.pack(">BBHII", 0x80, marked, self.sequence, stamp, self.ssrc) + payload)
            self.sequence = (self.sequence + 1) & 0xFFFF
        self.packets += len(packets)
        self.octets += self.cut.frame_bytes[at]
        return packets

    def _send_report(self, begun_s: float) -> None:
        stamp = self.first_stamp + round((time.monotonic() - begun_s) * CLOCK_HZ)
        self._report(sender_report(self.ssrc, self._clock.ntp_parts(), stamp, self.packets, self.octets))
