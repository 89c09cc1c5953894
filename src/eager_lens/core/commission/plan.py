"""What each device of a job is set to, out of what it told: who it is, what differs, what stays by hand."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Mapping
from typing import NamedTuple

from eager_lens.core.addressing.ipv4 import address_number, subnet_of
from eager_lens.core.assess.limits import CLOCK_WITHIN_S
from eager_lens.core.clock.zones import posix_zone
from eager_lens.core.commission.act import ORDER, Act, ByHand, DevicePlan, SetPlan, SettingRow
from eager_lens.core.commission.channels import channel_acts
from eager_lens.core.commission.motion import motion_acts
from eager_lens.core.commission.streams import stream_acts
from eager_lens.core.job.make_profiles import profile_of
from eager_lens.core.job.model import Camera, Device, Job, Recorder, SubnetPlan
from eager_lens.core.site_check.readings import CheckRun, DeviceRead, Heard
from eager_lens.core.site_check.stream_texts import duration_words
from eager_lens.core.site_check.told import InterfaceTold, Told

NO_PASSWORD = (
    "no password is noted for it, and a device is not set up without one: make passwords first (Bench, Passwords), then unlock "
    "the sealed file"
)


class Wishes(NamedTuple):
    """What somebody wants of a run. ``only``: device ids, all where it is empty; ``nearest``: where a device does not take what
    is planned, the nearest that it takes."""

    only: tuple[str, ...] = ()
    nearest: bool = False


ALL = Wishes()


def plan_of(job: Job, run: CheckRun, with_password: Collection[str], wishes: Wishes = ALL) -> SetPlan:
    """What the devices of a job are set to.

    Args:
        run: what they told. with_password: ids of the devices whose password is known.
    """
    chosen = [one for one in (*job.recorders, *job.cameras) if not wishes.only or one.id in wishes.only]
    planner = _Planner(job, run, with_password, wishes)
    return SetPlan(devices=tuple(planner.device_plan(one) for one in chosen), not_reached=run.not_reached)


def acts_left(job: Job, run: CheckRun, device: Device) -> dict[str, Act]:
    """By key what a device still wants, as it was read in a run of its own. What was not read wants nothing."""
    read = run.read[0]
    if read.told is None:
        return {}
    every = {one.id for one in job.devices()}
    found = _Planner(job, run, every, Wishes(nearest=True)).wanted(device, read, read.told)
    return {one.key: one for one in found if isinstance(one, Act)}


class _Planner:
    def __init__(self, job: Job, run: CheckRun, with_password: Collection[str], wishes: Wishes) -> None:
        self._job, self._run, self._with_password, self._wishes = job, run, with_password, wishes
        self._heard = {one.address: one for one in run.heard}
        self._read = {one.device: one for one in run.read}
        self._subnets: Mapping[str, SubnetPlan] = {plan.id: plan for plan in job.subnets}
        self._holders: dict[str, list[str]] = {}
        for device in job.devices():
            if device.address:
                self._holders.setdefault(device.address, []).append(device.id)

    def device_plan(self, device: Device) -> DevicePlan:
        own = DevicePlan(device=device.id, name=device.name, planned_address=device.address)
        read = self._read.get(device.id)
        if read is None:
            return own.model_copy(update={"refused": self._why_not_read(device)})
        heard = self._heard.get(read.address)
        known = {
            "address": read.address,
            "shared": self._is_shared(read.address),
            "mac_address": _mac_of(device, read, heard),
            "serial": _serial(read),
        }
        own = own.model_copy(update=known)
        if why := self._why_refused(device, read, heard):
            return own.model_copy(update={"refused": why})
        assert read.told is not None
        scheme = "https" if read.told.is_secure else "http"
        own = own.model_copy(update={"service": f"{scheme}://:{read.told.port}{read.told.path}"})
        found = list(self.wanted(device, read, read.told))
        acts = sorted((one for one in found if isinstance(one, Act)), key=lambda one: ORDER[one.kind])
        by_hand = [one for one in found if isinstance(one, ByHand)]
        if not self._wishes.nearest:
            by_hand += [_only_nearly(act) for act in acts if act.nearest]
            acts = [act for act in acts if not act.nearest]
        return own.model_copy(update={"acts": tuple(acts), "by_hand": tuple(by_hand)})

    def _is_shared(self, address: str) -> bool:
        heard = self._heard.get(address)
        return heard is not None and heard.is_shared(self._run.arp_heard)

    def _why_not_read(self, device: Device) -> str:
        where = device.address or "no planned address"
        if not device.address:
            return "it has no address in the plan: plan its address first"
        if not device.mac_address and not device.serial:
            return f"neither its serial nor its MAC address is noted, and nothing answers as it at {where}: copy its label first"
        first = profile_of(device.make, self._job.make_profiles).first_address
        if self._is_shared(first):
            return (
                f"several new devices share {first}, and this account may not tell them apart: tick “Tell devices on one address "
                "apart” (--ask-right), or plug them in one at a time"
            )
        return f"nothing answers as it, neither at {where} nor at the default address of its make: is it plugged in, and started?"

    def _why_refused(self, device: Device, read: DeviceRead, heard: Heard | None) -> str:
        """Why nothing may be set at a device; empty where something may."""
        if read.other_certificate:
            return "it shows another certificate than the one that is remembered, so it may be another device"
        if read.login == "refused":
            return "it refused the log-in, and is not tried again, so that it does not lock itself"
        if read.login == "locked":
            return "it has locked itself after wrong log-ins: wait until it opens again"
        if read.told is None:
            why = read.why_not_told or read.trouble or "no answer"
            return f"its open protocol does not answer ({why}): switch it on at its page"
        if read.login == "open":
            return "it lets anybody in without a log-in, and has a user already: switch its log-in on at its page"
        if read.login not in ("in", "set-up wanted"):
            return NO_PASSWORD if device.id not in self._with_password else "nobody could log in"
        if device.id not in self._with_password:
            return NO_PASSWORD
        if why := _is_another(device, read, heard):
            return why
        if self._is_shared(read.address) and read.address == device.address:
            return f"another device holds {device.address} as well: find that one first"
        if len(self._holders.get(device.address, ())) > 1:
            return f"the plan has {device.address} for another device too: plan the addresses first"
        return ""

    def wanted(self, device: Device, read: DeviceRead, told: Told) -> Iterator[Act | ByHand]:
        """What is set at a device, and what stays by hand."""
        user = profile_of(device.make, self._job.make_profiles).user_name
        if read.login == "set-up wanted":
            row = SettingRow(what="user", now="none", will_be=f"{user}, with its password from the sealed file")
            yield Act(kind="first user", settings=(row,), values={"user": user})
        elif read.default_works:
            row = SettingRow(what="password", now="the make's default", will_be="its own from the sealed file")
            yield Act(kind="password", settings=(row,), values={"user": user})
        yield from self._time(device, read, told)
        yield from _name(device, told)
        if isinstance(device, Camera):
            yield from stream_acts(device, told)
            yield from motion_acts(device, told)
        if isinstance(device, Recorder):
            yield from channel_acts(self._job, device, told, self._why_no_channel)
        yield from self._address(device, read, told)

    def _why_no_channel(self, camera: Camera) -> str:
        """Why a recorder is not told of a camera yet; empty where it is. One with a wrong password tries it again and again,
        which locks the camera."""
        if camera.id not in self._with_password:
            return "no password of the camera is noted"
        read = self._read.get(camera.id)
        if read is not None and read.login in ("refused", "locked"):
            return "the camera refused the noted password, and a recorder that tries it again and again would lock it"
        return "" if camera.address else "the camera has no address in the plan"

    # ---- time -------------------------------------------------------------------------------------------------------

    def _time(self, device: Device, read: DeviceRead, told: Told) -> Iterator[Act | ByHand]:
        if told.time is None:
            yield ByHand(kind="clock", what="Clock and time zone", why="it does not tell its time by the open protocol")
            return
        zone, settings = posix_zone(self._job.time_zone), []
        off_s = read.clock_off_s if read.clock_off_s is not None else told.time.off_s
        if off_s is None or abs(off_s) > CLOCK_WITHIN_S:
            now = "not told" if off_s is None else f"{duration_words(abs(off_s))} {'ahead' if off_s > 0 else 'behind'}"
            settings.append(SettingRow(what="clock", now=now, will_be="as this laptop's", stays=True))
        if told.time.zone != zone:
            settings.append(
                SettingRow(
                    what="time zone", now=told.time.zone or "not told", will_be=f"{self._job.time_zone} ({zone})"
                )
            )
        if settings:
            yield Act(kind="clock", settings=tuple(settings), values={"zone": zone}, before={"zone": told.time.zone})
        server = time_server_of(self._job, device)
        now = told.time.servers[0] if told.time.by_time_server and told.time.servers else ""
        # Setting the clock by hand takes the time server away from it.
        if server and (server != now or settings):
            row = SettingRow(what="time server", now=now or "none", will_be=server)
            values = {"server": server, "zone": zone}
            yield Act(kind="time server", settings=(row,), values=values, before={"server": now, "zone": zone})

    # ---- network ----------------------------------------------------------------------------------------------------

    def _address(self, device: Device, read: DeviceRead, told: Told) -> Iterator[Act | ByHand]:
        plan = self._subnets.get(device.subnet)
        if plan is None or not device.address:
            yield ByHand(kind="address", what="Address", why="it has none in the plan: plan its address first")
            return
        interfaces = told.network.interfaces if told.network is not None else ()
        own = _interface_at(interfaces, read.address)
        if own is None or not own.token:
            if read.address != device.address:
                why = "it does not tell its interfaces by the open protocol"
                yield ByHand(kind="address", what=f"Address {device.address}", why=why)
            return
        by_lease = device.address_assignment == "DHCP reservation"
        yield from self._interface(device.address, plan, own, read.address, by_lease)
        gateway = told.network.gateway if told.network is not None else ""
        if plan.gateway and not by_lease and plan.gateway not in (gateway, device.address):
            row = SettingRow(what="gateway", now=gateway or "none", will_be=plan.gateway)
            yield Act(kind="gateway", settings=(row,), values={"gateway": plan.gateway}, before={"gateway": gateway})
        if isinstance(device, Recorder) and device.camera_interface_address:
            inner = self._subnets.get(device.camera_interface_subnet)
            other = next((one for one in interfaces if one.token and one.token != own.token), None)
            if inner is not None and other is not None:
                yield from self._interface(device.camera_interface_address, inner, other, other.address, False)
            elif other is None:
                what = f"Camera interface {device.camera_interface_address}"
                yield ByHand(kind="address", what=what, why="it tells no second interface")

    def _interface(
        self, address: str, plan: SubnetPlan, own: InterfaceTold, now: str, by_lease: bool
    ) -> Iterator[Act | ByHand]:
        prefix = subnet_of(plan.cidr).prefix
        if not subnet_of(plan.cidr).is_host(address_number(address)):
            yield ByHand(
                kind="address", what=f"Address {address}", why=f"it is outside {plan.cidr}: plan the addresses first"
            )
            return
        heard = self._heard.get(address)
        if now != address and heard is not None and own.mac_address not in heard.mac_addresses:
            held = heard.mac_addresses[0] if heard.mac_addresses else "not known"
            why = f"something else answers there (MAC address {held}): find it, or plan another address"
            yield ByHand(kind="address", what=f"Address {address}", why=why)
            return
        # Loopback addresses stand for planned ones, so what it tells counts, not where it was reached.
        if (own.address or now, own.prefix, own.is_dhcp) == (address, prefix, by_lease):
            return
        if by_lease and own.is_dhcp:
            why = "it asks a DHCP server already, which gave it another: see the router's reservation"
            yield ByHand(kind="address", what=f"Address {address}", why=why)
            return
        kind = "by DHCP, reserved " if by_lease else ""
        row = SettingRow(what="address", now=f"{own.address or now}/{own.prefix}", will_be=f"{kind}{address}/{prefix}")
        values = {"address": address, "prefix": prefix, "dhcp": by_lease}
        before = {"address": own.address or now, "prefix": own.prefix, "dhcp": own.is_dhcp}
        yield Act(kind="address", at=own.token, settings=(row,), values=values, before=before)


def time_server_of(job: Job, device: Device) -> str:
    """Whom a device asks for the time: a recorder the job's own server, a camera its first recorder, else the job's."""
    if isinstance(device, Camera):
        recorders = {recorder.id: recorder for recorder in job.recorders}
        first = next((recorders[place.recorder] for place in device.registered if place.recorder in recorders), None)
        if first is not None:
            inner = first.camera_interface_address if device.subnet == first.camera_interface_subnet else ""
            return inner or first.address
    try:
        address_number(job.time_server)
    except ValueError:
        return ""  # a name, which the open protocol takes too, but which nobody on site can look up
    return job.time_server


def _name(device: Device, told: Told) -> Iterator[Act | ByHand]:
    names = [one.removeprefix("name/") for one in told.scopes if one.startswith("name/")]
    if told.scopes and names != [device.name]:
        row = SettingRow(what="name", now=names[0] if names else "none", will_be=device.name)
        yield Act(
            kind="name", settings=(row,), values={"name": device.name}, before={"name": names[0] if names else ""}
        )
    if isinstance(device, Camera) and told.shown_text is not None and told.shown_text != device.name:
        first = told.profiles[0] if told.profiles else None
        if first is None:
            return
        row = SettingRow(what="text in the picture", now=told.shown_text or "none", will_be=device.name)
        at = {"source": first.source_settings, "generation": first.by}
        before = {"text": told.shown_text, **at}
        yield Act(kind="picture text", settings=(row,), values={"text": device.name, **at}, before=before)


def _only_nearly(act: Act) -> ByHand:
    rows = "; ".join(f"{one.what} {one.will_be} ({one.note})" for one in act.settings if one.note)
    return ByHand(
        kind=act.kind,
        what=rows[:400],
        why="it takes only something near what is planned: agree to the nearest, or change the plan",
    )


def _interface_at(interfaces: tuple[InterfaceTold, ...], address: str) -> InterfaceTold | None:
    return next((one for one in interfaces if one.address == address), interfaces[0] if interfaces else None)


def _mac_of(device: Device, read: DeviceRead, heard: Heard | None) -> str:
    if heard is not None and device.mac_address in heard.mac_addresses:
        return device.mac_address
    if heard is not None and len(heard.mac_addresses) == 1:
        return heard.mac_addresses[0]
    told = read.told.network.interfaces if read.told is not None and read.told.network is not None else ()
    return next((one.mac_address for one in told if one.mac_address), "")


def _serial(read: DeviceRead) -> str:
    return read.told.identity.serial if read.told is not None and read.told.identity is not None else ""


def _is_another(device: Device, read: DeviceRead, heard: Heard | None) -> str:
    """Why a device cannot be told to be the job's own: by serial or MAC address, and nothing that it tells may speak against it."""
    serial = _serial(read)
    network = read.told.network if read.told is not None else None
    macs = {one.mac_address for one in (network.interfaces if network is not None else ()) if one.mac_address}
    if serial and device.serial and serial != device.serial:
        return f"it tells the serial {serial}; the job has {device.serial}"
    if macs and device.mac_address and device.mac_address not in macs:
        return f"it tells the MAC address {sorted(macs)[0]}; the job has {device.mac_address}"
    by_serial = bool(serial) and serial == device.serial
    on_wire = heard is not None and bool(device.mac_address) and device.mac_address in heard.mac_addresses
    if by_serial or on_wire or (device.mac_address and device.mac_address in macs):
        return ""
    return "neither its serial nor its MAC address says that it is the job's own: copy its label into the job first"
