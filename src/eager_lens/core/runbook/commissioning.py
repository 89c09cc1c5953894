"""From a job to its commissioning: what to power when so that addresses out of the box never collide, and what to type where.

The order is the handbook's: recorder and network first, then bridges, then cameras; cameras that share an address out of
the box one after the other, each re-addressed before the next has power. What cannot come up as planned is found on the
simulated site itself (power), by the recorders' own rules (codec, picture), and from the plan of addresses.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from functools import partial

from eager_lens.core.addressing.ipv4 import address_number, address_text, subnet_of
from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.facts import Facts
from eager_lens.core.bench.build import LAPTOP, site_of
from eager_lens.core.bench.channels import not_taken, same_maker
from eager_lens.core.bench.parts import Unit
from eager_lens.core.bench.segments import CAMERAS, Feet, segments
from eager_lens.core.job.addressing import room_of
from eager_lens.core.job.model import Camera, Device, Job, NetworkDevice, Recorder, SubnetPlan
from eager_lens.core.job.rehearsal import Rehearsal
from eager_lens.core.runbook import checks
from eager_lens.core.runbook.looked_at import all_lit, associate, dark_when_all_is_in
from eager_lens.core.runbook.steps import Blocked, Commissioning, Phase, Step, StepAction, Wait
from eager_lens.core.units import count

# Seconds that a practised hand takes (assumed).
LEAD_S = 15.0
PLUG_S = 25.0
RECORDER_S = 180.0
"""A recorder's first set-up."""
LAPTOP_S = 60.0
"""The laptop moved and addressed."""
SET_UP_S = 90.0
"""A device's first set-up, with its new address."""
SETTINGS_S = 60.0
REGISTER_S = 40.0
"""One channel."""
UPDATE_S = 20.0
"""An update begun."""
RESERVE_S = 25.0
"""A line in the router."""

NO_ADDRESS = "no address is planned for it; plan addresses first"

SETTLES_S = 30.0
"""So long a recorder may take to show a new channel."""


def commissioning(assessment: Assessment, step: Callable[[float], None] = lambda share: None) -> Commissioning:
    """The commissioning of a job. ``step`` is told the share that is planned, and may raise to stop."""
    return _Planner(assessment, step).planned()


class _Planner:
    def __init__(self, assessment: Assessment, step: Callable[[float], None]) -> None:
        self._step = step
        self._step(0.0)
        self.job: Job = assessment.job
        self.facts: Facts = assessment.facts
        self.site = site_of(assessment, Rehearsal())
        self.units = self.site.units
        self.subnets = {plan.id: plan for plan in self.job.subnets}
        self.steps: list[Step] = []
        self._keys: set[str] = set()
        self._bridge_keys: list[str] = []
        self._first_with: dict[str, Device] = {}
        for device in self.facts.devices:
            self._first_with.setdefault(device.address, device)
        self._held = {address_number(device.address) for device in self.job.devices() if device.address}
        self._order = {device.id: at for at, device in enumerate(self.job.devices())}
        self._reservers: list[Unit] = []
        self._near: dict[Feet, str] = {}
        self._dark_told: set[str] = set()
        self.blocked: list[Blocked] = []
        self._step(0.0)
        self.dark = dark_when_all_is_in(assessment)
        self._step(0.0)
        lit = all_lit(assessment)
        self.islands = segments(lit.units, lit.cables.values())
        for cable in lit.cables.values():
            if cable.medium == "radio":
                associate(lit, cable.a, cable.b)
        self.joined = segments(lit.units, lit.cables.values())

    # ---- the whole ------------------------------------------------------------------------------------------------

    def planned(self) -> Commissioning:
        self._network()
        self._reservations()
        self._recorders()
        before: tuple[str, ...] = ()
        for feet in self._ordered_islands():
            before = self._island(feet, before)
        return Commissioning(tuple(self.steps), tuple(self.blocked))

    def _add(
        self,
        key: str,
        phase: Phase,
        device_id: str,
        title: str,
        see: str,
        hands_s: float,
        wait_s: float,
        after: Iterable[str],
        actions: Iterable[StepAction],
        check: checks.Check,
        type_in: str = "",
        caution: str = "",
        tools: tuple[str, ...] = (),
        takes: str = "",
        frees: str = "",
        under_way: Wait = checks.no_wait,
    ) -> str:
        self.steps.append(
            Step(
                key,
                phase,
                device_id,
                title,
                type_in,
                see,
                caution,
                hands_s,
                wait_s,
                tuple(dict.fromkeys(one for one in after if one in self._keys)),
                tools,
                takes,
                frees,
                tuple(actions),
                check,
                under_way,
            )
        )
        self._keys.add(key)
        if len(self.steps) % 20 == 0:
            self._step(min(1.0, len(self.steps) / (6 * len(self.units) + 1)))
        if phase == "bridge":
            self._bridge_keys.append(key)
        return key

    def _network(self) -> None:
        """Everything with a lead of its own, but cameras and bridges; recorders first, for they take longest."""
        order = {"recorder": 0, "router": 1, "switch": 2, "other": 3}
        leads = [unit for unit in self.units.values() if unit.role in order and unit.feeding.lead == "mains"]
        for unit in sorted(leads, key=lambda one: order[one.role]):
            self._add(
                f"{unit.id}/power",
                "network",
                unit.id,
                f"Put the lead of {unit.name} in",
                f"Its power light; ready after about {unit.profile.start_s:.0f} s",
                LEAD_S,
                unit.profile.start_s,
                (),
                (StepAction("power on", unit.id),),
                partial(checks.runs, unit.id),
                under_way=partial(checks.starts_for, unit.id),
                caution="Mains wiring and earthing belong to licensed people" if unit.role == "recorder" else "",
            )

    def _reservations(self) -> None:
        """Reservations in routers, before anything asks for a lease."""
        for unit in self.units.values():
            if unit.id in self.site.servers and unit.role == "router":
                lines = [one for one in self.facts.devices if self._is_reserved_by(one, unit)]
                if lines:
                    self._reservers.append(unit)
                    self._add(
                        f"{unit.id}/reserve",
                        "network",
                        unit.id,
                        f"Enter {count(len(lines), 'reservation')} in {unit.name}",
                        "Its list of reservations",
                        RESERVE_S * len(lines),
                        0,
                        (f"{unit.id}/power",),
                        [
                            StepAction("reserve", unit.id, {"hardware": one.mac_address, "address": one.address})
                            for one in lines
                        ],
                        partial(checks.reserves, unit.id, tuple(one.mac_address for one in lines)),
                        type_in="; ".join(f"{one.mac_address} {one.address}" for one in lines[:4])
                        + (f" and {len(lines) - 4} more" if len(lines) > 4 else ""),
                        caution="They are gone when the router is reset or replaced: keep its settings with the handover",
                    )

    def _is_reserved_by(self, device: Device, router: Unit) -> bool:
        own = router.device.subnet if router.device is not None else ""
        return bool(
            device.address_assignment == "DHCP reservation"
            and device.mac_address
            and device.address
            and device.subnet == own
        )

    def _recorders(self) -> None:
        for recorder in self.job.recorders:
            if not recorder.address:
                self.blocked.append(Blocked(recorder.id, NO_ADDRESS, "addresses"))
            plan = self.subnets.get(recorder.subnet)
            self._add(
                f"{recorder.id}/set-up",
                "recorder",
                recorder.id,
                f"First-use set-up of {recorder.name}, on its own monitor",
                "Its live view, empty; its clock is right",
                RECORDER_S,
                0,
                (f"{recorder.id}/power",),
                (StepAction("set up", recorder.id, {"new": "own", "zone": self.job.time_zone}),),
                partial(checks.is_set_up, recorder.id),
                type_in=_typed(recorder.address, plan)
                + f"; time zone {self.job.time_zone}; new password; recovery contact",
                caution="A recovery contact left out means a full reset when the password is forgotten",
                tools=(f"{recorder.id} monitor",),
            )

    # ---- broadcast domains: what a laptop reaches from one place -----------------------------------------------------------------

    def _ordered_islands(self) -> list[Feet]:
        """Broadcast domains with something to set up: the first recorder's own first, then by the job's order."""
        order = {device.id: at for at, device in enumerate((*self.job.recorders, *self.job.network, *self.job.cameras))}
        found: dict[Feet, int] = {}
        for (unit_id, _), feet in self.islands.items():
            if unit_id in order:
                found[feet] = min(found.get(feet, len(order)), order[unit_id])
        wanted = [feet for feet in found if any(self._is_set_up_by_laptop(unit_id) for unit_id, _ in feet)]
        return sorted(wanted, key=lambda feet: found[feet])

    def _is_set_up_by_laptop(self, unit_id: str) -> bool:
        unit = self.units[unit_id]
        return unit.role == "camera" or (unit.role == "bridge" and unit.antenna is not None)

    def _island(self, feet: Feet, before: tuple[str, ...]) -> tuple[str, ...]:
        """The steps of an broadcast domain; the keys of those that need the laptop there."""
        members = [self.units[unit_id] for unit_id in dict.fromkeys(unit_id for unit_id, _ in sorted(feet))]
        bridges = [unit for unit in self._in_order(members) if unit.role == "bridge" and unit.antenna is not None]
        cameras = [unit for unit in self._in_order(members) if unit.role == "camera"]
        takers = [unit for unit in members if unit.role == "recorder" and (unit.id, CAMERAS) in feet]
        own, by_hand = [], []
        for unit in cameras:
            if not self._has_power(unit):
                continue
            if any(same_maker(one, unit) for one in takers):
                own.append(unit)
            elif self._has_address(unit):
                by_hand.append(unit)
        for unit in own:
            self._own_port_camera(unit, takers[0])
        if not bridges and not by_hand:
            return before
        laptop = self._laptop(feet, members, (*bridges, *by_hand), before)
        if not laptop:
            for unit in (*bridges, *by_hand):
                self.blocked.append(Blocked(unit.id, "nothing in its network has a port for the laptop", "wiring"))
            return before
        used = []
        for unit in bridges:
            used += self._bridge(unit, laptop)
        serves = any((server.unit_id, server.side_name) in feet for server in self.site.servers.values())
        for unit in by_hand:
            # What asks for a lease first waits for the bridge to whoever gives one.
            joined = self._bridge_keys if unit.sides[0].way == "lease" and not serves else []
            used += self._camera(unit, laptop, joined)
        return (laptop, *used)

    def _in_order(self, members: list[Unit]) -> list[Unit]:
        return sorted((one for one in members if one.id in self._order), key=lambda one: self._order[one.id])

    def _laptop(self, feet: Feet, members: list[Unit], to_reach: Iterable[Unit], before: tuple[str, ...]) -> str:
        host = next((unit for unit in members if unit.role == "switch"), None)
        host = host or next((unit for unit in members if unit.role in ("router", "recorder")), None)
        host = host or next((unit for unit in members if unit.role == "bridge"), None)
        if host is None:
            return ""
        addresses = list(self._laptop_addresses(to_reach))
        side = CAMERAS if (host.id, CAMERAS) in feet and (host.id, "") not in feet else ""
        words = ", ".join(addresses) or "none"
        actions = [StepAction("laptop to", host.id, {"side": side}), StepAction("laptop bare", LAPTOP)]
        actions += [StepAction("laptop address", LAPTOP, {"address": one}) for one in addresses]
        fed_by = self._powered_after(host)
        return self._add(
            f"laptop/{host.id}{side}",
            "laptop",
            host.id,
            f"Plug the laptop into {host.name}, with an address in every subnet to reach",
            "The link light at its port; the recorder, where there is one, answers a ping",
            LAPTOP_S,
            5,
            (*before, *fed_by),
            actions,
            partial(checks.laptop_is_at, host.id, tuple(addresses)),
            type_in=f"addresses {words}; no gateway is needed",
            tools=("laptop",),
        )

    def _laptop_addresses(self, to_reach: Iterable[Unit]) -> Iterator[str]:
        """One address for the laptop in the planned subnet of each device, and in its subnet out of the box."""
        seen: set[tuple[int, int]] = set()
        held = set(self._held)
        for unit in to_reach:
            device = unit.device
            plan = self.subnets.get(device.subnet) if device is not None else None
            if plan is not None:
                room = room_of(plan)
                net = room.subnet
                if (net.network, net.prefix) not in seen:
                    seen.add((net.network, net.prefix))
                    number = next(
                        (n for n in range(net.last_host, net.network, -1) if n not in held and not room.refuses(n)),
                        None,
                    )
                    if number is not None:
                        held.add(number)
                        yield f"{address_text(number)}/{net.prefix}"
            side = unit.sides[0]
            if side.way == "fixed" and side.address and (side.subnet.network, side.prefix) not in seen:
                seen.add((side.subnet.network, side.prefix))
                own = side.subnet.last_host if side.address != side.subnet.last_host else side.subnet.first_host
                yield f"{address_text(own)}/{side.prefix}"

    def _powered_after(self, unit: Unit) -> list[str]:
        """The steps after which a unit has power: its own, its feeder's, and those of what lies between."""
        feeding = unit.feeding
        keys = [f"{unit.id}/power", f"{feeding.unit_id}/power"]
        for cable in self.site.cables_of(unit):
            far = cable.far_end(unit.id)[0]
            keys.append(f"{far}/power")
        return keys

    # ---- bridges ---------------------------------------------------------------------------------------------------

    def _bridge(self, unit: Unit, laptop: str) -> list[str]:
        device = unit.device
        assert isinstance(device, NetworkDevice)
        feeder = self.units.get(unit.feeding.unit_id)
        if unit.id in self.dark:
            self.blocked.append(Blocked(unit.id, self.dark[unit.id], "wiring"))
            return []
        if not device.address or device.subnet not in self.subnets:
            self.blocked.append(Blocked(unit.id, NO_ADDRESS, "addresses"))
            return []
        lock = self._lock(unit)
        lead = feeder.id if feeder is not None else unit.id
        power = self._add(
            f"{unit.id}/power",
            "bridge",
            unit.id,
            f"Give {unit.name} power" + (f" by {feeder.name}" if feeder else ""),
            f"Its power light; ready after about {unit.profile.start_s:.0f} s",
            LEAD_S,
            unit.profile.start_s,
            self._powered_after(unit),
            (StepAction("power on", lead),) if unit.feeding.lead != "cable" else (StepAction("plug", unit.id),),
            partial(checks.runs, unit.id),
            under_way=partial(checks.starts_for, unit.id),
            caution="The injector's data and power ports must not be confused. Label both ends before they look alike",
            takes=lock,
        )
        end = device.radio_end or "client"
        name = f"{self.job.name.split()[0].lower()}-bridge"
        plan = self.subnets[device.subnet]
        address = f"{device.address}/{subnet_of(plan.cidr).prefix}"
        key = self._add(
            f"{unit.id}/set-up",
            "bridge",
            unit.id,
            f"Set {unit.name} up as {end}: password, address, network name and key",
            "Search shows it at its planned address",
            SET_UP_S + SETTINGS_S,
            5,
            (laptop, power),
            (
                StepAction("set up", unit.id, {"new": "own", "zone": self.job.time_zone}),
                StepAction("radio", unit.id, {"end": end, "network": name, "key": "bridge key", "password": "own"}),
                StepAction("address", unit.id, {"address": address, "gateway": plan.gateway, "password": "own"}),
            ),
            partial(checks.has_address, unit.id, device.address),
            type_in=f"{_typed(device.address, plan)}; {end}; network name {name}, its key: capitals count; WPA2 or WPA3",
            tools=("laptop",),
            frees=lock,
        )
        return [power, key]

    # ---- cameras ---------------------------------------------------------------------------------------------------

    def _has_power(self, unit: Unit) -> bool:
        """Whether a device lights up when all is in; why not is noted, once."""
        why = self.dark.get(unit.id, "")
        if why and unit.id not in self._dark_told:
            self._dark_told.add(unit.id)
            self.blocked.append(Blocked(unit.id, why, "wiring"))
        return not why

    def _has_address(self, unit: Unit) -> bool:
        """Whether a camera that is set up by hand has an address that can be typed in; why not is noted."""
        assert isinstance(unit.device, Camera)
        why = self._address_trouble(unit.device)
        if why:
            self.blocked.append(Blocked(unit.id, why, "addresses"))
        return not why

    def _address_trouble(self, camera: Device) -> str:
        plan = self.subnets.get(camera.subnet)
        if plan is None or not camera.address:
            return NO_ADDRESS
        if not subnet_of(plan.cidr).is_host(address_number(camera.address)):
            return f"its planned address {camera.address} is outside {plan.cidr}: the recorder would not reach it"
        first = self._first_with[camera.address]
        if first.id != camera.id:
            return f"its planned address {camera.address} is that of {first.name} too"
        return ""

    def _lock(self, unit: Unit) -> str:
        """The address out of the box that only one device at a time may have, in what its broadcasts reach."""
        side = unit.sides[0]
        if side.way != "fixed" or not side.address:
            return ""
        feet = self.joined.get((unit.id, "")) or Feet({(unit.id, "")})
        if feet not in self._near:
            self._near[feet] = min(feet)[0]
        return f"{address_text(side.address)} near {self._near[feet]}"

    def _own_port_camera(self, unit: Unit, recorder: Unit) -> None:
        self._add(
            f"{unit.id}/plug",
            "camera",
            unit.id,
            f"Plug {unit.name} into {recorder.name}, and let the recorder take it",
            f"Its picture on a channel of {recorder.name} by itself",
            PLUG_S,
            unit.profile.start_s + 2 * SETTLES_S,
            (f"{recorder.id}/set-up",),
            (StepAction("plug", unit.id),),
            partial(checks.receives, recorder.id, unit.id),
            under_way=partial(checks.starts_for, unit.id),
        )

    def _camera(self, unit: Unit, laptop: str, joined: list[str]) -> list[str]:
        camera = unit.device
        assert isinstance(camera, Camera)
        plan = self.subnets[camera.subnet]
        lock = self._lock(unit)
        plugged = self._add(
            f"{unit.id}/plug",
            "camera",
            unit.id,
            self._plug_words(unit),
            f"Its lights; in the search list as …{unit.last_four} after about {unit.profile.start_s:.0f} s",
            PLUG_S,
            unit.profile.start_s,
            (laptop, *joined, *self._powered_after(unit)),
            self._power_actions(unit),
            partial(checks.runs, unit.id),
            under_way=partial(checks.starts_for, unit.id),
            caution=f"No other with {address_text(unit.sides[0].address)} out of the box may have power now"
            if lock
            else "",
            takes=lock,
        )
        address = {"address": f"{camera.address}/{subnet_of(plan.cidr).prefix}", "gateway": plan.gateway}
        typed = _typed(camera.address, plan)
        reserved = next((f"{one.id}/reserve" for one in self._reservers if self._is_reserved_by(camera, one)), "")
        if reserved:
            address, typed = {"way": "lease"}, f"let it lease; the router gives it {camera.address}"
        set_up = self._add(
            f"{unit.id}/set-up",
            "camera",
            unit.id,
            f"Set {camera.name} up and give it {camera.address}",
            f"The search shows …{unit.last_four} at {camera.address}; write the address on its label",
            SET_UP_S,
            5,
            (plugged, reserved),
            (
                StepAction("set up", unit.id, {"new": "own", "zone": self.job.time_zone}),
                StepAction("address", unit.id, {**address, "password": "own"}),
            ),
            partial(checks.has_address, unit.id, camera.address),
            under_way=partial(checks.asks_lease_for, unit.id),
            type_in=f"find …{unit.last_four}; new password; zone {self.job.time_zone}; {typed}",
            caution="The default password never stays",
            tools=("laptop",),
            frees=lock,
        )
        return [plugged, set_up, *self._after_set_up(unit, camera, set_up)]

    def _plug_words(self, unit: Unit) -> str:
        ends = [
            self.units[cable.far_end(unit.id)[0]].name for cable in self.site.cables_of(unit) if cable.medium != "radio"
        ]
        where = f" into {' and '.join(ends)}" if ends else ""
        return f"Plug {unit.name}{where}" + (" and give it power" if unit.feeding.lead != "cable" else "")

    def _power_actions(self, unit: Unit) -> list[StepAction]:
        actions = [StepAction("plug", unit.id)] if any(c.medium != "radio" for c in self.site.cables_of(unit)) else []
        if unit.feeding.lead == "unit":
            actions.append(StepAction("power on", unit.feeding.unit_id))
        if unit.feeding.lead != "cable":
            actions.append(StepAction("power on", unit.id))
        return actions

    def _after_set_up(self, unit: Unit, camera: Camera, set_up: str) -> list[str]:
        used = []
        if unit.firmware != unit.profile.firmware_now:
            used.append(
                self._add(
                    f"{unit.id}/update",
                    "camera",
                    unit.id,
                    f"Begin the update of {camera.name} to {unit.profile.firmware_now}",
                    "It restarts by itself; the search shows the new firmware",
                    UPDATE_S,
                    unit.profile.update_s + unit.profile.start_s,
                    (set_up,),
                    (StepAction("update", unit.id, {"password": "own"}),),
                    partial(checks.is_updated, unit.id),
                    under_way=partial(checks.starts_for, unit.id),
                    caution="Keep its power on until it is through",
                    tools=("laptop",),
                )
            )
        recorders = [(place, self.units[place.recorder]) for place in camera.registered if place.recorder in self.units]
        hearing = [(place, one) for place, one in recorders if self._is_heard(unit, one)]
        for _, recorder in [pair for pair in recorders if pair not in hearing]:
            self.blocked.append(Blocked(unit.id, f"nothing joins its network with that of {recorder.name}", "wiring"))
        if not recorders:
            self.blocked.append(
                Blocked(unit.id, "no recorder is planned for it; it comes up, and nothing records it", "bench")
            )
        target = hearing[0][1] if hearing else None
        own = target is not None and all(same_maker(one, unit) for _, one in hearing)
        server = self._address_of(target, unit) if target is not None else ""
        actions = [StepAction("time", unit.id, {"server": server, "zone": self.job.time_zone, "password": "own"})]
        if not own:
            actions.append(StepAction("open protocol", unit.id, {"new": "own", "password": "own"}))
        if camera.event_target:
            actions.append(StepAction("target", unit.id, {"address": camera.event_target, "password": "own"}))
        settings = self._add(
            f"{unit.id}/settings",
            "camera",
            unit.id,
            f"On the page of {camera.name}: time server" + ("" if own else ", open protocol on with a user of its own"),
            "Its clock agrees with the recorder's",
            SETTINGS_S,
            15,
            used or (set_up,),
            actions,
            partial(checks.settings_made, unit.id, server, not own),
            under_way=partial(checks.asks_time_for, unit.id),
            type_in=f"time server {server or 'from the laptop, once'}, zone {self.job.time_zone}"
            + ("" if own else "; a user and a password for the open protocol"),
            tools=("laptop",),
        )
        used.append(settings)
        for place, recorder in hearing:
            used += self._registered(unit, camera, recorder, place.channel, settings)
        return used

    def _registered(self, unit: Unit, camera: Camera, recorder: Unit, channel: int, settings: str) -> list[str]:
        refusal = not_taken(recorder, unit, 0.0)
        if refusal:
            self.blocked.append(Blocked(unit.id, refusal, "bench"))
            return []
        protocol = "own" if same_maker(recorder, unit) else "open"
        values = {
            "address": camera.address,
            "channel": str(channel),
            "protocol": protocol,
            "password": "own",
            "name": camera.name,
            "camera": unit.id,
        }
        return [
            self._add(
                f"{unit.id}/{recorder.id}",
                "camera",
                unit.id,
                f"Add {camera.name} on channel {channel} of {recorder.name}",
                f"After a refresh, channel {channel} receives",
                REGISTER_S,
                SETTLES_S,
                (settings, f"{recorder.id}/set-up", *self._bridge_keys),
                (StepAction("add", recorder.id, values),),
                partial(checks.receives, recorder.id, unit.id),
                under_way=partial(checks.looks_for, recorder.id, camera.address),
                type_in=f"{camera.address}, "
                + ("the maker's own protocol" if protocol == "own" else "the open protocol, its own user")
                + f", name “{camera.name}”",
                tools=(f"{recorder.id} monitor",),
            )
        ]

    def _is_heard(self, unit: Unit, recorder: Unit) -> bool:
        feet: Feet = self.joined.get((unit.id, "")) or Feet()
        return any((recorder.id, side.name) in feet for side in recorder.sides)

    def _address_of(self, recorder: Unit, unit: Unit) -> str:
        device = recorder.device
        assert isinstance(device, Recorder)
        on_camera_side = (recorder.id, CAMERAS) in self.joined.get((unit.id, ""), frozenset())
        return device.camera_interface_address if on_camera_side else device.address


def _typed(address: str, plan: SubnetPlan | None) -> str:
    """An address as it is typed into a device, with mask and gateway."""
    if plan is None or not address:
        return "no address is planned yet"
    gateway = f", gateway {plan.gateway}" if plan.gateway else ", no gateway"
    return f"address {address}, mask {subnet_of(plan.cidr).mask_text}{gateway}"
