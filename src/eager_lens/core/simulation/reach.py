"""Addresses at work: who answers to an address, for whom, and why not. Neighbours, gateways, ping, twins."""

from __future__ import annotations

from typing import NamedTuple

from eager_lens.core.addressing.ipv4 import address_text
from eager_lens.core.simulation.parts import Neighbour, Side, Unit
from eager_lens.core.simulation.segments import Segment
from eager_lens.core.simulation.site import Site

REMEMBERED_S = 60.0
"""How long a neighbour is remembered (assumed; systems differ between half a minute and hours)."""

TURN_S = (15.0, 50.0)
"""Seconds after which another of several devices on one address answers."""


class Reached(NamedTuple):
    """Who answered, over which side; or None and why. ``twins`` tells that several hold the address."""

    unit: Unit | None
    side: Side | None = None
    why: str = ""
    twins: bool = False


def resolved(site: Site, asker: Unit, side: Side, number: int) -> Reached:
    """Who answers to an address in the asker's own network: remembered, or asked for (ARP)."""
    text = address_text(number)
    members = site.segment(asker, side)
    remembered = side.neighbours.get(number)
    if remembered is not None and remembered.until_s > site.now_s:
        there = [(u, s) for u, s in site.holding(number) if (u.id, s.name) in members and u.id == remembered.unit_id]
        twins = members in site.contested.get(number, {})
        if there and not twins:
            return Reached(*there[0])
        if not there and not twins:
            left_s = remembered.until_s - site.now_s
            return Reached(
                None,
                None,
                f"{asker.name} still remembers who had {text}, for {left_s:.0f} s more; clear it or wait",
            )
    holders = [(u, s) for u, s in site.holding(number) if (u.id, s.name) in members and u is not asker]
    if not holders:
        return Reached(None, None, f"nobody in its network answers to {text}")
    turn = site.contested.get(number, {}).get(members)
    unit, far_side = next(((u, s) for u, s in holders if u.id == turn), holders[0])
    side.neighbours[number] = Neighbour(unit.id, site.now_s + REMEMBERED_S)
    site.remembers(asker, side, number)
    return Reached(unit, far_side, "", len(holders) > 1)


def reached(site: Site, asker: Unit, number: int) -> Reached:
    """Who is reached from a unit at an address, there and back."""
    if not number:
        return Reached(None, None, "there is no address to look for")
    text = address_text(number)
    with_address = [side for side in asker.sides if side.address]
    if not with_address:
        return Reached(None, None, f"{asker.name} has no address of its own")
    near = [side for side in with_address if side.is_near(number)]
    trouble = ""
    for side in near:
        if side.address == number:
            return Reached(asker, side)
        found = resolved(site, asker, side, number)
        if found.unit is not None and found.side is not None:
            back = _route_back(site, found.unit, found.side, side.address)
            return found if not back else Reached(None, None, back)
        trouble = trouble or found.why
    if near:
        return Reached(None, None, trouble)
    for side in with_address:
        if side.gateway:
            return _through_gateway(site, asker, side, number)
    own = ", ".join(f"{address_text(side.address)}/{side.prefix}" for side in with_address)
    return Reached(None, None, f"{text} is in another subnet than {asker.name} ({own}), and there is no gateway to it")


def _route_back(site: Site, unit: Unit, side: Side, to_number: int) -> str:
    """Why an answer does not come back; empty when it does."""
    if side.is_near(to_number):
        return ""
    if side.gateway and any(router.role == "router" for router, _ in site.holding(side.gateway)):
        return ""
    return (
        f"{unit.name} hears it, but takes {address_text(to_number)} for another subnet (its own is "
        f"{address_text(side.subnet.network)}/{side.prefix}) and finds no way back"
    )


def _through_gateway(site: Site, asker: Unit, side: Side, number: int) -> Reached:
    gate = resolved(site, asker, side, side.gateway) if side.is_near(side.gateway) else Reached(None)
    if gate.unit is None or gate.unit.role != "router":
        return Reached(None, None, f"the gateway {address_text(side.gateway)} does not answer {asker.name}")
    for far_side in gate.unit.sides:
        if far_side.is_near(number):
            found = resolved(site, gate.unit, far_side, number)
            if found.unit is None or found.side is None:
                return Reached(None, None, found.why)
            back = _route_back(site, found.unit, found.side, side.address)
            return found if not back else Reached(None, None, back)
    return Reached(None, None, f"{gate.unit.name} knows no way to {address_text(number)}")


def ping(site: Site, asker: Unit, number: int) -> str:
    """What a ping shows, in words; an address that is asked for answers even where the ping is ignored."""
    text = address_text(number)
    found = reached(site, asker, number)
    if found.unit is None:
        return f"{text}: no answer; {found.why}"
    if found.unit is asker:
        return f"{text} is {asker.name}'s own address"
    if not found.unit.profile.answers_ping:
        return f"{text}: no answer to the ping, but {found.unit.mac_address} answers to the address (ARP): somebody is there"
    twins = "; more than one device holds this address" if found.twins else ""
    return f"{text} answers; MAC address {found.unit.mac_address}{twins}"


def take_address(site: Site, unit: Unit, side: Side, number: int, prefix: int, gateway: int) -> None:
    """Give a side an address; a unit that announces itself is asked for anew by its neighbours."""
    before = side.address
    side.address, side.prefix, side.gateway = number, prefix, gateway
    site.changed(unit, wiring=False)
    site.stir(before)
    if number and unit.runs and unit.profile.announces:
        site.forget(site.segment(unit, side), number)


def settle_twins(site: Site) -> None:
    """See which addresses are held more than once in one segment; take turns where they are."""
    twins = {number: _twins_at(site, number) for number in site.shared()}
    for number, by_segment in twins.items():
        before = site.contested.get(number, {})
        if by_segment and not before:
            units = next(iter(by_segment.values()))
            names = " and ".join(unit.name for unit in units[:3]) + (f" and {len(units) - 3} more" if units[3:] else "")
            site.tell(
                units[-1],
                f"{names} share {address_text(number)}: each answers in turn, so pictures come and go",
                "lesson",
            )
            site.event_queue.after(site.chance.uniform(*TURN_S), units[0].id, "next twin", number)
        turns = {}
        for members, units in by_segment.items():
            turn = before.get(members) or next(iter(before.values()), "")
            turns[members] = turn if any(u.id == turn for u in units) else units[site.chance.randrange(len(units))].id
        if turns:
            site.contested[number] = turns
    for number in [number for number in site.contested if not twins.get(number)]:
        del site.contested[number]
        site.tell(None, f"{address_text(number)} is held by one device only again")


def _twins_at(site: Site, number: int) -> dict[Segment, list[Unit]]:
    """By segment, the units that hold an address there, where there are several."""
    present: dict[Segment, list[Unit]] = {}
    for unit, side in site.holding(number):
        present.setdefault(site.segment(unit, side), []).append(unit)
    return {members: units for members, units in present.items() if len(units) > 1}


def next_twin(site: Site, unit: Unit, mark: int) -> None:
    """Let another of those that hold an address answer for a while."""
    turns = site.contested.get(mark)
    if not turns:
        return
    for members, turn in turns.items():
        others = [
            other.id for other, side in site.holding(mark) if (other.id, side.name) in members and other.id != turn
        ]
        if others:
            turns[members] = others[site.chance.randrange(len(others))]
    for recorder in site.recorders():
        for side in recorder.sides:
            side.neighbours.pop(mark, None)
        site.want_round(recorder)
    site.event_queue.after(site.chance.uniform(*TURN_S), unit.id, "next twin", mark)
