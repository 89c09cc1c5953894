"""The reviewed table behind the fault finder: symptoms, causes, tests, and how likely each outcome is under each cause.

The figures are judgements of the trade, each with its reason in words, not counts of a survey: a prior says of how many calls
with a symptom a cause is the reason, in shares that need not add up to anything; a row of a test gives the chance of each of
its outcomes. A test that a cause has no say in comes out as ``usual``.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from functools import cached_property, lru_cache
from importlib import resources
from typing import Annotated, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from eager_lens.core.assess.rules import KINDS
from eager_lens.core.errors import RefusedInput
from eager_lens.core.validation import Plain, parse_json, read_as

GROUP = "@"
"""Before the name of a group of causes where a row stands for all of them."""

Chance = Annotated[float, Field(gt=0, lt=1)]
Minutes = Annotated[float, Field(gt=0, le=480)]
Weight = Annotated[float, Field(gt=0, le=1000)]
Span = Literal["switch", "uplink", "radio", "supply", "subnet", "recorder"]
"""A part of which a cause takes down what is behind it."""


class Symptom(Plain):
    """What is seen.

    Attributes:
        hidden: causes of which tests show nothing, unless they are made in the dark.
    """

    id: str
    label: str
    hidden: tuple[str, ...] = ()


class Cause(Plain):
    """What may be behind it.

    Attributes:
        when: traits that a device must have for it (see ``for_job.py``). findings: those of the job that make it likely.
        spans: the parts of which it takes everything down that is behind them; partial: some of it only.
        priors: by symptom, its share of the calls. why: the reason of these figures.
        remedy: steps. verify: tests to make afterwards.
    """

    id: str
    label: str
    when: tuple[str, ...] = ()
    findings: tuple[str, ...] = ()
    spans: tuple[Span, ...] = ()
    partial: bool = False
    priors: dict[str, Weight]
    why: str
    remedy: tuple[str, ...]
    verify: tuple[str, ...]


class CausePair(Plain):
    """Two causes that come together more often than by chance: so many times as often as the rarer one comes alone."""

    causes: tuple[str, str]
    share: Annotated[float, Field(gt=0, le=10)]
    why: str


class FaultTest(Plain):
    """A test.

    Attributes:
        ask: the question, with places for the job's names in braces. needs: what it takes besides time.
        not_after: outcomes of other tests after which it would say the same again: what cannot be reached has no page.
        only_after: outcomes of another test that it takes: what is not in the list has no address there.
        seen_as: the symptoms that it is asked for; empty: any. in_the_dark: it is made, or asks, while infrared is on.
        minutes: how long it takes, with the walk. outcomes: what may come out.
        usual: the chance of each where no cause says otherwise; under: the same by cause, or by a group of causes.
    """

    id: str
    ask: str
    when: tuple[str, ...] = ()
    not_after: dict[str, tuple[str, ...]] = Field(default_factory=dict)
    only_after: dict[str, tuple[str, ...]] = Field(default_factory=dict)
    seen_as: tuple[str, ...] = ()
    in_the_dark: bool = False
    minutes: Minutes
    needs: tuple[str, ...] = ()
    outcomes: Annotated[tuple[str, ...], Field(min_length=2, max_length=9)]
    usual: tuple[Chance, ...]
    under: dict[str, tuple[Chance, ...]]
    why: str

    def row_of(self, cause: str, groups: Mapping[str, tuple[str, ...]]) -> tuple[float, ...] | None:
        """The chances of the outcomes under a cause: its own, those of the last group that it is in, or none."""
        own = self.under.get(cause)
        if own is not None:
            return own
        of_groups = [row for name, row in self.under.items() if cause in groups.get(name.removeprefix(GROUP), ())]
        return of_groups[-1] if of_groups else None


class FaultTable(Plain):
    """All of it."""

    symptoms: tuple[Symptom, ...]
    groups: dict[str, tuple[str, ...]]
    causes: tuple[Cause, ...]
    pairs: tuple[CausePair, ...]
    tests: tuple[FaultTest, ...]

    @cached_property
    def hypotheses(self) -> tuple[tuple[str, ...], ...]:
        """What may be behind a symptom: each cause, then each of the pairs."""
        return (*((cause.id,) for cause in self.causes), *(pair.causes for pair in self.pairs))

    @cached_property
    def rows(self) -> dict[str, NDArray[np.float64]]:
        """By test, the chances of its outcomes under each hypothesis: (hypotheses, outcomes). Of causes together, the mean over
        those that have a say in it."""
        return {test.id: np.array([self._row(test, one) for one in self.hypotheses]) for test in self.tests}

    def _row(self, test: FaultTest, causes: tuple[str, ...]) -> NDArray[np.float64]:
        rows = [row for row in (test.row_of(cause, self.groups) for cause in causes) if row is not None]
        return np.mean(rows, axis=0) if rows else np.array(test.usual)

    def with_parts(self, causes: tuple[Cause, ...], tests: tuple[FaultTest, ...]) -> FaultTable:
        """The table with other causes and tests, under the same names."""
        return FaultTable.model_construct(
            symptoms=self.symptoms, groups=self.groups, causes=causes, pairs=self.pairs, tests=tests
        )

    def symptom(self, symptom_id: str) -> Symptom:
        """A symptom by its id.

        Raises:
            RefusedInput: naming those that there are.
        """
        for symptom in self.symptoms:
            if symptom.id == symptom_id:
                return symptom
        known = ", ".join(symptom.id for symptom in self.symptoms)
        raise RefusedInput("symptom", f"{symptom_id!r} is not one of these: {known}")

    def cause(self, cause_id: str) -> Cause:
        """A cause by its id."""
        return next(cause for cause in self.causes if cause.id == cause_id)

    def test(self, test_id: str) -> FaultTest:
        """A test by its id."""
        return next(test for test in self.tests if test.id == test_id)


@lru_cache(maxsize=1)
def usual_table() -> FaultTable:
    """The program's own table."""
    return table_from(resources.files("eager_lens.core.reference").joinpath("fault_table.json").read_text("utf-8"))


def table_from(text: str) -> FaultTable:
    """A table out of its text.

    Raises:
        RefusedInput: naming the place that does not fit the rest: an unknown name, a name twice, a row that is no
            distribution over the outcomes.
    """
    table = read_as(FaultTable, parse_json(text))
    causes = _once("causes", (cause.id for cause in table.causes))
    tests = _once("tests", (test.id for test in table.tests))
    symptoms = _once("symptoms", (symptom.id for symptom in table.symptoms))
    codes = {kind.code for kind in KINDS}
    for name, members in table.groups.items():
        _known(f"groups.{name}", members, causes)
    for symptom in table.symptoms:
        _known(f"symptoms.{symptom.id}.hidden", symptom.hidden, causes)
    for cause in table.causes:
        _known(f"causes.{cause.id}.priors", cause.priors, symptoms)
        _known(f"causes.{cause.id}.verify", cause.verify, tests)
        _known(f"causes.{cause.id}.findings", cause.findings, codes)
    for pair in table.pairs:
        _known("pairs", pair.causes, causes)
    for test in table.tests:
        for name, after in (("not_after", test.not_after), ("only_after", test.only_after)):
            _known(f"tests.{test.id}.{name}", after, tests)
            for other, outcomes in after.items():
                _known(f"tests.{test.id}.{name}.{other}", outcomes, set(table.test(other).outcomes))
        _known(f"tests.{test.id}.seen_as", test.seen_as, symptoms)
        _known(f"tests.{test.id}.under", test.under, causes | {f"{GROUP}{name}" for name in table.groups})
        for name, row in {"usual": test.usual, **test.under}.items():
            if len(row) != len(test.outcomes) or abs(sum(row) - 1) > 1e-6:
                raise RefusedInput(
                    f"tests.{test.id}.{name}", f"enter {len(test.outcomes)} chances that add up to 1, not {row}"
                )
    return table


def _once(where: str, names: Iterable[str]) -> set[str]:
    found: set[str] = set()
    for name in names:
        if name in found:
            raise RefusedInput(where, f"{name!r} appears twice")
        found.add(name)
    return found


def _known(where: str, names: Iterable[str], known: set[str]) -> None:
    unknown = sorted(set(names) - known)
    if unknown:
        raise RefusedInput(where, f"{', '.join(unknown)}: not in the table")
