"""The search for a better rule: what moves is looked at once, in several weathers, and rules are judged by it; the one that is
proposed is proved on other days."""

from __future__ import annotations

from collections.abc import Callable, Generator, Sequence

import numpy as np
from numpy.typing import NDArray

from eager_lens.core.motion.day import Sample
from eager_lens.core.motion.tuning.exclusions import parts_of, shapes_of
from eager_lens.core.motion.tuning.moved import moved_in
from eager_lens.core.motion.tuning.other_days import proved
from eager_lens.core.motion.tuning.proposal import Proposal, TuningPoint
from eager_lens.core.motion.tuning.scores import Evidence, Score, Table, looked_share
from eager_lens.core.motion.tuning.selecting import MISS_COSTS_PER_H, Grid, Steady, grid_of, selected_of, values_of
from eager_lens.core.motion.tuning.takes import Plan, Take, takes_of, takes_of_sample
from eager_lens.core.motion.view import View
from eager_lens.core.progress import part_of
from eager_lens.core.values.motion_rule import MOST_ZONES, MotionRule, Zone
from eager_lens.core.workers import Workers

TO_SELECT = Plan(days=6, stretches=4, stretch_s=75.0, visits=36)
TO_PROVE = Plan(days=5, stretches=4, stretch_s=60.0, visits=18)
"""What is looked at to select and to prove. Days of both are never the same."""

UNSEEN_SEED = 1000

ZONE_COSTS = 1.1
"""A zone is proposed when without it things would cost so many times as much: nobody is seen in it."""

LOOKED, PICKED = 0.55, 0.62
"""Shares of the whole work at whose ends everything was looked at, and the rule selected (measured)."""


Found = Callable[[Proposal], None]


def nothing(proposal: Proposal) -> None:
    """Where nobody listens to what was found so far."""


def tuned(view: View, rule: MotionRule, seed: int, found: Found = nothing) -> Generator[float, None, Proposal]:
    """A proposal for a rule in a drawn scene, proved on other days of it; yields how far it is. ``found`` is told it as soon
    as it is selected, before its proof."""
    with Workers() as workers:
        select = takes_of(view, rule, seed, TO_SELECT)
        unseen = takes_of(view, rule, seed + UNSEEN_SEED, TO_PROVE)
        return (yield from searched(select, unseen, rule, workers, found))


def tuned_on_clip(
    select: Sample, unseen: Sample, rule: MotionRule, found: Found = nothing
) -> Generator[float, None, Proposal]:
    """A proposal selected on a part of a clip and proved on another; yields how far it is."""
    with Workers(here=True) as workers:
        takes = takes_of_sample(select, rule), takes_of_sample(unseen, rule)
        return (yield from searched(*takes, rule, workers, found))


def searched(
    select: Sequence[Take], unseen: Sequence[Take], rule: MotionRule, workers: Workers, found: Found
) -> Generator[float, None, Proposal]:
    """A proposal selected on takes and proved on others; yields how far it is."""
    values = values_of(rule)
    looking = workers.each(moved_in, [(take, at, rule, values[0]) for at, take in enumerate(select)])
    moved = yield from part_of(looking, 0.0, LOOKED)
    evidence = Evidence(select, moved, values[0])
    proposal = yield from part_of(_selected(evidence, rule, values, workers), LOOKED, PICKED)
    found(proposal)
    proving = part_of(proved(unseen, (rule, proposal.rule), workers), PICKED, 1.0)
    before, after = yield from proving
    return proposal._replace(before=before, after=after)


def _selected(
    evidence: Evidence, rule: MotionRule, values: tuple[tuple[float, ...], ...], workers: Workers
) -> Generator[float, None, Proposal]:
    """What is best by what was looked at; yields how far it is."""
    now = evidence.of_rule(rule)
    arguments = [(evidence, rule, zones, values) for zones in _zones_to_try(evidence, rule)]
    grids = yield from workers.each(grid_of, arguments)
    held = (selected_of(grid, now, evidence.come) for grid in grids)
    best = min((one for one in held if one is not None), key=lambda one: _earned(one, rule), default=None)
    return _proposal(evidence, rule, now, best, grids[0])


def _zones_to_try(evidence: Evidence, rule: MotionRule) -> list[tuple[Zone, ...]]:
    """The rule's own zones, then with one, two, three parts left out: of two trees one alone may be worth no zone. Of each
    part the shape is taken that is best without other settings."""
    found = [rule.zones]
    for part in parts_of(evidence, *_told_falsely(evidence, rule))[: MOST_ZONES - len(rule.zones)]:
        shapes = ((*found[-1], shape) for shape in shapes_of(part))
        best = min(shapes, key=lambda zones: _cost(evidence, rule.model_copy(update={"zones": zones})), default=None)
        if best is not None:
            found.append(best)
    return found


def _earned(one: Steady, rule: MotionRule) -> float:
    """A cost to compare by: each zone that is added has to earn its place in the picture."""
    return one.cost * ZONE_COSTS ** (len(one.grid.zones) - len(rule.zones))


def _cost(evidence: Evidence, rule: MotionRule) -> float:
    score = evidence.of_rule(rule)
    return score.false_per_h + MISS_COSTS_PER_H * sum(score.missed) / max(1, sum(evidence.come))


def _told_falsely(evidence: Evidence, rule: MotionRule) -> tuple[Table, NDArray[np.bool_]]:
    """The rows in which the places of false alarms are looked for: those that would count by the rule as it is if it were as
    sensitive as any that is tried, so that a zone covers all of the tree and not the branch that moved most."""
    table = evidence.tables[-1]
    return table, evidence.counted(table, rule, looked_share(table, rule))


def _proposal(evidence: Evidence, rule: MotionRule, now: Score, best: Steady | None, plain: Grid) -> Proposal:
    people = max(1, sum(evidence.come))

    def point(grid: Grid, at: tuple[int, ...]) -> TuningPoint:
        share = float(grid.missed[at].sum()) / people
        return TuningPoint(grid.rule(rule, at), grid.zones != rule.zones, float(grid.false_per_h[at]), share)

    as_it_is = TuningPoint(rule, False, now.false_per_h, sum(now.missed) / people)
    here = best or Steady(plain, plain.place_of(rule), 0.0)
    grids = [plain] if here.grid is plain else [plain, here.grid]
    # All would be thousands: those that differ from the proposal in sensitivity and smallest size alone.
    points = [point(grid, at) for grid in grids for at in grid.places() if at[2:] == here.at[2:]]
    added = tuple(zone for zone in here.grid.zones if zone not in rule.zones)
    return Proposal(here.grid.rule(rule, here.at), as_it_is, tuple(points), added)
