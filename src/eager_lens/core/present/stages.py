"""The stages of the work, in their order: rail, keys, menus, start page, pictures and checks all follow this one list.

The window finds a stage's icon (``assets/icons``) and its page (``desk/pages``) by its id.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.finding import Severity, Stage
from eager_lens.core.present import verdicts
from eager_lens.core.present.verdicts import Verdict
from eager_lens.core.units import count


class StageRecord(NamedTuple):
    """A stage: its id, its word, what it is for in one line, and what makes its verdict."""

    id: Stage
    words: str
    purpose: str
    verdict: Callable[[Assessment], Verdict]


RECORDS = (
    StageRecord("wiring", "Wiring", "what is on site, and where", verdicts.wiring),
    StageRecord("sizing", "Sizing", "resolution, frame rate and days become drives and Mb/s", verdicts.sizing),
    StageRecord("addresses", "Addresses", "a plan for every device before anything is powered", verdicts.addresses),
    StageRecord("bench", "Bench", "every camera on a recorder and a channel", verdicts.bench),
    StageRecord("schedule", "Schedule", "when each records, and how", verdicts.schedule),
    StageRecord("motion", "Motion", "events, pre-recording and post-recording", verdicts.motion),
    StageRecord("proof", "Proof", "checked on site, by whom, with the value seen", verdicts.proof),
    StageRecord("handover", "Handover", "sheets for the customer, and for whoever comes next", verdicts.handover),
)

STAGES: tuple[Stage, ...] = tuple(record.id for record in RECORDS)

STAGE_WORDS: dict[Stage, str] = {record.id: record.words for record in RECORDS}


def verdict_of(stage: Stage, assessment: Assessment) -> Verdict:
    """The verdict of a stage. One that says that all is well gives way to the worst fault that is found there, and says how
    many warnings stand against it."""
    verdict = RECORDS[STAGES.index(stage)].verdict(assessment)
    if not verdict.is_good:
        return verdict
    found = assessment.of_stage(stage)
    faults = [finding for finding in found if finding.severity is Severity.FAULT]
    warnings = sum(finding.severity is Severity.WARNING for finding in found)
    if faults:
        more = f", and {count(len(faults) - 1, 'fault')} more" if len(faults) > 1 else ""
        return verdict._replace(sentence=faults[0].title + more, is_good=False)
    if warnings:
        return verdict._replace(sentence=f"{verdict.sentence}; {count(warnings, 'warning')}")
    return verdict
