"""Findings about the two sides of a recorder: the network that people use, and the one of its cameras."""

from __future__ import annotations

from collections.abc import Iterator

from eager_lens.core.addressing.ipv4 import address_number, address_text, subnet_of
from eager_lens.core.assess.figures.facts import Facts
from eager_lens.core.assess.figures.sides import TWO_SIDED, right_target
from eager_lens.core.assess.finding import Finding, FindingKind, Severity, names_listed
from eager_lens.core.assess.incremental.kept import reads
from eager_lens.core.assess.rules.addressing import plan_for, suggested_subnet
from eager_lens.core.job.edits import Edit, add_subnet, set_fields
from eager_lens.core.job.model import Camera, Job, Recorder
from eager_lens.core.units import count


def _give_camera_side(recorder: Recorder, names: str) -> Edit:
    """A new subnet for a recorder's cameras, its own address there, and addresses there for its cameras."""

    def apply(job: Job) -> Job:
        cidr = suggested_subnet(job)
        job = add_subnet(f"{recorder.name}, cameras", cidr).apply(job)
        plan = job.subnets[-1]
        first = address_text(subnet_of(cidr).first_host)
        label = "camera side"
        job = set_fields([recorder.id], label, camera_interface_subnet=plan.id, camera_interface_address=first).apply(
            job
        )
        moving = frozenset(c.id for c in job.cameras if any(p.recorder == recorder.id for p in c.registered))
        return plan_for(moving, label).apply(set_fields(moving, label, subnet=plan.id).apply(job))

    return Edit(f"Add a subnet for the cameras of {names}", apply)


NO_CAMERA_SIDE = FindingKind("no-camera-subnet", "addresses", button="Add a subnet")
SIDES_SHARE_SUBNET = FindingKind("interfaces-share-subnet", "addresses", button="Add a subnet")
CAMERA_SIDE_OUTSIDE = FindingKind("camera-interface-outside", "addresses", button="Correct address")


def camera_side(facts: Facts) -> Iterator[Finding]:
    """A recorder with a side for its cameras: the side needs a subnet, another than that of the other side."""
    for recorder in facts.job.recorders:
        if recorder.attachment not in TWO_SIDED or not facts.cameras_on[recorder.id]:
            continue
        plan = facts.subnets.get(recorder.camera_interface_subnet)
        fix = _give_camera_side(recorder, recorder.name)
        if plan is None or not recorder.camera_interface_address:
            yield Finding(
                NO_CAMERA_SIDE,
                Severity.WARNING,
                f"{recorder.name}: the camera interface has no address",
                "Its cameras are on a separate network and send streams and events to this interface.",
                "Plan a separate subnet for the camera interface.",
                (recorder.id,),
                fix,
            )
            continue
        net, own = subnet_of(plan.cidr), facts.subnets.get(recorder.subnet)
        other = subnet_of(own.cidr) if own is not None else None
        if other is not None and net.network <= other.broadcast and other.network <= net.broadcast:
            yield Finding(
                SIDES_SHARE_SUBNET,
                Severity.FAULT,
                f"{recorder.name}: both interfaces are in {plan.cidr}",
                "The recorder cannot tell which interface leads to an address, so it loses its cameras or everything else.",
                "Plan a separate subnet for the camera interface.",
                (recorder.id, plan.id),
                fix,
            )
        elif not net.is_host(address_number(recorder.camera_interface_address)):
            yield Finding(
                CAMERA_SIDE_OUTSIDE,
                Severity.FAULT,
                f"{recorder.name}: {recorder.camera_interface_address} is not in {plan.cidr}",
                "The recorder cannot reach any camera on its camera interface.",
                f"Enter an address in {plan.cidr}, usually the first.",
                (recorder.id,),
                set_fields(
                    [recorder.id], "Correct the camera interface", camera_interface_address=address_text(net.first_host)
                ),
            )


EVENT_TARGET = FindingKind("event-target", "addresses", button="Correct event server")


@reads("recorders", "cameras.name", "cameras.registered", "cameras.event_target", "cameras.subnet")
def event_targets(facts: Facts) -> Iterator[Finding]:
    """Event messages sent where no recorder of the camera listens: the other side, or somewhere else."""
    wrong: list[tuple[Camera, str]] = []
    for camera in facts.job.cameras:
        if not camera.event_target:
            continue
        recorders = [facts.recorders[p.recorder] for p in camera.registered if p.recorder in facts.recorders]
        right = {target for one in recorders if (target := right_target(one, camera))}
        if recorders and camera.event_target not in right:
            lan = any(camera.event_target == one.address for one in recorders)
            why = "the recorder's address on its other interface" if lan else "not an address of its recorder"
            wrong.append((camera, why))
    if not wrong:
        return
    names = names_listed([camera.name for camera, _ in wrong])
    yield Finding(
        EVENT_TARGET,
        Severity.FAULT,
        f"{names}: events go to {wrong[0][0].event_target}, {wrong[0][1]}",
        "Event messages must go to the recorder's interface on the camera's network. Elsewhere they are lost, nothing is "
        "recorded, and no device reports it.",
        "Clear the event server; events then go to the recorder's interface on the camera's network.",
        tuple(camera.id for camera, _ in wrong),
        set_fields(
            [camera.id for camera, _ in wrong],
            f"Send events of {count(len(wrong), 'camera')} to the recorder",
            event_target="",
        ),
    )


CAMERA_SIDE_TAKEN = FindingKind("camera-interface-taken", "addresses", button="New address")


def camera_side_taken(facts: Facts) -> Iterator[Finding]:
    """The recorder's address on its cameras' side, given to a device too."""
    sides = {one.camera_interface_address: one for one in facts.job.recorders if one.camera_interface_address}
    if not sides:
        return
    for device in facts.devices:
        recorder = sides.get(device.address)
        if recorder is not None and device.subnet == recorder.camera_interface_subnet:
            yield Finding(
                CAMERA_SIDE_TAKEN,
                Severity.FAULT,
                f"{device.name} has the address of {recorder.name}'s camera interface, {device.address}",
                "Both answer at this address, so the pictures of all its cameras come and go.",
                "Plan a new address for the device.",
                (device.id, recorder.id),
                plan_for(frozenset({device.id}), "Plan a new address"),
            )


RULES = (camera_side, event_targets, camera_side_taken)
