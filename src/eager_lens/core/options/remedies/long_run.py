"""Ways out for a run of copper that is too long: a switch half-way, an extender, fibre, long reach."""

from __future__ import annotations

from collections.abc import Iterator

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.figures.topology import LONG_REACH_M
from eager_lens.core.assess.finding import Finding
from eager_lens.core.assess.rules.addressing import plan_for
from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.edits import Edit, add_network_device, set_each, with_parts
from eager_lens.core.job.model import Camera, Job, Link, fresh_ids
from eager_lens.core.job.wiring import assign_port, free_ports, make_fibre, on_uplinks, ports_in_use, set_link
from eager_lens.core.planning.switch_sizes import switch_for
from eager_lens.core.reference.device_types import DeviceType, device_types
from eager_lens.core.units import figure
from eager_lens.core.validation import at_most

LEAD_M = 3.0
"""From a switch or a power supply beside a camera to the camera (assumed)."""


def long_run(finding: Finding, assessment: Assessment) -> Iterator[Edit]:
    """Ways for a camera's run; for a link between devices, fibre and long reach."""
    facts = assessment.facts
    camera = facts.by_device_id.get(finding.subjects[0])
    if isinstance(camera, Camera):
        link = facts.topology.wiring.feeders.get(camera.id)
        if link is not None:
            yield from _of_a_camera(camera, link, assessment)
        return
    ends = set(finding.subjects)
    for link in facts.job.links:
        if {link.a, link.b} == ends and link.medium == "copper":
            yield make_fibre(link, f"Fibre between {facts.link_name(link)}")


def _of_a_camera(camera: Camera, link: Link, assessment: Assessment) -> Iterator[Edit]:
    length_m = camera.cable_m or 0.0
    half_m = length_m / 2
    clad = " in solid copper" if camera.cable_material == "cca" else ""
    kind = switch_for([camera], 1)
    if kind is not None:
        yield _between(camera, link, kind, f"Switch half-way, {figure(half_m)} m on{clad}", half_m, "copper", half_m)
    if camera.poe_class is not None:
        words = f"Extender half-way, {figure(half_m)} m on{clad}"
        yield _between(camera, link, device_types()["extender"], words, half_m, "copper", half_m)
    if at_most(length_m, LONG_REACH_M) and not link.long_reach:
        yield set_link([link.id], f"Long reach for {camera.name}: 10 Mb/s", long_reach=True)
    if kind is not None:
        yield _between(camera, link, kind, f"Fibre, and a switch beside {camera.name}", length_m, "fibre", LEAD_M)


def _between(
    camera: Camera, link: Link, kind: DeviceType, words: str, first_m: float, medium: str, last_m: float
) -> Edit:
    """A device put into a camera's run: so far on, over this medium, and so far from the camera."""
    other, port = link.far_end(camera.id)

    def apply(job: Job) -> Job:
        name = f"{kind.label.partition(',')[0]} to {camera.name}"
        fields = {field: value for field, value in kind.fits().items() if field != "role"}
        job = add_network_device(kind.role, name=name, place=camera.place, subnet=camera.subnet, **fields).apply(job)
        device = job.network[-1]
        kept = tuple(one for one in job.links if one.id != link.id)
        used = ports_in_use(kept)
        up_id, down_id = fresh_ids("link", (one.id for one in job.links), 2)
        free = free_ports(device, used)
        down = assign_port(device, free, wants_power=True)
        up = assign_port(device, free, wants_power=False)
        # A new part is not put into a bad cable: both halves are solid copper.
        cable = {"awg": camera.awg} if medium == "copper" else {}
        outdoors = {"outdoor": camera.outdoor, "surge_protected": camera.surge_protected}
        new = (
            Link(
                id=up_id,
                a=device.id,
                a_port=up,
                b=other,
                b_port=port,
                medium=medium,
                length_m=first_m,
                **cable,
                **outdoors,
            ),
            Link(id=down_id, a=camera.id, b=device.id, b_port=down),
        )
        job = with_parts(job, links=(*kept, *new))
        if medium == "fibre":
            job = with_parts(job, links=(*kept, on_uplinks(job, new[0]), new[1]))
        half = {"cable_m": last_m, "cable_material": "copper"}
        return addressed(set_each(words, {camera.id: half}).apply(job), device.id)

    return Edit(words, apply)


def addressed(job: Job, device_id: str) -> Job:
    """The job with an address for a device that was added, where its subnet has one."""
    try:
        return plan_for(frozenset({device_id}), "").apply(job)
    except RefusedInput:
        return job
