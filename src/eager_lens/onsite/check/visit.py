"""The check itself: find everything, see which device is which, then look at each of them, many at once."""

from __future__ import annotations

import asyncio
import contextlib
import socket
import time
from collections.abc import Generator, Sequence
from datetime import UTC, datetime
from typing import Any

import httpx

from eager_lens.core.addressing.ipv4 import address_number, address_text, mac_address
from eager_lens.core.assess.assessment import assess
from eager_lens.core.job.file import job_from_text
from eager_lens.core.job.model import Job
from eager_lens.core.no_dumps import not_to_be_looked_into
from eager_lens.core.site_check.consequences import kept_days
from eager_lens.core.site_check.matching import is_certain, matched
from eager_lens.core.site_check.readings import (
    MOST_DEVICES,
    MOST_STRANGERS,
    UTC_FORM,
    CheckRun,
    DeviceRead,
    Heard,
    Switches,
)
from eager_lens.core.site_check.scope import PROBES_A_SECOND, Interface, Scope, Target, everywhere, scope_of
from eager_lens.onsite.check import laptop, page, searching
from eager_lens.onsite.check.connecting import connected
from eager_lens.onsite.check.pace import Pace
from eager_lens.onsite.check.stream import Wanted, read_streams
from eager_lens.onsite.digest import DigestLogin
from eager_lens.onsite.loopback import as_loopback, as_open_port
from eager_lens.onsite.ws_discovery import PORT as SEARCH_PORT
from eager_lens.onsite.ws_discovery import Answered

SETTLE_S = 0.3
AT_ONCE = 40
SUBSTREAM_S = 3.0
LOOK_WEIGHT = 8
"""Reading a device takes about this many times as long as a probe."""

Report = tuple[str, Any]


class Network:
    """How the planned addresses are reached: as they are, or on this computer's loopback."""

    def __init__(self, here: dict[str, Any]) -> None:
        self.on_loopback = bool(here) and here["mode"] == "loopback"
        self.site_password: str | None = here.get("password") if here else None

    def reach(self, number: int, port: int) -> tuple[str, int]:
        """Where an address and port of the plan are reached."""
        if self.on_loopback:
            return as_loopback(number), as_open_port(port)
        return address_text(number), port

    def planned(self, host: str, of_plan: dict[str, str]) -> str:
        """The planned address that a host stands for."""
        return of_plan.get(host, host) if self.on_loopback else host


def visiting(
    job_text: str, switches: dict[str, Any], passwords: dict[str, str], here: dict[str, Any]
) -> Generator[Report, None, None]:
    """As ``run.checking``, in the right network already."""
    not_to_be_looked_into()
    job = job_from_text(job_text)
    network = Network(here)
    own = everywhere(job) if network.on_loopback else laptop.interfaces()
    visit = Visit(job, Switches.model_validate(switches), passwords, network, own, bool(here))
    loop = asyncio.new_event_loop()
    try:
        work = loop.create_task(visit.run())
        while True:
            report = loop.run_until_complete(_next(visit.reports, work))
            if report is None:
                break
            yield report
        work.result()
        yield ("run", visit.outcome().model_dump(mode="json"))
    finally:
        loop.close()


async def _next(reports: asyncio.Queue[Report], work: asyncio.Task[None]) -> Report | None:
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
    ) -> None:
        self.job, self.switches, self.network, self._here = job, switches, network, here
        self.scope: Scope = scope_of(job, own, switches)
        self.reports: asyncio.Queue[Report] = asyncio.Queue()
        self._passwords = passwords
        self._pace = Pace(PROBES_A_SECOND)
        self._heard: dict[str, Heard] = {}
        self._read: dict[str, DeviceRead] = {}
        self._begun = datetime.now(UTC)
        self._begun_s = time.monotonic()
        self._arp_heard = False
        self._of_plan = {as_loopback(number): address_text(number) for number in self.scope.sweep}
        self._days: tuple[Any, ...] = ()
        self._arp: socket.socket | None = None
        self._probed = self._to_look = self._strangers = 0
        self._begun_with: set[str] = set()

    async def run(self) -> None:
        """Find, look, and work out what it means."""
        await self._find_and_look()
        assessment = assess(self.job)
        if any(read.main is not None for read in self._read.values()):
            self._days = kept_days(assessment, self._run())

    def _tell(self, what: str, value: object) -> None:
        self.reports.put_nowait((what, value))

    def outcome(self) -> CheckRun:
        """The run as a whole."""
        return self._run().model_copy(update={"days": self._days})

    def _laptop(self) -> tuple[str, ...]:
        return tuple(f"{address_text(one.address)}/{one.prefix}" for one in self.scope.interfaces)

    def _run(self) -> CheckRun:
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

    async def _find_and_look(self) -> None:
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
            async with page.client() as http:
                await asyncio.gather(self._look_at_found(http), self._probe_all(rest))
                # What turned up elsewhere in its subnet.
                await self._look_at_found(http)
        finally:
            if self._arp is not None:
                loop.remove_reader(self._arp)
                self._arp.close()

    async def _search(self) -> None:
        if not self.switches.search:
            return
        hosts = ["127.0.0.1"] if self.network.on_loopback else self._own_hosts()
        port = as_open_port(SEARCH_PORT) if self.network.on_loopback else SEARCH_PORT
        await searching.search(hosts, self._answered, port)

    def _own_hosts(self) -> list[str]:
        return [address_text(one.address) for one in self.scope.interfaces]

    def _claimed(self, address: str, mac: str) -> None:
        """Somebody was overheard to hold an address, perhaps in another subnet."""
        number = address_number(address)
        if not any(number == one.address for one in self.scope.interfaces):
            self._hear(address, "ARP", mac_addresses=(mac,))

    def _answered(self, host: str, answered: Answered) -> None:
        address = self.network.planned(host, self._of_plan)
        mac = mac_or_nothing(answered.mac_address)
        texts = {name: getattr(answered, name) for name in ("name", "hardware", "serial", "firmware")}
        self._hear(address, "search", told_mac=mac, endpoints=(answered.endpoint,), **texts)

    def _hear(self, address: str, by: str, **newly: Any) -> None:
        if address not in self._heard and not self._has_room_for(address):
            return
        before = self._heard.get(address) or Heard(address=address)
        values: dict[str, Any] = {"by": tuple(dict.fromkeys((*before.by, by)))[:8]}
        for name, value in newly.items():
            old = getattr(before, name)
            values[name] = tuple(dict.fromkeys((*old, *value)))[:16] if isinstance(old, tuple) else old or value
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

    async def _look_at_found(self, http: httpx.AsyncClient) -> None:
        """Look at what is certain to be which device, and was not looked at yet; at nothing else, where a password might go
        astray."""
        targets = {(one.device, one.address): one for one in self.scope.targets}
        by_device = {one.device: one for one in reversed(self.scope.targets)}
        visits: list[tuple[Target, int]] = []
        for one in matched(self.job, list(self._heard.values()), self._arp_heard):
            if one.device is None or one.seen is None or not is_certain(one, self.network.on_loopback):
                continue
            number = address_number(one.seen.address)
            target = targets.get((one.device.id, number)) or by_device.get(one.device.id)
            if target is not None and target.device not in self._begun_with and self.scope.allows(number):
                self._begun_with.add(target.device)
                visits.append((target, number))
        self._to_look += len(visits)
        turns = asyncio.Semaphore(AT_ONCE)

        async def look(target: Target, number: int) -> None:
            async with turns:
                read = await self._look(target, number, http)
            self._read[target.device] = read
            self._tell("read", read.model_dump(mode="json"))
            self._tell_share()

        await asyncio.gather(*(look(target, number) for target, number in visits))

    async def _look(self, target: Target, number: int, http: httpx.AsyncClient) -> DeviceRead:
        """Look at a device; what it answers never ends the check of the others."""
        try:
            return await self._looked_at(target, number, http)
        except Exception as error:  # noqa: BLE001  (whatever one device makes of the readers is that device's own trouble)
            trouble = f"Its answer cannot be read ({type(error).__name__})."
            return DeviceRead(device=target.device, address=address_text(number), trouble=trouble)

    async def _looked_at(self, target: Target, number: int, http: httpx.AsyncClient) -> DeviceRead:
        """One log-in for a device: a camera's at its stream, which tells most; at its page where there is no stream."""
        profile, password = target.profile, self._passwords.get(target.device, self.network.site_password)
        is_default = password is None and self.switches.default_passwords and bool(profile.default_password)
        if is_default:
            password = profile.default_password
        login = DigestLogin(profile.user_name, password) if self.switches.log_in and password is not None else None
        by_stream = login is not None and target.has_streams and self.switches.stream
        seen = await self._page(target, number, http, None if by_stream else login)
        values: dict[str, Any] = {
            "device": target.device,
            "address": address_text(number),
            "login": seen.login,
            "trouble": seen.trouble,
        }
        if self.switches.clock and seen.clock_off_s is not None:
            values |= {"clock_off_s": round(seen.clock_off_s, 1), "clock_by": "HTTP"}
        if by_stream and login is not None and seen.login not in ("locked", "set-up wanted"):
            values |= await self._streams_of(target, number, login)
            if values["login"] == "no answer" and not login.has_answered:
                # Nobody asked for a log-in there, so the page may: whether the password or the stream is what is wrong.
                values["login"] = (await self._page(target, number, http, login)).login
        if is_default:
            values["default_works"] = values["login"] == "in"
        if values["login"] == "in" and login is not None and self._tells_channels(target):
            host, port = self.network.reach(number, profile.http_port)
            await self._pace.turn()
            values["channels"] = await page.channels(http, f"http://{host}:{port}/{profile.channels_path}", login)
        if target.event_port and self.switches.events:
            values["events_open"] = await self._opens(number, target.event_port)
        return DeviceRead(**values)

    async def _page(
        self, target: Target, number: int, http: httpx.AsyncClient, login: DigestLogin | None
    ) -> page.PageRead:
        host, port = self.network.reach(number, target.profile.http_port)
        await self._pace.turn()
        return await page.look(http, f"http://{host}:{port}/", login)

    def _tells_channels(self, target: Target) -> bool:
        return target.role == "recorder" and self.switches.channels and bool(target.profile.channels_path)

    async def _streams_of(self, target: Target, number: int, login: DigestLogin) -> dict[str, Any]:
        profile = target.profile
        wanted = [Wanted(profile.main_stream_path, self.switches.stream_s)]
        if self.switches.substream and target.has_substream:
            wanted.append(Wanted(profile.substream_path, min(self.switches.stream_s, SUBSTREAM_S)))
        host, port = self.network.reach(number, profile.rtsp_port)
        streamed = await read_streams(host, port, login, wanted, self._pace.turn)
        found: dict[str, Any] = {"main": streamed.reads[0], "login": streamed.login}
        if len(streamed.reads) > 1:
            found["substream"] = streamed.reads[1]
        if self.switches.clock and streamed.clock_off_s is not None:
            found |= {"clock_off_s": round(streamed.clock_off_s, 3), "clock_by": "RTCP"}
        return found

    async def _opens(self, number: int, port: int) -> bool:
        await self._pace.turn()
        return await connected(*self.network.reach(number, port)) == "open"


def mac_or_nothing(text: str) -> str:
    try:
        return mac_address(text)
    except ValueError:
        return ""
