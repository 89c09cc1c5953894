"""The table with a job's own figures in it."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from functools import lru_cache
from typing import NamedTuple

from eager_lens.core.errors import RefusedInput
from eager_lens.core.fault_finder.table import GROUP, FaultTable, FaultTest, usual_table
from eager_lens.core.job.fault_figures import FaultFigure
from eager_lens.core.job.model import Job

USUAL = "usual"
"""In place of a cause: the chances where no cause says otherwise."""
LEAST_CHANCE = 0.001
"""Nothing is impossible, and nothing certain."""


class OwnTable(NamedTuple):
    """The table of a job, and its figures that fit nothing there (a later version's, or a slip of the pen), in words."""

    table: FaultTable
    left_out: tuple[str, ...]


def table_of(job: Job) -> FaultTable:
    """The table that a job goes by."""
    return own_table(job.fault_figures).table


@lru_cache(maxsize=4)
def own_table(figures: tuple[FaultFigure, ...]) -> OwnTable:
    """The program's table with these figures in it."""
    table = usual_table()
    if not figures:
        return OwnTable(table, ())
    left_out = []
    shares: dict[str, dict[str, float]] = {}
    tests: dict[str, FaultTest] = {test.id: test for test in table.tests}
    for one in figures:
        try:
            _look_up(table, one)
        except RefusedInput as error:
            left_out.append(str(error))
            continue
        if one.kind == "share":
            shares.setdefault(one.id, {})[one.under] = one.values[0]
        else:
            tests[one.id] = _with_figure(tests[one.id], one)
    causes = tuple(
        cause.model_copy(update={"priors": {**cause.priors, **shares[cause.id]}}) if cause.id in shares else cause
        for cause in table.causes
    )
    return OwnTable(table.with_parts(causes, tuple(tests.values())), tuple(left_out))


def _with_figure(test: FaultTest, one: FaultFigure) -> FaultTest:
    if one.kind == "minutes":
        return test.model_copy(update={"minutes": one.values[0]})
    if one.under == USUAL:
        return test.model_copy(update={"usual": one.values})
    return test.model_copy(update={"under": {**test.under, one.under: one.values}})


def _look_up(table: FaultTable, one: FaultFigure) -> None:
    """See that a figure fits its place.

    Raises:
        RefusedInput: naming what it does not fit.
    """
    causes = {cause.id for cause in table.causes}
    if one.kind == "share":
        if one.id not in causes:
            raise RefusedInput("fault_figures", f"{one.id!r} is not a cause in the table")
        table.symptom(one.under)
        return
    test = next((test for test in table.tests if test.id == one.id), None)
    if test is None:
        raise RefusedInput("fault_figures", f"{one.id!r} is not a test in the table")
    if one.kind == "chances":
        if one.under != USUAL and one.under not in causes | {f"{GROUP}{name}" for name in table.groups}:
            raise RefusedInput("fault_figures", f"{one.under!r} is not a cause in the table")
        if len(one.values) != len(test.outcomes) or abs(sum(one.values) - 1) > 1e-3 or min(one.values) <= 0:
            raise RefusedInput("fault_figures", f"{test.id}: enter {len(test.outcomes)} chances that add up to 1")


def with_chance(row: Iterable[float], outcome: int, chance: float) -> tuple[float, ...]:
    """A row of chances with one of them set; the others keep their proportions, so that all add up to 1.

    Raises:
        RefusedInput: when it leaves nothing for the others, or nothing for itself.
    """
    values = list(row)
    most = 1 - LEAST_CHANCE * (len(values) - 1)
    if not LEAST_CHANCE <= chance <= most:
        raise RefusedInput("chance", f"{100 * LEAST_CHANCE:g} to {100 * most:g} % is allowed: nothing is certain")
    rest = sum(values) - values[outcome]
    scaled = [max(LEAST_CHANCE, one * (1 - chance) / rest) for one in values]
    scaled[outcome] = 0.0
    times = (1 - chance) / sum(scaled)
    return tuple(chance if at == outcome else one * times for at, one in enumerate(scaled))


def own_at(job: Job) -> Mapping[tuple[str, str, str], FaultFigure]:
    """A job's figures by their place."""
    return {one.place: one for one in job.fault_figures}
