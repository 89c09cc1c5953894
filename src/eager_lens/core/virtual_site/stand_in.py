"""The description of each device for its stand-in: interfaces, streams, users."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Mapping
from typing import NamedTuple

from eager_lens.core.addressing.ipv4 import address_number, subnet_around, subnet_of
from eager_lens.core.job.make_profiles import MakeProfile, usual_profile
from eager_lens.core.job.model import Camera, Recorder, SubnetPlan
from eager_lens.core.planned_settings.detector import COLUMNS, ROWS, DetectorSet, detector_of
from eager_lens.core.planned_settings.streams import substream_planned
from eager_lens.core.reference.streams import Codec
from eager_lens.core.simulation.clocks import error_s
from eager_lens.core.simulation.leases import LEASE_S
from eager_lens.core.simulation.parts import DEFAULT_PASSWORD, Entry, Server, Side, Unit, UnitRole
from eager_lens.core.simulation.parts import MotionRule as UnitRule
from eager_lens.core.simulation.segments import INTERNET, Segment
from eager_lens.core.simulation.site import Site
from eager_lens.core.tried_rule.tried import LIKE_SCENE
from eager_lens.core.values.motion_rule import MotionRule

RUNS_ROLES: tuple[UnitRole, ...] = ("camera", "recorder", "router", "phone", "other", "switch", "bridge")

WIRE_ROLES: tuple[UnitRole, ...] = ("switch", "bridge", "other")
"""They are the wire itself; those that have an address are a page on it besides."""

SLOW_TIMES = 10.0
"""A device that hangs as it starts again takes so many times as long."""

USUAL_EXPOSURE_MS = 33.3
EVENT_PORT = 7412
"""Where a recorder stand-in takes events when the job leaves that to the maker (made up)."""


DELIVERED = DetectorSet(60, ((True,) * COLUMNS,) * ROWS, 4, 200, 3000)
"""A motion detector out of the box (made up)."""


class NetworkInterface(NamedTuple):
    """An interface: the wire that it is on, its MAC address, address, subnet and gateway (numbers; 0 for none), link speed."""

    wire: str
    mac_address: str
    address: int
    prefix: int
    gateway: int
    link_mbps: float


class StreamSent(NamedTuple):
    """A stream as it is sent. ``scene``: the drawn scene that it shows."""

    path: str
    codec: Codec
    width_px: int
    height_px: int
    fps: float
    key_frame_s: float
    rate_mbps: float
    scene: str


class ChannelSet(NamedTuple):
    """A recorder's channel as it is set: whom it fetches, and how it logs in there."""

    number: int
    name: str
    address: int
    user: str
    password: str
    path: str = "main"
    rtsp_port: int = 554


class StandIn(NamedTuple):
    """A device as it is to run. ``streams``: what a camera sends, or a recorder plays back.

    Attributes:
        name, serial, firmware, make: as its page tells them. ready_after_s: how long after the start it answers.
        user, password: who may log in; ``open_password`` the open protocol's. ``is_set_up``: no first-use set-up is wanted.
        clock_offset_s, drift_ppm: by which its clock is ahead of this computer's, and what it gains. time_server: whom it
            asks, 0 for nobody.
        event_port: TCP port at which it takes events, 0 for none. event_target, event_target_port: where it sends its own.
        pool: what it leases, first and last address (router only); ``reserved`` by MAC address.
        time_zone: a named one, or a fixed offset in minutes. cap_mbps, holds_rate: the maximum of its main stream (None: none),
            and whether it always sends that much. rule: whether it detects, with ``motion_rule``.
        sub_cap_mbps, sub_holds_rate: the same of the substream (None: what it sends). qualities: of all streams, 1 to 10.
        camera, planned_mbps: the camera of the job with what it sends by the plan, from which rates at other settings follow.
        detector: how its motion detector is set. home_zone: the zone of the job, whose name goes with its POSIX text.
        host_name, dns, shown_text: as it was set; text is empty where nothing is written into its picture.
        asks_server: whether it takes its time from ``time_server``. restart_s: how long it is away when it starts again.
        most_channels: how many a recorder has. refuses: settings that it refuses although it says that it takes them.
        keeps_days: how old its oldest picture is (recorder). tls_only: it answers over TLS alone. wants_both: it wants two log-ins,
            HTTP's and the service's. is_loose: its answers are not quite by the standard.
    """

    id: str
    name: str
    role: UnitRole
    serial: str
    firmware: str
    make: str
    profile: MakeProfile
    interfaces: tuple[NetworkInterface, ...]
    ready_after_s: float = 0.0
    is_set_up: bool = True
    user: str = ""
    password: str = ""
    open_password: str = ""
    open_on: bool = False
    clock_offset_s: float = 0.0
    drift_ppm: float = 0.0
    time_server: int = 0
    streams: tuple[StreamSent, ...] = ()
    channels: tuple[ChannelSet, ...] = ()
    event_port: int = 0
    event_target: int = 0
    event_target_port: int = EVENT_PORT
    pool: tuple[int, int] | None = None
    reserved: Mapping[str, int] = {}
    lease_s: float = LEASE_S
    time_zone: str = "UTC"
    cap_mbps: float | None = None
    holds_rate: bool = False
    longest_exposure_ms: float = USUAL_EXPOSURE_MS
    rule: UnitRule = "on"
    motion_rule: MotionRule | None = None
    keeps_days: float = 31.0
    tls_only: bool = False
    wants_both: bool = False
    is_loose: bool = False
    sub_cap_mbps: float | None = None
    sub_holds_rate: bool = False
    qualities: tuple[float, ...] = (5.0, 5.0)
    camera: Camera | None = None
    planned_mbps: float = 0.0
    detector: DetectorSet | None = None
    home_zone: str = ""
    host_name: str = ""
    dns: tuple[str, ...] = ()
    shown_text: str = ""
    asks_server: bool = True
    most_channels: int = 16
    restart_s: float = 0.0
    refuses: tuple[str, ...] = ()

    def __repr__(self) -> str:
        """Without passwords, wherever it may be printed."""
        return f"StandIn({self.id}, {self.name!r}, {self.role})"


class Described(NamedTuple):
    """A site that can be run: its devices, and by id why the others stay dark; ``wires`` are its broadcast domains, with the
    addresses (and sizes) that a laptop there would take."""

    stand_ins: tuple[StandIn, ...]
    dark: dict[str, str]
    wires: dict[str, tuple[tuple[int, int], ...]]


def described(site: Site, password_of: Callable[[str], str]) -> Described:
    """The devices of a site.

    Args:
        password_of: the real password for a stand-in of one: ``own:ID`` of a device, ``default``, or any other.
    """
    macs = _own_macs(site)
    wires = _Wires(site)
    found, dark = [], {}
    for unit in site.units.values():
        if unit.role not in RUNS_ROLES or (unit.role in WIRE_ROLES and not unit.sides[0].address):
            continue
        if unit.runs or unit.phase == "starting":
            found.append(_stand_in(site, unit, macs[unit.id], wires, password_of))
        else:
            dark[unit.id] = unit.feeding.why_dark or "it has no power"
    return Described(tuple(found), dark, wires.with_laptop(found))


def _own_macs(site: Site) -> dict[str, str]:
    """A MAC address for each unit. Where a label was copied onto two, the second has another in truth."""
    seen: Counter[str] = Counter()
    macs = {}
    for unit in site.units.values():
        seen[unit.mac_address] += 1
        times = seen[unit.mac_address]
        macs[unit.id] = unit.mac_address if times == 1 else f"{unit.mac_address[:-2]}{(0xE0 + times) % 256:02x}"
    return macs


class _Wires:
    """Broadcast domains by name. Subnets that share switches are VLANs: each is a domain of its own."""

    def __init__(self, site: Site) -> None:
        self._site = site
        self._names: dict[tuple[int, str], str] = {}
        self._has_port: set[str] = set()
        self._plans: dict[str, SubnetPlan] = {plan.id: plan for plan in site.job.subnets}
        self._nets = {plan.id: subnet_of(plan.cidr) for plan in site.job.subnets}

    def of(self, unit: Unit, side: Side, subnet_id: str) -> str:
        """The wire of a unit's side; ``subnet_id`` is that of its plan, empty for what is not in the job."""
        segment: Segment = self._site.segment(unit, side)
        vlan = subnet_id if subnet_id in self._plans else self._by_address(side.address)
        name = self._names.setdefault((id(segment), vlan), f"wire{len(self._names)}")
        if name not in self._has_port and any(self._passes_on(unit_id) for unit_id, _ in segment):
            self._has_port.add(name)
        return name

    def _passes_on(self, unit_id: str) -> bool:
        unit = self._site.units.get(unit_id)
        return unit is not None and unit.runs and unit.passes_on

    def _by_address(self, address: int) -> str:
        return next((plan_id for plan_id, net in self._nets.items() if address in net), "")

    def with_laptop(self, stand_ins: list[StandIn]) -> dict[str, tuple[tuple[int, int], ...]]:
        """For each wire an address that nobody holds, from the end of the subnet that is planned there, and one in each subnet
        in which devices are out of the box."""
        held = {interface.address for one in stand_ins for interface in one.interfaces}
        held |= {address_number(device.address) for device in self._site.job.devices() if device.address}
        wires: dict[str, tuple[tuple[int, int], ...]] = dict.fromkeys(self._names.values(), ())
        for (_, subnet_id), name in self._names.items():
            net = self._nets.get(subnet_id) if name in self._has_port else None
            free = next((n for n in range(net.last_host, net.network, -1) if n not in held), 0) if net else 0
            if net is not None and free:
                held.add(free)
                wires[name] = ((free, net.prefix),)
        seen = {subnet_around(number, prefix) for each in wires.values() for number, prefix in each}
        for interface in (interface for one in stand_ins for interface in one.interfaces):
            own = subnet_around(interface.address, interface.prefix)
            if interface.address and own not in seen and wires.get(interface.wire):
                seen.add(own)
                free = next(n for n in range(own.last_host, own.network, -1) if n not in held)
                wires[interface.wire] += ((free, own.prefix),)
        return wires


def _subnets_of(unit: Unit) -> list[str]:
    device = unit.device
    own = getattr(device, "subnet", "")
    return [own, device.camera_interface_subnet] if isinstance(device, Recorder) else [own]


def _stand_in(site: Site, unit: Unit, mac: str, wires: _Wires, password_of: Callable[[str], str]) -> StandIn:
    device = unit.device
    subnets = _subnets_of(unit)
    interfaces = []
    for at, side in enumerate(side for side in unit.sides if side.name != INTERNET):
        own_mac = mac if at == 0 else f"0a:{mac[3:]}"
        wire = wires.of(unit, side, subnets[at] if at < len(subnets) else "")
        interfaces.append(
            NetworkInterface(wire, own_mac, side.address, side.prefix, side.gateway, _link_mbps(site, unit))
        )
    if unit.role == "router":
        interfaces += _further_vlans(site, unit, mac, wires)
    server = site.servers.get(unit.id) if unit.role == "router" else None
    return StandIn(
        id=unit.id,
        name=unit.given_name or unit.name,
        role=unit.role,
        serial=unit.serial,
        firmware=unit.firmware,
        make=getattr(device, "make", ""),
        profile=unit.profile,
        interfaces=tuple(interfaces),
        ready_after_s=max(0.0, unit.ready_s - site.now_s) if unit.phase == "starting" else 0.0,
        is_set_up=unit.access.is_set_up,
        user=unit.profile.user_name,
        password=password_of(unit.access.password),
        open_password=password_of(unit.access.open_password or unit.access.password),
        open_on=unit.access.open_on,
        clock_offset_s=error_s(site, unit),
        drift_ppm=unit.clock.drift_ppm,
        time_server=unit.clock.server,
        streams=_streams(unit) or _replayed(site, unit),
        channels=_channels(site, unit, password_of),
        event_port=_event_port(unit),
        event_target=unit.event_target,
        event_target_port=getattr(device, "event_tcp_port", 0) or EVENT_PORT,
        pool=(server.first, server.last) if server is not None else None,
        reserved=_reserved(site, server),
        time_zone=unit.clock.zone or ("UTC" if not unit.access.is_set_up else site.job.time_zone),
        home_zone=site.job.time_zone,
        cap_mbps=unit.stream.cap_mbps if unit.stream is not None else None,
        holds_rate=isinstance(device, Camera) and device.rate_control == "CBR",
        rule=unit.rule,
        motion_rule=device.motion_rule if isinstance(device, Camera) else None,
        keeps_days=unit.recording.keeps_days,
        tls_only="tls-only" in unit.habits,
        wants_both="wants-both" in unit.habits,
        is_loose="loose" in unit.habits,
        camera=device if isinstance(device, Camera) else None,
        detector=_detector(unit),
        planned_mbps=unit.stream.planned_mbps if unit.stream is not None else 0.0,
        most_channels=device.channels if isinstance(device, Recorder) else 0,
        restart_s=unit.profile.start_s * (SLOW_TIMES if "slow" in unit.habits else 1.0),
        refuses=("encoder",) if "refuses" in unit.habits else (),
    )


def _detector(unit: Unit) -> DetectorSet | None:
    """As the plan has it once it is set up; until then as it was delivered."""
    camera = unit.device
    if not isinstance(camera, Camera):
        return None
    return detector_of(camera) if unit.access.is_set_up else DELIVERED


def _event_port(unit: Unit) -> int:
    device = unit.device
    takes = isinstance(device, Recorder) and device.takes_events and unit.recording.takes_events
    return (device.event_tcp_port or EVENT_PORT) if takes and isinstance(device, Recorder) else 0


def _further_vlans(site: Site, unit: Unit, mac: str, wires: _Wires) -> list[NetworkInterface]:
    """A router is in every VLAN on its switches that has a gateway."""
    side = unit.sides[0]
    here = {unit_id for unit_id, _ in site.segment(unit, side)}
    devices = [one.device for one in site.units.values() if one.id in here and one.device is not None]
    used = {device.subnet for device in devices} - {unit.device.subnet if unit.device else ""}
    return [
        NetworkInterface(
            wires.of(unit, side, plan.id),
            f"{mac[:-2]}{0xC0 + at % 48:02x}",
            address_number(plan.gateway),
            subnet_of(plan.cidr).prefix,
            0,
            _link_mbps(site, unit),
        )
        for at, plan in enumerate(site.job.subnets)
        if plan.id in used and plan.gateway
    ]


def _link_mbps(site: Site, unit: Unit) -> float:
    return min((cable.mbps for cable in site.cables_of(unit) if cable.plugged), default=1000.0)


def _streams(unit: Unit) -> tuple[StreamSent, ...]:
    stream, camera = unit.stream, unit.device
    if stream is None or not isinstance(camera, Camera):
        return ()
    scene = LIKE_SCENE.get(camera.scene, "store")
    main = StreamSent(
        unit.profile.main_stream_path,
        stream.codec,
        stream.width_px,
        stream.height_px,
        stream.fps,
        stream.key_frame_s,
        stream.rate_mbps,
        scene,
    )
    if not camera.substream_mbps:
        return (main,)
    shape = {name: getattr(stream, name) for name in ("codec", "width_px", "height_px", "fps")}
    sub = substream_planned(camera.model_copy(update=shape))
    assert sub is not None
    path, rate_mbps = unit.profile.substream_path, camera.substream_mbps
    return main, StreamSent(path, sub.codec, *sub.size_px, sub.fps, sub.key_frame_s, rate_mbps, scene)


def _replayed(site: Site, recorder: Unit) -> tuple[StreamSent, ...]:
    """What a recorder plays back: of each channel the main stream of the camera that it was set up for."""
    found = []
    for number, entry in sorted(recorder.entries.items()):
        camera = site.units.get(entry.password.removeprefix("own:"))
        main = _streams(camera)[:1] if camera is not None else ()
        found += [one._replace(path=replay_path(number)) for one in main]
    return tuple(found)


def replay_path(number: int) -> str:
    """Where a recorder stand-in plays a channel back."""
    return f"replay/{number}"


def _channels(site: Site, unit: Unit, password_of: Callable[[str], str]) -> tuple[ChannelSet, ...]:
    return tuple(
        _channel(site, number, entry, password_of) for number, entry in sorted(unit.entries.items()) if entry.address
    )


def _channel(site: Site, number: int, entry: Entry, password_of: Callable[[str], str]) -> ChannelSet:
    """Where a recorder was told to look: as the make of the camera that is planned there has it."""
    held = site.units.get(entry.password.removeprefix("own:"))
    profile = held.profile if held is not None else usual_profile()
    login = (profile.user_name, password_of(entry.password))
    return ChannelSet(number, entry.name, entry.address, *login, profile.main_stream_path, profile.rtsp_port)


def _reserved(site: Site, server: Server | None) -> dict[str, int]:
    if server is None:
        return {}
    return {
        device.mac_address: address_number(device.address)
        for device in site.job.devices()
        if device.address_assignment == "DHCP reservation" and device.mac_address and device.address
        if address_number(device.address) in server.subnet
    }


def stand_in_password(site_password: str, own: Mapping[str, str]) -> Callable[[str], str]:
    """Real passwords for the stand-ins of them: a device's own where it is known, else one for all; the default is the word
    itself, and every other is made of its stand-in."""

    def password_of(stand_in: str) -> str:
        if stand_in == DEFAULT_PASSWORD:
            return DEFAULT_PASSWORD
        if stand_in.startswith("own:"):
            return own.get(stand_in.removeprefix("own:"), site_password)
        return f"not-{site_password}"

    return password_of
