"""A stand-in's clock: so far ahead of this computer's, and gaining."""

from __future__ import annotations

import time
from datetime import UTC, datetime
from email.utils import format_datetime

NTP_EPOCH_S = 2_208_988_800
"""Seconds from 1900, where NTP begins to count, to 1970 (RFC 5905)."""


class StandInClock:
    """What a device takes the time to be. ``offset_s`` when it was set last, ``drift_ppm`` since then."""

    def __init__(self, offset_s: float, drift_ppm: float) -> None:
        self._offset_s, self._drift_ppm = offset_s, drift_ppm
        self._set_at_s = time.monotonic()

    def now_s(self) -> float:
        """Seconds since 1970, as the device believes."""
        return time.time() + self.ahead_s()

    def ahead_s(self) -> float:
        """Seconds by which it is ahead of this computer's clock."""
        return self._offset_s + self._drift_ppm / 1e6 * (time.monotonic() - self._set_at_s)

    def set_ahead(self, offset_s: float) -> None:
        """Set it so far ahead of this computer's clock."""
        self._offset_s, self._set_at_s = offset_s, time.monotonic()

    def http_date(self) -> str:
        """As an HTTP Date header (RFC 9110, 5.6.7)."""
        return format_datetime(datetime.fromtimestamp(self.now_s(), UTC), usegmt=True)

    def ntp_parts(self) -> tuple[int, int]:
        """As seconds since 1900 and their 2^32-th parts."""
        now_s = self.now_s()
        whole = int(now_s)
        return (whole + NTP_EPOCH_S) & 0xFFFFFFFF, int((now_s - whole) * 2**32)
