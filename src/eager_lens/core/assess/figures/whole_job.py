"""Figures of the whole job, and which recorder or supply comes nearest to its limit."""

from __future__ import annotations

from typing import Literal, NamedTuple

from eager_lens.core.assess.figures.devices import Keeps
from eager_lens.core.assess.figures.facts import Facts
from eager_lens.core.assess.figures.proof import progress
from eager_lens.core.job.model import Recorder


class WholeJob(NamedTuple):
    """Sums and means over all devices. Days are those of the recorder that can promise fewest; None where none records anything.
    ``keeps`` tells which of these it is, or that cameras have no recorder."""

    cameras: int
    recorders: int
    registered: int
    with_address: int
    rate_mbps: float
    stored_gb_per_day: float
    recorded_h_per_day: float
    usable_tb: float
    asked_days: float
    promised_days: float | None
    mean_days: float | None
    keeps: Keeps | Literal["no recorder"]
    checks_passed: int
    checks: int


def whole_job(facts: Facts) -> WholeJob:
    """The figures of a job."""
    job, figures = facts.job, facts.camera_figures.values()
    tightest = tightest_recorder(facts)
    passed, checks = progress(facts)
    return WholeJob(
        cameras=len(job.cameras),
        recorders=len(job.recorders),
        registered=sum(bool(camera.registered) for camera in job.cameras),
        with_address=sum(bool(device.address) for device in facts.devices),
        rate_mbps=sum(one.rate_mbps for one in figures),
        stored_gb_per_day=sum(one.gb_per_day for one in figures),
        recorded_h_per_day=sum(one.recorded_h_per_day for one in figures) / len(figures) if figures else 0.0,
        usable_tb=sum(one.usable_tb for one in facts.recorder_figures.values()),
        asked_days=job.retention.least_days,
        promised_days=facts.recorder_figures[tightest.id].promised_days if tightest else None,
        mean_days=facts.recorder_figures[tightest.id].mean_days if tightest else None,
        keeps="no recorder"
        if job.cameras and not job.recorders
        else facts.recorder_figures[tightest.id].keeps
        if tightest
        else "nothing recorded",
        checks_passed=passed,
        checks=checks,
    )


def tightest_recorder(facts: Facts) -> Recorder | None:
    """The recorder that can promise fewest days, one without storage first; None where none records anything."""
    limited = [
        (got.promised_days, recorder)
        for recorder in facts.job.recorders
        if (got := facts.recorder_figures[recorder.id]).promised_days is not None
    ]
    return min(limited, key=lambda one: one[0], default=(None, None))[1]


def busiest_recorder(facts: Facts) -> Recorder | None:
    """The recorder whose incoming rate comes nearest to its limit."""
    return max(
        facts.job.recorders,
        key=lambda recorder: facts.recorder_figures[recorder.id].incoming_mbps / recorder.incoming_limit_mbps,
        default=None,
    )


class Supplier(NamedTuple):
    """A switch, injector or power supply with what it gives at night and what it may."""

    id: str
    name: str
    is_unit: bool
    draw_w: float
    budget_w: float


def fullest_supplier(facts: Facts) -> Supplier | None:
    """What feeds, and comes nearest to what it may give at night."""
    parts = [
        *((device, False) for device in facts.suppliers if device.poe_ports),
        *((unit, True) for unit in facts.job.power_units),
    ]
    fed = [
        Supplier(part.id, part.name, is_unit, facts.topology.supplies[part.id].draw_w, part.budget_w)
        for part, is_unit in parts
        if part.budget_w and part.id in facts.topology.supplies
    ]
    return max(fed, key=lambda one: one.draw_w / one.budget_w, default=None)
