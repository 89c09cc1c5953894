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

POWERED_PORTS = FindingKind("powered-ports", "wiring", way_out="larger switch")


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
                "A camera on a port without power stays dark.",
                "Use a switch with more PoE ports, an injector, or another switch.",
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
            "Above its budget a switch turns ports off, the last ones first, when infrared and heaters come on.",
            "Move cameras to another switch, or take one with a larger budget.",
            (device.id,),
        )
    elif not at_most(supply.draw_w, (1 - SPARE_SHARE) * device.budget_w):
        spare = 100 * (1 - supply.draw_w / device.budget_w)
        yield Finding(
            POWER_NEAR,
            Severity.WARNING,
            f"{device.name}: {draw} at night, {figure(spare, 2)} % spare",
            f"{100 * SPARE_SHARE:g} % spare is usual: after a power cut all cameras start at once.",
            "Move a camera or two to another switch.",
            (device.id,),
        )


SET_ASIDE_OVER = FindingKind("set-aside-over", "wiring", way_out="larger switch")


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
        f"{device.name} allocates {figure(supply.allocated_w)} W by class of {figure(device.budget_w)} W",
        f"The draw of {figure(supply.draw_w)} W would fit, but {surely}{' and' if profile.make else ''} refuses the last "
        "cameras.",
        "Use a switch that counts the real draw, or one with a larger budget; where this one does, say so in its make.",
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
            f"{device.name} is fed over its cable, and nothing there gives power",
            "It stays dark" + (f", and {names_listed(hung)} with it." if hung else "."),
            "Plug it into a PoE port, give it an injector, or clear its PoE class if it has a mains lead.",
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
            f"Nothing is written down that feeds {names_listed([camera.name for camera in dark])}",
            "No power comes over its link, and no power supply or injector lists it.",
            "Add a power supply or injector under Power, or enter its PoE class.",
            tuple(camera.id for camera in dark),
        )


CLASS_OVER_PORT = FindingKind("class-over-port", "wiring", way_out="powered port")
PORT_WITHOUT_POWER = FindingKind("port-without-power", "wiring", way_out="powered port")


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
                "A port supplies no more than its own PoE class: the camera stays dark, or restarts at night.",
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
                        f"{plugged.name} is on port {port} of {device.name}, which gives no power",
                        f"Ports 1 to {device.poe_ports} give power; the others are for uplinks.",
                        "Move it to a port with power, or add an injector.",
                        (plugged.id, device.id),
                    )


FEEDS_NOTHING = FindingKind("feeds-nothing", "wiring")
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
                f"{unit.name} feeds {count(len(gone), 'device')} that {'is' if len(gone) == 1 else 'are'} not there",
                f"{names_listed(gone)} is no device of this job.",
                "Remove it from the list of what the unit feeds.",
                (unit.id,),
                set_unit(
                    [unit.id],
                    f"Clear what {unit.name} feeds",
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
                    f"{facts.name(device_id)} is fed by {seen[device_id]} and by {unit.name}",
                    "Two supplies on one device work against each other.",
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
            f"{unit.name} is to feed {count(len(unit.feeds), 'device')}",
            "An injector has one port with power.",
            "Give each device an injector of its own, or use a PoE switch.",
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
                f"{camera.name} takes {camera.power_input}; {unit.name} gives {unit.output}",
                "12 V, 24 V, AC and DC are not interchangeable: too little and it stays dark, too much and it is gone.",
                "Read the label, and take the supply that it names.",
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
            "A power supply above its rating runs hot and drops out.",
            "A larger supply, or a second one.",
            (unit.id,),
        )
    run = supply_run(unit, supply.draw_w, leads_outdoors(unit, facts.by_device_id))
    if not run.voltage_ok:
        arrives = "nothing steady" if run.settled is None else f"{figure(run.settled.device_v)} V"
        longest = "" if run.longest_m is None else f" At most {figure(run.longest_m)} m of this wire would do."
        yield Finding(
            SUPPLY_DROP,
            Severity.FAULT,
            f"{unit.name}: {arrives} at the device of {unit.output}",
            f"{figure(unit.length_m)} m of {figure(unit.area_mm2)} mm² carry {figure(supply.draw_w)} W; at least "
            f"{100 * LOWEST_SHARE:g} % are wanted.{longest}",
            "Thicker wire, a shorter run, or the supply nearer to the cameras.",
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
            "A UPS above its rating switches off at the moment when it is wanted.",
            "A larger one, or fewer devices on it.",
            (unit.id,),
        )
    elif got.minutes is not None and got.minutes < LEAST_UPS_MINUTES:
        yield Finding(
            UPS_SHORT,
            Severity.WARNING,
            f"{unit.name} lasts {figure(got.minutes)} minutes",
            f"{figure(unit.battery_wh)} Wh carry {figure(got.load_w)} W (what feeds cameras at {100 * FEEDING_SHARE:g} % "
            "efficiency, assumed); a battery loses capacity with age and cold.",
            "A larger battery, or fewer devices on it.",
            (unit.id,),
        )
    yield from _path_of_recording(unit, facts)


UPS_PARTLY = FindingKind("ups-partly", "wiring")
UPS_NO_RECORDER = FindingKind("ups-no-recorder", "wiring")


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
                f"{unit.name} carries {recorder.name}, but not {names_listed([device.name for device in missing])}",
                "In a power cut the recorder runs on and gets no pictures through them.",
                "Put what stands between the cameras and the recorder on a UPS too, wherever it stands.",
                (unit.id, *(device.id for device in missing)),
                _carry(unit, here, facts) if here else None,
            )
        elif recorder.id not in carried and any(device.id in unit.feeds for device in between):
            yield Finding(
                UPS_NO_RECORDER,
                Severity.WARNING,
                f"{unit.name} carries the way to {recorder.name}, but no UPS carries {recorder.name}",
                "In a power cut cameras run on, and nothing is recorded.",
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
