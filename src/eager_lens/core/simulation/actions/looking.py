"""Actions that look: search, ping, a device's own page, its stream in a player."""

from __future__ import annotations

from typing import NamedTuple

from eager_lens.core.addressing.ipv4 import address_text
from eager_lens.core.simulation.access import WORDS, log_in, log_in_open
from eager_lens.core.simulation.actions.base import (
    ActionField,
    ActionKind,
    ActionOutcome,
    Values,
    number_of,
    recorded,
    stand_in,
)
from eager_lens.core.simulation.parts import Unit
from eager_lens.core.simulation.reach import ping, reached
from eager_lens.core.simulation.site import Site
from eager_lens.core.units import count

SEARCHED = ("camera", "recorder", "bridge")


class Answer(NamedTuple):
    """A line of the search list: what a device says about itself."""

    unit_id: str
    says: str
    mac_address: str
    serial: str
    address: str
    mask: int
    firmware: str
    set_up: bool
    reachable: bool


def answers(site: Site) -> list[Answer]:
    """What a search by the laptop shows: all running devices that hear a broadcast, whatever subnet they are in.

    A search crosses no router; names are those given on the devices, a new device has none.
    """
    laptop = site.laptop
    found = []
    for unit, side in site.heard(laptop, laptop.sides[0]):
        if unit.role in SEARCHED and unit.device is not None:
            near = any(own.is_near(side.address) for own in laptop.sides) and side.address != 0
            found.append(
                Answer(
                    unit.id,
                    unit.given_name or unit.device.make or unit.role,
                    unit.mac_address,
                    unit.serial,
                    address_text(side.address),
                    side.prefix,
                    unit.firmware,
                    unit.access.is_set_up,
                    near,
                )
            )
    return found


def _search(site: Site, unit: Unit, values: Values) -> ActionOutcome:
    found = answers(site)
    held: dict[str, int] = {}
    for one in found:
        held[one.address] = held.get(one.address, 0) + 1
    twins = sum(times > 1 for address, times in held.items() if address != "0.0.0.0")
    foreign = sum(not one.reachable for one in found)
    words = f"The search hears {count(len(found), 'device')}"
    if twins:
        words += f"; {count(twins, 'address is', 'addresses are')} held more than once"
    if foreign:
        words += f"; {foreign} in a subnet that the laptop has no address in"
    return recorded(site, site.laptop, ActionOutcome(True, words), lesson=bool(twins))


def _ping(site: Site, unit: Unit, values: Values) -> ActionOutcome:
    words = ping(site, site.laptop, number_of(values.get("address", ""), "address"))
    return recorded(site, site.laptop, ActionOutcome("no answer;" not in words, words))


def _page(site: Site, unit: Unit, values: Values) -> ActionOutcome:
    number = number_of(values.get("address", ""), "address")
    found = reached(site, site.laptop, number)
    if found.unit is None:
        return recorded(site, site.laptop, ActionOutcome(False, f"No page at {address_text(number)}: {found.why}"))
    other = found.unit
    state = "asks for its first set-up" if not other.access.is_set_up else "asks for a password"
    twins = "; ask again and another may answer" if found.twins else ""
    return recorded(
        site,
        site.laptop,
        ActionOutcome(
            True,
            f"The page at {address_text(number)} is of …{other.last_four} ({other.serial or 'no serial'}): it {state}{twins}",
        ),
    )


def _stream(site: Site, unit: Unit, values: Values) -> ActionOutcome:
    number = number_of(values.get("address", ""), "address")
    found = reached(site, site.laptop, number)
    if found.unit is None or found.unit.stream is None:
        why = found.why or f"{found.unit.name if found.unit else 'it'} is no camera"
        return recorded(site, site.laptop, ActionOutcome(False, f"No stream at {address_text(number)}: {why}"))
    other = found.unit
    password = stand_in(values.get("password", "own"), other)
    outcome = log_in(site, other, password)
    if outcome == "wrong" and other.profile.open_user_own:
        outcome = log_in_open(site, other, password, site.laptop)
    done = outcome == "in"
    words = "plays: the camera's own settings are right" if done else f"does not play: {WORDS[outcome]}"
    return recorded(site, site.laptop, ActionOutcome(done, f"The stream of {other.name} (…{other.last_four}) {words}"))


ADDRESS = ActionField("address", "Address", "address")

LOOKING = (
    ActionKind("search", "Search the network", ("laptop",), _search, tip="A broadcast: it crosses no router"),
    ActionKind(
        "ping", "Ping an address", ("laptop",), _ping, (ADDRESS,), "Also tells who answers to the address (ARP)"
    ),
    ActionKind("page", "Open a device's page", ("laptop",), _page, (ADDRESS,)),
    ActionKind(
        "stream",
        "Play a stream",
        ("laptop",),
        _stream,
        (ADDRESS, ActionField("password", "With", "password")),
        "A camera tested without the recorder: splits the fault between the two",
    ),
)
