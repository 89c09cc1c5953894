"""What if this fails? Which cameras stop recording with a part, and which can only no longer be seen from outside."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import NamedTuple

from eager_lens.core.job.model import Camera, Job
from eager_lens.core.wiring.network import Network, stopped_by


class Failure(NamedTuple):
    """What one part takes with it: ids of cameras that stop recording, and of those that only lose remote viewing."""

    part: str
    stopped: frozenset[str]
    unseen: frozenset[str]


def stops_recording(network: Network, cameras_on: Mapping[str, Iterable[Camera]]) -> dict[str, set[str]]:
    """By device or link id: the cameras that stop recording when it fails. Parts that nobody needs are not listed.

    Args:
        network: the wiring.
        cameras_on: by recorder id, the cameras registered there.
    """
    stops: dict[str, set[str]] = {}
    for recorder_id, cameras in cameras_on.items():
        for part, lost in stopped_by(network, recorder_id, {camera.id for camera in cameras}).items():
            stops.setdefault(part, set()).update(lost)
    return stops


def hides_recorders(network: Network, job: Job) -> dict[str, set[str]]:
    """By device or link id: the recorders that cannot be watched from outside when it fails.

    Outside is every router with a line to the internet; a recorder is lost when no such router reaches it.
    """
    recorder_ids = {recorder.id for recorder in job.recorders}
    hidden: dict[str, set[str]] = {}
    for at, router_id in enumerate(routes_out(job)):
        lost = {part: set(gone) for part, gone in stopped_by(network, router_id, recorder_ids).items()}
        hidden = lost if at == 0 else {part: hidden[part] & lost[part] for part in hidden if part in lost}
    return {part: gone for part, gone in hidden.items() if gone}


def routes_out(job: Job) -> list[str]:
    """Routers with a line to the internet."""
    return [device.id for device in job.network if device.upload_mbps is not None]


def stops_with_unit(network: Network, cameras_on: Mapping[str, Iterable[Camera]], gone: frozenset[str]) -> set[str]:
    """The cameras that stop recording when several devices fail at once, as those on one supply do."""
    left = network.without(gone)
    stopped: set[str] = set()
    for recorder_id, cameras in cameras_on.items():
        before = network.reached_from(recorder_id)
        after = left.reached_from(recorder_id) if recorder_id not in gone else set()
        stopped |= {camera.id for camera in cameras if camera.id in before and camera.id not in after}
    return stopped


def failures(
    network: Network, job: Job, cameras_on: Mapping[str, Iterable[Camera]], stops: Mapping[str, set[str]]
) -> list[Failure]:
    """What each single part takes with it, worst first: devices, links, injectors and power supplies.

    Args:
        network, job: the wiring, and the job that it belongs to.
        cameras_on: by recorder id, the cameras registered there.
        stops: what ``stops_recording`` found.
    """
    on = {recorder_id: {camera.id for camera in cameras} for recorder_id, cameras in cameras_on.items()}
    hides = hides_recorders(network, job)
    seen = {one.id for one in job.recorders if any(network.reaches(one.id, router) for router in routes_out(job))}
    found = []
    for part in dict.fromkeys((*stops, *hides)):
        stopped = stops.get(part, set())
        hidden = hides.get(part, set())
        unseen: set[str] = set().union(*(on[recorder_id] for recorder_id in hidden))
        if unseen:
            unseen = unseen.difference(*(on[recorder_id] for recorder_id in seen - hidden))
        found.append(Failure(part, frozenset(stopped), frozenset(unseen - stopped)))
    for unit in job.power_units:
        if unit.kind != "ups" and unit.feeds:
            stopped = stops_with_unit(network, cameras_on, frozenset(unit.feeds))
            if stopped:
                found.append(Failure(unit.id, frozenset(stopped), frozenset()))
    return sorted(found, key=lambda failure: (-len(failure.stopped), -len(failure.unseen)))
