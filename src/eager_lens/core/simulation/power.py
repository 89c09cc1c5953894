"""Power on the simulated site: who feeds whom, what a PoE port checks first, and who goes dark when it runs out."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from eager_lens.core.job.make_profiles import box_minutes
from eager_lens.core.power.poe import POE_CLASSES
from eager_lens.core.simulation.parts import Cable, Unit
from eager_lens.core.simulation.site import Site
from eager_lens.core.validation import at_most


def settle_power(site: Site) -> None:
    """Feed what can be fed now; what lost its power goes dark, what got some starts."""
    groups = _groups(site)
    touched = site.take_touched()
    if touched is None:
        units: Iterable[Unit] = list(site.units.values())
    else:
        # What hangs together by power stands together in a group; nothing changes outside the groups that changed.
        concerned = [groups.get(one.id, (one,)) for one in touched]
        units = [unit for group in {id(group): group for group in concerned}.values() for unit in group]
    fed = _sources(site, list(units))
    for unit in units:
        if unit.role in ("laptop", "phone"):
            continue
        source = fed.get(unit.id, "")
        if source and unit.phase == "off" and site.now_s >= unit.cool_at_s:
            _start(site, unit, source)
        # Has a source, and still may not start: only heat is left as the reason.
        elif source and unit.phase == "off":
            unit.feeding.why_dark = "too hot after running in its box; let it cool"
        elif not source and unit.phase != "off":
            _go_dark(site, unit)
        unit.feeding.source = source if unit.phase != "off" else ""


def _groups(site: Site) -> dict[str, tuple[Unit, ...]]:
    """By id, the units that feed one another, over any lead or cable that there is; those never change."""
    if site.power_groups is None:
        top = {unit.id: unit.id for unit in site.units.values()}

        def root(one: str) -> str:
            while top[one] != one:
                top[one] = top[top[one]]
                one = top[one]
            return one

        for unit in site.units.values():
            if unit.feeding.lead == "unit" and unit.feeding.unit_id in top:
                top[root(unit.id)] = root(unit.feeding.unit_id)
        for cable in site.cables.values():
            for giver, port, taker in ((cable.a, cable.a_port, cable.b), (cable.b, cable.b_port, cable.a)):
                takes = cable.medium == "copper" and site.units[taker].feeding.lead == "cable"
                if takes and gives_power(site.units[giver], port):
                    top[root(taker)] = root(giver)
        found: dict[str, list[Unit]] = {}
        for unit in site.units.values():
            found.setdefault(root(unit.id), []).append(unit)
        site.power_groups = {unit.id: group for units in found.values() for group in (tuple(units),) for unit in units}
    return site.power_groups


def _start(site: Site, unit: Unit, source: str) -> None:
    unit.feeding.why_dark = ""
    unit.boots += 1
    unit.phase = "starting" if unit.phase == "off" else unit.phase
    unit.ready_s = site.now_s + unit.profile.start_s
    site.event_queue.after(unit.profile.start_s, unit.id, "started", unit.boots)
    if unit.in_box_since_s is not None:
        unit.in_box_since_s = site.now_s
        site.event_queue.after(box_limit_s(site, unit), unit.id, "too hot", unit.boots)
    by = site.units.get(source)
    how = f", fed by {by.name}" if by is not None and by is not unit else ""
    site.tell(unit, f"{unit.name} has power{how}; it starts, about {unit.profile.start_s:.0f} s", "quiet")
    site.joined(unit)
    site.changed(unit, wiring=False)


def box_limit_s(site: Site, unit: Unit) -> float:
    """How long a unit may run in its box at the rehearsal's warmth."""
    return 60 * box_minutes(unit.profile, site.rehearsal.ambient_c)


def _go_dark(site: Site, unit: Unit) -> None:
    # Read before the phase is overwritten below.
    interrupted = unit.phase == "updating"
    unit.phase = "off"
    unit.boots += 1
    for side in unit.sides:
        side.neighbours.clear()
        if side.assignment == "lease":
            side.address = 0
    if interrupted:
        unit.firmware = ""
        site.tell(
            unit,
            f"{unit.name} lost power in the middle of its update: it will not start again until a full reset",
            "lesson",
        )
    else:
        why = f": {unit.feeding.why_dark}" if unit.feeding.why_dark else ""
        site.tell(unit, f"{unit.name} is dark{why}", "lesson" if why else "quiet")
    site.changed(unit)


def _sources(site: Site, among: Sequence[Unit]) -> dict[str, str]:
    """By id of each unit that has power, what feeds it. Feeders come before what they feed; a unit that gives power has
    to run before it does."""
    units = site.units
    fed: dict[str, str] = {}
    for unit in among:
        feeding = unit.feeding
        if unit.is_burnt:
            feeding.why_dark = "it is broken"
        elif feeding.lead == "mains":
            feeding.why_dark = "" if feeding.lead_in else "its mains lead is out"
            if feeding.lead_in:
                fed[unit.id] = unit.id
        elif feeding.lead == "unit":
            _feed_by_unit(unit, units, fed)
    # A switch fed by PoE may itself give PoE, so ports are fed in rounds until a round feeds nothing more.
    while True:
        before = len(fed)
        for giver in among:
            if giver.id in fed and giver.runs and giver.feeding.poe_ports:
                _feed_ports(site, giver, fed)
        if len(fed) == before:
            break
    for unit in among:
        if unit.feeding.lead == "cable" and unit.id not in fed and not _hangs_on_a_giver(site, unit):
            unit.feeding.why_dark = "no PoE port or injector on its cable"
    return fed


def _hangs_on_a_giver(site: Site, unit: Unit) -> bool:
    return any(
        cable.plugged and cable.medium == "copper" and gives_power(site.units[far], port)
        for cable in site.cables_of(unit)
        for far, port in (cable.far_end(unit.id),)
    )


def gives_power(giver: Unit, port: int) -> bool:
    """Whether a port gives power; one that is not named is taken for a powered one where there is any."""
    return giver.feeding.poe_ports > 0 and port <= giver.feeding.poe_ports


def _feed_by_unit(unit: Unit, units: dict[str, Unit], fed: dict[str, str]) -> None:
    feeding, supply = unit.feeding, units.get(unit.feeding.unit_id)
    if not feeding.lead_in:
        feeding.why_dark = "its lead from the supply or injector is out"
    elif supply is None or not supply.feeding.lead_in:
        feeding.why_dark = "its supply or injector has no mains"
    elif supply.feeding.takes and feeding.takes and supply.feeding.takes != feeding.takes:
        feeding.why_dark = (
            f"it takes {feeding.takes}, {supply.name} gives {supply.feeding.takes}; none stands in for another"
        )
    elif (
        feeding.poe_class is not None and not supply.feeding.takes and feeding.poe_class > supply.feeding.poe_port_class
    ):
        feeding.why_dark = (
            f"it asks for PoE class {feeding.poe_class}, {supply.name} supplies class {supply.feeding.poe_port_class}"
        )
    else:
        feeding.why_dark = ""
        fed[unit.id] = supply.id


def _feed_ports(site: Site, giver: Unit, fed: dict[str, str]) -> None:
    """Check what is plugged into a giver's PoE ports, and feed it while its budget lasts; low numbers come first."""
    left_w = giver.feeding.budget_w
    ports: list[tuple[int, Cable, Unit]] = []
    for cable in site.cables_of(giver):
        far = site.units[cable.far_end(giver.id)[0]]
        port = cable.port_at(giver.id)
        if cable.plugged and cable.medium == "copper" and far.feeding.lead == "cable" and gives_power(giver, port):
            ports.append((port, cable, far))
    for port, _, unit in sorted(ports, key=lambda one: (one[0], one[1].id)):
        # Another port has it already: a device with two powered cables draws from one.
        if fed.get(unit.id, giver.id) != giver.id:
            continue
        feeding = unit.feeding
        refusal = (
            f"port {port} of {giver.name} gives no power" if port in giver.feeding.ports_off else _refusal(giver, unit)
        )
        wanted_w = _wanted_w(site, giver, unit)
        if not refusal and not at_most(wanted_w, left_w):
            refusal = (
                f"{giver.name} has {max(0.0, left_w):.1f} W left of {giver.feeding.budget_w:.0f} W; it wants {wanted_w:.1f} W, "
                f"and ports of lower numbers come first (this one is {port})"
            )
        feeding.why_dark = refusal
        if refusal:
            # It was fed in an earlier round; since then a port of a lower number has come to want the budget.
            fed.pop(unit.id, None)
        else:
            left_w -= wanted_w
            fed[unit.id] = giver.id


def _wanted_w(site: Site, giver: Unit, unit: Unit) -> float:
    poe_class = unit.feeding.poe_class
    if giver.profile.budget_by_class and poe_class is not None:
        return POE_CLASSES[poe_class].allocated_w
    return unit.feeding.draw_w + (
        unit.feeding.infrared_w * unit.feeding.infrared_share if site.is_dark_for(unit) else 0.0
    )


def _refusal(giver: Unit, unit: Unit) -> str:
    """What a PoE port's check before it gives power finds."""
    feeding = unit.feeding
    if unit.is_burnt:
        return "it is broken and takes no power"
    if feeding.poe_class is None:
        return "it takes no power over its cable"
    if feeding.poe_class > giver.feeding.poe_port_class:
        return f"it asks for PoE class {feeding.poe_class}, {giver.name} supplies up to class {giver.feeding.poe_port_class}"
    if not at_most(feeding.draw_w, POE_CLASSES[feeding.poe_class].device_w):
        limit_w = POE_CLASSES[feeding.poe_class].device_w
        return f"it draws {feeding.draw_w:g} W, its PoE class {feeding.poe_class} allows {limit_w:g} W: the port cuts it off"
    if not feeding.volts_ok:
        return "the voltage at the camera is too low: it goes out as soon as it draws its full power"
    return ""


def started(site: Site, unit: Unit, mark: int) -> None:
    """A unit has come up."""
    # An event that was queued before the last loss of power belongs to a run that is over.
    if mark != unit.boots or unit.phase not in ("starting", "updating"):
        return
    if not unit.firmware:
        unit.phase = "broken"
        site.tell(unit, f"{unit.name} does not start: its software is damaged. A full reset brings it back", "lesson")
    else:
        unit.phase = "running"
        site.tell(unit, f"{unit.name} is ready", "quiet")
        for at, side in enumerate(unit.sides):
            if side.assignment == "lease":
                side.asked = 0
                site.event_queue.after(1.0 + unit.chance.random(), unit.id, "ask lease", at)
        if unit.clock.server:
            unit.clock.polled += 1
            site.event_queue.after(5.0 + 10 * unit.chance.random(), unit.id, "poll clock", unit.clock.polled)
        site.joined(unit)
    site.changed(unit, wiring=unit.phase == "broken")


def too_hot(site: Site, unit: Unit, mark: int) -> None:
    """A unit ran in its box for too long: it switches itself off, and has to cool for as long."""
    if mark != unit.boots or unit.in_box_since_s is None:
        return
    unit.cool_at_s = site.now_s + 2 * max(60.0, box_limit_s(site, unit))
    unit.phase, unit.boots = "off", unit.boots + 1
    site.event_queue.after(unit.cool_at_s - site.now_s, unit.id, "cooled", unit.boots)
    site.tell(
        unit,
        f"{unit.name} switched itself off: too hot in its box. Take care, the housing may burn; let it cool, and unpack it",
        "lesson",
    )
    site.changed(unit)


def cooled(site: Site, unit: Unit, mark: int) -> None:
    """A unit that was too hot may have power again."""
    site.changed(unit)


def dusk_or_dawn(site: Site, unit: Unit, mark: int) -> None:
    """Infrared comes on or goes off: what is fed may be another."""
    site.changed()
    site.event_queue.after(site.until_dusk_or_dawn_s(), unit.id, "dusk or dawn")
