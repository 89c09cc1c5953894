"""The assessment of a job: every figure and finding, recalculated only where something changed."""

from dataclasses import dataclass
from functools import cache, cached_property
from itertools import chain

from eager_lens.core.assess.figures.devices import CameraFigures, RecorderFigures, hours_by_schedule
from eager_lens.core.assess.figures.facts import Facts
from eager_lens.core.assess.figures.topology import topology
from eager_lens.core.assess.figures.whole_job import WholeJob, whole_job
from eager_lens.core.assess.finding import Finding, Severity, Stage
from eager_lens.core.assess.incremental.addresses import Judged, judged_addresses
from eager_lens.core.assess.incremental.cameras import known_cameras
from eager_lens.core.assess.incremental.groups import Groups, Known, groups_after, groups_of
from eager_lens.core.assess.incremental.kept import still_holds
from eager_lens.core.assess.incremental.recorders import known_calendar, known_recorder
from eager_lens.core.assess.rules import RULES
from eager_lens.core.assess.rules.addressing import address_trouble, subnets_by_id
from eager_lens.core.job.changes import changes
from eager_lens.core.job.model import Job, by_id
from eager_lens.core.pauses import pause, with_pauses


@dataclass(frozen=True, eq=False)
class Assessment:
    """All figures and findings of one job. ``findings`` stand worst first; those that somebody says are meant so are apart from
    them, in ``accepted``."""

    facts: Facts
    findings: tuple[Finding, ...]
    accepted: tuple[Finding, ...]
    known: dict[str, Known]
    groups: Groups
    judged: dict[str, Judged]
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
    # `since` lists what an edit touched; None means "compare with nothing", so everything is calculated.
    since = changes(job, before.job) if before else None
    was = before.facts if before else None
    hours = was.schedule_hours if was and was.job.schedules is job.schedules else hours_by_schedule(job.schedules)
    known = known_cameras(job, hours, was, before.known if before else {}, since)
    # Order matters: groups need the cameras' traits, recorders need groups, and the facts need all of them.
    groups = groups_after(before.groups, job, known, before.known, since) if before and since else groups_of(job, known)
    pause()
    devices = tuple(job.devices())
    nets = cache(lambda: subnets_by_id(job))  # most edits judge no address
    judged = judged_addresses(
        job, devices, lambda device: address_trouble(device, nets()), was, before.judged if before else {}, since
    )
    figures = {camera_id: had.figures for camera_id, had in known.items()}
    calendar = known_calendar(job, was)
    kept = {one.id: known_recorder(one, job, groups, calendar, was) for one in with_pauses(job.recorders, 1)}
    facts = Facts(
        job=job,
        camera_figures=figures,
        topology=topology(job, figures, groups.cameras_on, was.topology if was else None, since),
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
    # One tuple per rule, not one list: an untouched rule can then hand its findings on unchanged.
    by_rule = tuple(
        before.by_rule[at] if before and since and still_holds(rule, before.by_rule[at], since) else tuple(rule(facts))
        for at, rule in enumerate(with_pauses(RULES, 1))
    )
    # sorted() is stable, so findings of one severity keep the order of the rules.
    findings = sorted(chain.from_iterable(by_rule), key=lambda finding: -finding.severity)
    said = {(one.code, one.subjects) for one in job.accepted}
    accepted = tuple(one for one in findings if one.key in said) if said else ()
    still_open = tuple(one for one in findings if one.key not in said) if accepted else tuple(findings)
    return Assessment(facts, still_open, accepted, known, groups, judged, by_rule)
