"""From a job to its simulated site: every device out of the box, the network plugged together, the cameras not yet."""

from __future__ import annotations

from random import Random

from eager_lens.core.addressing.ipv4 import address_number, subnet_of
from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.figures.power_sources import unit_of_device
from eager_lens.core.assess.figures.radio import radio_figures
from eager_lens.core.assess.figures.rates import cap_of
from eager_lens.core.job.make_profiles import profile_of, usual_profile
from eager_lens.core.job.model import (
    Camera,
    Device,
    Job,
    NetworkDevice,
    PortDevice,
    PowerUnit,
    Recorder,
    SubnetPlan,
    role_of,
)
from eager_lens.core.job.rehearsal import Rehearsal
from eager_lens.core.pauses import with_pauses
from eager_lens.core.reference.roles import ROLE_RECORDS, SUPPLY_START_S
from eager_lens.core.simulation.access import unlocked
from eager_lens.core.simulation.channels import one_round, settle_rounds
from eager_lens.core.simulation.clocks import poll_clock
from eager_lens.core.simulation.leases import ask_lease, phone_comes
from eager_lens.core.simulation.parts import Antenna, Cable, Feeding, Server, Side, Stream, Unit
from eager_lens.core.simulation.power import cooled, dusk_or_dawn, settle_power, started, too_hot
from eager_lens.core.simulation.reach import next_twin, settle_twins
from eager_lens.core.simulation.segments import CAMERAS, INTERNET
from eager_lens.core.simulation.service import as_delivered, updated
from eager_lens.core.simulation.site import Handler, Site

HANDLERS: dict[str, Handler] = {
    "started": started,
    "too hot": too_hot,
    "cooled": cooled,
    "dusk or dawn": dusk_or_dawn,
    "updated": updated,
    "ask lease": ask_lease,
    "phone comes": phone_comes,
    "next twin": next_twin,
    "poll clock": poll_clock,
    "round": one_round,
    "unlocked": unlocked,
}

SETTLERS = (settle_power, settle_twins, settle_rounds)

LAPTOP = "laptop"

MONTH_S = 30 * 86_400.0


def site_of(assessment: Assessment, rehearsal: Rehearsal) -> Site:
    """The site of a job at the start of a rehearsal; nothing is powered but the laptop."""
    job = assessment.job
    site = Site(job, rehearsal, HANDLERS, SETTLERS)
    units_of = unit_of_device(job)
    for supply in job.power_units:
        if supply.kind != "ups":
            _add(site, _supply(supply, rehearsal))
    for at, device in enumerate(with_pauses(job.devices()), 1):
        _add(site, _unit(assessment, device, units_of.get(device.id), rehearsal, at))
    wiring = assessment.facts.topology.wiring
    cameras = {camera.id for camera in job.cameras}
    for link in with_pauses(job.links, 500):
        if link.id in wiring.capacity_mbps:
            site.cables[link.id] = Cable(
                link.id,
                link.a,
                link.a_port,
                link.b,
                link.b_port,
                link.medium,
                wiring.capacity_mbps[link.id],
                link.long_reach,
                link.medium == "radio" or not cameras & {link.a, link.b},
            )
            if link.medium == "radio":
                _give_radio(site, link.id, assessment)
    _name_camera_cables(site, job)
    _add_servers(site, job)
    _add_laptop(site, job)
    site.settle()
    return site


def _add(site: Site, unit: Unit) -> None:
    site.units[unit.id] = unit


def _supply(supply: PowerUnit, rehearsal: Rehearsal) -> Unit:
    feeding = Feeding(takes=supply.output if supply.kind == "supply" else "", poe_port_class=supply.poe_class)
    return Unit(
        supply.id,
        supply.name,
        "supply",
        "",
        "",
        usual_profile().model_copy(update={"start_s": SUPPLY_START_S}),
        Random(f"{rehearsal.seed}:{supply.id}"),
        feeding=feeding,
        firmware="-",
    )


def _unit(assessment: Assessment, device: Device, supply: PowerUnit | None, rehearsal: Rehearsal, at: int) -> Unit:
    job, role = assessment.job, role_of(device)
    profile = profile_of(device.make, job.make_profiles)
    if profile is usual_profile() and role != "camera":
        profile = profile.model_copy(update={"start_s": ROLE_RECORDS[role].start_s})
    chance = Random(f"{rehearsal.seed}:{device.id}")
    hardware = device.mac_address or f"02:00:00:00:{at // 256 % 256:02x}:{at % 256:02x}"
    unit = Unit(device.id, device.name, role, hardware, device.serial, profile, chance, device)
    unit.firmware = profile.firmware_first
    unit.feeding = _feeding(device, supply)
    if isinstance(device, NetworkDevice) and device.radio_end:
        unit.antenna = Antenna()
    as_delivered(unit)
    if isinstance(device, Camera):
        figures = assessment.camera(device.id)
        size = (device.width_px, device.height_px, device.fps, device.key_frame_s)
        unit.stream = Stream(
            figures.load_mbps,
            figures.peak_mbps,
            device.codec,
            *size,
            cap_mbps=cap_of(device),
            planned_mbps=figures.load_mbps,
        )
        run = assessment.facts.run_of(device)
        unit.feeding.volts_ok = run is None or run.voltage_ok
    if isinstance(device, Recorder):
        unit.sides = [Side()]
        if device.attachment in ("recorder PoE ports", "camera interface"):
            unit.sides.append(Side(CAMERAS))
    if role == "router":
        unit.sides = [planned_side(job, "", device.subnet, device.address), Side(INTERNET)]
        unit.sides[0].gateway = 0
        unit.access.is_set_up = True
    if role == "switch" or unit.is_station:
        unit.sides = [planned_side(job, "", device.subnet, device.address)]
        unit.access.is_set_up = True
    return unit


def _feeding(device: Device, supply: PowerUnit | None) -> Feeding:
    feeding = Feeding()
    if isinstance(device, PortDevice):
        feeding.budget_w, feeding.poe_port_class, feeding.poe_ports = (
            device.budget_w,
            device.poe_port_class,
            device.poe_ports,
        )
    if isinstance(device, Camera | NetworkDevice):
        feeding.poe_class, feeding.draw_w = device.poe_class, device.power_w
        feeding.lead = "mains" if device.poe_class is None else "cable"
    if isinstance(device, Camera):
        feeding.takes = device.power_input
    if supply is not None:
        feeding.lead, feeding.unit_id = "unit", supply.id
        feeding.lead_in = not isinstance(device, Camera)
        if supply.kind == "injector":
            feeding.takes = ""
    return feeding


def planned_side(job: Job, name: str, subnet_id: str, address: str) -> Side:
    """A side with the address that the plan gives it."""
    plan = next((one for one in job.subnets if one.id == subnet_id), None)
    side = Side(name)
    if plan is not None:
        side.prefix = subnet_of(plan.cidr).prefix
        side.gateway = address_number(plan.gateway) if plan.gateway else 0
    side.address = address_number(address) if address else 0
    return side


def _give_radio(site: Site, link_id: str, assessment: Assessment) -> None:
    link = next(one for one in assessment.job.links if one.id == link_id)
    figures = radio_figures(link)
    for end in (link.a, link.b):
        unit = site.units[end]
        if unit.antenna is None:
            unit.antenna = Antenna()
        unit.antenna.plan, unit.antenna.spare_db = link.radio, None if figures is None else _spare_db(figures.spare_db)
        if unit.feeding.lead == "cable" and unit.role == "camera":
            unit.feeding.lead = "mains"  # what hangs on radio alone has a lead of its own


def _spare_db(spare_db: float | None) -> float:
    """dB above what the slowest rate needs; below it where there is no link."""
    return -1.0 if spare_db is None else spare_db


def _name_camera_cables(site: Site, job: Job) -> None:
    """Of recorders whose cameras are on a network of their own: the cables toward them, by what is found behind each."""
    for recorder in (one for one in job.recorders if one.attachment == "camera interface"):
        ways = [cable for cable in site.cables.values() if recorder.id in (cable.a, cable.b)]
        toward = {cable.id for cable in ways if not _leads_to_router(site, recorder.id, cable)}
        site.units[recorder.id].camera_cables = frozenset(toward)


def _leads_to_router(site: Site, start: str, first: Cable) -> bool:
    seen, waiting = {start}, [first.far_end(start)[0]]
    while waiting:
        here = waiting.pop()
        if here in seen:
            continue
        seen.add(here)
        if site.units[here].role == "router":
            return True
        if site.units[here].passes_on:
            waiting += [cable.far_end(here)[0] for cable in site.cables_of(site.units[here])]
    return False


def _add_servers(site: Site, job: Job) -> None:
    """DHCP server: a router for the pool of its subnet, a recorder on its cameras' side."""
    for unit in list(site.units.values()):
        if unit.role == "router" and unit.device is not None:
            subnet_id = unit.device.subnet
            plan = next((one for one in job.subnets if one.id == subnet_id), None)
            if plan is not None and plan.pool_first and plan.pool_last:
                site.servers[unit.id] = _pool_of(unit, plan)
                _book(site, site.servers[unit.id], plan)
                if plan.new_leases_per_month:
                    mean_s = max(1, round(MONTH_S / plan.new_leases_per_month))
                    site.event_queue.after(site.chance.expovariate(1.0) * mean_s, unit.id, "phone comes", mean_s)
        elif isinstance(unit.device, Recorder) and len(unit.sides) > 1 and unit.device.camera_interface_address:
            side = planned_side(job, CAMERAS, unit.device.camera_interface_subnet, unit.device.camera_interface_address)
            net = side.subnet
            site.servers[unit.id] = Server(unit.id, CAMERAS, net, net.first_host, net.last_host, side.address)


def _pool_of(unit: Unit, plan: SubnetPlan) -> Server:
    gateway = address_number(plan.gateway) if plan.gateway else 0
    first, last = address_number(plan.pool_first), address_number(plan.pool_last)
    return Server(unit.id, "", subnet_of(plan.cidr), first, last, gateway)


def _book(site: Site, server: Server, plan: SubnetPlan) -> None:
    """Leases that are out already, to devices that are not on the bench."""
    free = server.free(0.0)
    site.chance.shuffle(free)
    for at, number in enumerate(free[: plan.leases_in_use]):
        server.leases[f"away-{at}"] = (number, MONTH_S)


def _add_laptop(site: Site, job: Job) -> None:
    """The laptop, in the switch that the first recorder hangs on, without an address yet."""
    laptop = Unit(
        LAPTOP, "The laptop", "laptop", "02:1a:97:00:00:01", "", usual_profile(), Random("laptop"), phase="running"
    )
    laptop.access.is_set_up = True
    site.units[LAPTOP] = laptop
    laptop.host = first_place(site, job)


def first_place(site: Site, job: Job) -> str:
    """Where the laptop is plugged in first: what the first recorder hangs on, else any switch or router."""
    for recorder in job.recorders:
        for cable in site.cables_of(site.units[recorder.id]):
            far, _ = cable.far_end(recorder.id)
            if site.units[far].passes_on:
                return far
    return next((unit.id for unit in site.units.values() if unit.passes_on), "")
