"""The readout: does it still fit? Six figures of the whole job, each the tightest of its kind."""

from __future__ import annotations

from dataclasses import dataclass

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.figures.whole_job import busiest_recorder, fullest_supplier, tightest_recorder
from eager_lens.core.assess.finding import Readout, Severity
from eager_lens.core.assess.rules.sizing import has_estimated_rate
from eager_lens.core.present.verdicts import address_faults
from eager_lens.core.present.working import FigureKind, FigureRef
from eager_lens.core.units import days_figure, figure


@dataclass(frozen=True)
class Reading:
    """One figure of the strip: what it is, the figure, what it is measured against, how bad, where it comes from."""

    words: str
    figure: str
    rest: str
    severity: Severity | None
    ref: FigureRef | None
    assumed: bool = False


def readings(assessment: Assessment) -> tuple[Reading, ...]:
    """The strip's figures for a job: each the tightest of its kind."""
    return (
        _days(assessment),
        _incoming(assessment),
        _power(assessment),
        _channels(assessment),
        _addresses(assessment),
        _steps(assessment),
    )


def _worst(assessment: Assessment, subject: str, which: Readout) -> Severity | None:
    """The worst of the findings that colour a figure: those about one device, or all of them."""
    found = [
        f.severity for f in assessment.findings if f.kind.colours == which and (not subject or subject in f.subjects)
    ]
    return max(found, default=None)


def _days(assessment: Assessment) -> Reading:
    facts, rest = assessment.facts, f"of {figure(assessment.job.retention.least_days)} required"
    recorder = tightest_recorder(facts)
    if recorder is None:
        words = "no recorder" if assessment.whole.keeps == "no recorder" else "nothing recorded"
        return Reading("Days promised", "–", words, _worst(assessment, "", "days"), None)
    severity = _worst(assessment, recorder.id, "days")
    got = facts.recorder_figures[recorder.id]
    if got.keeps == "no storage":
        return Reading(f"Days promised · {recorder.name}", "0", "no storage", severity, FigureRef("days", recorder.id))
    days = got.promised_days or 0.0
    ref, assumed = FigureRef("days", recorder.id), bool(facts.having(has_estimated_rate))
    return Reading(f"Days promised · {recorder.name}", days_figure(days), rest, severity, ref, assumed)


def _incoming(assessment: Assessment) -> Reading:
    facts = assessment.facts
    recorder = busiest_recorder(facts)
    if recorder is None:
        return Reading("Incoming", "–", "no recorder", None, None)
    incoming_mbps = facts.recorder_figures[recorder.id].incoming_mbps
    severity = _worst(assessment, recorder.id, "incoming")
    rest = f"of {figure(recorder.incoming_limit_mbps)} Mb/s, busier half"
    ref, assumed = FigureRef("incoming", recorder.id), bool(facts.having(has_estimated_rate))
    return Reading(f"Incoming · {recorder.name}", figure(incoming_mbps), rest, severity, ref, assumed)


def _power(assessment: Assessment) -> Reading:
    supplier = fullest_supplier(assessment.facts)
    if supplier is None:
        return Reading("Power at night", "–", "nothing powered yet", None, None)
    severity = _worst(assessment, supplier.id, "power")
    kind: FigureKind = "unit" if supplier.is_unit else "power"
    rest, ref = f"of {figure(supplier.budget_w)} W", FigureRef(kind, supplier.id)
    return Reading(f"Power · {supplier.name}", figure(supplier.draw_w), rest, severity, ref, True)


def _channels(assessment: Assessment) -> Reading:
    whole = assessment.whole
    severity = _worst(assessment, "", "registered")
    rest = f"of {figure(whole.cameras, 9)} cameras"
    return Reading("Registered", figure(whole.registered, 9), rest, severity, FigureRef("channels"))


def _addresses(assessment: Assessment) -> Reading:
    faults = address_faults(assessment)
    without = len(assessment.facts.without_address)
    rest = ("fault" if faults == 1 else "faults") + (f", {figure(without, 9)} missing" if without else "")
    severity = Severity.FAULT if faults else assessment.facts.when_missing(Severity.WARNING) if without else None
    return Reading("Addresses", str(faults), rest, severity, FigureRef("addresses"))


def _steps(assessment: Assessment) -> Reading:
    whole = assessment.whole
    severity = _worst(assessment, "", "tests")
    rest = f"of {figure(whole.checks, 9)}"
    return Reading("Tests passed", figure(whole.checks_passed, 9), rest, severity, FigureRef("steps"))
