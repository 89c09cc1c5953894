"""Carrying a plan out: device by device, act by act, each on disk before it is sent and read back after.

Devices that share an address come one after the other, only until each has its own; then recorders, whose clocks and addresses
cameras ask for; then cameras; then the recorders' channels. At most eight devices at once, and one act at a time at each.
"""

from __future__ import annotations

import asyncio
import contextlib
from collections.abc import AsyncIterator, Callable, Iterable, Sequence
from pathlib import Path
from typing import Any, NamedTuple

from eager_lens.core.addressing.ipv4 import address_number
from eager_lens.core.commission.act import Act, ActKind, DevicePlan, SetPlan
from eager_lens.core.commission.ledger import ActLine, Head, Ledger, State, now
from eager_lens.core.commission.plan import acts_left
from eager_lens.core.job.model import Device, Job, Recorder
from eager_lens.core.site_check.readings import CheckRun, DeviceRead, Heard, Switches
from eager_lens.core.site_check.scope import Target, targets_of
from eager_lens.core.units import figure
from eager_lens.onsite.check.look import Look
from eager_lens.onsite.check.pins import Pinning
from eager_lens.onsite.commission.sending import Passwords, send
from eager_lens.onsite.commission.wire import Wire
from eager_lens.onsite.open_protocol.conversation import LogInRefused, NotTold, User
from eager_lens.onsite.open_protocol.endpoints import Endpoint, endpoint_of
from eager_lens.onsite.open_protocol.names import DEVICE_PATH
from eager_lens.onsite.open_protocol.opened import open_device
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
    "channel": "channels",
    "address": "network",
    "gateway": "network",
}
PARTS = {kind: frozenset({part}) for kind, part in _PART_OF.items()}
"""What is read back of each."""
FIRST_ACTS = frozenset({"first user", "password"})

Tell = Callable[[str, Any], None]


class Sent(NamedTuple):
    """What came of sending an act: why it was not taken, empty where it was; and whether that is known, or only that no answer
    came."""

    why: str = ""
    is_known: bool = True


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
        self._at: dict[str, str | None] = {}
        self._turns = asyncio.Semaphore(AT_ONCE)
        self._trouble: Exception | None = None

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
        apart = await self._part([one for one in each if one.shared])
        recorders = [one for one in each if isinstance(self._devices[one.device], Recorder)]
        cameras = [one for one in each if one not in recorders]
        for group in (recorders, cameras):
            await asyncio.gather(*(self._device(one, apart) for one in group))
        await asyncio.gather(*(self._channels(one) for one in recorders))
        if self._trouble is not None:
            raise self._trouble
        self._ledger.end(self._stop.exists())

    # ---- devices that share an address ------------------------------------------------------------------------------

    async def _part(self, shared: Sequence[DevicePlan]) -> set[str]:
        """Give each device that shares an address its own, one after the other; ids of those that have it. To the others nothing
        more is sent: what is sent to their address may reach any of them."""
        waiting: list[asyncio.Task[None]] = []
        apart: set[str] = set()
        for plan in shared:
            if self.is_stopping:
                break
            try:
                async with self._reaching(plan):
                    begun = await self._begun_alone(plan)
            except OSError as error:
                for act in plan.acts[:1]:
                    self._note(plan, act, "refused", f"the address could not be pinned to it: {error}")
                continue
            if begun is not None:
                # It starts again at its own address meanwhile.
                waiting.append(asyncio.create_task(self._arrive(plan, *begun, apart)))
        await asyncio.gather(*waiting)
        return apart

    @contextlib.asynccontextmanager
    async def _reaching(self, plan: DevicePlan) -> AsyncIterator[None]:
        if self._pins is None or not plan.mac_address:
            raise OSError("this account may not do that")
        async with self._pins.only(address_number(plan.address), plan.mac_address):
            yield

    async def _begun_alone(self, plan: DevicePlan) -> tuple[Act, Sent] | None:
        """Give a device that is reached alone its user, and send its address; None where it got none."""
        firsts = [act for act in plan.acts if act.kind in FIRST_ACTS]
        if await self._acts(plan, plan.address, firsts) is None:
            return None
        moves = next((act for act in plan.acts if _moves_from(act, plan.address)), None)
        sent = await self._begin(plan, plan.address, moves) if moves is not None else None
        return (moves, sent) if moves is not None and sent is not None else None

    async def _arrive(self, plan: DevicePlan, act: Act, sent: Sent, apart: set[str]) -> None:
        if await self._end(plan, plan.address, act, sent) == act.values["address"]:
            apart.add(plan.device)

    # ---- one device -------------------------------------------------------------------------------------------------

    async def _device(self, plan: DevicePlan, apart: set[str]) -> None:
        """All of a device but its channels; of one that shared its address what is left once it has its own."""
        acts = [act for act in plan.acts if act.kind != "channel"]
        address = plan.address
        if plan.shared:
            acts = [act for act in acts if act.kind not in FIRST_ACTS and not _moves_from(act, plan.address)]
            address = plan.planned_address
        if not plan.shared or plan.device in apart:
            async with self._turns:
                self._at[plan.device] = await self._acts(plan, address, acts)

    async def _channels(self, plan: DevicePlan) -> None:
        address = self._at.get(plan.device)
        if address is not None:
            async with self._turns:
                await self._acts(plan, address, [act for act in plan.acts if act.kind == "channel"])

    async def _acts(self, plan: DevicePlan, address: str, acts: Iterable[Act]) -> str | None:
        """Set one after the other; where the device is then. None: nothing more can be set at it."""
        at: str | None = address
        for act in acts:
            sent = await self._begin(plan, at, act) if at is not None else None
            at = await self._end(plan, at, act, sent) if at is not None and sent is not None else None
        return at

    async def _begin(self, plan: DevicePlan, address: str, act: Act) -> Sent | None:
        """Note an act and send it; None where nothing is to be begun any more."""
        if self.is_stopping:
            return None
        try:
            self._note(plan, act, "begun")
        except Exception as error:  # noqa: BLE001  (what cannot be written ends the run; see ``run``)
            self._trouble = error
            return None
        target = self._targets[plan.device]
        try:
            with contextlib.closing(self._wire.http(target.certificate)) as http:
                opened = await open_device(http, self._host(address), [self._endpoint(plan)], self._user(plan, act))
                await send(opened, act, plan.device, self._passwords)
        except LogInRefused as error:
            self._note(plan, act, "refused", str(error))
            return None
        except NotTold as error:
            return Sent(str(error), is_known=error.goes_on)
        return Sent()

    async def _end(self, plan: DevicePlan, address: str, act: Act, sent: Sent) -> str | None:
        """Read an act back and note what came of it; where the device is then. None: nothing more can be set at it."""
        try:
            if act.kind == "address" and not (sent.why and sent.is_known):
                address = await self._come_back(plan, address, act, sent)
            is_set = await self._read_back(plan, address, act, sent.why)
        except Lost as error:
            self._note(plan, act, "lost", str(error))
            return None
        return None if act.kind in FIRST_ACTS and not is_set else address

    def _note(self, plan: DevicePlan, act: Act, state: State, why: str = "") -> None:
        line = ActLine(at=now(), device=plan.device, act=act.key, state=state, why=why[:400])
        try:
            self._ledger.add(line)
        except Exception as error:
            self._trouble = self._trouble or error
            if state == "begun":
                raise
        self._tell("line", line.model_dump(mode="json"))

    def _user(self, plan: DevicePlan, act: Act) -> User | None:
        profile = self._targets[plan.device].profile
        if act.kind == "first user":
            return None
        if act.kind == "password":
            return User(profile.user_name, profile.default_password)
        return User(profile.user_name, self._passwords.get(plan.device, ""))

    def _endpoint(self, plan: DevicePlan) -> Endpoint:
        """Where its device service was found; a move takes only the address away."""
        found = endpoint_of(plan.service.replace("://", "://device"))
        return found or Endpoint("http", self._targets[plan.device].profile.http_port, DEVICE_PATH)

    def _host(self, address: str) -> str:
        return self._network.reach(address_number(address), 0)[0]

    # ---- read back --------------------------------------------------------------------------------------------------

    async def _read_back(self, plan: DevicePlan, address: str, act: Act, refused: str) -> bool:
        """Read what was set, and note what came of it; whether it is as it was to be."""
        read, device = await self._read(plan, address, act.kind), self._devices[plan.device]
        until_s = _now_s() + (WAIT_FOR_CLOCK_S if act.kind == "time server" else 0.0)
        while _now_s() < until_s and self._left(device, read, act):
            await asyncio.sleep(LOOK_EVERY_S)
            read = await self._read(plan, address, act.kind)
        if read.told is None and read.login in ("refused", "locked"):
            self._note(plan, act, "refused", refused or f"afterwards the log-in was {read.login}")
            return False
        if read.told is None:
            raise Lost(f"it does not answer at {address} any more{f' ({refused})' if refused else ''}")
        left = self._left(device, read, act)
        if not left:
            self._note(plan, act, "done")
            return True
        found = "; ".join(f"{what} is {now}" for what, now in left.items())
        self._note(plan, act, "refused" if refused else "not taken", f"{refused}; {found}" if refused else found)
        return False

    def _left(self, device: Device, read: DeviceRead, act: Act) -> dict[str, str]:
        """What of an act is otherwise than it was to be, as it was read: by setting what it is now."""
        run = CheckRun(at=now(), heard=(Heard(address=read.address),), read=(read,))
        differs = acts_left(self._job, run, device).get(act.key)
        found = {one.what: one.now for one in differs.settings} if differs is not None else {}
        # What does not differ from the plan is as planned: when a run is put back, that is what it was to be no longer.
        planned = {one.what: one.now if self._puts_back else one.will_be for one in act.settings}
        is_now = {what: found.get(what, as_planned) for what, as_planned in planned.items()}
        return {one.what: is_now[one.what] for one in act.settings if is_now[one.what] != one.will_be}

    async def _read(self, plan: DevicePlan, address: str, kind: ActKind) -> DeviceRead:
        """Read of a device what an act of a kind sets."""
        target = self._targets[plan.device]
        switches = Switches(stream=False, events=False, channels=kind == "channel", search=False)
        look = Look(self._network, switches, self._passwords, _at_once, PARTS[kind])
        heard = Heard(address=address, urls=(self._endpoint(plan).url(self._host(address)),))
        with contextlib.closing(self._wire.http(target.certificate)) as http:
            return await look.over(http, target, address_number(address), heard)

    async def _come_back(self, plan: DevicePlan, address: str, act: Act, sent: Sent) -> str:
        """Wait until a device answers after a new address, and make sure that it is the same one; where it is.

        Raises:
            Lost: when it does not within its time; where it may be now.
        """
        wanted = str(act.values["address"]) if _moves_from(act, address) else address
        longest_s = self._targets[plan.device].profile.start_s * SLOWER_TIMES + FURTHER_S
        until_s = _now_s() + longest_s
        await asyncio.sleep(LOOK_EVERY_S)  # it answers for a moment before it goes
        while _now_s() < until_s:
            # Whether it took an address that it did not answer to is seen from where it is.
            for place in dict.fromkeys((wanted, address) if sent.why else (wanted,)):
                if await self._wire.is_open(self._host(place), self._endpoint(plan).port) and await self._is_same(
                    plan, place
                ):
                    return place
            await asyncio.sleep(LOOK_EVERY_S)
        raise Lost(self._where_words(plan, wanted, longest_s))

    async def _is_same(self, plan: DevicePlan, address: str) -> bool:
        read = await self._read(plan, address, "address")
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


def _moves_from(act: Act, address: str) -> bool:
    """Whether an act gives a device another address than the one at which it is spoken to; a recorder has two."""
    return act.kind == "address" and act.before.get("address") == address


def _now_s() -> float:
    return asyncio.get_running_loop().time()


async def _at_once() -> None:
    """No pace is kept: a device that is set is asked one question after the other."""
