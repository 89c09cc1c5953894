"""Findings about recorders and channels: who is registered where, and what the recorder can take."""

from __future__ import annotations

from collections.abc import Iterator

from eager_lens.core.assess.figures.devices import CameraFigures
from eager_lens.core.assess.figures.facts import Facts
from eager_lens.core.assess.finding import Finding, FindingKind, Severity, names_listed
from eager_lens.core.assess.incremental.kept import reads
from eager_lens.core.assess.incremental.traits import trait
from eager_lens.core.assess.limits import NEAR_SHARE
from eager_lens.core.job.edits import Edit, set_each, set_fields
from eager_lens.core.job.model import Camera, Recorder, changed
from eager_lens.core.planning.registering import fill_the_channels, free_channels
from eager_lens.core.reference.streams import stream_assumptions
from eager_lens.core.units import count, figure
from eager_lens.core.validation import at_most

CARD_ONLY = FindingKind("card-only", "bench")
NOT_REGISTERED = FindingKind(
    "not-registered", "bench", colours="registered", way_out="more channels", of_what_is_missing=True
)


@trait
def has_no_recorder(camera: Camera, _: CameraFigures) -> bool:
    """Whether no recorder records it."""
    return not camera.registered


def not_registered(facts: Facts) -> Iterator[Finding]:
    """A camera without a recorder records nothing."""
    without = facts.having(has_no_recorder)
    on_cards = [camera for camera in without if camera.card_gb]
    if on_cards:
        yield Finding(
            CARD_ONLY,
            Severity.NOTE,
            f"{count(len(on_cards), 'camera records', 'cameras record')} on the memory card only",
            f"{names_listed([camera.name for camera in on_cards])}: a thief who takes the camera takes the recording too.",
            "Register them if a recorder should record them as well.",
            tuple(camera.id for camera in on_cards),
        )
    lost = [camera for camera in without if not camera.card_gb]
    if not lost:
        return
    free = sum(len(free_channels(recorder, facts.held)) for recorder in facts.job.recorders)
    if not facts.job.recorders:
        action = "Add a recorder, then register the cameras."
    elif free < len(lost):
        action = f"Only {count(free, 'channel is', 'channels are')} free, so a second or larger recorder is needed."
    else:
        action = f"Register all cameras; {count(free, 'channel is', 'channels are')} free."
    yield Finding(
        NOT_REGISTERED,
        facts.when_missing(Severity.FAULT),
        f"{count(len(lost), 'camera')} without a recorder",
        f"{names_listed([camera.name for camera in lost])}: no recorder records them, so nothing is kept.",
        action,
        tuple(camera.id for camera in lost),
        fill_the_channels() if free else None,
    )


CHANNELS = FindingKind("channels", "bench", colours="registered")


def too_many_cameras(facts: Facts) -> Iterator[Finding]:
    """More cameras than channels."""
    for recorder in facts.job.recorders:
        cameras = facts.cameras_on[recorder.id]
        if len(cameras) > recorder.channels:
            yield Finding(
                CHANNELS,
                Severity.FAULT,
                f"{recorder.name}: {count(len(cameras), 'camera')} for {count(recorder.channels, 'channel')}",
                "The recorder refuses cameras beyond its last channel.",
                "Move cameras to another recorder, or use one with more channels.",
                (recorder.id, *(camera.id for camera in cameras[recorder.channels :])),
            )


NO_SUCH_CHANNEL = FindingKind("no-such-channel", "bench", colours="registered", button="Use a free channel")
CHANNEL_TWICE = FindingKind("channel-twice", "bench", colours="registered", button="Use a free channel")


def channel_troubles(facts: Facts) -> Iterator[Finding]:
    """One channel given twice, or a channel that the recorder does not have."""
    for recorder in facts.job.recorders:
        channels = facts.held[recorder.id]
        wrong = sorted(n for n, ids in channels.items() if len(ids) > 1 or n > recorder.channels)
        if not wrong:
            continue
        cameras = {camera.id: camera for camera in facts.cameras_on[recorder.id]}
        free = free_channels(recorder, facts.held)
        for channel in wrong:
            ids = channels[channel]
            names = names_listed([cameras[camera_id].name for camera_id in ids])
            if channel > recorder.channels:
                yield Finding(
                    NO_SUCH_CHANNEL,
                    Severity.FAULT,
                    f"{names} on channel {channel} of {recorder.channels}",
                    f"{recorder.name} has no such channel.",
                    "Select a free channel." if free else "No channel is free; move it to another recorder.",
                    (ids[0], recorder.id),
                    _to_free_channel(recorder, cameras[ids[0]], channel, free),
                )
            else:
                yield Finding(
                    CHANNEL_TWICE,
                    Severity.FAULT,
                    f"{recorder.name}: channel {channel} is planned {len(ids)} times",
                    f"{names}: only one of them would be recorded.",
                    "Select a free channel for the later one."
                    if free
                    else "No channel is free; move one to another recorder.",
                    (*ids, recorder.id),
                    _to_free_channel(recorder, cameras[ids[-1]], channel, free),
                )


def _to_free_channel(recorder: Recorder, camera: Camera, channel: int, free: list[int]) -> Edit | None:
    if not free:
        return None
    places = list(camera.registered)
    at = max(i for i, place in enumerate(places) if (place.recorder, place.channel) == (recorder.id, channel))
    places[at] = changed(places[at], channel=free[0])
    return set_fields([camera.id], f"Register {camera.name} on channel {free[0]}", registered=tuple(places))


UNKNOWN_RECORDER = FindingKind("unknown-recorder", "bench", button="Remove entries")


def unknown_recorder(facts: Facts) -> Iterator[Finding]:
    """A camera registered on a recorder that is not there."""
    lost = facts.leading_nowhere
    if lost:
        values = {
            camera.id: {"registered": tuple(p for p in camera.registered if p.recorder in facts.recorders)}
            for camera in lost
        }
        yield Finding(
            UNKNOWN_RECORDER,
            Severity.FAULT,
            f"{count(len(lost), 'camera')} registered on a recorder that is not in the job",
            f"{names_listed([camera.name for camera in lost])}: nothing is recorded.",
            "Remove the entry, then register the cameras.",
            tuple(camera.id for camera in lost),
            set_each("Remove entries without a recorder", values),
        )


INCOMING_OVER = FindingKind("incoming-over", "bench", colours="incoming", way_out="cap what comes in")
INCOMING_NEAR = FindingKind("incoming-near", "bench", colours="incoming", way_out="cap what comes in")


def incoming(facts: Facts) -> Iterator[Finding]:
    """More megabits a second than the recorder takes in."""
    for recorder in facts.job.recorders:
        got = facts.recorder_figures[recorder.id]
        limit = recorder.incoming_limit_mbps
        load = f"{figure(got.incoming_mbps)} of {figure(limit)} Mb/s"
        if not at_most(got.incoming_mbps, limit):
            yield Finding(
                INCOMING_OVER,
                Severity.FAULT,
                f"{recorder.name}: {load} incoming",
                "Above its limit a recorder drops streams or pictures, and nobody can say which.",
                "Lower the frame rate or the resolution, or move cameras to another recorder.",
                (recorder.id,),
            )
        elif got.incoming_mbps > NEAR_SHARE * limit or not at_most(got.incoming_high_mbps, limit):
            yield Finding(
                INCOMING_NEAR,
                Severity.WARNING,
                f"{recorder.name}: {load} incoming, little to spare",
                f"Busy scenes would need {figure(got.incoming_high_mbps)} Mb/s.",
                "Measure the bit rates of the busiest cameras, or lower them.",
                (recorder.id,),
            )


PICTURE_TOO_LARGE = FindingKind("picture-too-large", "bench", way_out="smaller picture")
CODEC = FindingKind("codec", "bench", way_out="another codec")


@reads("recorders", *(f"cameras.{field}" for field in ("name", "registered", "width_px", "height_px", "codec")))
def not_accepted(facts: Facts) -> Iterator[Finding]:
    """A picture or codec that the recorder cannot take."""
    labels = stream_assumptions().codec_label
    for recorder in facts.job.recorders:
        cameras = facts.cameras_on[recorder.id]
        largest_px = recorder.largest_megapixels * 1e6
        large = [camera for camera in cameras if not at_most(camera.width_px * camera.height_px, largest_px)]
        if large:
            yield Finding(
                PICTURE_TOO_LARGE,
                Severity.FAULT,
                f"{names_listed([camera.name for camera in large])}: resolution too high for {recorder.name}",
                f"It takes up to {figure(recorder.largest_megapixels)} MP a channel; {large[0].width_px} × "
                f"{large[0].height_px} px are {figure(large[0].megapixels)} MP.",
                "Lower the resolution, or use another recorder.",
                (*(camera.id for camera in large), recorder.id),
            )
        strange = [camera for camera in cameras if camera.codec not in recorder.codecs]
        if strange:
            taken = [labels[codec] for codec in recorder.codecs]
            fix = None
            if len(recorder.codecs) == 1:
                ids = [camera.id for camera in strange]
                fix = set_fields(ids, f"Use {taken[0]}", codec=recorder.codecs[0])
            yield Finding(
                CODEC,
                Severity.FAULT,
                f"{names_listed([camera.name for camera in strange])}: {recorder.name} cannot record {labels[strange[0].codec]}",
                f"It records {' and '.join(taken) or 'no codec'}. The channel would stay black.",
                "Set the camera to a codec that the recorder can record.",
                (*(camera.id for camera in strange), recorder.id),
                fix,
            )


TWO_RECORDERS = FindingKind("two-recorders", "bench")
SAME_RECORDER_TWICE = FindingKind("same-recorder-twice", "bench")


@trait
def is_on_several_channels(camera: Camera, _: CameraFigures) -> bool:
    """Whether it is registered more than once."""
    return len(camera.registered) > 1


def two_recorders(facts: Facts) -> Iterator[Finding]:
    """Cameras recorded twice: allowed, and counted twice."""
    several = facts.having(is_on_several_channels)
    twice = [camera for camera in several if len({place.recorder for place in camera.registered}) > 1]
    if twice:
        extra = sum(facts.camera_figures[camera.id].load_mbps for camera in twice)
        yield Finding(
            TWO_RECORDERS,
            Severity.NOTE,
            f"{names_listed([camera.name for camera in twice])} on two recorders",
            f"This is allowed, and counted twice: the camera sends a second main stream, {figure(extra)} Mb/s more in all.",
            "Check that the camera can send two main streams.",
            tuple(camera.id for camera in twice),
        )
    doubled = [camera for camera in several if len({p.recorder for p in camera.registered}) < len(camera.registered)]
    if doubled:
        yield Finding(
            SAME_RECORDER_TWICE,
            Severity.FAULT,
            f"{names_listed([camera.name for camera in doubled])} twice on one recorder",
            "It uses two channels and is stored twice.",
            "Free one of the channels.",
            tuple(camera.id for camera in doubled),
        )


RULES = (
    not_registered,
    too_many_cameras,
    channel_troubles,
    unknown_recorder,
    incoming,
    not_accepted,
    two_recorders,
)
