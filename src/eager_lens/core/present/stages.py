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
    """A stage: its id, its word, what it is for in one line, what makes its verdict, and what else it is searched by."""

    id: Stage
    words: str
    purpose: str
    verdict: Callable[[Assessment], Verdict]
    synonyms: str


RECORDS = (
    StageRecord(
        "wiring",
        "Wiring",
        "devices, cables and power",
        verdicts.wiring,
        "poe cable switch network topology power ups link vlan bridge wireless",
    ),
    StageRecord(
        "sizing",
        "Sizing",
        "from resolution, frame rate and days to drives and Mb/s",
        verdicts.sizing,
        "storage retention bandwidth drives hdd bit rate bitrate throughput resolution fps",
    ),
    StageRecord(
        "addresses",
        "Addresses",
        "an address for every device before it is powered",
        verdicts.addresses,
        "ip dhcp subnet gateway mac static lease scan arp vlan",
    ),
    StageRecord(
        "bench",
        "Bench",
        "plan, rehearse and check the commissioning",
        verdicts.bench,
        "commissioning registering channels passwords firmware staging",
    ),
    StageRecord(
        "schedule",
        "Schedule",
        "when cameras record, and in which mode",
        verdicts.schedule,
        "week times hours calendar holidays",
    ),
    StageRecord(
        "motion",
        "Motion",
        "motion rules, pre-recording and post-recording",
        verdicts.motion,
        "detection zone sensitivity vmd events alarm",
    ),
    StageRecord(
        "proof",
        "Proof",
        "acceptance tests on site, with name and measured value",
        verdicts.proof,
        "test check walk acceptance checklist",
    ),
    StageRecord(
        "handover",
        "Handover",
        "papers for the customer and the next technician",
        verdicts.handover,
        "pdf report sheets print customer documents export",
    ),
)

STAGES: tuple[Stage, ...] = tuple(record.id for record in RECORDS)

STAGE_WORDS: dict[Stage, str] = {record.id: record.words for record in RECORDS}


def verdict_of(stage: Stage, assessment: Assessment) -> Verdict:
    """The verdict of a stage. One that says that all is well gives way to the worst fault that is found there, and says how
    many warnings stand against it; one that says what is wrong says how many faults more there are."""
    verdict = RECORDS[STAGES.index(stage)].verdict(assessment)
    found = assessment.of_stage(stage)
    faults = [finding for finding in found if finding.severity is Severity.FAULT]
    if not verdict.is_good:
        if len(faults) < 2 or stage == "handover":
            return verdict
        return verdict._replace(facts=f"{count(len(faults), 'fault')} in all. {verdict.facts}")
    warnings = sum(finding.severity is Severity.WARNING for finding in found)
    if faults:
        more = f", and {count(len(faults) - 1, 'fault')} more" if len(faults) > 1 else ""
        return verdict._replace(sentence=faults[0].title + more, is_good=False)
    if warnings:
        return verdict._replace(sentence=f"{verdict.sentence}; {count(warnings, 'warning')}")
    return verdict
