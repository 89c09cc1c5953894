"""For whom a set of sheets is, and which sheets that takes."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal, NamedTuple, get_args

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.outgoing.formats.sheets import Drawing, Sheet, SheetSet
from eager_lens.core.outgoing.handover import plan_sheets as plan
from eager_lens.core.outgoing.handover.crew import mounting_sheet
from eager_lens.core.outgoing.handover.customer import customer_sheets
from eager_lens.core.outgoing.handover.left_out import WithoutAddresses
from eager_lens.core.outgoing.handover.offer import offer_sheet
from eager_lens.core.outgoing.handover.proof_sheets import (
    LogState,
    acceptance_sheet,
    history_sheet,
    signature_sheet,
    snags_sheet,
)
from eager_lens.core.outgoing.handover.rule_sheet import motion_sheet
from eager_lens.core.outgoing.handover.sums import sums_sheets

Mode = Literal["offer", "crew", "as built", "customer", "auditor", "return visit"]
MODES: tuple[Mode, ...] = get_args(Mode)


class ModeRecord(NamedTuple):
    """What is to be known of a mode: its name, for whom it is, and whether addresses and labels are left out."""

    label: str
    for_whom: str
    without_addresses: bool


MODE_RECORDS: dict[Mode, ModeRecord] = {
    "offer": ModeRecord("Offer", "what is delivered, with prices where they are known", True),
    "crew": ModeRecord("Plan for the crew", "what to mount and connect where, and what to test", False),
    "as built": ModeRecord("As built", "everything, for the next technician", False),
    "customer": ModeRecord("Customer's copy", "what the customer needs; no addresses", True),
    "return visit": ModeRecord("Return visit", "what has changed, what it costs and what is due, on one page", False),
    "auditor": ModeRecord("Auditor's copy", "what is kept, how long and why, and the test results; no addresses", True),
}


@dataclass(frozen=True)
class Extras:
    """What stands beside a job and not in it: the sheet of its latest site check, the state of its log, the sheet of a
    return visit, and the drawing of its wiring."""

    further: tuple[Sheet, ...] = ()
    log: LogState | None = None
    visit: Sheet | None = None
    wiring: Drawing | None = None


Maker = Callable[[Assessment], tuple[Sheet, ...]]


def _one(make: Callable[[Assessment], Sheet]) -> Maker:
    return lambda assessment: (make(assessment),)


def _makers(mode: Mode, extras: Extras, date: str) -> tuple[Maker, ...]:
    signed: Maker = lambda assessment: (signature_sheet(assessment, extras.log),)  # noqa: E731
    built: tuple[Maker, ...] = (
        _one(plan.cameras_sheet),
        _one(plan.runs_sheet),
        lambda assessment: _wiring(extras),
        _one(plan.ports_sheet),
        _one(plan.parts_sheet),
        _one(plan.addresses_sheet),
        _one(plan.storage_sheet),
        _one(plan.schedules_sheet),
        _one(motion_sheet),
        _one(plan.findings_sheet),
    )
    cautions = _one(plan.cautions_sheet)
    match mode:
        case "offer":
            return (lambda assessment: offer_sheet(assessment, date).sheets, sums_sheets, cautions)
        case "crew":
            return (_one(plan.cover_sheet), _one(mounting_sheet), *built, _one(acceptance_sheet), cautions)
        case "return visit":
            asked = Sheet("Return visit", "Select above the earlier state of the job to compare with.", ())
            return (lambda assessment: (extras.visit or asked,),)
        case "customer":
            return (
                customer_sheets,
                _one(plan.schedules_sheet),
                _one(motion_sheet),
                _one(acceptance_sheet),
                _one(snags_sheet),
                cautions,
                signed,
            )
        case "auditor":
            return (
                _one(plan.cover_sheet),
                customer_sheets,
                _one(plan.cameras_sheet),
                _one(plan.schedules_sheet),
                _one(plan.storage_sheet),
                _one(acceptance_sheet),
                _one(history_sheet),
                _one(snags_sheet),
                _one(plan.accepted_sheet),
                signed,
            )
    return (
        _one(plan.cover_sheet),
        customer_sheets,
        *built,
        _one(acceptance_sheet),
        _one(snags_sheet),
        lambda assessment: extras.further,
        cautions,
        signed,
    )


def _wiring(extras: Extras) -> tuple[Sheet, ...]:
    """The drawing of the wiring, where there is one."""
    if extras.wiring is None:
        return ()
    return (
        Sheet(
            "Wiring",
            "The connections of all devices; the wider a line, the more it carries. The pack contains the same "
            "drawing as SVG.",
            (extras.wiring,),
        ),
    )


def sheets_of(
    mode: Mode,
    assessment: Assessment,
    date: str,
    extras: Extras = Extras(),
    step: Callable[[float], None] = lambda share: None,
) -> SheetSet:
    """The set of sheets for somebody.

    Args:
        mode: for whom. assessment: of the job. date: the day, written out; it comes from outside, so that one job and one day
            always give one set. extras: what does not stand in the job. step: told between sheets; may raise to stop.
    """
    job, record = assessment.job, MODE_RECORDS[mode]
    sheets: list[Sheet] = []
    for make in _makers(mode, extras, date):
        step(0.0)
        sheets += make(assessment)
    subtitle = ", ".join(part for part in (job.customer, job.site) if part)
    made = SheetSet(job.name, subtitle, date, tuple(sheets), record.label.lower())
    return WithoutAddresses(job).all_of(made) if record.without_addresses else made
