"""Ways out that take another device, or one more: larger switches, switches for loose cameras, a further recorder."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import suppress
from typing import Any

from eager_lens.core.assess.assessment import Assessment, assess
from eager_lens.core.assess.finding import Finding
from eager_lens.core.assess.rules.sizing import DAYS_DOUBTFUL, DAYS_SHORT
from eager_lens.core.enquiry.storage import (
    MOST_CHANNELS,
    NoDrives,
    RecorderSize,
    larger_sizes,
    recorder_for,
    with_drives,
)
from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.edits import Edit, set_fields, with_parts
from eager_lens.core.job.model import Camera, Job, NetworkDevice, Recorder, changed, fresh_ids
from eager_lens.core.job.spares import mark_as_spare
from eager_lens.core.job.wiring import put_on
from eager_lens.core.options.remedies.long_run import addressed
from eager_lens.core.planning.attaching import attached
from eager_lens.core.planning.registering import fill_the_channels, free_channels
from eager_lens.core.planning.switch_sizes import switch_for
from eager_lens.core.units import count


def larger_switch(finding: Finding, assessment: Assessment) -> Iterator[Edit]:
    """The smallest switch that takes and feeds all that hangs on one, in its place."""
    facts = assessment.facts
    subjects = (facts.by_device_id.get(one) for one in finding.subjects)
    device = next((one for one in subjects if isinstance(one, NetworkDevice) and one.role == "switch"), None)
    if device is None:
        return
    ends = [link.far_end(device.id)[0] for link in facts.topology.wiring.links_at.get(device.id, ())]
    cameras = [camera for end in ends if isinstance(camera := facts.by_device_id.get(end), Camera)]
    kind = switch_for(cameras, len(ends) - len(cameras))
    # Of the same type, too: somebody may have typed what his own gives.
    if kind is not None and any(getattr(device, name) != value for name, value in kind.fits().items()):
        yield set_fields([device.id], f"{kind.label} as {device.name}", **kind.fits())


def connect_loose(finding: Finding, assessment: Assessment) -> Iterator[Edit]:
    """Loose cameras on the switches of their places, and on new ones where those have no room."""
    job, recorders = assessment.job, assessment.job.recorders
    if not recorders:
        return
    attachment = recorders[0].attachment

    def apply(present: Job) -> Job:
        wired = attached(present, attachment)
        return with_parts(present, network=wired.network, recorders=wired.recorders, links=wired.links)

    many = count(len(finding.subjects), "camera")
    more = len(attached(job, attachment).network) - len(job.network)
    switches = f", with {count(more, 'new switch', 'new switches')}" if more else ""
    yield Edit(f"Connect {many}{switches}", apply)


def mark_idle_as_spare(finding: Finding, assessment: Assessment) -> Iterator[Edit]:
    """Those that no link and no channel has yet, as spare: bought for later, or for the day when one fails."""
    facts = assessment.facts
    idle = [
        one
        for one in finding.subjects
        if (device := facts.by_device_id.get(one)) is not None
        and not facts.topology.wiring.links_at.get(one)
        and not getattr(device, "registered", ())
    ]
    if idle:
        yield mark_as_spare(idle)


def join_networks(finding: Finding, assessment: Assessment) -> Iterator[Edit]:
    """A link between what cut-off cameras hang on and their recorder."""
    facts = assessment.facts
    camera = facts.by_device_id.get(finding.subjects[0])
    link = facts.topology.wiring.feeders.get(finding.subjects[0])
    if not isinstance(camera, Camera) or link is None:
        return
    hung_on, _ = link.far_end(camera.id)
    for place in camera.registered:
        if place.recorder in facts.recorders and not facts.topology.wiring.network.reaches(camera.id, place.recorder):
            with suppress(RefusedInput):
                yield put_on(assessment.job, [hung_on], _hub_of(place.recorder, assessment) or place.recorder)


def _hub_of(recorder_id: str, assessment: Assessment) -> str | None:
    """What a recorder hangs on."""
    links = assessment.facts.topology.wiring.links_at.get(recorder_id, ())
    return next((link.far_end(recorder_id)[0] for link in links), None)


def more_channels(finding: Finding, assessment: Assessment) -> Iterator[Edit]:
    """For cameras that no channel is left for: a larger recorder in the place of one, else a further one."""
    job, facts = assessment.job, assessment.facts
    lost = [camera for camera in job.cameras if not camera.registered and not camera.card_gb][:MOST_CHANNELS]
    free = sum(len(free_channels(recorder, facts.held)) for recorder in job.recorders)
    if len(lost) <= free:
        return
    for recorder in job.recorders:
        streams = [*facts.streams_on[recorder.id], *(assessment.camera(camera.id) for camera in lost[free:])]
        for size in larger_sizes(recorder, streams)[:1]:
            yield _larger(recorder, size)
    yield _further(lost, assessment)


def _larger(recorder: Recorder, size: RecorderSize) -> Edit:
    """A recorder of more channels in the place of one, with drives that keep the days where its own do not."""
    words = f"{recorder.name} with {size.channels} channels instead of {recorder.channels}"
    limit_mbps = max(recorder.incoming_limit_mbps, size.incoming_limit_mbps)
    fields: dict[str, Any] = {
        "channels": size.channels,
        "incoming_limit_mbps": limit_mbps,
        "bays": max(recorder.bays, size.bays),
    }

    def apply(present: Job) -> Job:
        larger = fill_the_channels().apply(set_fields([recorder.id], words, **fields).apply(present))
        short = {one.subjects[0] for one in assess(larger).findings if one.kind in (DAYS_SHORT, DAYS_DOUBTFUL)}
        if recorder.id not in short:
            return larger
        with suppress(NoDrives):
            equipped = {one.id: one for one in with_drives(larger, recorder.raid_level != "span").recorders}
            kept = (equipped[one.id] if one.id == recorder.id else one for one in larger.recorders)
            larger = with_parts(larger, recorders=tuple(kept))
        return larger

    return Edit(words, apply)


def _further(lost: list[Camera], assessment: Assessment) -> Edit:
    """A recorder for cameras that no channel is left for, with drives that keep the days."""
    job = assessment.job
    (new_id,) = fresh_ids("rec", job.device_ids(), 1)
    figures = [assessment.camera(camera.id) for camera in lost]
    base = job.recorders[0] if job.recorders else None
    made = recorder_for(
        new_id, f"Recorder {len(job.recorders) + 1}", lost[0].place if base is None else base.place, figures
    )
    if base is not None:
        made = changed(made, subnet=base.subnet)

    def apply(present: Job) -> Job:
        filled = fill_the_channels().apply(with_parts(present, recorders=(*present.recorders, made)))
        with suppress(NoDrives):
            equipped = with_drives(filled, redundancy=True).recorders[-1]
            filled = with_parts(filled, recorders=(*filled.recorders[:-1], equipped))
        hub = None if base is None else _hub_of(base.id, assessment)
        with suppress(RefusedInput):
            filled = filled if hub is None else put_on(filled, [new_id], hub).apply(filled)
        return addressed(filled, new_id)

    return Edit(f"Add a recorder of {made.channels} channels for {count(len(lost), 'camera')}", apply)
