"""How likely each cause is after the answers so far, and which test to make next.

A hypothesis is a single cause or one of the table's pairs. Answers count as independent under a hypothesis (naive Bayes), and
each may be wrong: with the chance ``WRONG`` it says nothing at all, so that no single answer can rule a cause out. The next
test is the one that takes most uncertainty away a minute: the mutual information of cause and outcome, in bits, over the
test's minutes (the greedy choice, as in J. de Kleer and B. C. Williams, "Diagnosing multiple faults", 1987).
"""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping, Set
from dataclasses import dataclass, replace
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from eager_lens.core.fault_finder.table import FaultTable, FaultTest

Chances = NDArray[np.float64]

WRONG = 0.04
"""The share of answers that are wrong: misread lights, the wrong cable followed."""
WEIGHT = 1.3
"""So many times an answer counts. The table's rows are cautious, and chances came out too low: of causes given 80 to 90 % on
simulated sites 99 in 100 were right (``perf --faults``)."""
REST = 0.02
"""The weight of a cause for a symptom that it is not noted for, against the priors of the table."""
NAMED_AT = 0.9
"""A cause as likely as this is named."""
LEFT = 0.01
"""So many times as likely as before is a cause whose remedy did not help."""
TELLS_BITS = 0.05
"""A test that tells less than this is not worth the walk."""


class TestAnswer(NamedTuple):
    """A test that was made: the number of the outcome; None: nobody could say."""

    test: str
    outcome: int | None


class NextTest(NamedTuple):
    """A test that could be made next.

    Attributes:
        bits: what it is expected to tell. chances: of each outcome.
        leads_to: for each outcome, the cause that would then be most likely, and how likely.
    """

    test: FaultTest
    bits: float
    chances: tuple[float, ...]
    leads_to: tuple[tuple[str, float], ...]

    @property
    def bits_per_min(self) -> float:
        """What it tells for its time."""
        return self.bits / self.test.minutes


@dataclass(frozen=True, eq=False)
class Case:
    """A fault that is looked for.

    Attributes:
        table, symptom: what it goes by.
        hypotheses: the causes of each, one or two. prior: (hypotheses,), adds up to 1.
        tests: those that can be made here. chances: by test id, (hypotheses, outcomes).
        belongs: (causes, hypotheses), 1 where a cause is part of a hypothesis. cause_ids: its rows.
    """

    table: FaultTable
    symptom: str
    hypotheses: tuple[tuple[str, ...], ...]
    prior: Chances
    tests: tuple[FaultTest, ...]
    chances: dict[str, Chances]
    belongs: Chances
    cause_ids: tuple[str, ...]


def case_of(
    table: FaultTable,
    symptom: str,
    traits: Set[str],
    factors: Mapping[str, float] | None = None,
    without: Collection[str] = (),
) -> Case | None:
    """The case of a symptom on a device with these traits; None when the job rules everything out.

    ``factors`` are what the job says of a cause, times its prior: above 1 more likely, 0 ruled out. Tests ``without`` are left
    out.

    Raises:
        RefusedInput: the table has no such symptom.
    """
    seen = table.symptom(symptom)
    weighs = {}
    for cause in table.causes:
        weight = cause.priors.get(symptom, REST) * (factors or {}).get(cause.id, 1.0)
        if weight > 0 and set(cause.when) <= traits:
            weighs[cause.id] = weight
    if not weighs:
        return None
    hypotheses: dict[tuple[str, ...], float] = {}
    shares: dict[tuple[str, ...], float] = {pair.causes: pair.share for pair in table.pairs}
    rows = []
    for at, causes in enumerate(table.hypotheses):
        if all(cause in weighs for cause in causes):
            hypotheses[causes] = shares.get(causes, 1.0) * min(weighs[cause] for cause in causes)
            rows.append(at)
    tests = tuple(
        test
        for test in table.tests
        if set(test.when) <= traits and test.id not in without and (not test.seen_as or symptom in test.seen_as)
    )
    chances = {}
    hidden = np.array([set(causes) <= set(seen.hidden) for causes in hypotheses])
    for test in tests:
        found = table.rows[test.id][rows]
        if not test.in_the_dark:
            found[hidden] = test.usual
        chances[test.id] = (1 - WRONG) * found + WRONG / len(test.outcomes)
    prior = np.array(list(hypotheses.values()))
    cause_ids = tuple(weighs)
    belongs = np.array([[float(cause in one) for one in hypotheses] for cause in cause_ids])
    return Case(table, symptom, tuple(hypotheses), prior / prior.sum(), tests, chances, belongs, cause_ids)


def hypothesis_chances(case: Case, answers: Iterable[TestAnswer]) -> Chances:
    """How likely each hypothesis is after the answers: (hypotheses,), adds up to 1."""
    logs = np.log(case.prior)
    for answer in answers:
        if answer.outcome is not None and answer.test in case.chances:
            logs = logs + WEIGHT * np.log(case.chances[answer.test][:, answer.outcome])
    chances = np.exp(logs - logs.max())
    return np.asarray(chances / chances.sum())


def cause_chances(case: Case, answers: Iterable[TestAnswer]) -> list[tuple[str, float]]:
    """How likely each cause has a part in it, most likely first. Because of the pairs they add up to a little over 1."""
    found = case.belongs @ hypothesis_chances(case, answers)
    order = np.argsort(-found, kind="stable")
    return [(case.cause_ids[at], float(found[at])) for at in order]


def proposals(case: Case, answers: Iterable[TestAnswer]) -> list[NextTest]:
    """The tests that can still tell something, the one that tells most a minute first."""
    answers = list(answers)
    made = {answer.test for answer in answers}
    said = {(one.test, case.table.test(one.test).outcomes[one.outcome]) for one in answers if one.outcome is not None}
    now = hypothesis_chances(case, answers)
    found = []
    for test in case.tests:
        if test.id in made:
            continue
        if _is_among(said, test.not_after) or (test.only_after and not _is_among(said, test.only_after)):
            continue
        joint = now[:, None] * case.chances[test.id]
        outcomes = joint.sum(axis=0)
        bits = float((joint * np.log2(case.chances[test.id] / outcomes)).sum())
        if bits >= TELLS_BITS:
            leads_to = _leads_to(case, now[:, None] * case.chances[test.id] ** WEIGHT)
            found.append(NextTest(test, bits, tuple(map(float, outcomes)), leads_to))
    return sorted(found, key=lambda one: -one.bits_per_min)


def _is_among(said: Set[tuple[str, str]], outcomes: Mapping[str, tuple[str, ...]]) -> bool:
    """Whether one of some outcomes, by test, was answered."""
    return any((test_id, one) in said for test_id, ones in outcomes.items() for one in ones)


def _leads_to(case: Case, after: Chances) -> tuple[tuple[str, float], ...]:
    """For each outcome (a column of ``after``, in proportion), the most likely cause and how likely it is then."""
    causes = case.belongs @ (after / after.sum(axis=0))
    best = causes.argmax(axis=0)
    return tuple((case.cause_ids[row], float(causes[row, column])) for column, row in enumerate(best))


def is_named(chance: float) -> bool:
    """Whether a cause as likely as this is named as the one."""
    return chance >= NAMED_AT


def without_causes(case: Case, not_these: Set[str]) -> Case:
    """The case after the remedies of some causes were tried and did not help: those are ``LEFT`` times as likely as before,
    because a remedy can be done wrong too."""
    if not not_these:
        return case
    factors = np.array([LEFT ** len(not_these & set(causes)) for causes in case.hypotheses])
    prior = case.prior * factors
    return replace(case, prior=prior / prior.sum())
