"""A rehearsal, done again: the same job, seed and actions give the same site."""

from __future__ import annotations

from collections.abc import Callable, Generator
from typing import NamedTuple

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.rehearsal import Rehearsal
from eager_lens.core.progress import finished
from eager_lens.core.simulation.actions import do
from eager_lens.core.simulation.build import site_of
from eager_lens.core.simulation.site import Site

STRIDE = 500
"""So many happenings between two reports of progress."""


class Replay(NamedTuple):
    """A site brought up to a rehearsal's moment, and the actions that could not be done again, in words."""

    site: Site
    troubles: tuple[str, ...]


def replaying(
    assessment: Assessment, rehearsal: Rehearsal, begin: Callable[[Assessment, Rehearsal], Site] = site_of
) -> Generator[float, None, Replay]:
    """Do a rehearsal again, step by step; yields how far it is (0 to 1). ``begin`` makes the site that it begins on.

    Actions on devices that the job no longer has are passed over and told; the rehearsal itself keeps them.
    """
    site = begin(assessment, rehearsal)
    troubles = []
    whole_s = max(1.0, rehearsal.now_s)
    for action in rehearsal.actions:
        yield from _running(site, action.at_s, whole_s)
        try:
            do(site, action.do, action.device, action.values)
        except RefusedInput as error:
            troubles.append(f"“{action.do}” at {action.at_s:.0f} s: {error.problem}")
    yield from _running(site, rehearsal.now_s, whole_s)
    return Replay(site, tuple(troubles))


def replayed(
    assessment: Assessment, rehearsal: Rehearsal, begin: Callable[[Assessment, Rehearsal], Site] = site_of
) -> Replay:
    """Do a rehearsal again, at once."""
    return finished(replaying(assessment, rehearsal, begin))


def _running(site: Site, until_s: float, whole_s: float) -> Generator[float, None, None]:
    at = 0
    while site.step(until_s):
        at += 1
        if at % STRIDE == 0:
            yield min(1.0, site.now_s / whole_s)
