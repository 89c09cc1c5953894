"""The walks of a walk test, counted: how many were caught, by zone and by day or night, with the interval that so few allow."""

from __future__ import annotations

from collections.abc import Iterable
from typing import NamedTuple

from scipy.stats import binomtest

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
    ends = binomtest(sum(caught), len(caught)).proportion_ci(CONFIDENCE, "wilson")
    return Caught(zone, dark, len(caught), sum(caught), float(ends.low), float(ends.high))


def against(promised_share: float, seen: Caught) -> str:
    """What the walks say of the share that the rule's trial promised, in words."""
    if promised_share > seen.high_share:
        return "fewer than promised, more than chance explains: look at the zone and the sensitivity"
    if promised_share < seen.low_share:
        return "more than promised"
    if seen.high_share - seen.low_share > 0.3:
        return "agrees with what is promised, but so few walks agree with much"
    return "agrees with what is promised"
