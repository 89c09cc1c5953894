"""From motion in front of a camera to a clip on a recorder: every link of the chain, and the first that is broken.

The camera detects and sends, the recorder accepts, its week allows. With one end only nothing is recorded, and nothing
says so: what both ends must agree on is this module.
"""

from __future__ import annotations

from typing import NamedTuple

from eager_lens.core.assess.figures.facts import Facts
from eager_lens.core.assess.figures.sides import right_target
from eager_lens.core.job.model import Camera, Recorder
from eager_lens.core.units import figure


class ChainLink(NamedTuple):
    """A link of the chain: what has to hold, whether it does, and how it is, in words."""

    name: str
    holds: bool
    words: str


def recorder_told(facts: Facts, camera: Camera) -> Recorder | None:
    """The recorder that a camera tells of motion: of those that it is registered on the one that its events are sent to, else the
    first."""
    found = [facts.recorders[place.recorder] for place in camera.registered if place.recorder in facts.recorders]
    told = (
        one
        for one in found
        if camera.event_target and camera.event_target in (one.address, one.camera_interface_address)
    )
    return next(told, found[0] if found else None)


def chain_of(facts: Facts, camera: Camera, recorder: Recorder) -> tuple[ChainLink, ...]:
    """The chain of a camera that records on motion on a recorder, in the order in which it happens."""
    target = right_target(recorder, camera)
    sent_to = camera.event_target or target
    sends, listens = camera.event_tcp_port, recorder.event_tcp_port
    unreached = camera.id in facts.topology.cut_off
    figures = facts.camera_figures[camera.id]
    return (
        ChainLink("the camera's rule", camera.motion_rule_on, "on" if camera.motion_rule_on else "off on the camera"),
        ChainLink(
            "sent to the recorder",
            bool(sent_to) and sent_to == target,
            _sent_words(camera, recorder, sent_to, target),
        ),
        ChainLink(
            "a path to the recorder", not unreached, "linked" if not unreached else f"no link leads to {recorder.name}"
        ),
        ChainLink("the same port", sends == listens, _port_words(sends, listens)),
        ChainLink(
            "the recorder accepts", recorder.takes_events, "yes" if recorder.takes_events else f"off on {recorder.name}"
        ),
        ChainLink(
            "the schedule allows it",
            figures.motion_h_per_day > 0,
            f"{figure(figures.motion_h_per_day)} h a day"
            if figures.motion_h_per_day
            else "the schedule has no motion hours",
        ),
        ChainLink(
            "pre- or post-recording",
            camera.pre_recording_s + camera.post_recording_s + camera.event_s > 0,
            f"{figure(camera.pre_recording_s)} s before, {figure(camera.post_recording_s)} s after",
        ),
    )


def _sent_words(camera: Camera, recorder: Recorder, sent_to: str, target: str) -> str:
    if not target:
        return f"{recorder.name} has no address yet"
    if sent_to == target:
        return f"to {target}"
    side = (
        "its other interface"
        if sent_to in (recorder.address, recorder.camera_interface_address)
        else "not an address of the recorder"
    )
    return f"to {sent_to}, {side}; it listens at {target}"


def _port_words(sends: int, listens: int) -> str:
    if sends == listens:
        return "both on the maker's default" if not sends else f"both {sends}"
    words = [str(port) if port else "the maker's default" for port in (sends, listens)]
    return f"the camera sends to {words[0]}, the recorder listens at {words[1]}"


def broken_link(chain: tuple[ChainLink, ...]) -> ChainLink | None:
    """The first link that does not hold."""
    return next((link for link in chain if not link.holds), None)
