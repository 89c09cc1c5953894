"""DHCP server on the simulated site: pools, leases, reservations, renewals, and phones that come and go."""

from __future__ import annotations

from random import Random

from eager_lens.core.addressing.ipv4 import address_text
from eager_lens.core.job.make_profiles import usual_profile
from eager_lens.core.simulation.parts import Server, Side, Unit
from eager_lens.core.simulation.reach import reached, take_address
from eager_lens.core.simulation.site import Site

LEASE_S = 86_400.0
"""How long a lease lasts (assumed; a day is usual). It is renewed at half of it."""

ASKS = (4.0, 8.0, 30.0, 60.0, 300.0)
"""A device that gets no answer asks again after so long, then at the last of these."""


def ask_lease(site: Site, unit: Unit, mark: int) -> None:
    """A unit asks for an address on one of its sides (``mark`` is which), or renews the one that it has."""
    if mark >= len(unit.sides) or not unit.runs:
        return
    side = unit.sides[mark]
    if side.assignment != "lease":
        return
    server = _server_heard(site, unit, side)
    number = _offer(site, server, unit) if server is not None else None
    if server is None or number is None:
        _no_answer(site, unit, side, mark)
        return
    server.leases[unit.mac_address] = (number, site.now_s + LEASE_S)
    side.lease_until_s, side.server, side.asked = site.now_s + LEASE_S, server.unit_id, 0
    site.event_queue.after(LEASE_S / 2, unit.id, "ask lease", mark)
    if side.address != number:
        take_address(site, unit, side, number, server.subnet.prefix, server.gateway)
        site.tell(unit, f"{unit.name} was leased {address_text(number)} by {site.units[server.unit_id].name}", "quiet")


def _no_answer(site: Site, unit: Unit, side: Side, mark: int) -> None:
    """No server answered: an old lease lasts until its end; then there is no address, or the one out of the box."""
    if side.address and side.lease_until_s and site.now_s >= side.lease_until_s:
        site.tell(unit, f"The lease of {unit.name} ran out and no DHCP server answers: its address is gone", "lesson")
        take_address(site, unit, side, 0, side.prefix, 0)
        side.lease_until_s = 0.0
    if not side.asked and not side.address:
        site.tell(
            unit,
            f"{unit.name} asks for an address and no server answers: it shows 0.0.0.0. Check the cable, then restart it",
            "lesson",
        )
    side.asked += 1
    site.event_queue.after(ASKS[min(side.asked, len(ASKS)) - 1], unit.id, "ask lease", mark)


def _server_heard(site: Site, unit: Unit, side: Side) -> Server | None:
    members = site.segment(unit, side)
    for server in site.servers.values():
        if (server.unit_id, server.side_name) in members and site.units[server.unit_id].runs:
            return server
    return None


def _offer(site: Site, server: Server, unit: Unit) -> int | None:
    """The address that a server gives: reserved, had before, or any free one that nothing seems to hold.

    It pings before it leases; a device that is off or ignores pings looks free.
    """
    if unit.mac_address in server.reserved:
        return server.reserved[unit.mac_address]
    had = server.leases.get(unit.mac_address)
    free = server.free(site.now_s)
    if had is not None and (had[1] > site.now_s or had[0] in free):
        return had[0]
    host = site.units[server.unit_id]
    while free:
        number = free.pop(site.chance.randrange(len(free)))
        answers = reached(site, host, number).unit
        if answers is None or not answers.profile.answers_ping:
            return number
    return None


def phone_comes(site: Site, unit: Unit, mark: int) -> None:
    """Somebody brings a device that the DHCP server does not know; the next one is due after a drawn time."""
    number = sum(other.role == "phone" for other in site.units.values()) + 1
    phone_id = f"phone-{unit.id}-{number}"
    phone = Unit(
        id=phone_id,
        name=f"Visitor's phone {number}",
        role="phone",
        mac_address="02:fe:" + ":".join(f"{site.chance.randrange(256):02x}" for _ in range(4)),
        serial="",
        profile=usual_profile(),
        chance=Random(f"{site.rehearsal.seed}:{phone_id}"),
        host=unit.id,
        phase="running",
    )
    phone.sides[0].assignment = "lease"
    site.units[phone_id] = phone
    site.guest_came()
    site.changed(phone)
    site.event_queue.after(1.0, phone_id, "ask lease", 0)
    if mark:
        site.event_queue.after(site.chance.expovariate(1.0) * mark, unit.id, "phone comes", mark)
