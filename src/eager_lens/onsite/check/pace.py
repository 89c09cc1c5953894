"""A limit of probes a second, shared by all senders."""

from __future__ import annotations

import asyncio
import time


class Pace:
    """Evenly spaced turns, at a number per second."""

    def __init__(self, a_second: float) -> None:
        self._gap_s = 1 / a_second
        self._next_s = 0.0

    async def turn(self) -> None:
        """Wait for a turn."""
        now_s = time.monotonic()
        self._next_s = max(now_s, self._next_s + self._gap_s)
        if self._next_s > now_s:
            await asyncio.sleep(self._next_s - now_s)
