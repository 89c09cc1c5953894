"""The assessment of a job: every figure and finding, worked out anew only where something changed."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import chain
from operator import is_
from typing import NamedTuple

from eager_lens.core.assess.facts import Facts
from eager_lens.core.assess.figures import (
    NO_HOURS,
    CameraFigures,
    RecorderFigures,
    camera_figures,
    erased,
    hours_by_schedule,
    recorder_figures,
)
from eager_lens.core.assess.finding import Finding, Severity, Stage
from eager_lens.core.assess.groups import Groups, Known, groups_after, groups_of
from eager_lens.core.assess.promised import Calendar, calendar_of, keeping_of
from eager_lens.core.assess.rules import RULES
from eager_lens.core.assess.rules.addressing import address_trouble, subnets_by_id
from eager_lens.core.assess.rules.kept import of_devices, still_holds
from eager_lens.core.assess.topology import topology
from eager_lens.core.assess.traits import traits_of
from eager_lens.core.assess.whole_job import WholeJob, whole_job
from eager_lens.core.job.changes import Changes, changes, checked_names
from eager_lens.core.job.model import Camera, Device, Job, Recorder, by_id
from eager_lens.core.pauses import pause, with_pauses
from eager_lens.core.recording.week import Mode
from eager_lens.core.sizing.promise import Keeping


class _Judged(NamedTuple):
    """What was found about a device's address by itself: while device and subnets are the same objects, it holds."""

    device: Device
    finding: Finding | None


@dataclass(frozen=True, eq=False)
class Assessment:
    """All figures and findings of one job. ``findings`` stand worst first; those that somebody says are meant so are apart from
    them, in ``accepted``."""

    facts: Facts
    findings: tuple[Finding, ...]
    accepted: tuple[Finding, ...]
    known: dict[str, Known]
    groups: Groups
    judged: dict[str, _Judged]
    by_rule: tuple[tuple[Finding, ...], ...]

    @property
    def job(self) -> Job:
        """The job that was assessed."""
        return self.facts.job

    @cached_property
    def whole(self) -> WholeJob:
        """Figures of the whole job."""
        return whole_job(self.facts)

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
        """Findings of a stage that need somebody: faults, warnings, and what is still to be done."""
        return sum(finding.stage == stage and finding.severity > Severity.NOTE for finding in self.findings)

    def worst(self) -> Severity | None:
        """The worst severity of all findings, or None when there is none."""
        return self.findings[0].severity if self.findings else None


def assess(job: Job, before: Assessment | None = None) -> Assessment:
    """All figures and findings of a job.

    ``before`` is any earlier assessment; it changes nothing in the result and only spares work: what was told of a
    camera is taken over when the camera and its week's plan are the very same objects, and so on.
    """
    since = changes(job, before.job) if before else None
    hours = (
        before.facts.schedule_hours
        if before and before.job.schedules is job.schedules
        else hours_by_schedule(job.schedules)
    )
    known = _known(job, hours, before, since)
    groups = groups_after(before.groups, job, known, before.known, since) if before and since else groups_of(job, known)
    pause()
    devices = tuple(job.devices())
    judged = _judge_addresses(job, devices, before, since)
    figures = {camera_id: had.figures for camera_id, had in known.items()}
    calendar = _calendar(job, before)
    kept = {recorder.id: _kept(recorder, job, groups, calendar, before) for recorder in with_pauses(job.recorders, 1)}
    facts = Facts(
        job=job,
        camera_figures=figures,
        topology=topology(job, figures, groups.cameras_on, before.facts.topology if before else None, since),
        recorder_figures={recorder_id: figures for recorder_id, (figures, _) in kept.items()},
        keeping={recorder_id: keeping for recorder_id, (_, keeping) in kept.items()},
        calendar=calendar,
        streams_on=groups.streams_on,
        with_trait=groups.with_trait,
        cameras_on=groups.cameras_on,
        held=groups.held,
        leading_nowhere=groups.leading_nowhere,
        address_findings=[had.finding for had in judged.values() if had.finding is not None],
        schedule_hours=hours,
        recorders=by_id(job.recorders),
        schedules=by_id(job.schedules),
        subnets=by_id(job.subnets),
        devices=devices,
    )
    by_rule = tuple(
        before.by_rule[at] if before and since and still_holds(rule, before.by_rule[at], since) else tuple(rule(facts))
        for at, rule in enumerate(with_pauses(RULES, 1))
    )
    findings = sorted(chain.from_iterable(by_rule), key=lambda finding: -finding.severity)
    said = {(one.code, one.subjects) for one in job.accepted}
    accepted = tuple(one for one in findings if one.key in said) if said else ()
    still_open = tuple(one for one in findings if one.key not in said) if accepted else tuple(findings)
    return Assessment(facts, still_open, accepted, known, groups, judged, by_rule)


def _known(
    job: Job, hours: dict[str, dict[Mode, float]], before: Assessment | None, since: Changes | None
) -> dict[str, Known]:
    """What is known of each camera by itself."""
    plans = {schedule.id: schedule.plan for schedule in job.schedules}
    assumed = job.assumed.as_assumed()

    def known_of(camera: Camera) -> Known:
        figures = camera_figures(camera, hours.get(camera.schedule, NO_HOURS), assumed)
        return Known(camera, plans.get(camera.schedule), figures, traits_of(camera, figures))

    if before is None or since is None or before.job.assumed != job.assumed:
        return {camera.id: known_of(camera) for camera in with_pauses(job.cameras)}
    if since.cameras is not None and "schedules" not in since.names:
        return before.known | {camera.id: known_of(camera) for camera in since.cameras}
    known = {}
    for camera in with_pauses(job.cameras):
        had = before.known.get(camera.id)
        holds = had is not None and had.camera is camera and had.plan is plans.get(camera.schedule)
        known[camera.id] = had if had is not None and holds else known_of(camera)
    return known


def _calendar(job: Job, before: Assessment | None) -> Calendar:
    """The year of a job; that of before where nothing of it changed."""
    if (
        before is not None
        and before.job.schedules is job.schedules
        and before.job.exceptions is job.exceptions
        and before.job.time_zone == job.time_zone
        and before.job.assumed.latitude_deg == job.assumed.latitude_deg
    ):
        return before.facts.calendar
    return calendar_of(job)


def _kept(
    recorder: Recorder, job: Job, groups: Groups, calendar: Calendar, before: Assessment | None
) -> tuple[RecorderFigures, Keeping | None]:
    """A recorder's figures and its years; those of before where neither it nor any of its cameras changed."""
    cameras, streams = groups.cameras_on[recorder.id], groups.streams_on[recorder.id]
    if (
        before is not None
        and before.facts.recorders.get(recorder.id) is recorder
        and before.facts.calendar is calendar
        and before.job.activity == job.activity
        and _very_same(before.facts.cameras_on[recorder.id], cameras)
        and _very_same(before.facts.streams_on[recorder.id], streams)
    ):
        return before.facts.recorder_figures[recorder.id], before.facts.keeping[recorder.id]
    figures = recorder_figures(recorder, streams, sum(camera.substream_mbps for camera in cameras))
    if figures.mean_days is None:
        return figures, None
    keeping = keeping_of(calendar, job.activity, figures.usable_tb, cameras, streams)
    if keeping is None:
        return figures._replace(mean_days=None, keeps="nothing recorded"), None
    promised, certain = keeping.promised(), keeping.certain()
    return figures._replace(
        promised_days=erased(promised, recorder),
        certain_days=None if certain is None else erased(min(certain, promised), recorder),
    ), keeping


def _very_same(some: Sequence[object], others: Sequence[object]) -> bool:
    """Whether two lists hold the very same objects."""
    return some is others or (len(some) == len(others) and all(map(is_, some, others)))


JUDGED_BY = checked_names("subnets", "network.role", *of_devices("name", "address", "subnet", "address_assignment"))
"""What is looked at when a device's address is judged by itself."""

JUDGED_BESIDE_CAMERAS = frozenset(name for name in JUDGED_BY if not name.startswith("cameras."))


def _judge_addresses(
    job: Job, devices: tuple[Device, ...], before: Assessment | None, since: Changes | None
) -> dict[str, _Judged]:
    if before is not None and since is not None and not since.touch(JUDGED_BY):
        return before.judged
    nets = subnets_by_id(job)
    if (
        before is not None
        and since is not None
        and since.cameras is not None
        and not since.touch(JUDGED_BESIDE_CAMERAS)
    ):
        return before.judged | {one.id: _Judged(one, address_trouble(one, nets)) for one in since.cameras}
    old = before.judged if before and before.job.subnets is job.subnets else {}
    judged: dict[str, _Judged] = {}
    for device in with_pauses(devices, 500):
        had = old.get(device.id)
        if had is None or had.device is not device:
            had = _Judged(device, address_trouble(device, nets))
        judged[device.id] = had
    return judged
