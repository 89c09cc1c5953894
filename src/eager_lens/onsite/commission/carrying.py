"""Carrying a plan out: device by device, act by act, each on disk before it is sent and read back after.

Devices that share an address come one after the other, only until each has its own; then recorders, whose clocks and addresses
cameras ask for; then cameras; then the recorders' channels. At most eight devices at once, and one act at a time at each.
"""

from __future__ import annotations

import asyncio
import contextlib
from collections.abc import AsyncIterator, Callable, Iterable, Sequence
from pathlib import Path
from typing import Any

from eager_lens.core.addressing.ipv4 import address_number
from eager_lens.core.commission.act import Act, ActKind, DevicePlan, SetPlan
from eager_lens.core.commission.ledger import ActLine, Head, Ledger, State, now
from eager_lens.core.commission.plan import acts_left
from eager_lens.core.job.make_profiles import profile_of
from eager_lens.core.job.model import Device, Job, Recorder
from eager_lens.core.site_check.readings import CheckRun, DeviceRead, Heard, Switches
from eager_lens.core.site_check.scope import Target, targets_of
from eager_lens.core.units import figure
from eager_lens.onsite.bounded_http import Http
from eager_lens.onsite.check.look import Look
from eager_lens.onsite.check.pins import Pinning
from eager_lens.onsite.commission.sending import Passwords, send
from eager_lens.onsite.commission.wire import Wire
from eager_lens.onsite.open_protocol.conversation import NotTold, User
from eager_lens.onsite.open_protocol.endpoints import Endpoint, endpoint_of
from eager_lens.onsite.open_protocol.names import DEVICE_PATH
from eager_lens.onsite.open_protocol.opened import OpenedDevice, open_device
from eager_lens.onsite.open_protocol.reading import Part

AT_ONCE = 8
SLOWER_TIMES, FURTHER_S = 2.0, 20.0
"""A device may take so many times its usual start time, and so much more, until it counts as lost."""
LOOK_EVERY_S = 0.5
WAIT_FOR_CLOCK_S = 12.0
"""A device that was told its time server asks it within so long."""

_PART_OF: dict[ActKind, Part] = {
    "first user": "users",
    "password": "users",
    "clock": "time server",
    "time server": "time server",
    "stream": "streams",
    "name": "name",
    "picture text": "text",
    "sensitivity": "motion",
    "motion cells": "motion",
    "crossing line": "motion",
    "customer": "users",
    "channel": "channels",
    "address": "network",
    "gateway": "network",
}
PARTS = {kind: frozenset({part}) for kind, part in _PART_OF.items()}
"""What is read back of each."""
FIRST_ACTS = frozenset({"first user", "password"})

Tell = Callable[[str, Any], None]


class Lost(Exception):
    """A device does not answer any more; in words."""


class Carrying:
    """A plan under way."""

    def __init__(
        self,
        job: Job,
        plan: SetPlan,
        passwords: Passwords,
        wire: Wire,
        pins: Pinning | None,
        ledger: Ledger,
        tell: Tell,
        stop: Path,
        puts_back: bool = False,
    ) -> None:
        """``stop``: a file; once it is there, nothing more is begun."""
        self._job, self._plan, self._passwords = job, plan, passwords
        self._wire, self._network, self._pins = wire, wire.network, pins
        self._ledger, self._tell, self._stop, self._puts_back = ledger, tell, stop, puts_back
        self._devices: dict[str, Device] = {device.id: device for device in job.devices()}
        self._targets: dict[str, Target] = {target.device: target for target in reversed(targets_of(job))}
        self._turns = asyncio.Semaphore(AT_ONCE)
        self._trouble: BaseException | None = None

    @property
    def is_stopping(self) -> bool:
        """Whether nothing more is to be begun: somebody said so, or nothing can be written any more."""
        return self._trouble is not None or self._stop.exists()

    async def run(self) -> None:
        """Carry all of it out.

        Raises:
            FileTrouble: when the state could not be written; what was running then was finished, and nothing more begun.
        """
        self._ledger.begin(Head(at=now(), plan=self._plan, puts_back=self._puts_back))
        each = self._plan.to_set
        later = await self._part(each)
        recorders = [one for one in each if isinstance(self._devices[one.device], Recorder)]
        cameras = [one for one in each if one not in recorders]
        for group in (recorders, cameras):
            await asyncio.gather(
                *(self._device(one, later.get(one.device, ()), lambda act: act.kind != "channel") for one in group)
            )
        await asyncio.gather(*(self._device(one, (), lambda act: act.kind == "channel") for one in recorders))
        if self._trouble is not None:
            raise self._trouble
        self._ledger.end(self._stop.exists())

    # ---- devices that share an address -------------------------------------------------------------------------------

    async def _part(self, each: Sequence[DevicePlan]) -> dict[str, Sequence[str]]:
        """Give each device that shares an address its own, one after the other; by device what was done of it."""
        done: dict[str, Sequence[str]] = {}
        waiting: list[asyncio.Task[None]] = []
        for plan in (one for one in each if one.shared):
            if self.is_stopping:
                break
            keys: list[str] = []
            done[plan.device] = keys
            apart = [act for act in plan.acts if act.kind in FIRST_ACTS or act.kind == "address"]
            try:
                async with self._reaching(plan):
                    came = await self._acts(plan, plan.address, [act for act in apart if act.kind in FIRST_ACTS], keys)
                    moves = next((act for act in apart if act.kind == "address"), None)
                    if came and moves is not None and not self.is_stopping:
                        keys.append(moves.key)
                        self._note(plan, moves, "begun")
                        await self._sent(plan, plan.address, moves)
            except OSError as error:
                for act in apart:
                    self._note(plan, act, "refused", f"the address could not be pinned to it: {error}")
                keys += [act.key for act in plan.acts]
                continue
            except (NotTold, Lost) as error:
                keys += [act.key for act in plan.acts]
                self._note(plan, apart[-1], "refused", str(error))
                continue
            if moves is not None and moves.key in keys:
                # It starts again at its own address meanwhile.
                waiting.append(asyncio.create_task(self._moved(plan, moves, keys)))
        if waiting:
            await asyncio.gather(*waiting)
        return done

    async def _moved(self, plan: DevicePlan, act: Act, keys: list[str]) -> None:
        try:
            await self._come_back(plan, str(act.values["address"]))
            await self._read_back(plan, str(act.values["address"]), act, "")
        except Lost as error:
            keys += [one.key for one in plan.acts]
            self._note(plan, act, "lost", str(error))

    @contextlib.asynccontextmanager
    async def _reaching(self, plan: DevicePlan) -> AsyncIterator[None]:
        if not plan.shared:
            yield
            return
        if self._pins is None or not plan.mac_address:
            raise OSError("this account may not do that")
        async with self._pins.only(address_number(plan.address), plan.mac_address):
            yield

    # ---- one device -------------------------------------------------------------------------------------------------

    async def _device(self, plan: DevicePlan, done: Sequence[str], wanted: Callable[[Act], bool]) -> None:
        acts = [act for act in plan.acts if act.key not in done and wanted(act)]
        if not acts or (plan.shared and not done):
            return
        is_later = acts[0].kind == "channel" or any(act.kind == "address" and act.key in done for act in plan.acts)
        async with self._turns:
            self._tell("device", plan.device)
            await self._acts(plan, plan.planned_address if is_later else plan.address, acts, [])

    async def _acts(self, plan: DevicePlan, address: str, acts: Iterable[Act], keys: list[str]) -> bool:
        """Set one after the other; whether the device is still there and lets one in."""
        for act in acts:
            if self.is_stopping:
                return False
            keys.append(act.key)
            try:
                self._note(plan, act, "begun")
            except BaseException as error:  # noqa: BLE001  (what cannot be written ends the run; see ``run``)
                self._trouble = error
                return False
            why = ""
            try:
                await self._sent(plan, address, act)
            except NotTold as error:
                why = str(error)
            except Lost as error:
                self._note(plan, act, "lost", str(error))
                return False
            if act.kind == "address" and not why:
                address = str(act.values["address"])
            try:
                if act.restarts and not why:
                    await self._come_back(plan, address)
                if not await self._read_back(plan, address, act, why) and act.kind in FIRST_ACTS:
                    return False
            except Lost as error:
                self._note(plan, act, "lost", str(error))
                return False
        return True

    def _note(self, plan: DevicePlan, act: Act, state: State, why: str = "") -> None:
        line = ActLine(at=now(), device=plan.device, act=act.key, state=state, why=why[:400])
        try:
            self._ledger.add(line)
        except BaseException as error:
            self._trouble = self._trouble or error
            if state == "begun":
                raise
        self._tell("line", line.model_dump(mode="json"))

    def _user(self, plan: DevicePlan, act: Act | None) -> User | None:
        profile = profile_of(self._devices[plan.device].make, self._job.make_profiles)
        if act is not None and act.kind == "first user":
            return None
        if act is not None and act.kind == "password":
            return User(profile.user_name, profile.default_password)
        return User(profile.user_name, self._passwords.get(plan.device, ""))

    async def _sent(self, plan: DevicePlan, address: str, act: Act) -> None:
        """Send an act.

        Raises:
            NotTold: when the device refused it, or closed the connection meanwhile. Lost: when it is not there.
        """
        target = self._targets[plan.device]
        with contextlib.closing(self._wire.http(target.certificate)) as http:
            opened = await self._opened(http, plan, address, self._user(plan, act))
            await send(opened, act, plan.device, self._passwords)

    def _endpoint(self, plan: DevicePlan) -> Endpoint:
        """Where its device service was found; a move takes only the address away."""
        found = endpoint_of(plan.service.replace("://", "://device"))
        return found or Endpoint("http", self._targets[plan.device].profile.http_port, DEVICE_PATH)

    def _host(self, address: str) -> str:
        return self._network.reach(address_number(address), 0)[0]

    async def _opened(self, http: Http, plan: DevicePlan, address: str, user: User | None) -> OpenedDevice:
        try:
            return await open_device(http, self._host(address), [self._endpoint(plan)], user)
        except NotTold as error:
            if error.goes_on:
                raise
            raise Lost(f"it does not answer at {address}: {error}") from error

    # ---- read back --------------------------------------------------------------------------------------------------

    async def _read_back(self, plan: DevicePlan, address: str, act: Act, refused: str) -> bool:
        """Read what was set, and note what came of it; whether it is as it was to be."""
        read = await self._read(plan, address, act)
        device = self._devices[plan.device]
        if read.told is None and read.login in ("refused", "locked"):
            self._note(plan, act, "refused", refused or f"the log-in was {read.login} afterwards")
            return False
        if read.told is None:
            raise Lost(f"it does not answer at {address} any more{f' ({refused})' if refused else ''}")
        if self._puts_back:
            # It is compared with what was before, which no plan says: that it took it counts.
            self._note(plan, act, "refused" if refused else "done", refused)
            return not refused
        left = self._left(device, read, act)
        if left is None:
            self._note(plan, act, "done")
            return True
        found = "; ".join(f"{one.what} is {one.now}" for one in left.settings)
        self._note(plan, act, "refused" if refused else "not taken", f"{refused}; {found}" if refused else found)
        return False

    def _left(self, device: Device, read: DeviceRead, act: Act) -> Act | None:
        """What of an act is still wanted, as it was read; None: nothing. A value that was near what is planned is none."""
        run = CheckRun(at=now(), heard=(Heard(address=read.address),), read=(read,))
        left = acts_left(self._job, run, device).get(act.key)
        if left is None:
            return None
        wanted = {one.what: one.will_be for one in act.settings}
        rest = tuple(one for one in left.settings if one.what in wanted and one.now != wanted[one.what])
        return left.model_copy(update={"settings": rest}) if rest else None

    async def _read(self, plan: DevicePlan, address: str, act: Act) -> DeviceRead:
        target = self._targets[plan.device]
        switches = Switches(stream=False, events=False, channels=act.kind == "channel", search=False)
        look = Look(self._network, switches, self._passwords, _at_once, PARTS[act.kind])
        for_s = WAIT_FOR_CLOCK_S if act.kind == "time server" else 0.0
        until_s = _now_s() + for_s
        heard = Heard(address=address, urls=(self._endpoint(plan).url(self._host(address)),))
        while True:
            with contextlib.closing(self._wire.http(target.certificate)) as http:
                read = await look.over(http, target, address_number(address), heard)
            settles = act.kind != "time server" or self._puts_back
            if settles or self._left(self._devices[plan.device], read, act) is None or _now_s() > until_s:
                return read
            await asyncio.sleep(LOOK_EVERY_S)

    async def _come_back(self, plan: DevicePlan, address: str) -> None:
        """Wait until a device answers at an address, and make sure that it is the same one.

        Raises:
            Lost: when it does not within its time; where it may be now.
        """
        target = self._targets[plan.device]
        longest_s = target.profile.start_s * SLOWER_TIMES + FURTHER_S
        host, port = self._network.reach(
            address_number(address), 443 if target.certificate else target.profile.http_port
        )
        until_s = _now_s() + longest_s
        await asyncio.sleep(LOOK_EVERY_S)  # it answers for a moment before it goes
        while _now_s() < until_s:
            if await self._wire.is_open(host, port) and await self._is_same(plan, address):
                return
            await asyncio.sleep(LOOK_EVERY_S)
        raise Lost(self._where_words(plan, address, longest_s))

    async def _is_same(self, plan: DevicePlan, address: str) -> bool:
        read = await self._read(plan, address, Act(kind="gateway", settings=(), values={}))
        if read.told is None:
            return False
        serial = read.told.identity.serial if read.told.identity is not None else ""
        if plan.serial and serial:
            return plan.serial == serial
        interfaces = read.told.network.interfaces if read.told.network is not None else ()
        return not plan.mac_address or any(one.mac_address == plan.mac_address for one in interfaces)

    def _where_words(self, plan: DevicePlan, address: str, longest_s: float) -> str:
        before = "" if plan.address == address else f", or still at {plan.address}"
        mac = f" Its MAC address is {plan.mac_address}." if plan.mac_address else ""
        return (
            f"it did not come back within {figure(longest_s)} s. It may be at {address}{before}: give the laptop an address there, "
            f"and search.{mac} Else take its power away for ten seconds; reset it only then."
        )


def _now_s() -> float:
    return asyncio.get_running_loop().time()


async def _at_once() -> None:
    """No pace is kept: a device that is set is asked one question after the other."""
