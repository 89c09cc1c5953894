"""The assessment of a job: every figure and finding, worked out anew only where something changed."""

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
from eager_lens.core.assess.rules.addressing import address_trouble, subnets_by_id
from eager_lens.core.assess.topology import topology
from eager_lens.core.assess.traits import TRAITS, Trait, traits_of
from eager_lens.core.job.model import Camera, Device, Job, Recorder, by_id
from eager_lens.core.recording.week import WeekPlan


class _Known(NamedTuple):
    """What was told of a camera, and from what: while camera and plan are the same objects, it holds."""

    camera: Camera
    plan: WeekPlan | None
    figures: CameraFigures
    traits: tuple[Trait, ...]


class _Judged(NamedTuple):
    """What was found about a device's address by itself: while device and subnets are the same objects, it holds."""

    device: Device
    finding: Finding | None


@dataclass(frozen=True, eq=False)
class Assessment:
    """All figures and findings of one job. ``findings`` stand worst first."""

    facts: Facts
    findings: tuple[Finding, ...]
    known: dict[str, _Known]
    judged: dict[str, _Judged]

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

    ``before`` is any earlier assessment; it changes nothing in the result and only spares work: what was told of a
    camera is taken over when the camera and its week's plan are the very same objects, and so on.
    """
    hours = before.facts.week_hours if before and before.job.weeks is job.weeks else hours_by_week(job.weeks)
    plans = {week.id: week.plan for week in job.weeks}
    told = job.assumed.as_assumed()
    old = before.known if before and before.job.assumed == job.assumed else {}
    known: dict[str, _Known] = {}
    with_trait: dict[Trait, list[Camera]] = {trait: [] for trait in TRAITS}
    cameras_on: dict[str, list[Camera]] = {recorder.id: [] for recorder in job.recorders}
    held: dict[str, dict[int, list[str]]] = {recorder.id: {} for recorder in job.recorders}
    leading_nowhere: list[Camera] = []
    for camera in job.cameras:
        camera_id = camera.id
        plan = plans.get(camera.week)
        had = old.get(camera_id)
        if had is None or had.camera is not camera or had.plan is not plan:
            figures = camera_figures(camera, hours.get(camera.week, NO_HOURS), told)
            had = _Known(camera, plan, figures, traits_of(camera, figures))
        known[camera_id] = had
        for trait in had.traits:
            with_trait[trait].append(camera)
        for place in camera.registered:
            if place.recorder in held:
                cameras_on[place.recorder].append(camera)
                held[place.recorder].setdefault(place.channel, []).append(camera_id)
            else:
                leading_nowhere.append(camera)
    devices = tuple(job.devices())
    judged = _judge_addresses(job, devices, before)
    all_figures = {camera_id: had.figures for camera_id, had in known.items()}
    streams_on = {
        recorder.id: [known[camera.id].figures for camera in cameras_on[recorder.id]] for recorder in job.recorders
    }
    facts = Facts(
        job=job,
        camera_figures=all_figures,
        topology=topology(job, all_figures, cameras_on, before.facts.topology if before else None),
        recorder_figures={
            recorder.id: _recorder_figures(recorder, streams_on[recorder.id], cameras_on[recorder.id], before)
            for recorder in job.recorders
        },
        streams_on=streams_on,
        with_trait=with_trait,
        cameras_on=cameras_on,
        held=held,
        leading_nowhere=leading_nowhere,
        address_findings=[had.finding for had in judged.values() if had.finding is not None],
        week_hours=hours,
        recorders=by_id(job.recorders),
        weeks=by_id(job.weeks),
        subnets=by_id(job.subnets),
        devices=devices,
    )
    findings = [finding for rule in RULES for finding in rule(facts)]
    findings.sort(key=lambda finding: -finding.severity)
    return Assessment(facts, tuple(findings), known, judged)


def _recorder_figures(
    recorder: Recorder, streams: list[CameraFigures], cameras: list[Camera], before: Assessment | None
) -> RecorderFigures:
    """A recorder's figures; those of before where neither it nor any of its streams changed."""
    if recorder.takes_small:
        return recorder_figures(recorder, streams, sum(camera.small_mbps for camera in cameras))
    if (
        before is not None
        and before.facts.recorders.get(recorder.id) is recorder
        and before.facts.streams_on[recorder.id] == streams
    ):
        return before.facts.recorder_figures[recorder.id]
    return recorder_figures(recorder, streams)


def _judge_addresses(job: Job, devices: tuple[Device, ...], before: Assessment | None) -> dict[str, _Judged]:
    old = before.judged if before and before.job.subnets is job.subnets else {}
    nets = subnets_by_id(job)
    judged: dict[str, _Judged] = {}
    for device in devices:
        had = old.get(device.id)
        if had is None or had.device is not device:
            had = _Judged(device, address_trouble(device, nets))
        judged[device.id] = had
    return judged
