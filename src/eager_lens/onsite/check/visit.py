"""The check itself: find everything, see which device is which, then look at each of them, many at once."""

from __future__ import annotations

import asyncio
import contextlib
import socket
import time
from collections.abc import AsyncIterator, Generator, Sequence
from datetime import UTC, datetime
from typing import Any

from eager_lens.core.addressing.ipv4 import address_number, address_text
from eager_lens.core.job.file import job_from_text
from eager_lens.core.job.model import Job
from eager_lens.core.no_dumps import not_to_be_looked_into
from eager_lens.core.site_check.matching import is_certain, matched
from eager_lens.core.site_check.readings import (
    MOST_AT_ONE,
    MOST_DEVICES,
    MOST_STRANGERS,
    UTC_FORM,
    CheckRun,
    DeviceRead,
    Heard,
    Switches,
)
from eager_lens.core.site_check.scope import PROBES_A_SECOND, Interface, Scope, Target, everywhere, scope_of
from eager_lens.onsite.check import laptop, searching
from eager_lens.onsite.check.connecting import connected
from eager_lens.onsite.check.look import Look
from eager_lens.onsite.check.network import Network
from eager_lens.onsite.check.pace import Pace
from eager_lens.onsite.check.pins import Pinning, pins_for
from eager_lens.onsite.loopback import as_loopback, as_open_port
from eager_lens.onsite.open_protocol.discovery import PORT as SEARCH_PORT
from eager_lens.onsite.open_protocol.discovery import Answered

SETTLE_S = 0.3
AT_ONCE = 40
MOST_AT_OTHERS = 16
LOOK_WEIGHT = 8
"""Reading a device takes about this many times as long as a probe."""

Report = tuple[str, Any]


def visiting(
    job_text: str,
    switches: dict[str, Any],
    passwords: dict[str, str],
    here: dict[str, Any],
    may_pin: bool = False,
    may_ask: bool = False,
) -> Generator[Report, None, None]:
    """As ``run.checking``, in the right network already.

    Args:
        may_pin: whether addresses may be pinned, where several devices share one. may_ask: whether somebody may be asked for
            the right to.
    """
    not_to_be_looked_into()
    job = job_from_text(job_text)
    network = Network(here)
    own = everywhere(job) if network.on_loopback else laptop.interfaces()
    wanted = Switches.model_validate(switches)
    near = scope_of(job, own, wanted).interfaces
    pins = pins_for(near, may_ask) if may_pin and not network.on_loopback else None
    visit = Visit(job, wanted, passwords, network, own, bool(here), pins)
    loop = asyncio.new_event_loop()
    try:
        work = loop.create_task(visit.find_and_look())
        while True:
            report = loop.run_until_complete(next_report(visit.reports, work))
            if report is None:
                break
            yield report
        work.result()
        yield ("run", visit.outcome().model_dump(mode="json"))
        if may_pin:
            yield ("pins", pins is not None)
    finally:
        loop.close()
        if pins is not None:
            pins.close()


async def next_report(reports: asyncio.Queue[Report], work: asyncio.Task[None]) -> Report | None:
    """What is told next; None when all is told."""
    while not work.done() or not reports.empty():
        with contextlib.suppress(TimeoutError):
            return await asyncio.wait_for(reports.get(), 0.1)
    return None


class Visit:
    """A check under way."""

    def __init__(
        self,
        job: Job,
        switches: Switches,
        passwords: dict[str, str],
        network: Network,
        own: list[Interface],
        here: bool,
        pins: Pinning | None = None,
    ) -> None:
        """``pins``: what makes one of several devices on an address the only one that is reached; None: it may not be done."""
        self.job, self.switches, self.network, self._here = job, switches, network, here
        self.scope: Scope = scope_of(job, own, switches)
        self.reports: asyncio.Queue[Report] = asyncio.Queue()
        self._passwords, self._pins = passwords, pins
        self._pace = Pace(PROBES_A_SECOND)
        self._heard: dict[str, Heard] = {}
        self._read: dict[str, DeviceRead] = {}
        self._begun = datetime.now(UTC)
        self._begun_s = time.monotonic()
        self._arp_heard = False
        self._of_plan = {as_loopback(number): address_text(number) for number in self.scope.sweep}
        self._arp: socket.socket | None = None
        self._probed = self._to_look = self._strangers = 0
        self._begun_with: set[str] = set()

    def _tell(self, what: str, value: object) -> None:
        self.reports.put_nowait((what, value))

    def _laptop(self) -> tuple[str, ...]:
        return tuple(f"{address_text(one.address)}/{one.prefix}" for one in self.scope.interfaces)

    def outcome(self) -> CheckRun:
        """The run as a whole."""
        return CheckRun(
            at=self._begun.strftime(UTC_FORM),
            took_s=round(time.monotonic() - self._begun_s, 1),
            switches=self.switches,
            laptop=self._laptop(),
            laptop_synchronised=laptop.is_synchronised(),
            arp_heard=self._arp_heard,
            not_reached=self.scope.not_reached,
            here=self._here,
            heard=tuple(self._heard.values()),
            read=tuple(self._read.values()),
        )

    # ---- find -------------------------------------------------------------------------------------------------------

    async def find_and_look(self) -> None:
        """The planned addresses first, and a search; then what was found is looked at while the rest is gone through."""
        self._arp = None if self.network.on_loopback else laptop.arp_socket()
        self._arp_heard = self._arp is not None
        self._tell("laptop", (self._laptop(), self._arp_heard))
        loop = asyncio.get_running_loop()
        if self._arp is not None:
            loop.add_reader(self._arp, laptop.overheard, self._arp, self._claimed)
        try:
            planned = [target.address for target in self.scope.targets]
            rest = [number for number in self.scope.sweep if number not in set(planned)]
            await asyncio.gather(self._search(), self._probe_all(planned))
            await asyncio.sleep(SETTLE_S)
            await asyncio.gather(self._look_at_found(), self._probe_all(rest))
            # What turned up elsewhere in its subnet.
            await self._look_at_found()
            await self._look_through_first_addresses()
        finally:
            if self._arp is not None:
                loop.remove_reader(self._arp)
                self._arp.close()

    async def _search(self) -> None:
        if not self.switches.search:
            return
        hosts = ["127.0.0.1"] if self.network.on_loopback else self._own_hosts()
        port = as_open_port(SEARCH_PORT) if self.network.on_loopback else SEARCH_PORT
        planned = [self.network.reach(target.address, port)[0] for target in self.scope.targets]
        await searching.search(hosts, self._answered, port, planned=planned, pace=self._pace)

    def _own_hosts(self) -> list[str]:
        return [address_text(one.address) for one in self.scope.interfaces]

    def _claimed(self, address: str, mac: str) -> None:
        """Somebody was overheard to hold an address, perhaps in another subnet."""
        number = address_number(address)
        if not any(number == one.address for one in self.scope.interfaces):
            self._hear(address, "ARP", mac_addresses=(mac,))

    def _answered(self, host: str, answered: Answered) -> None:
        address = self.network.planned(host, self._of_plan)
        notes = (answered.note,) if answered.note else ()
        texts = {"name": answered.name, "hardware": answered.hardware, "told_mac": answered.mac_address}
        by = "search" if not answered.is_leaving else "Bye"
        self._hear(address, by, endpoints=(answered.endpoint,), urls=answered.urls, notes=notes, **texts)

    def _hear(self, address: str, by: str, **newly: Any) -> None:
        if address not in self._heard and not self._has_room_for(address):
            return
        before = self._heard.get(address) or Heard(address=address)
        values: dict[str, Any] = {"by": tuple(dict.fromkeys((*before.by, by)))[:8]}
        for name, value in newly.items():
            old = getattr(before, name)
            most = MOST_AT_ONE if address_number(address) in self.scope.first_addresses else MOST_AT_OTHERS
            values[name] = tuple(dict.fromkeys((*old, *value)))[:most] if isinstance(old, tuple) else old or value
        after = before.model_copy(update=values)
        if after != before:
            self._heard[address] = after
            self._tell("heard", after.model_dump(mode="json"))

    def _has_room_for(self, address: str) -> bool:
        """Whether one more is taken down: a device that claims one address after the other must not push out the job's own."""
        number = address_number(address)
        if any(number == target.address for target in self.scope.targets):
            return len(self._heard) < MOST_DEVICES
        self._strangers += 1
        return self._strangers <= MOST_STRANGERS

    async def _probe_all(self, numbers: Sequence[int]) -> None:
        ports = {target.address: target.profile.http_port for target in self.scope.targets}
        waiting: set[asyncio.Task[None]] = set()
        for at, number in enumerate(numbers):
            await self._pace.turn()
            waiting.add(asyncio.create_task(self._probe(number, ports.get(number, 80))))
            waiting = {one for one in waiting if not one.done()}
            self._probed += 1
            if at % 10 == 0:
                self._tell_share()
        if waiting:
            await asyncio.wait(waiting)
        self._remembered()

    def _remembered(self) -> None:
        """Take from this computer's ARP cache who was there, where it could not listen itself."""
        if self._arp is not None or self.network.on_loopback:
            return
        for address, mac in laptop.arp_cache().items():
            if self.scope.allows(address_number(address)):
                self._hear(address, "ARP", mac_addresses=(mac,))

    def _tell_share(self) -> None:
        steps = len(self.scope.sweep) + LOOK_WEIGHT * max(len(self.scope.targets), self._to_look)
        self._tell("share", min(1.0, (self._probed + LOOK_WEIGHT * len(self._read)) / max(1, steps)))

    async def _probe(self, number: int, port: int) -> None:
        if self._arp is not None:
            for one in self.scope.interfaces:
                if number in one.subnet:
                    laptop.ask_arp(self._arp, one, number)
        met = await connected(*self.network.reach(number, port))
        # On loopback this computer itself refuses for an address that nobody has.
        if met == "open" or (met == "refused" and not self.network.on_loopback):
            self._hear(address_text(number), "TCP")

    # ---- look -------------------------------------------------------------------------------------------------------

    async def _look_at_found(self) -> None:
        """Look at what is certain to be which device, and was not looked at yet; at nothing else, where a password might go
        astray."""
        targets = {(one.device, one.address): one for one in self.scope.targets}
        by_device = {one.device: one for one in reversed(self.scope.targets)}
        visits: list[tuple[Target, int, str]] = []
        for one in matched(self.job, list(self._heard.values()), self._arp_heard):
            if one.device is None or one.seen is None:
                continue
            apart = (
                self._pins is not None and one.outcome == "shared" and one.seen.mac_address == one.device.mac_address
            )
            if not (apart or is_certain(one, self.network.on_loopback)):
                continue
            number = address_number(one.seen.address)
            target = targets.get((one.device.id, number)) or by_device.get(one.device.id)
            pinned = self._pinned(one.seen.address, one.device.mac_address)
            if pinned is None or target is None or target.device in self._begun_with or not self.scope.allows(number):
                continue
            self._begun_with.add(target.device)
            visits.append((target, number, pinned))
        self._to_look += len(visits)
        turns = asyncio.Semaphore(AT_ONCE)
        look_at = Look(self.network, self.switches, self._passwords, self._pace.turn)

        async def look(target: Target, number: int, pinned: str) -> None:
            async with turns, self._reaching(number, pinned):
                read = await look_at.at(target, number, self._heard.get(address_text(number)))
            self._read[target.device] = read
            self._tell("read", read.model_dump(mode="json"))
            self._tell_share()

        await asyncio.gather(*(look(*one) for one in visits))

    def _pinned(self, address: str, mac_address: str) -> str | None:
        """The MAC address to be reached at an address that several hold; empty where one holds it; None where it cannot be told
        which of them would answer."""
        if not self.switches.first_addresses or self.network.on_loopback:
            return ""
        if not self._heard[address].is_shared(self._arp_heard):
            return ""
        return mac_address if self._pins is not None and mac_address else None

    async def _look_through_first_addresses(self) -> None:
        """Where this account may pin and cannot hear ARP, nobody told which devices share a default address: each of the job's
        that was not found, and whose MAC address is noted, is tried there."""
        if self._pins is None or self._arp_heard or self.network.on_loopback:
            return
        firsts = {address_text(number) for number in self.scope.first_addresses} & self._heard.keys()
        look_at = Look(self.network, self.switches, self._passwords, self._pace.turn)
        makes = {device.id: device for device in (*self.job.recorders, *self.job.cameras)}
        for target in self.scope.targets:
            device = makes.get(target.device)
            address = target.profile.first_address
            if device is None or not device.mac_address or target.device in self._read or address not in firsts:
                continue
            number = address_number(address)
            async with self._pins.only(number, device.mac_address):
                if await connected(*self.network.reach(number, target.profile.http_port)) != "open":
                    continue
                read = await look_at.at(target, number, None)
            if read.told is not None:
                self._hear(address, "TCP", mac_addresses=(device.mac_address,))
                self._read[target.device] = read
                self._tell("read", read.model_dump(mode="json"))

    @contextlib.asynccontextmanager
    async def _reaching(self, number: int, mac_address: str) -> AsyncIterator[None]:
        if not mac_address or self._pins is None:
            yield
            return
        async with self._pins.only(number, mac_address):
            yield
