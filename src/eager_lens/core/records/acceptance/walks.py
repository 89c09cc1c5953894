"""The walks of a walk test, counted: how many were caught, by zone and by day or night, with the interval that so few allow."""

from __future__ import annotations

import math
from collections.abc import Iterable
from statistics import NormalDist
from typing import NamedTuple

from eager_lens.core.job.proof import Walk

CONFIDENCE = 0.9


class Caught(NamedTuple):
    """Walks of one kind: zone, whether in the dark, how many, how many of them caught, and between which shares the true one
    lies in 9 of 10 such tests (Wilson's interval for a binomial share)."""

    zone: str
    dark: bool
    walks: int
    caught: int
    low_share: float
    high_share: float

    @property
    def share(self) -> float:
        """Those caught, of all."""
        return self.caught / self.walks


def caught_by_kind(walks: Iterable[Walk]) -> list[Caught]:
    """Walks counted by zone and light, in the order of their first walk."""
    found: dict[tuple[str, bool], list[bool]] = {}
    for walk in walks:
        found.setdefault((walk.zone, walk.dark), []).append(walk.caught)
    return [counted(zone, dark, caught) for (zone, dark), caught in found.items()]


def counted(zone: str, dark: bool, caught: list[bool]) -> Caught:
    """Some walks of one kind, at least one, counted."""
    low, high = wilson_interval(sum(caught), len(caught))
    return Caught(zone, dark, len(caught), sum(caught), low, high)


def wilson_interval(hits: int, tries: int) -> tuple[float, float]:
    """Between which shares the true one lies in ``CONFIDENCE`` of such tests (Wilson 1927). By hand, because the library's takes
    most of a second to load, when somebody turns to the page."""
    z = NormalDist().inv_cdf((1 + CONFIDENCE) / 2)
    share, more = hits / tries, z * z / tries
    middle = (share + more / 2) / (1 + more)
    half = z * math.sqrt(share * (1 - share) / tries + more / (4 * tries)) / (1 + more)
    return max(0.0, middle - half), min(1.0, middle + half)


def against(promised_share: float, seen: Caught) -> str:
    """What the walks say of the share that the rule's trial promised, in words."""
    if promised_share > seen.high_share:
        return "fewer than predicted, and not by chance: check the zone and the sensitivity"
    if promised_share < seen.low_share:
        return "more than predicted"
    if seen.high_share - seen.low_share > 0.3:
        return "agrees with the prediction, but so few walks prove little"
    return "agrees with the prediction"
