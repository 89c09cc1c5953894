"""Findings about what feeds the devices: ports with power, budgets, injectors, power supplies and batteries."""

from __future__ import annotations

from collections.abc import Iterator

from eager_lens.core.assess.figures.devices import CameraFigures
from eager_lens.core.assess.figures.facts import Facts
from eager_lens.core.assess.figures.power import (
    FEEDING_SHARE,
    Supply,
    leads_outdoors,
    supply_run,
    ups_figures,
)
from eager_lens.core.assess.figures.power_sources import without_power
from eager_lens.core.assess.finding import Finding, FindingKind, Severity, names_listed
from eager_lens.core.assess.incremental.kept import reads
from eager_lens.core.assess.incremental.traits import trait
from eager_lens.core.assess.limits import LOWEST_SHARE, SPARE_SHARE
from eager_lens.core.job.edits import Edit
from eager_lens.core.job.make_profiles import profile_of
from eager_lens.core.job.model import Camera, NetworkDevice, PowerUnit, Recorder
from eager_lens.core.job.wiring import set_unit
from eager_lens.core.units import count, figure
from eager_lens.core.validation import at_most

POWERED_PORTS = FindingKind("too-few-poe-ports", "wiring", way_out="larger switch")


def power(facts: Facts) -> Iterator[Finding]:
    """A device that is to feed more than it can."""
    for device in facts.suppliers:
        supply = facts.topology.supplies.get(device.id)
        if supply is None:
            continue
        if supply.cameras > device.poe_ports:
            yield Finding(
                POWERED_PORTS,
                Severity.FAULT,
                f"{device.name} has {count(device.poe_ports, 'PoE port')} for {count(supply.cameras, 'device')}",
                "A camera on a port without PoE gets no power.",
                "Use a switch with more PoE ports, an injector, or a second switch.",
                (device.id,),
            )
        elif device.budget_w > 0:
            yield from _budget(device, supply)
            yield from _allocation(device, supply, facts)


POWER_OVER = FindingKind("power-over", "wiring", colours="power", way_out="larger switch")
POWER_NEAR = FindingKind("power-near", "wiring", colours="power", way_out="larger switch")


def _budget(device: Recorder | NetworkDevice, supply: Supply) -> Iterator[Finding]:
    draw = f"{figure(supply.draw_w)} of {figure(device.budget_w)} W"
    if not at_most(supply.draw_w, device.budget_w):
        yield Finding(
            POWER_OVER,
            Severity.FAULT,
            f"{device.name}: {draw} at night",
            "Above its PoE budget a switch turns ports off, the last ones first, as soon as infrared and heaters come on.",
            "Move cameras to another switch, or use one with a larger PoE budget.",
            (device.id,),
        )
    elif not at_most(supply.draw_w, (1 - SPARE_SHARE) * device.budget_w):
        spare = 100 * (1 - supply.draw_w / device.budget_w)
        yield Finding(
            POWER_NEAR,
            Severity.WARNING,
            f"{device.name}: {draw} at night, {figure(spare, 2)} % spare",
            f"Usual is {100 * SPARE_SHARE:g} % spare, because all cameras start at once after a power cut.",
            "Move a camera or two to another switch.",
            (device.id,),
        )


SET_ASIDE_OVER = FindingKind("allocated-over", "wiring", way_out="larger switch")


def _allocation(device: Recorder | NetworkDevice, supply: Supply, facts: Facts) -> Iterator[Finding]:
    """Watts allocated by class: apart from what is drawn, and silent where the make is known to count the draw."""
    if at_most(supply.allocated_w, device.budget_w) or not at_most(supply.draw_w, device.budget_w):
        return
    profile = profile_of(device.make, facts.job.make_profiles)
    if profile.make and not profile.budget_by_class:
        return
    surely = f"{profile.make} allocates by class" if profile.make else "a switch that allocates by class"
    yield Finding(
        SET_ASIDE_OVER,
        Severity.WARNING,
        f"{device.name}: {figure(supply.allocated_w)} of {figure(device.budget_w)} W allocated by class",
        f"The {figure(supply.draw_w)} W drawn would fit, but {surely}{' and' if profile.make else ''} refuses the last cameras.",
        "Use a switch that allocates by power drawn, or one with a larger PoE budget. If this one does allocate by power "
        "drawn, note that in its make profile.",
        (device.id,),
    )


UPLINK_DARK = FindingKind("uplink-dark", "wiring")


@reads("links", "network", "recorders", "power_units", "cameras.id", "cameras.name")
def dark_uplinks(facts: Facts) -> Iterator[Finding]:
    """Devices that are fed over their cable from ports that have no power themselves."""
    for device in without_power(facts.job, facts.topology.fed_runs):
        on_it = facts.topology.wiring.links_at.get(device.id, ())
        far_ends = (link.far_end(device.id)[0] for link in on_it)
        hung = [facts.name(one) for one in far_ends if one in facts.camera_figures and one not in facts.fed_by_unit]
        yield Finding(
            UPLINK_DARK,
            Severity.FAULT,
            f"{device.name} needs PoE, but nothing supplies it",
            "It gets no power" + (f", and {names_listed(hung)} with it." if hung else "."),
            "Connect it to a PoE port, add an injector, or clear its PoE class if it has a mains lead.",
            (device.id,),
        )


UNFED = FindingKind("unfed", "wiring", way_out="feed")


@trait
def takes_no_cable_power(camera: Camera, _: CameraFigures) -> bool:
    """Whether it takes no power over its cable."""
    return camera.poe_class is None


def unfed(facts: Facts) -> Iterator[Finding]:
    """Cameras that are plugged in, and that nothing feeds."""
    feeders, units = facts.topology.wiring.feeders, facts.fed_by_unit
    dark = [camera for camera in facts.having(takes_no_cable_power) if camera.id not in units and camera.id in feeders]
    dark += [camera for camera in facts.by_radio_or_fibre if camera.poe_class is not None and camera.id not in units]
    if dark:
        yield Finding(
            UNFED,
            facts.when_missing(Severity.WARNING),
            f"{names_listed([camera.name for camera in dark])}: no power source",
            "Its link carries no power, and no power supply or injector lists it.",
            "Add a power supply or injector on the Power tab, or enter the PoE class of the camera.",
            tuple(camera.id for camera in dark),
        )


CLASS_OVER_PORT = FindingKind("class-over-port", "wiring", way_out="powered port")
PORT_WITHOUT_POWER = FindingKind("port-without-poe", "wiring", way_out="powered port")


HIGH_CLASS = 4
"""PoE classes above this need ports that feed all four pairs. Nearly all ports give class 4, so that only cameras above it
have to be looked at; no judgement hangs on the figure."""


@trait
def has_high_class(camera: Camera, _: CameraFigures) -> bool:
    """Whether nearly every port gives less than its class."""
    return (camera.poe_class or 0) > HIGH_CLASS


def classes(facts: Facts) -> Iterator[Finding]:
    """Cameras on a port that gives less than their class, or no power at all."""
    feeders, units, devices = facts.topology.wiring.feeders, facts.fed_by_unit, facts.by_device_id
    weakest = min((device.poe_port_class for device in facts.suppliers), default=8)
    mixed = [device for device in facts.suppliers if 0 < device.poe_ports < device.ports]
    # Nearly all ports give class 4, so that nearly no camera has to be looked at.
    cameras = facts.having(has_high_class) if weakest >= HIGH_CLASS else facts.job.cameras
    wanting = [camera for camera in cameras if (camera.poe_class or 0) > weakest] if feeders else []
    for camera in wanting:
        link = feeders.get(camera.id)
        device = devices[link.far_end(camera.id)[0]] if link else None
        if camera.id in units or not isinstance(device, Recorder | NetworkDevice) or not device.poe_ports:
            continue
        if (camera.poe_class or 0) > device.poe_port_class:
            yield Finding(
                CLASS_OVER_PORT,
                Severity.FAULT,
                f"{camera.name} is PoE class {camera.poe_class}; {device.name} supplies up to class {device.poe_port_class}",
                "A port supplies only its own PoE class: the camera does not start, or restarts at night.",
                "Use an injector of that PoE class, or a switch whose ports supply it.",
                (camera.id, device.id),
            )
    for device in mixed:
        for port, links in facts.topology.wiring.ports_in_use.get(device.id, {}).items():
            for link_id in links if port > device.poe_ports else ():
                plugged = facts.on_link.get(link_id)
                if plugged is not None and plugged.poe_class is not None and plugged.id not in units:
                    yield Finding(
                        PORT_WITHOUT_POWER,
                        Severity.FAULT,
                        f"{plugged.name}: port {port} of {device.name} has no PoE",
                        f"Ports 1 to {device.poe_ports} have PoE; the others are for uplinks.",
                        "Move it to a PoE port, or add an injector.",
                        (plugged.id, device.id),
                    )


FEEDS_NOTHING = FindingKind("feeds-nothing", "wiring", button="Clear list")
FED_TWICE = FindingKind("fed-twice", "wiring")


def units(facts: Facts) -> Iterator[Finding]:
    """Injectors and power supplies: what they feed, with what, and whether enough of it arrives."""
    seen: dict[str, str] = {}
    for unit in facts.job.power_units:
        gone = [device_id for device_id in unit.feeds if device_id not in facts.by_device_id]
        if gone:
            yield Finding(
                FEEDS_NOTHING,
                Severity.FAULT,
                f"{unit.name} lists {count(len(gone), 'device')} not in the job",
                f"This job has no device called {names_listed(gone)}.",
                "Remove it from the list of devices that the unit supplies.",
                (unit.id,),
                set_unit(
                    [unit.id],
                    f"Clear the list of {unit.name}",
                    feeds=tuple(device_id for device_id in unit.feeds if device_id not in gone),
                ),
            )
        if unit.kind == "ups":
            yield from _battery(unit, facts)
            continue
        for device_id in unit.feeds:
            if device_id in seen:
                yield Finding(
                    FED_TWICE,
                    Severity.FAULT,
                    f"{facts.name(device_id)} has two supplies: {seen[device_id]} and {unit.name}",
                    "Two supplies on one device can damage each other.",
                    "Remove it from one of them.",
                    (device_id, unit.id),
                )
            seen.setdefault(device_id, unit.name)
        yield from _injector(unit, facts) if unit.kind == "injector" else _plug_in(unit, facts)


INJECTOR_MANY = FindingKind("injector-many", "wiring")


def _injector(unit: PowerUnit, facts: Facts) -> Iterator[Finding]:
    if len(unit.feeds) > 1:
        yield Finding(
            INJECTOR_MANY,
            Severity.FAULT,
            f"{unit.name} is planned for {count(len(unit.feeds), 'device')}",
            "An injector supplies one device.",
            "Plan one injector for each device, or use a PoE switch.",
            (unit.id, *unit.feeds),
        )
    for device_id in unit.feeds:
        device = facts.by_device_id.get(device_id)
        wanted = getattr(device, "poe_class", None)
        if wanted is not None and wanted > unit.poe_class:
            yield Finding(
                CLASS_OVER_PORT,
                Severity.FAULT,
                f"{facts.name(device_id)} is PoE class {wanted}; {unit.name} supplies class {unit.poe_class}",
                "An injector supplies no more than its own PoE class.",
                f"Use an injector of PoE class {wanted}.",
                (device_id, unit.id),
            )


WRONG_VOLTAGE = FindingKind("wrong-voltage", "wiring")
SUPPLY_OVER = FindingKind("supply-over", "wiring", colours="power")
SUPPLY_DROP = FindingKind("supply-drop", "wiring")


def _plug_in(unit: PowerUnit, facts: Facts) -> Iterator[Finding]:
    for device_id in unit.feeds:
        camera = facts.by_device_id.get(device_id)
        if isinstance(camera, Camera) and camera.power_input != unit.output:
            yield Finding(
                WRONG_VOLTAGE,
                Severity.FAULT,
                f"{camera.name} needs {camera.power_input}; {unit.name} supplies {unit.output}",
                "12 V, 24 V, AC and DC are not interchangeable: with too little the camera does not start, with too much it is "
                "destroyed.",
                "Read the label, and use the supply that it asks for.",
                (camera.id, unit.id),
            )
    supply = facts.topology.supplies.get(unit.id)
    if supply is None:
        return
    if not at_most(supply.draw_w, unit.budget_w):
        yield Finding(
            SUPPLY_OVER,
            Severity.FAULT,
            f"{unit.name}: {figure(supply.draw_w)} of {figure(unit.budget_w)} W",
            "An overloaded power supply runs hot and switches off.",
            "Use a larger power supply, or a second one.",
            (unit.id,),
        )
    run = supply_run(unit, supply.draw_w, leads_outdoors(unit, facts.by_device_id))
    if not run.voltage_ok:
        arrives = "no stable voltage" if run.settled is None else f"{figure(run.settled.device_v)} V"
        longest = "" if run.longest_m is None else f" At most {figure(run.longest_m)} m of this wire are possible."
        yield Finding(
            SUPPLY_DROP,
            Severity.FAULT,
            f"{unit.name}: {arrives} at the camera, of {unit.output}",
            f"{figure(unit.length_m)} m of {figure(unit.area_mm2)} mm² wire carry {figure(supply.draw_w)} W. At least "
            f"{100 * LOWEST_SHARE:g} % of the voltage should arrive.{longest}",
            "Use thicker wire or a shorter run, or place the supply nearer to the cameras.",
            (unit.id, *unit.feeds),
        )


UPS_OVER = FindingKind("ups-over", "wiring")
UPS_SHORT = FindingKind("ups-short", "wiring")


LEAST_UPS_MINUTES = 10.0
"""A UPS that lasts less is told of."""


def _battery(unit: PowerUnit, facts: Facts) -> Iterator[Finding]:
    got = ups_figures(unit, facts.by_device_id, facts.topology.supplies)
    if not at_most(got.load_w, unit.budget_w):
        yield Finding(
            UPS_OVER,
            Severity.FAULT,
            f"{unit.name} carries {figure(got.load_w)} of {figure(unit.budget_w)} W",
            "An overloaded UPS switches off just when it is needed.",
            "Use a larger UPS, or connect fewer devices to it.",
            (unit.id,),
        )
    elif got.minutes is not None and got.minutes < LEAST_UPS_MINUTES:
        yield Finding(
            UPS_SHORT,
            Severity.WARNING,
            f"{unit.name}: runtime {figure(got.minutes)} min",
            f"{figure(unit.battery_wh)} Wh supply {figure(got.load_w)} W (camera supplies are assumed to be "
            f"{100 * FEEDING_SHARE:g} % efficient). A battery loses capacity with age and cold.",
            "Use a larger battery, or connect fewer devices to it.",
            (unit.id,),
        )
    yield from _path_of_recording(unit, facts)


UPS_PARTLY = FindingKind("ups-partly", "wiring", button="Connect to UPS")
UPS_NO_RECORDER = FindingKind("ups-no-recorder", "wiring", button="Connect to UPS")


def _path_of_recording(unit: PowerUnit, facts: Facts) -> Iterator[Finding]:
    """What a UPS carries is of use only where the recorder, and all between it and its cameras, run on too."""
    carried = set().union(*(one.feeds for one in facts.job.power_units if one.kind == "ups"))
    for recorder in facts.job.recorders:
        between = _between(recorder, facts)
        missing = [device for device in between if device.id not in carried]
        if recorder.id in unit.feeds and missing:
            here = [device.id for device in missing if device.place == recorder.place]
            yield Finding(
                UPS_PARTLY,
                Severity.WARNING,
                f"{recorder.name}: {count(len(missing), 'device')} on its path without a UPS",
                f"{names_listed([device.name for device in missing])}: in a power cut the recorder keeps running on "
                f"{unit.name}, but gets no pictures through them.",
                "Put every device between the cameras and the recorder on a UPS too.",
                (unit.id, *(device.id for device in missing)),
                _carry(unit, here, facts) if here else None,
            )
        elif recorder.id not in carried and any(device.id in unit.feeds for device in between):
            yield Finding(
                UPS_NO_RECORDER,
                Severity.WARNING,
                f"{recorder.name} is on no UPS, but its switches are on {unit.name}",
                "In a power cut the cameras keep running, but nothing is recorded.",
                "Put the recorder on a UPS too.",
                (unit.id, recorder.id),
                _carry(unit, [recorder.id], facts),
            )


def _between(recorder: Recorder, facts: Facts) -> list[NetworkDevice]:
    """The devices with a mains lead that stand between a recorder and its cameras."""
    network = facts.topology.wiring.network
    devices = {device.id: device for device in facts.job.network}
    _, goal = network.leaves.get(recorder.id, ("", recorder.id))
    toward = network.toward(goal)
    found: dict[str, None] = {}
    for camera in facts.cameras_on[recorder.id]:
        _, here = network.leaves.get(camera.id, ("", ""))
        while here and here not in found:
            found[here] = None
            here = toward[here][1] if here in toward else ""
    return [devices[one] for one in found if one in devices and devices[one].poe_class is None]


def _carry(unit: PowerUnit, missing: list[str], facts: Facts) -> Edit:
    names = names_listed([facts.name(one) for one in missing])
    return set_unit([unit.id], f"Connect {names} to {unit.name}", feeds=(*unit.feeds, *missing))


RULES = (power, dark_uplinks, classes, unfed, units)
