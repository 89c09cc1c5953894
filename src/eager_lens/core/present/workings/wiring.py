"""Workings of the wiring: volts, power, loads, radio, batteries, and what stops when a part fails."""

from typing import Any

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.figures.power import (
    DRIVE_W,
    UPS_SHARES,
    Supply,
    area_at_20_c_mm2,
    leads_outdoors,
    supply_volts,
    ups_figures,
)
from eager_lens.core.assess.figures.radio import radio_figures, radio_in
from eager_lens.core.assess.figures.rates import Origin
from eager_lens.core.assess.finding import names_listed
from eager_lens.core.assess.limits import LOWEST_SHARE, SPARE_SHARE
from eager_lens.core.assess.rules.links import late_key_frame
from eager_lens.core.job.model import Link
from eager_lens.core.power.dc import DC_RUN
from eager_lens.core.power.poe import POE_CLASSES, POE_RUN, cable_temperature_c
from eager_lens.core.power.ups import PEUKERT, RATED_H, UPS_TIME
from eager_lens.core.present.workings.base import Working, WorkingLine, calculated, rates_origin
from eager_lens.core.radio.link import RADIO_LINK
from eager_lens.core.units import count, figure


def volts(camera_id: str, assessment: Assessment) -> Working:
    """Volts that arrive at a camera."""
    camera = assessment.facts.find_camera(camera_id)
    title = f"Volts at {camera.name}"
    if camera.poe_class is None or camera.cable_m is None:
        why = "not powered by its cable" if camera.poe_class is None else "the length of its cable is not known"
        return Working(title, "–", POE_RUN.formula, (WorkingLine("run", why, "plan"),), POE_RUN.source)
    limits = POE_CLASSES[camera.poe_class]
    passed_on_v = assessment.facts.passed_on_v(camera)
    supply: tuple[float, Origin] = (
        (limits.supply_least_v, "assumed") if passed_on_v is None else (passed_on_v, "calculated")
    )
    got, lines = calculated(
        POE_RUN,
        {
            "class": (camera.poe_class, "plan"),
            "power_w": (camera.power_w, "assumed"),
            "length_m": (camera.cable_m, "plan"),
            "awg": (camera.awg, "plan"),
            "material": (camera.cable_material, "plan"),
            "temperature_c": (cable_temperature_c(camera.outdoor), "assumed"),
            "supply_v": supply,
        },
    )
    value = "the run cannot carry that much" if got["device_v"] is None else f"{figure(got['device_v'])} V"
    lines = (
        *lines,
        WorkingLine("loop", f"{figure(got['loop_ohm'])} Ω", "calculated"),
        WorkingLine("least voltage needed", f"{figure(limits.device_least_v)} V", "plan"),
        WorkingLine("allocates at the switch", f"{figure(limits.allocated_w)} W", "plan"),
    )
    return Working(title, value, POE_RUN.formula, lines, POE_RUN.source)


def power(device_id: str, assessment: Assessment) -> Working:
    """What a device feeds, against its budget."""
    facts = assessment.facts
    device = facts.by_device_id[device_id]
    supply = facts.topology.supplies.get(device_id, Supply(0, 0.0, 0.0))
    budget_w = getattr(device, "budget_w", 0.0)
    lines: tuple[WorkingLine, ...] = (
        WorkingLine("cameras supplied", str(supply.cameras), "plan"),
        WorkingLine("PoE ports", str(getattr(device, "poe_ports", 0)), "plan"),
        WorkingLine("allocated by class", f"{figure(supply.allocated_w)} W", "calculated"),
        WorkingLine("budget", f"{figure(budget_w)} W", "plan"),
        WorkingLine("spare share wanted", f"{100 * SPARE_SHARE:g} %", "assumed"),
    )
    if budget_w:
        spare = figure(100 * (1 - supply.draw_w / budget_w))
        lines += (WorkingLine("spare at night", f"{spare} %", "calculated"),)
    formula = (
        "drawn = sum of the cameras' draw at night and the losses in their cables (P = V × I at the least voltage of the "
        "class); allocated = sum of the class limits"
    )
    return Working(f"Power, {device.name}", f"{figure(supply.draw_w)} W at night", formula, lines, "IEEE 802.3 classes")


def unit(unit_id: str, assessment: Assessment) -> Working:
    """What an injector, power supply or UPS feeds, and what that leaves."""
    facts = assessment.facts
    unit = next(unit for unit in facts.job.power_units if unit.id == unit_id)
    fed = WorkingLine("feeds", names_listed([facts.name(one) for one in unit.feeds], 4) or "nothing", "plan")
    if unit.kind == "ups":
        got = ups_figures(unit, facts.by_device_id, facts.topology.supplies)
        if got.minutes is None:
            return Working(unit.name, "carries nothing", UPS_TIME.formula, (fed,), UPS_TIME.source)
        _, lines = calculated(
            UPS_TIME,
            {
                "load_w": (got.load_w, "calculated"),
                "battery_wh": (unit.battery_wh, "plan"),
                "inverter_share": (UPS_SHARES["inverter_share"], "assumed"),
                "depth_share": (UPS_SHARES["depth_share"], "assumed"),
            },
        )
        rate = WorkingLine(
            "rate effect of a lead-acid battery", f"Peukert {PEUKERT:g}, rated over {RATED_H:g} h", "assumed"
        )
        drives = WorkingLine("its drives", f"{DRIVE_W:g} W each", "assumed")
        formula = f"{UPS_TIME.formula}; with the rate effect t = H (E / (P H))^k instead of E / P"
        source = f"{UPS_TIME.source}; W. Peukert (1897); the maker's table comes first"
        return Working(unit.name, f"{figure(got.minutes)} minutes", formula, (fed, drives, *lines, rate), source)
    supply = facts.topology.supplies.get(unit_id, Supply(0, 0.0, 0.0))
    given = WorkingLine("gives", f"{figure(unit.budget_w)} W", "plan")
    if unit.kind == "injector":
        lines = (fed, WorkingLine("class", str(unit.poe_class), "plan"), given)
        return Working(
            unit.name, f"{figure(supply.draw_w)} W at night", "draw of its device", lines, "IEEE 802.3 classes"
        )
    volts, outdoor = supply_volts(unit), leads_outdoors(unit, facts.by_device_id)
    out, lines = calculated(
        DC_RUN,
        {
            "supply_v": (volts, "plan"),
            "power_w": (supply.draw_w, "calculated"),
            "length_m": (unit.length_m, "plan"),
            "area_mm2": (area_at_20_c_mm2(unit, outdoor), "calculated"),
            "lowest_share": (LOWEST_SHARE, "assumed"),
        },
    )
    value = (
        "the wire cannot carry that much" if out["device_v"] is None else f"{figure(out['device_v'])} V at the camera"
    )
    longest = "no limit" if out["longest_m"] is None else f"{figure(out['longest_m'])} m"
    warm = f"{figure(unit.area_mm2)} mm² at {figure(cable_temperature_c(outdoor))} °C"
    lines = (fed, given, WorkingLine("wire", warm, "plan"), *lines, WorkingLine("longest run", longest, "calculated"))
    return Working(unit.name, value, DC_RUN.formula, lines, DC_RUN.source)


def radio(link_id: str, assessment: Assessment) -> Working:
    """The budget of a radio link."""
    facts = assessment.facts
    link = next(link for link in facts.job.links if link.id == link_id)
    got, plan = radio_figures(link), link.radio
    assert got is not None and plan is not None and link.length_m
    given = radio_in(plan, link.length_m)
    inputs: dict[str, tuple[Any, Origin]] = {name: (value, "plan") for name, value in given.model_dump().items()}
    assumed: Origin = "assumed"
    inputs |= {name: (inputs[name][0], assumed) for name in ("margin_db", "efficiency_share")}
    out, lines = calculated(RADIO_LINK, inputs)
    step = "none holds" if out["step"] is None else f"{out['step']}, {figure(out['phy_mbps'])} Mb/s PHY rate"
    lines = (
        *lines,
        WorkingLine("path loss", f"{figure(out['path_loss_db'], 4)} dB", "calculated"),
        WorkingLine("arrives", f"{figure(out['rx_dbm'])} dBm", "calculated"),
        WorkingLine("step", step, "calculated"),
        WorkingLine(
            "first zone half-way", f"{figure(out['fresnel_m'])} m, {figure(out['clear_m'])} m clear", "calculated"
        ),
        *(
            WorkingLine(
                f"obstacle at {figure(one.at_m)} m",
                f"{figure(one.above_m)} of {figure(one.wanted_m)} m",
                "calculated",
            )
            for one in got.clearances
        ),
    )
    title = f"Radio, {facts.link_name(link)}"
    return Working(title, f"{figure(out['usable_mbps'])} Mb/s", RADIO_LINK.formula, lines, RADIO_LINK.source)


def load(link_id: str, assessment: Assessment) -> Working:
    """A link's load, against what it carries."""
    facts = assessment.facts
    link = next(link for link in facts.job.links if link.id == link_id)
    load, capacity = facts.topology.loads[link_id], facts.topology.wiring.capacity_mbps[link_id]
    origin: Origin = "plan" if link.capacity_mbps is not None or link.medium != "radio" else "assumed"
    if link.capacity_mbps is None and radio_figures(link) is not None:
        origin = "calculated"
    lines = (
        WorkingLine(f"from {facts.name(link.a)}", f"{figure(load.forth_mbps)} Mb/s", rates_origin(assessment)),
        WorkingLine(f"from {facts.name(link.b)}", f"{figure(load.back_mbps)} Mb/s", rates_origin(assessment)),
        WorkingLine("capacity each way", f"{figure(capacity)} Mb/s", origin),
        *_late_line(link, assessment),
    )
    return Working(
        f"Load, {facts.link_name(link)}",
        f"{figure(load.worst_mbps)} Mb/s",
        "sum of all streams whose shortest path uses this link: cameras to recorders, recorders to viewers; the busier "
        "direction counts",
        lines,
        "each direction separately (full duplex)",
    )


def _late_line(link: Link, assessment: Assessment) -> tuple[WorkingLine, ...]:
    """On a slow link, how long the largest key frame takes to cross it."""
    facts = assessment.facts
    late = late_key_frame(facts, link, facts.topology.on_route.get(link.id, []))
    if late is None:
        return ()
    camera_id, ms = late
    return (WorkingLine(f"largest key frame, of {facts.name(camera_id)}", f"{figure(ms)} ms", "assumed"),)


def stops(part_id: str, assessment: Assessment) -> Working:
    """What stops recording when a device or link fails, by place."""
    facts = assessment.facts
    lost = facts.stops.get(part_id, set())
    link = next((link for link in facts.job.links if link.id == part_id), None)
    name = facts.link_name(link) if link else facts.name(part_id)
    places: dict[str, list[str]] = {}
    for camera in facts.job.cameras:
        if camera.id in lost:
            places.setdefault(camera.place or "no place", []).append(camera.name)
    lines = tuple(WorkingLine(place, names_listed(names, 4), "calculated") for place, names in places.items())
    unrecorded = [one for one, part in facts.topology.wiring.hangs_on.items() if part == part_id and one not in lost]
    if unrecorded:
        words = f"{count(len(unrecorded), 'camera')} on it stop, and are not recorded as planned"
        lines = (*lines, WorkingLine("besides", words, "calculated"))
    if not lines:
        lines = (WorkingLine("recording", "goes on everywhere; at most remote viewing stops", "calculated"),)
    value = f"{count(len(lost), 'camera stops', 'cameras stop')} recording" if lost else "no camera stops recording"
    formula = "a camera stops when every path to its recorder leads through the failed part, or when the recorder itself fails"
    return Working(f"If {name} fails", value, formula, lines, "paths through the wiring as planned")
