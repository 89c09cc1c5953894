"""Ways out that hold cameras to a maximum bit rate, and drives where that is not enough."""

from __future__ import annotations

from collections.abc import Collection, Iterator

from eager_lens.core.assess.assessment import Assessment, assess
from eager_lens.core.assess.figures.enough_drives import enough_drives
from eager_lens.core.assess.finding import Finding
from eager_lens.core.assess.limits import keeps
from eager_lens.core.job.cap_edit import cap_each
from eager_lens.core.job.edits import Edit, both
from eager_lens.core.job.model import Camera, NetworkDevice, Recorder


def cap_rates(finding: Finding, assessment: Assessment) -> Iterator[Edit]:
    """The usual maximum bit rate for the cameras whose rates make the trouble: on the recorder, through the link, or watched."""
    edit = cap_each(_whose_rates(finding, assessment))
    if edit is not None:
        yield edit


def _whose_rates(finding: Finding, assessment: Assessment) -> list[Camera]:
    facts, subjects, whose = assessment.facts, set(finding.subjects), finding.kind.way_out
    if whose in ("cap what a link carries", "cap what the air carries"):
        ids = _through(assessment, subjects, whose == "cap what the air carries")
        return [camera for camera in assessment.job.cameras if camera.id in ids]
    if whose == "cap":
        return [camera for camera in assessment.job.cameras if camera.id in subjects]
    recorders: Collection[str] = subjects
    if whose == "cap what is uploaded":
        main = [facts.by_device_id[one] for one in subjects if one in facts.by_device_id]
        if not any(isinstance(device, NetworkDevice) and device.views_main_streams for device in main):
            return []
        recorders = {recorder for recorder, watcher, _ in facts.topology.watched if watcher in subjects}
    return [camera for recorder in recorders for camera in facts.cameras_on.get(recorder, ())]


def _through(assessment: Assessment, subjects: set[str], by_radio: bool) -> set[str]:
    """The cameras whose way passes the links between these devices, or the radio links of one of them."""
    found: set[str] = set()
    for link in assessment.job.links:
        ends = {link.a, link.b}
        if ends <= subjects or (by_radio and link.medium == "radio" and ends & subjects):
            found.update(assessment.facts.topology.on_route.get(link.id, ()))
    return found


def more_days(finding: Finding, assessment: Assessment) -> Iterator[Edit]:
    """Caps; caps with the drives that are still wanted then; or drives alone."""
    for recorder in assessment.job.recorders:
        if recorder.id not in finding.subjects:
            continue
        capping = cap_each(assessment.facts.cameras_on[recorder.id])
        if capping is not None:
            after = assess(capping.apply(assessment.job), assessment)
            yield capping
            if not keeps(after.recorder(recorder.id).promised_days, assessment.job.retention.least_days):
                yield from (both(capping, drives) for drives in _drives(recorder, after))
        yield from _drives(recorder, assessment)


def _drives(recorder: Recorder, assessment: Assessment) -> Iterator[Edit]:
    keeping = assessment.facts.keeping[recorder.id]
    if keeping is not None:
        drives = enough_drives(recorder, keeping.space_gb_for(assessment.job.retention.least_days) / 1000)
        if drives is not None:
            yield drives.edit
