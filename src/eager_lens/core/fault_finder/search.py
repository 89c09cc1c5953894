"""A search for a fault as it goes: what was answered, what is asked next, and what comes of it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property

from eager_lens.core.fault_finder.for_job import JobCase
from eager_lens.core.fault_finder.inference import (
    Case,
    NextTest,
    TestAnswer,
    cause_chances,
    is_named,
    proposals,
    without_causes,
)
from eager_lens.core.fault_finder.table import Cause, FaultTest
from eager_lens.core.plain_text import inside
from eager_lens.core.units import count, figure

MOST_PERCENT = 99
"""Nothing is shown as certain."""


@dataclass(frozen=True, eq=False)
class FaultSearch:
    """A search at one moment; each step makes another.

    Attributes:
        of: the case. answers: in their order. chosen: the test that was asked for instead of the best one; empty: none.
        not_these: causes that were tried as the remedy and were not it.
    """

    of: JobCase
    answers: tuple[TestAnswer, ...] = ()
    chosen: str = ""
    not_these: frozenset[str] = frozenset()

    @cached_property
    def _case(self) -> Case:
        return without_causes(self.of.case, self.not_these)

    @cached_property
    def ranked(self) -> list[tuple[Cause, float]]:
        """The causes, most likely first, each with how likely it is."""
        table = self.of.case.table
        return [(table.cause(cause_id), chance) for cause_id, chance in cause_chances(self._case, self.answers)]

    @cached_property
    def proposed(self) -> list[NextTest]:
        """The tests that can still tell something, the best first."""
        return proposals(self._case, self.answers)

    @property
    def named(self) -> Cause | None:
        """The cause that it is, once that is as good as certain."""
        cause, chance = self.ranked[0]
        return cause if is_named(chance) else None

    @property
    def asked(self) -> NextTest | None:
        """What is asked now: the chosen test, else the best; None at the end of the search."""
        chosen = next((one for one in self.proposed if one.test.id == self.chosen), None)
        if chosen is not None:
            return chosen
        return self.proposed[0] if self.proposed and self.named is None else None

    @property
    def is_over(self) -> bool:
        """Whether nothing more is asked."""
        return self.asked is None

    def answered(self, outcome: int | None) -> FaultSearch:
        """After an answer to what is asked now, by the number of its outcome; None: nobody can say."""
        if self.asked is None:
            return self
        return self.with_answers([TestAnswer(self.asked.test.id, outcome)])

    def with_answers(self, answers: Sequence[TestAnswer]) -> FaultSearch:
        """With answers from elsewhere, such as a site check; those to a test that has one already are left."""
        made = {answer.test for answer in self.answers}
        new = tuple(answer for answer in answers if answer.test not in made)
        return replace(self, answers=self.answers + new, chosen="")

    def taken_back(self, test_id: str = "") -> FaultSearch:
        """Without the answer to a test, or without the last one."""
        if not test_id:
            return replace(self, answers=self.answers[:-1], chosen="")
        return replace(self, answers=tuple(one for one in self.answers if one.test != test_id), chosen="")

    def choosing(self, test_id: str) -> FaultSearch:
        """With another test than the best as the one that is asked."""
        return replace(self, chosen=test_id)

    def not_this(self) -> FaultSearch:
        """After the remedy of the likeliest cause was tried and did not help."""
        return replace(self, not_these=self.not_these | {self.ranked[0][0].id}, chosen="")

    @property
    def minutes(self) -> float:
        """What the tests so far took, by the table."""
        return sum(self.of.case.table.test(answer.test).minutes for answer in self.answers)

    def answer_words(self, answer: TestAnswer) -> tuple[str, str]:
        """The question and what was answered."""
        test: FaultTest = self.of.case.table.test(answer.test)
        outcome = "not known" if answer.outcome is None else self.of.filled(test.outcomes[answer.outcome])
        return self.of.filled(test.ask), outcome

    def remedy_of(self, cause: Cause) -> list[str]:
        """What to do about a cause, in steps, with the job's names."""
        return [self.of.filled(step) for step in cause.remedy]

    def checks_after(self, cause: Cause) -> list[str]:
        """What to look at afterwards: the tests that can be made on this device, with the outcome that is wanted."""
        can = {test.id for test in self.of.case.tests}
        table = self.of.case.table
        return [
            f"{self.of.filled(table.test(one).ask)} – {self.of.filled(table.test(one).outcomes[0])}"
            for one in cause.verify
            if one in can
        ]

    def sentence(self) -> str:
        """What came of it, in one sentence for a log."""
        symptom = inside(self.of.case.table.symptom(self.of.case.symptom).label)
        tried = f"{count(len(self.answers), 'test')}, {figure(self.minutes)} min"
        cause, chance = self.ranked[0]
        if is_named(chance):
            return f"{self.of.device.name}, {symptom}: {inside(cause.label)} ({percent(chance)}; {tried})"
        return f"{self.of.device.name}, {symptom}: not found yet ({tried})"

    def report(self) -> str:
        """Symptoms, tests and conclusions as text, to pass on."""
        lines = [self.sentence(), "", "Tried:"]
        lines += [f"- {ask} – {outcome}" for ask, outcome in map(self.answer_words, self.answers)] or ["- nothing yet"]
        lines += [
            f"- remedy of “{self.of.case.table.cause(one).label}”: it did not help" for one in sorted(self.not_these)
        ]
        lines += ["", "Most likely now:"]
        lines += [f"- {percent(chance)} {cause.label}" for cause, chance in self.ranked[:5]]
        said = [one for one in self.of.said if one.likely]
        if said:
            lines += ["", "What the job says:"]
            lines += [f"- {one.cause.label}: {one.words}" for one in said]
        return "\n".join(lines) + "\n"


def percent(chance: float) -> str:
    """A chance for reading: whole percent, never certain."""
    whole = min(round(chance * 100), MOST_PERCENT)
    return f"{whole} %" if whole >= 1 else "under 1 %"
