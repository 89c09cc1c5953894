"""The best order of tests by exhaustive search, on cases small enough for it: what the finder's own order is measured against.

Both orders stop at the same point, where a cause is named or no test tells more; then the remedies are tried from the
likeliest cause on, and each one in vain costs ``REMEDY_MIN``.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace
from random import Random

import numpy as np

from eager_lens.core.fault_finder.inference import Case, TestAnswer, cause_chances, is_named, proposals

REMEDY_MIN = 10.0
"""What a remedy costs in vain (assumed)."""


def small_case(case: Case, hypotheses: Sequence[int], tests: Iterable[str]) -> Case:
    """A part of a case: some of its hypotheses, some of its tests."""
    rows = list(hypotheses)
    kept = tuple(test for test in case.tests if test.id in set(tests))
    causes = tuple(dict.fromkeys(cause for row in rows for cause in case.hypotheses[row]))
    prior = case.prior[rows]
    return replace(
        case,
        hypotheses=tuple(case.hypotheses[row] for row in rows),
        prior=prior / prior.sum(),
        tests=kept,
        chances={test.id: case.chances[test.id][rows] for test in kept},
        belongs=np.array([[float(cause in case.hypotheses[row]) for row in rows] for cause in causes]),
        cause_ids=causes,
    )


def drawn_case(case: Case, causes: int, tests: int, rng: Random) -> Case:
    """A small case out of a large one: some of its likelier single causes, some of the tests that tell most about those."""
    likely = sorted((at for at, one in enumerate(case.hypotheses) if len(one) == 1), key=lambda at: -case.prior[at])[
        : 2 * causes
    ]
    rows = rng.sample(likely, min(causes, len(likely)))
    whole = small_case(case, rows, [test.id for test in case.tests])
    useful = [one.test.id for one in proposals(whole, ())][: 2 * tests]
    return small_case(case, rows, rng.sample(useful, min(tests, len(useful))))


class _Reckoning:
    """Expected minutes from each set of answers on, of one order of tests."""

    def __init__(self, case: Case, exhaustive: bool) -> None:
        self.case, self.exhaustive = case, exhaustive
        self._known: dict[frozenset[TestAnswer], float] = {}

    def from_here(self, answers: frozenset[TestAnswer]) -> float:
        known = self._known.get(answers)
        if known is None:
            known = self._known[answers] = self._reckoned(answers)
        return known

    def _reckoned(self, answers: frozenset[TestAnswer]) -> float:
        ranked = cause_chances(self.case, answers)
        left = [] if is_named(ranked[0][1]) else proposals(self.case, answers)
        if not left:
            # The remedy of the likeliest cause is tried first, and each in vain before the right one.
            return REMEDY_MIN * sum(at * chance for at, (_, chance) in enumerate(ranked))
        if not self.exhaustive:
            left = left[:1]
        return min(
            one.test.minutes
            + sum(
                chance * self.from_here(answers | {TestAnswer(one.test.id, outcome)})
                for outcome, chance in enumerate(one.chances)
            )
            for one in left
        )


def expected_minutes(case: Case, exhaustive: bool) -> float:
    """Expected minutes until the right remedy, by the finder's order or by the best one there is.

    ``exhaustive`` grows with the product of all tests' outcomes: five tests of four outcomes take about a second.
    """
    return _Reckoning(case, exhaustive).from_here(frozenset())
