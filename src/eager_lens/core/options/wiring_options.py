"""The four ways of attaching cameras, side by side for this very job: what each costs and saves.

Every figure is read from the job as it would be rewired, assessed like any other.
"""

from __future__ import annotations

from typing import NamedTuple

from eager_lens.core.assess.assessment import Assessment, assess
from eager_lens.core.assess.figures.facts import Facts
from eager_lens.core.assess.finding import Finding, Severity, Stage
from eager_lens.core.job.model import Attachment, Camera, Recorder
from eager_lens.core.planning.attaching import attached
from eager_lens.core.present.parts import Part, more_than, parts_list

STAGES_JUDGED: tuple[Stage, ...] = ("wiring", "sizing", "bench")
"""Where the limits are judged that a way can hit: links, ports and power, what recorders take in, and channels."""

SCHOOLS: dict[Attachment, tuple[str, str]] = {
    "LAN": (
        "Every camera can be reached directly; any make; runs beyond 100 m with a switch half-way.",
        "Streams share the office network, and recording depends on it.",
    ),
    "camera interface": (
        "Separate from the office network, and reachable from the camera interface.",
        "Needs a second port on the recorder, or a managed switch with a VLAN and somebody to manage it.",
    ),
    "recorder PoE ports": (
        "Plug and play for one make; no load on the office network; works without internet.",
        "A camera's own page cannot be reached, so faults are harder to find.",
    ),
    "bridged PoE ports": (
        "Powers access points too; cameras can be reached directly; a second recorder can record the same camera.",
        "No isolation, addresses set by hand, 100 Mb/s per port; the recorder's incoming limit stays.",
    ),
}
"""For each way what speaks for it, and what against."""


class OptionFigures(NamedTuple):
    """One way, for this job.

    Attributes:
        way: which. ``is_present``: whether all recorders are said to have it now.
        office_mbps: recording traffic that crosses the main network; None where the job has no router.
        faults: faults of wiring and recorders that the job would have then.
        new_faults: those of them that it does not have now.
        router_stops: cameras that stop recording when a router fails.
        worst_part, worst_stops: the device whose failure stops most, and how many.
        in_reach: cameras that can be reached from the router; None where there is none.
        on_ports: cameras on recorders' own ports.
        addresses: cameras that need an address in the main network; those on ports that are not passed through get
            theirs from the recorder, those of a network of their own one in that.
        buy: parts that the job does not have yet.
    """

    attachment: Attachment
    is_present: bool
    office_mbps: float | None
    faults: tuple[Finding, ...]
    new_faults: tuple[Finding, ...]
    router_stops: int
    worst_part: str
    worst_stops: int
    in_reach: int | None
    on_ports: int
    addresses: int
    buy: tuple[Part, ...]


def option_figures(assessment: Assessment, attachment: Attachment) -> OptionFigures:
    """Figures of one way.

    Raises:
        RefusedInput: when the job has no camera or no recorder.
    """
    job = attached(assessment.job, attachment)
    rewired = assess(job, assessment)
    facts = rewired.facts
    had = {finding.key for finding in assessment.findings}
    faults = tuple(f for f in rewired.findings if f.severity is Severity.FAULT and f.stage in STAGES_JUDGED)
    routers = [device.id for device in job.network if device.role == "router"]
    reached = _reached(facts, routers)
    in_reach = sum(camera.id in reached for camera in job.cameras) if routers else None
    recorder_ids = facts.recorders.keys()
    failures = [
        one for one in facts.failures if one.part in facts.by_device_id and one.part not in facts.camera_figures
    ]
    worst = failures[0] if failures else None
    feeders = facts.topology.wiring.feeders
    on_ports = [c for c in job.cameras if c.id in feeders and feeders[c.id].far_end(c.id)[0] in recorder_ids]
    return OptionFigures(
        attachment=attachment,
        is_present=all(recorder.attachment == attachment for recorder in assessment.job.recorders),
        office_mbps=_office_mbps(facts, routers) if routers else None,
        faults=faults,
        new_faults=tuple(finding for finding in faults if finding.key not in had),
        router_stops=len(set().union(*(facts.stops.get(router, set()) for router in routers))),
        worst_part=facts.name(worst.part) if worst else "",
        worst_stops=len(worst.stopped) if worst else 0,
        in_reach=in_reach,
        on_ports=len(on_ports),
        addresses=in_reach or 0,
        buy=tuple(p for p in more_than(parts_list(facts), parts_list(assessment.facts)) if p.unit != "runs"),
    )


def _reached(facts: Facts, routers: list[str]) -> set[str]:
    network = facts.topology.wiring.network
    return set().union(*(network.reached_from(router) for router in routers))


def _office_mbps(facts: Facts, routers: list[str]) -> float:
    """Streams that pass a device which the routers reach without going through a recorder."""
    network = facts.topology.wiring.network
    recorders: dict[str, Recorder] = facts.recorders
    office = set().union(*(network.reached_from(router, closed=recorders.keys()) for router in routers))
    office -= recorders.keys()

    def crosses(camera: Camera, recorder_id: str) -> bool:
        """Whether a device of the office stands on the way: what the camera or the recorder hangs on, or one between."""
        _, entry = network.leaves.get(camera.id, ("", camera.id))
        _, goal = network.leaves.get(recorder_id, ("", recorder_id))
        if not network.reaches(camera.id, recorder_id):
            return False
        attachment = network.toward(goal)
        here = entry
        while here != goal:
            if here in office:
                return True
            here = attachment[here][1]
        return goal in office

    return sum(
        facts.camera_figures[camera.id].load_mbps
        for camera in facts.job.cameras
        for place in camera.registered
        if place.recorder in recorders and crosses(camera, place.recorder)
    )
