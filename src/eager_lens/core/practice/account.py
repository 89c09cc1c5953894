"""The account of a practice: what was tried and what it cost, what it was, what would have been quicker, the rule."""

from __future__ import annotations

import json
from collections.abc import Sequence
from random import Random
from typing import NamedTuple

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.fault_finder.faulty_site import inject_faults
from eager_lens.core.fault_finder.for_job import job_case
from eager_lens.core.fault_finder.inference import TestAnswer
from eager_lens.core.fault_finder.on_site import answer_on_site
from eager_lens.core.fault_finder.search import FaultSearch
from eager_lens.core.fault_finder.symptoms import CAUSES_OF
from eager_lens.core.job.model import Camera
from eager_lens.core.job.rehearsal import Rehearsal
from eager_lens.core.practice.drill import Drill, complaint_now
from eager_lens.core.simulation.actions import SITE_ACTIONS
from eager_lens.core.simulation.site import Site
from eager_lens.core.units import count, figure
from eager_lens.core.virtual_site.faults import FAULTS

FORMAT, VERSION = "eager-lens-practice-result", 1
MOST_TESTS = 30


class Tried(NamedTuple):
    """Something that was done: minutes since the customer rang, and what."""

    at_min: float
    words: str


class QuickStep(NamedTuple):
    """A step of the quicker way: a question with its answer and minutes, or a cause that it comes to with its remedy."""

    words: str
    found: str
    minutes: float

    @property
    def line(self) -> str:
        """As it is read."""
        if not self.minutes:
            return f"{self.words}. {self.found}."
        return f"{self.words} – {self.found} ({figure(self.minutes)} min)"


class Account(NamedTuple):
    """What came of a practice.

    Attributes:
        still_said: what the customer would still say; empty: it is mended. was: the hidden faults in words.
        tried, minutes: what was done, and how long it took in all. quicker: how the fault finder would have gone about it.
    """

    drill: Drill
    still_said: str
    was: tuple[str, ...]
    tried: tuple[Tried, ...]
    minutes: float
    quicker: tuple[QuickStep, ...]

    @property
    def is_mended(self) -> bool:
        """Whether the customer has nothing to complain of any more."""
        return not self.still_said

    @property
    def quicker_min(self) -> float:
        """What the tests of the quicker way take."""
        return sum(step.minutes for step in self.quicker)

    @property
    def headline(self) -> str:
        """How it ended, in a sentence."""
        took = f"{count(len(self.tried), 'step')} in {figure(self.minutes)} min"
        return f"Repaired, {took}" if self.is_mended else f"Not repaired yet, {took}"


def account_of(assessment: Assessment, site: Site, rehearsal: Rehearsal, drill: Drill) -> Account:
    """Look back on a practice: ``site`` as it is now (a copy: it is looked at), ``rehearsal`` with all that was done."""
    begun = drill.job.rehearsal
    begun_s = begun.now_s if begun is not None else 0.0
    names = {device.id: device.name for device in assessment.facts.devices}
    camera = names.get(drill.camera, "the camera")
    tried = tuple(
        Tried((action.at_s - begun_s) / 60, _words(action.do, names.get(action.device, ""), action.values))
        for action in rehearsal.actions
    )
    return Account(
        drill,
        complaint_now(assessment, site, drill),
        tuple(f"{camera}: {FAULTS[fault].words}" for fault in drill.faults),
        tried,
        max(0.0, rehearsal.now_s - begun_s) / 60,
        tuple(_quicker(assessment, drill)),
    )


def _words(action: str, device: str, values: dict[str, str]) -> str:
    if action == "finder test":
        return values.get("words", "a test of the fault finder")
    kind = SITE_ACTIONS.get(action)
    what = kind.label if kind is not None else action
    address = values.get("address", "")
    return ": ".join(part for part in (device, what) if part) + (f" ({address})" if address else "")


def _quicker(assessment: Assessment, drill: Drill) -> list[QuickStep]:
    """The tests that the fault finder would have asked for, one fault after the other."""
    camera = assessment.facts.by_device_id.get(drill.camera)
    left = list(drill.faults)
    steps: list[QuickStep] = []
    while left and isinstance(camera, Camera):
        put = inject_faults(assessment, camera, left, Random(str(drill.code)))
        if put is None:
            break
        search = FaultSearch(job_case(assessment, camera, put.symptom, down=put.down))
        while search.asked is not None and len(search.answers) < MOST_TESTS:
            test = search.asked.test
            words = answer_on_site(put.at, test.id)
            search = search.with_answers([TestAnswer(test.id, None if words is None else test.outcomes.index(words))])
        for answer in search.answers:
            if answer.outcome is not None:
                step = QuickStep(*search.answer_words(answer), search.of.case.table.test(answer.test).minutes)
                steps += [step] if step not in steps else []  # what is known from the first fault is not asked again
        cause = search.ranked[0][0]
        steps.append(QuickStep(cause.label, search.remedy_of(cause)[0], 0.0))
        same = {"password", cause.id} if cause.id == "locked" else {cause.id}  # a wrong password locks it
        found_now = [fault for fault in left if same & CAUSES_OF[fault]]
        left = [fault for fault in left if fault not in found_now] if found_now else []
    return steps


def account_text(account: Account) -> str:
    """The account for reading."""
    drill = account.drill
    lines = [
        f"{drill.lesson.title}, level {drill.code.level} ({drill.code})",
        drill.complaint,
        "",
        account.headline + (f"; the customer still says: {account.still_said}" if account.still_said else ""),
        "",
        "Tried:",
        *([f"- {figure(one.at_min)} min: {one.words}" for one in account.tried] or ["- nothing"]),
        "",
    ]
    return "\n".join(lines) + hidden_text(account)


def hidden_text(account: Account) -> str:
    """What a practice hides, the quicker way, and the rule: for the trainer, and for whoever has ended it."""
    lines = [
        "It was:",
        *(f"- {one}" for one in account.was),
        "",
        f"Quicker, {figure(account.quicker_min)} min of tests:",
        *(f"- {one.line}" for one in account.quicker),
        "",
        "To remember:",
        account.drill.lesson.rule,
    ]
    return "\n".join(lines) + "\n"


def result_text(accounts: Sequence[Account]) -> str:
    """Results as a file for a trainer. Nobody's name stands in it."""
    return (
        json.dumps(
            {
                "format": FORMAT,
                "version": VERSION,
                "results": [
                    {
                        "code": str(one.drill.code),
                        "topic": one.drill.code.topic,
                        "level": int(one.drill.code.level),
                        "seed": one.drill.code.seed,
                        "mended": one.is_mended,
                        "minutes": round(one.minutes, 1),
                        "quicker_minutes": round(one.quicker_min, 1),
                        "steps": [{"at_min": round(step.at_min, 1), "what": step.words} for step in one.tried],
                    }
                    for one in accounts
                ],
            },
            ensure_ascii=False,
            indent=1,
        )
        + "\n"
    )
