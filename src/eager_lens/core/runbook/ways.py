"""How long somebody is on the way from one place of a job to another."""

from __future__ import annotations

from functools import lru_cache
from heapq import heappop, heappush

from eager_lens.core.job.model import Job

WALK_M_PER_S = 1.2
"""With a ladder and a case (assumed)."""
LEAST_S = 60.0
"""From one place to another, however near: up, down, and through a door (assumed)."""
UNKNOWN_S = 180.0
"""Between places that no link of the job leads between (assumed)."""


class Ways:
    """Ways between the places of a job. Its links tell how far those are apart that they join; a way goes along them."""

    def __init__(self, job: Job) -> None:
        place = {device.id: device.place for device in job.devices()}
        runs = {camera.id: camera.cable_m for camera in job.cameras}
        self._next: dict[str, dict[str, float]] = {}
        for link in job.links:
            a, b = place.get(link.a, ""), place.get(link.b, "")
            if a and b and a != b:
                length_m = link.length_m or runs.get(link.a) or runs.get(link.b) or 0.0
                seconds = max(LEAST_S, length_m / WALK_M_PER_S)
                for one, other in ((a, b), (b, a)):
                    known = self._next.setdefault(one, {})
                    known[other] = min(seconds, known.get(other, seconds))
        self._from = lru_cache(maxsize=256)(self._all_from)

    def between_s(self, a: str, b: str) -> float:
        """Seconds from one place to another; none where one of them is not said."""
        if not a or not b or a == b:
            return 0.0
        return self._from(a).get(b, UNKNOWN_S)

    def _all_from(self, start: str) -> dict[str, float]:
        """The shortest way to each place (Dijkstra)."""
        found: dict[str, float] = {}
        waiting = [(0.0, start)]
        while waiting:
            seconds, here = heappop(waiting)
            if here not in found:
                found[here] = seconds
                for there, more_s in self._next.get(here, {}).items():
                    heappush(waiting, (seconds + more_s, there))
        return found
