"""Findings about recording on movement: seconds before and after, and what they add up to."""

from __future__ import annotations

import math
from collections.abc import Iterator

from eager_lens.core.assess.chain import broken_link, chain_of
from eager_lens.core.assess.facts import Facts
from eager_lens.core.assess.figures import input_clip_s
from eager_lens.core.assess.finding import Finding, Severity, names_listed
from eager_lens.core.assess.rules.kept import reads
from eager_lens.core.job.edits import Edit, set_each, set_fields
from eager_lens.core.job.model import Camera
from eager_lens.core.recording.pre_buffer import pre_buffer_megabytes
from eager_lens.core.units import count, figure
from eager_lens.core.validation import at_most

USUAL_POST_S = 15.0

CHAIN_FIELDS = (
    *("name", "subnet", "week", "registered", "movement_rule", "event_port", "event_target"),
    *("pre_s", "post_s", "event_s"),
)
"""What the chain from movement to clip looks at in a camera."""


def nothing_after(facts: Facts) -> Iterator[Finding]:
    """Without seconds after an event, a visit falls into fragments."""
    bare = facts.with_trait["nothing after"]
    if bare:
        ids = tuple(camera.id for camera in bare)
        yield Finding(
            "nothing-after",
            Severity.DOUBT,
            "movement",
            f"0 s after the event at {names_listed([camera.name for camera in bare])}",
            "A visitor who stands still or steps out and back falls into many fragments, each too short to tell who.",
            f"{USUAL_POST_S:g} s joins most visits into one clip.",
            ids,
            set_fields(ids, f"Record {USUAL_POST_S:g} s after", post_s=USUAL_POST_S),
        )


def nearly_always(facts: Facts) -> Iterator[Finding]:
    """Movement recording that has become continuous by another name."""
    busy = facts.with_trait["nearly always"]
    if busy:
        share = facts.camera_figures[busy[0].id].movement_share
        yield Finding(
            "nearly-always",
            Severity.DOUBT,
            "movement",
            f"{names_listed([camera.name for camera in busy])}: movement records {figure(100 * share)} % of its hours",
            "So many events with so many seconds around them run together: it is continuous recording by another "
            "name, and saves nothing.",
            "Fewer seconds before and after, a rule that catches less, or plan it as always.",
            tuple(camera.id for camera in busy),
        )


def before_is_shorter_than_key_frame(facts: Facts) -> Iterator[Finding]:
    """A clip can only begin at a key frame."""
    late = facts.with_trait["before is short"]
    if late:
        yield Finding(
            "before-key-frame",
            Severity.DOUBT,
            "movement",
            f"{count(len(late), 'camera')} with fewer seconds before than between key frames",
            f"{names_listed([_intervals(camera) for camera in late], 2)}"
            ": a clip can only begin at a key frame, so the approach may be missing.",
            "Set the seconds before to at least the key-frame interval.",
            tuple(camera.id for camera in late),
        )


def _intervals(camera: Camera) -> str:
    return f"{camera.name} ({figure(camera.pre_s)} s, key frame every {figure(camera.key_frame_s)} s)"


@reads("recorders", "links", "network", "weeks", *(f"cameras.{field}" for field in CHAIN_FIELDS))
def broken_chains(facts: Facts) -> Iterator[Finding]:
    """Cameras whose movement reaches no clip: the first broken link of each, told together by link.

    Where events go, and that there is a way, have findings of their own (Addresses, Wiring).
    """
    by_link: dict[tuple[str, str], list[Camera]] = {}
    for recorder in facts.job.recorders:
        for camera in facts.cameras_on[recorder.id]:
            if camera.movement_rule and recorder.takes_events and camera.event_port == recorder.event_port:
                continue  # nearly all of them; the rest of the chain is told elsewhere
            if facts.camera_figures[camera.id].movement_h_per_day:
                link = broken_link(chain_of(facts, camera, recorder))
                if link is not None and link.name in CHAIN_FIXES:
                    by_link.setdefault((link.name, link.words), []).append(camera)
    for (name, words), cameras in by_link.items():
        ids = tuple(dict.fromkeys(camera.id for camera in cameras))
        yield Finding(
            "chain-broken",
            Severity.FAULT,
            "movement",
            f"{names_listed([camera.name for camera in cameras])}: movement is not recorded, {words}",
            f"The chain from movement to clip breaks at “{name}”: nothing is kept in its movement hours, silently.",
            CHAIN_FIXES[name],
            ids,
            _chain_fix(facts, name, cameras),
        )


CHAIN_FIXES = {
    "the camera's rule": "Switch the movement rule on, on the camera, and note it here.",
    "the same port": "Give both ends one port.",
    "the recorder accepts": "Let the recorder accept event messages, and note it here.",
}


def _chain_fix(facts: Facts, name: str, cameras: list[Camera]) -> Edit:
    ids = [camera.id for camera in cameras]
    recorders = {place.recorder for camera in cameras for place in camera.registered}
    if name == "the camera's rule":
        return set_fields(ids, f"Rule on at {count(len(ids), 'camera')}", movement_rule=True)
    if name == "the recorder accepts":
        closed = [one.id for one in facts.job.recorders if one.id in recorders and not one.takes_events]
        return set_fields(closed, "Let the recorder take events", takes_events=True)
    ports = {one.id: one.event_port for one in facts.job.recorders}
    values = {camera.id: {"event_port": ports[camera.registered[0].recorder]} for camera in cameras}
    return set_each(f"One port for {count(len(ids), 'camera')}", values)


def before_memory(facts: Facts) -> Iterator[Finding]:
    """Seconds before an event that the recorder has no memory for."""
    for recorder in facts.job.recorders:
        if recorder.before_memory_mb is None:
            continue
        before_s = {camera.id: _before_s(camera, facts) for camera in facts.cameras_on[recorder.id]}
        waiting = [camera for camera in facts.cameras_on[recorder.id] if before_s[camera.id]]
        needed_mb = sum(pre_buffer_megabytes([facts.camera_figures[c.id].rate_mbps], before_s[c.id]) for c in waiting)
        if at_most(needed_mb, recorder.before_memory_mb):
            continue
        share = recorder.before_memory_mb / needed_mb
        values = {camera.id: _shorter_before(camera, share) for camera in waiting}
        yield Finding(
            "before-memory",
            Severity.FAULT,
            "movement",
            f"{recorder.name}: {figure(needed_mb)} MB for the seconds before, of {figure(recorder.before_memory_mb)} MB",
            f"{count(len(waiting), 'camera')} together want more than its memory holds, so that clips begin later than planned.",
            "Fewer seconds before, or a lower rate; the approach of a person wants 2 to 10 s.",
            (recorder.id, *(camera.id for camera in waiting)),
            set_each(f"Seconds before down to {figure(100 * share)} %", values),
        )


def _before_s(camera: Camera, facts: Facts) -> float:
    """How far back a camera's week may ask the recorder to go."""
    got = facts.camera_figures[camera.id]
    on_movement = camera.pre_s if got.movement_h_per_day else 0.0
    on_input = input_clip_s(camera)[0] if got.input_h_per_day or got.either_h_per_day else 0.0
    return max(on_movement, on_input)


def _shorter_before(camera: Camera, share: float) -> dict[str, float]:
    """A camera's seconds before, and those of its inputs where it has them, cut to a share."""
    values = {"pre_s": camera.pre_s}
    if camera.input_pre_s is not None:
        values["input_pre_s"] = camera.input_pre_s
    return {name: math.floor(seconds * share * 10) / 10 for name, seconds in values.items()}


RULES = (broken_chains, before_memory, nothing_after, nearly_always, before_is_shorter_than_key_frame)
