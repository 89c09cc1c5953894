"""Actions of the hand: power, plugs, the laptop's place and address, boxes, buttons."""

from __future__ import annotations

from eager_lens.core.addressing.ipv4 import address_text
from eager_lens.core.simulation.actions.base import (
    ActionField,
    ActionKind,
    ActionOutcome,
    Values,
    recorded,
    with_prefix,
)
from eager_lens.core.simulation.parts import Side, Unit
from eager_lens.core.simulation.segments import CAMERAS
from eager_lens.core.simulation.service import reset
from eager_lens.core.simulation.site import Site


def _lead(site: Site, unit: Unit, put_in: bool) -> ActionOutcome:
    if unit.feeding.lead == "cable":
        return ActionOutcome(
            False, f"{unit.name} has no lead of its own: it is fed over its cable; plug that in or out"
        )
    if unit.feeding.lead_in == put_in:
        return ActionOutcome(True, f"The lead of {unit.name} is {'in' if put_in else 'out'} already")
    unit.feeding.lead_in = put_in
    site.changed(unit, wiring=False)
    return recorded(site, unit, ActionOutcome(True, f"The lead of {unit.name} is {'in' if put_in else 'out'}"))


def _plug(site: Site, unit: Unit, put_in: bool) -> ActionOutcome:
    cables = [cable for cable in site.cables_of(unit) if cable.medium != "radio"]
    if not cables:
        return ActionOutcome(
            False, f"{unit.name} has no cable in the job; plug it into something on the Wiring page first"
        )
    if all(cable.plugged == put_in for cable in cables):
        return ActionOutcome(True, f"The cable of {unit.name} is {'in' if put_in else 'out'} already")
    for cable in cables:
        cable.plugged = put_in
    for at, side in enumerate(unit.sides):
        if put_in and side.assignment == "lease" and unit.runs:
            site.event_queue.after(2.0, unit.id, "ask lease", at)
    for cable in cables:
        site.touch(site.units[cable.far_end(unit.id)[0]])
    site.changed(unit, wiring=not put_in)
    if put_in:
        site.joined(unit)
    ends = " and ".join(site.units[cable.far_end(unit.id)[0]].name for cable in cables)
    words = f"{unit.name} is plugged into {ends}" if put_in else f"{unit.name} is unplugged from {ends}"
    return recorded(site, unit, ActionOutcome(True, words))


def _laptop_to(site: Site, unit: Unit, values: Values) -> ActionOutcome:
    laptop = site.laptop
    laptop.host = unit.id
    laptop.host_side = CAMERAS if values.get("side") == CAMERAS and len(unit.sides) > 1 else ""
    for side in laptop.sides:
        side.neighbours.clear()
    site.changed(laptop)
    side_words = ", on its camera interface" if laptop.host_side else ""
    return recorded(site, laptop, ActionOutcome(True, f"The laptop is plugged into {unit.name}{side_words}"))


def _laptop_address(site: Site, unit: Unit, values: Values) -> ActionOutcome:
    number, prefix = with_prefix(values.get("address", ""), "address")
    laptop = site.laptop
    if any(side.address == number and side.prefix == prefix for side in laptop.sides):
        return ActionOutcome(True, f"The laptop has {address_text(number)}/{prefix} already")
    laptop.sides = [side for side in laptop.sides if side.address]
    laptop.sides.append(Side("", number, prefix))
    site.changed(laptop, wiring=False)
    return recorded(site, laptop, ActionOutcome(True, f"The laptop takes {address_text(number)}/{prefix}"))


def _laptop_bare(site: Site, unit: Unit, values: Values) -> ActionOutcome:
    site.laptop.sides = [Side()]
    site.changed(site.laptop, wiring=False)
    return recorded(site, site.laptop, ActionOutcome(True, "The laptop gives up all its addresses"))


def _laptop_lease(site: Site, unit: Unit, values: Values) -> ActionOutcome:
    laptop = site.laptop
    laptop.sides = [side for side in laptop.sides if side.address and side.assignment == "fixed"]
    laptop.sides.append(Side(assignment="lease"))
    site.event_queue.after(1.0, laptop.id, "ask lease", len(laptop.sides) - 1)
    site.changed(laptop, wiring=False)
    return recorded(site, laptop, ActionOutcome(True, "The laptop asks for an address"))


def _forget(site: Site, unit: Unit, values: Values) -> ActionOutcome:
    for side in site.laptop.sides:
        side.neighbours.clear()
    return recorded(site, site.laptop, ActionOutcome(True, "The laptop forgets who had which address"))


def _box(site: Site, unit: Unit, boxed: bool) -> ActionOutcome:
    if boxed and not unit.profile.in_box_min:
        return ActionOutcome(False, f"{unit.name} may not run in its box; unpack it first")
    unit.in_box_since_s = site.now_s if boxed else None
    if boxed and unit.is_lit:
        site.changed(unit, wiring=False)
        return recorded(
            site, unit, ActionOutcome(False, f"{unit.name} is warm already; put it in its box before it has power")
        )
    where = "in its box" if boxed else "out of its box"
    return recorded(site, unit, ActionOutcome(True, f"{unit.name} is {where}"))


def _reset(site: Site, unit: Unit, full: bool) -> ActionOutcome:
    if not unit.is_lit:
        return ActionOutcome(False, f"{unit.name} is dark; a reset needs power")
    reset(site, unit, full)
    kind = "full" if full else "soft"
    return ActionOutcome(True, f"{unit.name}: {kind} reset; it starts anew")


HANDLING = (
    ActionKind(
        "power on",
        "Put its lead in",
        ("router", "switch", "recorder", "camera", "bridge", "other", "supply"),
        lambda site, unit, values: _lead(site, unit, True),
    ),
    ActionKind(
        "power off",
        "Pull its lead",
        ("router", "switch", "recorder", "camera", "bridge", "other", "supply"),
        lambda site, unit, values: _lead(site, unit, False),
    ),
    ActionKind(
        "plug",
        "Plug its cable in",
        ("camera", "switch", "router", "bridge", "recorder", "other"),
        lambda site, unit, values: _plug(site, unit, True),
        tip="A PoE port checks what is plugged in before it gives power",
    ),
    ActionKind(
        "unplug",
        "Pull its cable",
        ("camera", "switch", "router", "bridge", "recorder", "other"),
        lambda site, unit, values: _plug(site, unit, False),
    ),
    ActionKind(
        "laptop to",
        "Plug the laptop in here",
        ("switch", "router", "recorder", "bridge"),
        _laptop_to,
        (ActionField("side", "Interface", "choice", ("", CAMERAS)),),
    ),
    ActionKind(
        "laptop address",
        "Give the laptop an address",
        ("laptop",),
        _laptop_address,
        (ActionField("address", "Address and size", "address"),),
        "It keeps the ones that it has; to reach a device out of the box it needs one in that subnet",
    ),
    ActionKind("laptop lease", "Let the laptop lease one", ("laptop",), _laptop_lease),
    ActionKind("laptop bare", "Drop the laptop's addresses", ("laptop",), _laptop_bare),
    ActionKind("forget", "Forget who had which address", ("laptop",), _forget, tip="Empties the laptop's ARP cache"),
    ActionKind(
        "box",
        "Put it in its box",
        ("camera",),
        lambda site, unit, values: _box(site, unit, True),
        tip="Some may run in their boxes for a short time, less the warmer it is; the housing may be hot afterwards",
    ),
    ActionKind("unbox", "Unpack it", ("camera",), lambda site, unit, values: _box(site, unit, False)),
    ActionKind(
        "soft reset",
        "Soft reset",
        ("camera", "recorder", "bridge"),
        lambda site, unit, values: _reset(site, unit, False),
        tip="Settings as out of the box; software and stored video stay",
    ),
    ActionKind(
        "full reset",
        "Full reset",
        ("camera", "recorder", "bridge"),
        lambda site, unit, values: _reset(site, unit, True),
        tip="Settings, software and stored video are lost",
    ),
)
