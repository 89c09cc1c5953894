"""The assessment of a job: every figure and finding, worked out anew only where something changed."""

from __future__ import annotations

from dataclasses import dataclass
from typing import NamedTuple

from eager_lens.core.assess.facts import Facts
from eager_lens.core.assess.figures import (
    NO_HOURS,
    CameraFigures,
    RecorderFigures,
    camera_figures,
    hours_by_week,
    recorder_figures,
)
from eager_lens.core.assess.finding import Finding, Severity, Stage
from eager_lens.core.assess.rules import RULES
from eager_lens.core.job.model import Camera, Job, by_id
from eager_lens.core.recording.week import WeekPlan


class _Known(NamedTuple):
    """What a camera's figures were worked out from: while these are the same objects, so are the figures."""

    camera: Camera
    plan: WeekPlan | None
    figures: CameraFigures


@dataclass(frozen=True)
class Assessment:
    """All figures and findings of one job. ``findings`` stand worst first."""

    facts: Facts
    findings: tuple[Finding, ...]
    known: dict[str, _Known]

    @property
    def job(self) -> Job:
        """The job that was assessed."""
        return self.facts.job

    def camera(self, camera_id: str) -> CameraFigures:
        """Figures of a camera."""
        return self.facts.camera_figures[camera_id]

    def recorder(self, recorder_id: str) -> RecorderFigures:
        """Figures of a recorder."""
        return self.facts.recorder_figures[recorder_id]

    def of_stage(self, stage: Stage) -> tuple[Finding, ...]:
        """The findings of one stage."""
        return tuple(finding for finding in self.findings if finding.stage == stage)

    def open_count(self, stage: Stage) -> int:
        """Findings of a stage that need somebody: faults and doubts."""
        return sum(finding.stage == stage and finding.severity > Severity.NOTE for finding in self.findings)

    def worst(self) -> Severity | None:
        """The worst severity of all findings, or None when there is none."""
        return self.findings[0].severity if self.findings else None


def assess(job: Job, before: Assessment | None = None) -> Assessment:
    """All figures and findings of a job.

    ``before`` is any earlier assessment; it changes nothing in the result and only spares work: figures of a camera
    are taken over when the camera and its week's plan are the very same objects.
    """
    hours = before.facts.week_hours if before and before.job.weeks is job.weeks else hours_by_week(job.weeks)
    plans = {week.id: week.plan for week in job.weeks}
    old = before.known if before else {}
    known: dict[str, _Known] = {}
    figures: dict[str, CameraFigures] = {}
    cameras_on: dict[str, list[Camera]] = {recorder.id: [] for recorder in job.recorders}
    for camera in job.cameras:
        camera_id = camera.id
        plan = plans.get(camera.week)
        had = old.get(camera_id)
        if had is None or had.camera is not camera or had.plan is not plan:
            had = _Known(camera, plan, camera_figures(camera, hours.get(camera.week, NO_HOURS)))
        known[camera_id] = had
        figures[camera_id] = had.figures
        for place in camera.registered:
            if place.recorder in cameras_on:
                cameras_on[place.recorder].append(camera)
    facts = Facts(
        job=job,
        camera_figures=figures,
        recorder_figures={
            recorder.id: recorder_figures(recorder, [figures[camera.id] for camera in cameras_on[recorder.id]])
            for recorder in job.recorders
        },
        cameras_on=cameras_on,
        week_hours=hours,
        recorders=by_id(job.recorders),
        weeks=by_id(job.weeks),
        subnets=by_id(job.subnets),
        devices=tuple(job.devices()),
    )
    findings = [finding for rule in RULES for finding in rule(facts)]
    findings.sort(key=lambda finding: -finding.severity)
    return Assessment(facts, tuple(findings), known)
