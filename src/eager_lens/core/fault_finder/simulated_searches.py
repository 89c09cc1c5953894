"""Trials of the fault finder on simulated sites: seeded faults, searched for by answers that the sites give."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from random import Random
from typing import Literal, NamedTuple

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.fault_finder.faulty_site import InjectedFault, inject_faults
from eager_lens.core.fault_finder.for_job import job_case
from eager_lens.core.fault_finder.inference import TestAnswer, proposals
from eager_lens.core.fault_finder.on_site import answer_on_site
from eager_lens.core.fault_finder.optimum import REMEDY_MIN
from eager_lens.core.fault_finder.search import FaultSearch
from eager_lens.core.fault_finder.site_view import SiteView
from eager_lens.core.fault_finder.symptoms import CAUSES_OF, SHARED_FAULTS, true_causes

MOST_TESTS = 40
MOST_REMEDIES = 5
PAIR_SHARE, GROUP_SHARE = 0.2, 0.2

Drawn = Literal["single", "pair", "group"]


class SimulatedSearch(NamedTuple):
    """Faults that were looked for.

    Attributes:
        drawn: one, two at once, or one of a part that several cameras hang on. faults, symptom: what was put, what is seen.
        named: the first three causes when the search ended. true: those that hold on the site.
        chance: of the first. minutes: of the tests that gave an answer, and of remedies that were none, until the first
            true cause was named. tests: how many gave an answer. given: after each answer, how likely the first cause was,
            and whether it is true.
    """

    drawn: Drawn
    faults: tuple[str, ...]
    symptom: str
    named: tuple[str, ...]
    true: frozenset[str]
    chance: float
    minutes: float
    tests: int
    given: tuple[tuple[float, bool], ...]

    @property
    def is_first(self) -> bool:
        """Whether the first cause is true."""
        return self.named[0] in self.true

    @property
    def is_among_three(self) -> bool:
        """Whether one of the first three is."""
        return not self.true.isdisjoint(self.named)


def searched(
    assessment: Assessment,
    put: InjectedFault,
    faults: Sequence[str],
    rng: Random,
    wrong: float,
    fixed: bool = False,
) -> SimulatedSearch:
    """Look for the faults, with a share of the answers wrong; ``fixed``: by one order of tests, whatever is
    answered: those first that tell most a minute before anything is known."""
    at = put.at
    search = FaultSearch(job_case(assessment, at.camera, put.symptom, down=put.down))
    order = [one.test.id for one in proposals(search.of.case, ())] if fixed else []
    given = []
    ended: FaultSearch | None = None
    remedies = 0
    while True:
        while (test_id := _next(search, order, fixed)) is not None:
            search = search.with_answers([_answer(search, test_id, at, rng, wrong)])
            cause, chance = search.ranked[0]
            given.append((chance, cause.id in true_causes(at, faults)))
        ended = ended or search
        if search.ranked[0][0].id in true_causes(at, faults) or remedies == MOST_REMEDIES:
            break
        remedies += 1
        search = search.not_this()
    answered = [answer for answer in search.answers if answer.outcome is not None]
    minutes = sum(search.of.case.table.test(answer.test).minutes for answer in answered) + remedies * REMEDY_MIN
    named = tuple(cause.id for cause, _ in ended.ranked[:3])
    drawn: Drawn = "pair" if len(faults) > 1 else "group" if len(put.down) > 1 else "single"
    true, chance = true_causes(at, faults), ended.ranked[0][1]
    return SimulatedSearch(drawn, tuple(faults), put.symptom, named, true, chance, minutes, len(answered), tuple(given))


def _next(search: FaultSearch, order: Sequence[str], fixed: bool) -> str | None:
    """The test to make now; None where the search is at its end."""
    if search.asked is None or len(search.answers) >= MOST_TESTS:
        return None
    if not fixed:
        return search.asked.test.id
    made = {answer.test for answer in search.answers}
    return next((one for one in order if one not in made), None)


def _answer(search: FaultSearch, test_id: str, at: SiteView, rng: Random, wrong: float) -> TestAnswer:
    outcomes = search.of.case.table.test(test_id).outcomes
    words = answer_on_site(at, test_id)
    outcome = None if words is None else outcomes.index(words)
    if outcome is not None and rng.random() < wrong:
        outcome = rng.randrange(len(outcomes))
    return TestAnswer(test_id, outcome)


def trials(
    sites: Sequence[Assessment], seed: int, wanted: int, wrong: float = 0.0, fixed: bool = False
) -> Iterator[SimulatedSearch]:
    """So many draws of faults that show, on sites in turn: single ones, pairs on one camera, and shared ones that take
    several cameras down. The same seed draws the same faults."""
    rng, answers = Random(seed), Random(seed + 1)
    made = 0
    while made < wanted:
        assessment = sites[rng.randrange(len(sites))]
        camera = rng.choice(assessment.job.cameras)
        put = inject_faults(assessment, camera, faults := drawn(rng), rng)
        if put is not None:
            made += 1
            yield searched(assessment, put, faults, answers, wrong, fixed)


def drawn(rng: Random) -> list[str]:
    """One fault, two different ones, or one that is shared."""
    names = sorted(CAUSES_OF)
    share = rng.random()
    if share < PAIR_SHARE:
        return rng.sample(names, 2)
    return [rng.choice(sorted(SHARED_FAULTS) if share < PAIR_SHARE + GROUP_SHARE else names)]
