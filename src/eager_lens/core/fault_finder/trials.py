"""Trials of the fault finder on simulated sites: seeded faults, searched for by answers that the sites give."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from random import Random
from typing import NamedTuple

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.errors import RefusedInput
from eager_lens.core.fault_finder.for_job import job_case
from eager_lens.core.fault_finder.inference import TestAnswer, proposals
from eager_lens.core.fault_finder.on_site import CAUSES_OF, SiteAnswers, symptoms_of, true_causes
from eager_lens.core.fault_finder.search import FaultSearch
from eager_lens.core.virtual_site.commissioned import commissioned
from eager_lens.core.virtual_site.faults import FAULTS

SETTLED_S, AFTER_S, DRIFTED_S = 200.0, 30.0, 7200.0
"""How long a site runs before the fault, and after it; a clock that runs off needs longer to be noticed."""
MOST_TESTS = 40


class FaultTrial(NamedTuple):
    """One fault that was looked for.

    Attributes:
        fault, symptom: what was put, what is seen of it. named: the first three causes. true: those that hold on the site.
        chance: of the first. minutes: of the tests that gave an answer. tests: how many did.
    """

    fault: str
    symptom: str
    named: tuple[str, ...]
    true: frozenset[str]
    chance: float
    minutes: float
    tests: int

    @property
    def is_first(self) -> bool:
        """Whether the first cause is true."""
        return self.named[0] in self.true

    @property
    def is_among_three(self) -> bool:
        """Whether one of the first three is."""
        return not self.true.isdisjoint(self.named)


def put_one(assessment: Assessment, rng: Random, fault: str) -> SiteAnswers | None:
    """A site of the job with a fault on one of its cameras; None where it would not show there: that camera is dark or
    faulty by the plan, the fault does not go with it, or nobody would notice."""
    site = commissioned(assessment)
    site.run_to(site.now_s + SETTLED_S)
    camera = rng.choice(assessment.job.cameras)
    unit = site.units[camera.id]
    if not unit.runs or symptoms_of(SiteAnswers(site, unit, camera)):
        return None
    try:
        FAULTS[fault].put(site, unit)
    except RefusedInput:
        return None
    at = SiteAnswers(site, unit, camera)
    if fault != "slow-start":
        site.run_to(site.now_s + (DRIFTED_S if fault == "clock-drift" else AFTER_S))
    return at if symptoms_of(at) else None


def searched(
    assessment: Assessment, at: SiteAnswers, fault: str, rng: Random, wrong: float, fixed: bool = False
) -> FaultTrial:
    """Look for the fault, with a share of the answers wrong; ``fixed``: by one order of tests, whatever is
    answered: those first that tell most a minute before anything is known."""
    symptom = symptoms_of(at)[0]
    search = FaultSearch(job_case(assessment, at.camera, symptom))
    order = [one.test.id for one in proposals(search.of.case, ())] if fixed else []
    while search.asked is not None and len(search.answers) < MOST_TESTS:
        left = [one for one in order if one not in {answer.test for answer in search.answers}]
        if fixed and not left:
            break
        search = search.with_answers([_answer(search, left[0] if fixed else search.asked.test.id, at, rng, wrong)])
    told = [answer for answer in search.answers if answer.outcome is not None]
    minutes = sum(search.of.case.table.test(answer.test).minutes for answer in told)
    named = tuple(cause.id for cause, _ in search.ranked[:3])
    return FaultTrial(fault, symptom, named, true_causes(at, fault), search.ranked[0][1], minutes, len(told))


def _answer(search: FaultSearch, test_id: str, at: SiteAnswers, rng: Random, wrong: float) -> TestAnswer:
    outcomes = search.of.case.table.test(test_id).outcomes
    words = at.answer(test_id)
    outcome = None if words is None else outcomes.index(words)
    if outcome is not None and rng.random() < wrong:
        outcome = rng.randrange(len(outcomes))
    return TestAnswer(test_id, outcome)


def trials(
    sites: Sequence[Assessment], seed: int, wanted: int, wrong: float = 0.0, fixed: bool = False
) -> Iterator[FaultTrial]:
    """So many faults that show, on sites in turn, each found from the same seed."""
    rng, answers = Random(seed), Random(seed + 1)
    made = 0
    while made < wanted:
        assessment = sites[rng.randrange(len(sites))]
        fault = rng.choice(tuple(CAUSES_OF))
        at = put_one(assessment, rng, fault)
        if at is not None:
            made += 1
            yield searched(assessment, at, fault, answers, wrong, fixed)
