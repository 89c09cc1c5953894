"""Findings about subnets and addresses."""

from __future__ import annotations

from collections.abc import Iterator

from eager_lens.core.addressing.collision import MONTHS_TOLD, collision_share
from eager_lens.core.addressing.ipv4 import Subnet, address_number, address_text, subnet_of
from eager_lens.core.assess.figures.facts import Facts
from eager_lens.core.assess.figures.sides import TWO_SIDED
from eager_lens.core.assess.finding import Finding, FindingKind, Severity, names_listed
from eager_lens.core.assess.incremental.kept import of_devices, reads
from eager_lens.core.assess.rules.alike import alike
from eager_lens.core.job.edits import Edit, set_fields, set_subnet
from eager_lens.core.job.model import Camera, Device, Job, Recorder, SubnetPlan, role_of
from eager_lens.core.planning.addressing import plan_all, plan_when_asked
from eager_lens.core.units import count, figure

MOST_TOLD_APART = 12
"""More findings of one kind than this become one."""

DUPLICATE_ADDRESS = FindingKind(
    "duplicate-address", "addresses", colours="addresses", way_out="other twin", button="New address"
)
OUTSIDE_SUBNET = FindingKind("outside-subnet", "addresses", colours="addresses", button="New address")
RESERVED_ADDRESS = FindingKind("reserved-address", "addresses", colours="addresses", button="New address")
IN_POOL = FindingKind("in-pool", "addresses", colours="addresses", button="New address")
SAME_MAC_ADDRESS = FindingKind("same-mac-address", "addresses", colours="addresses")


def plan_for(device_ids: frozenset[str], label: str) -> Edit:
    """Plan new addresses for these devices only."""

    def apply(job: Job) -> Job:
        cleared = set_fields(device_ids, label, address="").apply(job)
        planned = {device.id: device for device in plan_all(cleared).apply(cleared).devices()}
        values = {device_id: planned[device_id] for device_id in device_ids if device_id in planned}
        for device_id, device in values.items():
            job = set_fields([device_id], label, address=device.address, subnet=device.subnet).apply(job)
        return job

    return Edit(label, apply)


def camera_sides(facts: Facts) -> set[str]:
    """The subnets on the camera interfaces of recorders, each apart from all others."""
    lans = {recorder.subnet for recorder in facts.job.recorders}
    return {one.camera_interface_subnet for one in facts.job.recorders if one.attachment in TWO_SIDED} - lans - {""}


SUBNETS_OVERLAP = FindingKind("subnets-overlap", "addresses")


def subnets_wrong(facts: Facts) -> Iterator[Finding]:
    """Subnets that contradict themselves or each other."""
    seen: list[tuple[Subnet, SubnetPlan]] = []
    private = camera_sides(facts)
    for plan in facts.job.subnets:
        net = subnet_of(plan.cidr)
        yield from _gateway_wrong(plan, net)
        yield from _pool_wrong(plan, net)
        for other, other_plan in seen:
            if plan.id in private and other_plan.id in private:
                continue  # Each is seen by its own recorder alone: many give theirs the same range.
            if net.network <= other.broadcast and other.network <= net.broadcast:
                yield Finding(
                    SUBNETS_OVERLAP,
                    Severity.FAULT,
                    f"{plan.name} and {other_plan.name} overlap",
                    f"{plan.cidr} and {other_plan.cidr} share addresses, so a device cannot tell where to send. The two "
                    "interfaces of a recorder must never be in one subnet.",
                    "Change one of the two subnets.",
                    (plan.id, other_plan.id),
                )
        seen.append((net, plan))


GATEWAY_OUTSIDE = FindingKind("gateway-outside", "addresses")


def _gateway_wrong(plan: SubnetPlan, net: Subnet) -> Iterator[Finding]:
    if plan.gateway and not net.is_host(address_number(plan.gateway)):
        yield Finding(
            GATEWAY_OUTSIDE,
            Severity.FAULT,
            f"Gateway {plan.gateway} is not in {plan.name}",
            f"Devices in {plan.cidr} cannot reach it, so remote viewing and outside time servers do not work.",
            "Correct the gateway, or leave it empty if this network has no router.",
            (plan.id,),
        )


POOL_HALF = FindingKind("pool-half", "addresses")
POOL_OUTSIDE = FindingKind("pool-outside", "addresses")
POOL_REVERSED = FindingKind("pool-reversed", "addresses")


def _pool_wrong(plan: SubnetPlan, net: Subnet) -> Iterator[Finding]:
    if bool(plan.pool_first) != bool(plan.pool_last):
        yield Finding(
            POOL_HALF,
            Severity.WARNING,
            f"The DHCP pool of {plan.name} has only one end",
            "Planned addresses can only avoid the pool when both ends are known.",
            "Enter both the first and the last address, or neither.",
            (plan.id,),
        )
        return
    if not plan.pool_first:
        return
    first, last = address_number(plan.pool_first), address_number(plan.pool_last)
    if first not in net or last not in net:
        yield Finding(
            POOL_OUTSIDE,
            Severity.FAULT,
            f"The DHCP pool of {plan.name} lies outside {plan.cidr}",
            "The DHCP server would lease addresses that do not work in this subnet.",
            "Correct the pool.",
            (plan.id,),
        )
    elif first > last:
        yield Finding(
            POOL_REVERSED,
            Severity.FAULT,
            f"The DHCP pool of {plan.name} ends before it begins",
            f"{plan.pool_first} to {plan.pool_last} contains no address.",
            "Swap first and last.",
            (plan.id,),
            set_subnet(plan.id, "Swap first and last", pool_first=plan.pool_last, pool_last=plan.pool_first),
        )


def address_troubles(facts: Facts) -> Iterator[Finding]:
    """Every address against its subnet: outside it, reserved in it, or in the DHCP pool."""
    yield from _told_together(facts.address_findings)


RESERVATION_UNKNOWN = FindingKind("reservation-unknown", "addresses")
RESERVATIONS = FindingKind("reservations", "addresses")


@reads(*of_devices("name", "address_assignment", "mac_address"))
def reservations(facts: Facts) -> Iterator[Finding]:
    """Addresses that rest on the router's word: what it needs for that, and what is lost with it."""
    reserved = [device for device in facts.devices if device.address_assignment == "DHCP reservation"]
    unknown = [device for device in reserved if not device.mac_address]
    if unknown:
        yield Finding(
            RESERVATION_UNKNOWN,
            Severity.WARNING,
            f"{count(len(unknown), 'reservation')} without a MAC address",
            f"{names_listed([device.name for device in unknown])}: the router needs the MAC address to reserve an IP address.",
            "Read it from the label, or import a scan list.",
            tuple(device.id for device in unknown),
        )
    if len(reserved) > len(unknown):
        yield Finding(
            RESERVATIONS,
            Severity.NOTE,
            f"{count(len(reserved) - len(unknown), 'address depends', 'addresses depend')} on reservations in the router",
            "If the router is reset or replaced, the reservations are gone and the recorder loses these cameras.",
            "Keep a backup of the router's settings with the handover papers, and tell the network administrator.",
            tuple(device.id for device in reserved if device.mac_address),
        )


NOT_GIVEN = FindingKind("not-given", "addresses")


@reads("recorders", "cameras.name", "cameras.address_assignment", "cameras.registered")
def given_by_recorder(facts: Facts) -> Iterator[Finding]:
    """Cameras that are to get their address from a recorder on whose ports they do not hang."""
    own_ports = {
        recorder.id
        for recorder in facts.job.recorders
        if recorder.attachment in ("recorder PoE ports", "bridged PoE ports")
    }
    lost = [
        camera
        for camera in facts.job.cameras
        if camera.address_assignment == "by the recorder"
        and not any(place.recorder in own_ports for place in camera.registered)
    ]
    if lost:
        yield Finding(
            NOT_GIVEN,
            Severity.WARNING,
            f"{count(len(lost), 'camera waits', 'cameras wait')} for an address that no recorder assigns",
            f"{names_listed([camera.name for camera in lost])}: a recorder assigns addresses only to cameras on its own PoE "
            "ports.",
            "Assign a static address, or connect the camera to the recorder's PoE ports (Wiring, Options).",
            tuple(camera.id for camera in lost),
        )


def subnets_by_id(job: Job) -> dict[str, tuple[Subnet, SubnetPlan]]:
    """The job's subnets by id, each as numbers and as planned."""
    return {plan.id: (subnet_of(plan.cidr), plan) for plan in job.subnets}


def address_trouble(device: Device, nets: dict[str, tuple[Subnet, SubnetPlan]]) -> Finding | None:
    """What is wrong with a device's address by itself, within its subnet; None where nothing is."""
    if not device.address or device.subnet not in nets:
        return None
    net, plan = nets[device.subnet]
    number = address_number(device.address)
    label = f"Plan a new address for {device.name}"
    # Made here although most devices need none: an edit is only a closure, and costs nothing until it is applied.
    fix = plan_for(frozenset({device.id}), label)

    def found(kind: FindingKind, what: str, why: str, action: str = "Plan another address for it.") -> Finding:
        title = f"{device.name}: {device.address} {what}"
        return Finding(kind, Severity.FAULT, title, why, action, (device.id,), fix)

    if number not in net:
        return found(
            OUTSIDE_SUBNET,
            f"is outside {plan.cidr}",
            "The recorder cannot reach it, nor can a laptop in that subnet.",
        )
    if number == net.network:
        return found(
            RESERVED_ADDRESS,
            "is the subnet's own address",
            "The first address of a subnet stands for the subnet itself and works for no device.",
        )
    if number == net.broadcast:
        return found(RESERVED_ADDRESS, "is the broadcast address", "Packets sent there go to every device.")
    # A router on the gateway's address is the gateway itself.
    if device.address == plan.gateway and role_of(device) != "router":
        return found(
            RESERVED_ADDRESS,
            "is the address of the gateway",
            "Two devices would answer as the gateway, so remote viewing and time servers fail now and then for everyone.",
        )
    if plan.pool_first and plan.pool_last and device.address_assignment != "DHCP reservation":
        first, last = address_number(plan.pool_first), address_number(plan.pool_last)
        if first <= number <= last:
            size = last - first + 1
            chance = collision_share(size, plan.leases_in_use, plan.new_leases_per_month, MONTHS_TOLD)
            return found(
                IN_POOL,
                "is inside the DHCP pool",
                f"The DHCP server leases {plan.pool_first} to {plan.pool_last} and may give this address to a phone; then the "
                f"camera disappears. The chance within {MONTHS_TOLD} months is about {figure(100 * chance, 2)} %, assuming "
                f"{figure(plan.new_leases_per_month)} new devices a month. Servers that check first still lease it while the "
                "camera is off.",
                "Plan an address outside the pool, shrink the pool, or reserve the address in the router.",
            )
    return None


def _told_together(found: list[Finding]) -> Iterator[Finding]:
    """Findings one by one, or one for all of a kind when there are too many to read."""
    by_kind: dict[FindingKind, list[Finding]] = {}
    for finding in found:
        by_kind.setdefault(finding.kind, []).append(finding)
    words = {
        OUTSIDE_SUBNET: "outside their subnet",
        RESERVED_ADDRESS: "on an address that no device can use",
        IN_POOL: "inside the DHCP pool",
    }
    for kind, group in by_kind.items():
        # Forty findings of one kind would hide everything else; above the limit they become one.
        if len(group) <= MOST_TOLD_APART:
            yield from group
            continue
        ids = tuple(finding.subjects[0] for finding in group)
        yield Finding(
            kind,
            Severity.FAULT,
            f"{count(len(group), 'device')} {words[kind]}",
            group[0].why,
            "Plan other addresses for them.",
            ids,
            plan_for(frozenset(ids), f"Plan addresses of {count(len(ids), 'device')}"),
        )


@reads(*of_devices("name", "address", "subnet"), "recorders", "cameras.registered")
def duplicates(facts: Facts) -> Iterator[Finding]:
    """Two devices on one address, where one network has both: two camera interfaces may have the same ones behind them."""
    private = camera_sides(facts)

    def where(device: Device) -> tuple[str, str] | None:
        if not device.address:
            return None
        if isinstance(device, Camera) and device.registered and device.subnet in private:
            # Behind two recorders' own interfaces the same private addresses may be used twice.
            return device.address, device.registered[0].recorder
        return device.address, ""

    twins = alike(facts.devices, where)
    for devices in twins[:MOST_TOLD_APART]:
        later = frozenset(device.id for device in devices[1:])
        names = [device.name for device in devices]
        yield Finding(
            DUPLICATE_ADDRESS,
            Severity.FAULT,
            f"{devices[0].address} is planned for {count(len(devices), 'device')}",
            f"{names_listed(names)}: whichever device answered last is reached, so pictures come and go.",
            f"{names[0]} keeps it; plan a new address for {names_listed(names[1:])}.",
            tuple(device.id for device in devices),
            plan_for(later, f"Plan a new address for {names_listed(names[1:])}"),
        )
    if len(twins) > MOST_TOLD_APART:
        rest = twins[MOST_TOLD_APART:]
        later = frozenset(device.id for devices in rest for device in devices[1:])
        yield Finding(
            DUPLICATE_ADDRESS,
            Severity.FAULT,
            f"{count(len(rest), 'further address is', 'further addresses are')} planned more than once",
            "Whichever device answered last is reached, so pictures come and go.",
            "The first device of each keeps it; plan new addresses for the others.",
            tuple(device.id for devices in rest for device in devices),
            plan_for(later, f"Plan addresses of {count(len(later), 'device')}"),
        )


@reads(*of_devices("name", "mac_address"))
def same_mac_address(facts: Facts) -> Iterator[Finding]:
    """Two devices with one MAC address: one of them was read wrongly."""
    for devices in alike(facts.devices, lambda device: device.mac_address):
        yield Finding(
            SAME_MAC_ADDRESS,
            Severity.FAULT,
            f"{count(len(devices), 'device')} with MAC address …{devices[0].mac_address[-5:]}",
            f"{names_listed([device.name for device in devices])}: each device has its own MAC address, so one label was "
            "misread or copied wrongly. The two will be mixed up on site.",
            "Read the labels again.",
            tuple(device.id for device in devices),
        )


NO_ADDRESS = FindingKind("no-address", "addresses", of_what_is_missing=True, button="Plan addresses")


@reads("subnets", "checks", *of_devices("address", "address_assignment"))
def no_address(facts: Facts) -> Iterator[Finding]:
    """Devices that the plan has not reached yet."""
    without = facts.without_address
    if not without:
        return
    yield Finding(
        NO_ADDRESS,
        facts.when_missing(Severity.WARNING),
        f"{count(len(without), 'device')} without an address",
        "A recorder remembers a camera by its address. If the address is leased, it can change, and the camera is lost."
        if facts.job.subnets
        else "The job has no subnet yet to take addresses from.",
        "Plan addresses for all." if facts.job.subnets else "Add a subnet first.",
        tuple(device.id for device in without),
        plan_when_asked("Plan addresses for all devices") if facts.job.subnets else None,
    )


NO_SUBNET = FindingKind("no-subnet", "addresses")


@reads("subnets", *of_devices("name", "address", "subnet"))
def no_subnet(facts: Facts) -> Iterator[Finding]:
    """Devices with an address that belong to no subnet of the job."""
    lost = [device for device in facts.devices if device.address and device.subnet not in facts.subnets]
    if lost and facts.job.subnets:
        yield Finding(
            NO_SUBNET,
            Severity.WARNING,
            f"{count(len(lost), 'device')} with an address outside every subnet",
            f"{names_listed([device.name for device in lost])}: their mask and gateway are not known.",
            "Select the subnet for each.",
            tuple(device.id for device in lost),
        )


APART_FROM_RECORDER = FindingKind("apart-from-recorder", "addresses")


@reads(
    "recorders",
    "subnets",
    "cameras.name",
    "cameras.registered",
    "cameras.subnet",
    "network.role",
    *of_devices("address"),
)
def apart_from_recorder(facts: Facts) -> Iterator[Finding]:
    """A camera in another subnet than its recorder is reached only through a router, or not at all. Where both subnets have a
    gateway that a device of the job keeps, or a router stands, it is routed: said, not doubted."""
    held = {device.address for device in facts.devices if device.address}
    has_router = any(device.role == "router" for device in facts.job.network)

    def is_routed(one: str) -> bool:
        plan = facts.subnets.get(one)
        return plan is not None and bool(plan.gateway) and (has_router or plan.gateway in held)

    apart = [
        camera
        for recorder in facts.job.recorders
        for camera in facts.cameras_on[recorder.id]
        if camera.subnet not in (recorder.subnet, recorder.camera_interface_subnet)
        and recorder.subnet
        and camera.subnet
    ]
    if apart:
        subnets = {camera.subnet for camera in apart}
        subnets |= {
            facts.recorders[p.recorder].subnet for c in apart for p in c.registered if p.recorder in facts.recorders
        }
        yield Finding(
            APART_FROM_RECORDER,
            Severity.NOTE if all(is_routed(one) for one in subnets) else Severity.WARNING,
            f"{names_listed([camera.name for camera in apart])}: not in the recorder's subnet",
            "A search does not cross a router, and without a route between the subnets the channel stays black.",
            "Put camera and recorder into one subnet, or make sure that a router connects the two.",
            tuple(camera.id for camera in apart),
        )


def on_the_wrong_side(facts: Facts) -> Iterator[Finding]:
    """A recorder with PoE ports of its own keeps the cameras there on a subnet of their own. A camera on its other ports is on
    the LAN, one on those ports is not, whatever address is typed."""
    for recorder in facts.job.recorders:
        inner = recorder.camera_interface_subnet
        if recorder.attachment != "recorder PoE ports" or not inner or inner == recorder.subnet:
            continue
        outside = _behind_other_ports(facts, recorder)
        wrong = [
            camera
            for camera in facts.cameras_on[recorder.id]
            if camera.subnet == (inner if camera.id in outside else recorder.subnet)
            and camera.id in facts.topology.wiring.links_at
        ]
        for right in (recorder.subnet, inner):
            cameras = [camera for camera in wrong if camera.subnet != right and right]
            if cameras:
                yield _wrong_side(facts, recorder, right, cameras)


def _behind_other_ports(facts: Facts, recorder: Recorder) -> set[str]:
    """What is reached from a recorder's ports that are not for cameras."""
    links_at = facts.topology.wiring.links_at
    own = links_at.get(recorder.id, [])
    waiting = [
        far
        for link in own
        for far, port in (link.far_end(recorder.id),)
        if not 0 < (link.a_port if link.a == recorder.id else link.b_port) <= recorder.poe_ports
    ]
    found: set[str] = set()
    while waiting:
        here = waiting.pop()
        if here not in found and here != recorder.id:
            found.add(here)
            waiting += [link.far_end(here)[0] for link in links_at.get(here, [])]
    return found


WRONG_SIDE = FindingKind("wrong-interface", "addresses", button="Change subnet")


def _wrong_side(facts: Facts, recorder: Recorder, right: str, cameras: list[Camera]) -> Finding:
    name = next((plan.name for plan in facts.job.subnets if plan.id == right), right)
    where = "are not on its PoE ports" if right == recorder.subnet else "are on its PoE ports"
    ids = frozenset(camera.id for camera in cameras)
    label = f"Move {count(len(ids), 'camera')} to {name}"

    def apply(job: Job) -> Job:
        return plan_for(ids, label).apply(set_fields(ids, label, subnet=right, address="").apply(job))

    return Finding(
        WRONG_SIDE,
        Severity.FAULT,
        f"{names_listed([camera.name for camera in cameras])}: subnet of the wrong interface of {recorder.name}",
        f"They {where}, so {recorder.name} can find them only in {name}.",
        f"Move them to {name}, or connect them to the other interface.",
        tuple(camera.id for camera in cameras),
        Edit(label, apply),
    )


def suggested_subnet(job: Job) -> str:
    """A private range that the job does not use yet."""
    used = [subnet_of(plan.cidr) for plan in job.subnets]
    for third in range(40, 250):
        net = subnet_of(f"172.22.{third}.0/24")
        if all(net.broadcast < other.network or other.broadcast < net.network for other in used):
            return f"{address_text(net.network)}/24"
    return "10.44.8.0/24"


RULES = (
    subnets_wrong,
    duplicates,
    address_troubles,
    reservations,
    given_by_recorder,
    same_mac_address,
    no_address,
    no_subnet,
    apart_from_recorder,
    on_the_wrong_side,
)
