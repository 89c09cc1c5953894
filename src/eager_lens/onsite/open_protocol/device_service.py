"""The device service: time, services, identity, network, users."""

from __future__ import annotations

import time
from collections.abc import Iterable
from datetime import UTC, datetime, timedelta
from urllib.parse import unquote
from xml.etree.ElementTree import Element

from eager_lens.core.addressing.ipv4 import mac_or_nothing
from eager_lens.core.clock.zones import posix_offset_s
from eager_lens.core.site_check.told import (
    MOST_NAMES,
    IdentityTold,
    InterfaceTold,
    NetworkTold,
    TimeTold,
    UserTold,
)
from eager_lens.onsite.open_protocol.endpoints import Endpoint, endpoint_of, host_of
from eager_lens.onsite.open_protocol.names import (
    ANALYTICS,
    DEVICE,
    EVENTS,
    IMAGING,
    MEDIA,
    RECEIVER,
    RECORDING,
    REPLAY,
    SEARCH,
    SERVICES,
)
from eager_lens.onsite.open_protocol.names import SCOPE as SCOPE_START
from eager_lens.onsite.open_protocol.xml import anywhere, attribute, child, children, flag, parts, text, whole

FAR_S = 1e10
_IN_CAPABILITIES = {
    "Device": DEVICE,
    "Media": MEDIA,
    "Imaging": IMAGING,
    "Analytics": ANALYTICS,
    "Events": EVENTS,
    "Recording": RECORDING,
    "Search": SEARCH,
    "Replay": REPLAY,
    "Receiver": RECEIVER,
}


def time_of(answer: Element, begun_s: float, notes: list[str]) -> TimeTold:
    """The device's time, out of an answer to GetSystemDateAndTime that was asked for at ``begun_s`` (since 1970)."""
    told = child(answer, "SystemDateAndTime")
    zone = text(told, "TimeZone", "TZ")
    moment = _moment(child(told, "UTCDateTime"))
    if moment is not None:
        moment = moment.replace(tzinfo=UTC)
    else:
        local = _moment(child(told, "LocalDateTime"))
        moment = _in_zone(local, zone) if local is not None else None
        notes.append("it tells its local time only" if local is not None else "it tells no time that there is")
    off_s = None
    if moment is not None:
        # It counts whole seconds: on average half of one has passed, and half of the way to it.
        shown_s = (moment - datetime(1970, 1, 1, tzinfo=UTC)).total_seconds() + 0.5
        off_s = max(-FAR_S, min(FAR_S, round(shown_s - (begun_s + time.time()) / 2, 2)))
    return TimeTold(
        off_s=off_s,
        by_time_server=text(told, "DateTimeType").lower() == "ntp",
        zone=zone,
        is_daylight=flag(told, "DaylightSavings"),
    )


def _moment(told: Element | None) -> datetime | None:
    if told is None:
        return None
    date, clock = child(told, "Date"), child(told, "Time")
    if date is None or clock is None:
        return None
    try:
        day = datetime(whole(date, "Year"), whole(date, "Month"), whole(date, "Day"))
        # A leap second is the first of the next minute.
        return day + timedelta(
            hours=whole(clock, "Hour"), minutes=whole(clock, "Minute"), seconds=whole(clock, "Second")
        )
    except (ValueError, OverflowError):
        return None


def _in_zone(local: datetime, zone: str) -> datetime | None:
    """The moment of a local time in a POSIX zone, such as ``CET-1CEST,M3.5.0,M10.5.0/3``."""
    offset_s = posix_offset_s(zone, local)
    return None if offset_s is None else (local - timedelta(seconds=offset_s)).replace(tzinfo=UTC)


def services_of(answer: Element, host: str, notes: list[str]) -> dict[str, Endpoint]:
    """The services in an answer to GetServices, by namespace."""
    pairs = ((text(one, "Namespace"), text(one, "XAddr")) for one in children(answer, "Service"))
    return _endpoints(pairs, host, notes)


def capabilities_of(answer: Element, host: str, notes: list[str]) -> dict[str, Endpoint]:
    """The services in an answer to GetCapabilities, which older devices have instead."""
    pairs = []
    for one in parts(child(answer, "Capabilities")):
        for part in (one, *one):
            name = part.tag.rpartition("}")[2]
            if name in _IN_CAPABILITIES and child(part, "XAddr") is not None:
                pairs.append((_IN_CAPABILITIES[name], text(part, "XAddr")))
    return _endpoints(pairs, host, notes)


def _endpoints(pairs: Iterable[tuple[str, str]], host: str, notes: list[str]) -> dict[str, Endpoint]:
    found: dict[str, Endpoint] = {}
    elsewhere = ""
    for namespace, told in pairs:
        endpoint = endpoint_of(told)
        if namespace in SERVICES and endpoint is not None:
            found.setdefault(namespace, endpoint)
            if host_of(told) not in ("", host):
                elsewhere = host_of(told)
    if elsewhere:
        notes.append(f"it says that its services are at {elsewhere[:60]}")
    return found


def identity_of(answer: Element) -> IdentityTold:
    """Who it is, out of an answer to GetDeviceInformation."""
    return IdentityTold(
        make=text(answer, "Manufacturer"),
        model=text(answer, "Model"),
        firmware=text(answer, "FirmwareVersion"),
        serial=text(answer, "SerialNumber"),
        hardware=text(answer, "HardwareId"),
    )


def interfaces_of(answer: Element) -> tuple[InterfaceTold, ...]:
    """Its interfaces, out of an answer to GetNetworkInterfaces."""
    found = []
    for one in children(answer, "NetworkInterfaces")[:16]:
        settings = child(one, "IPv4", "Config")
        is_dhcp = flag(settings, "DHCP")
        names = ("FromDHCP", "Manual", "LinkLocal") if is_dhcp else ("Manual", "FromDHCP", "LinkLocal")
        own = next((told for name in names if (told := child(settings, name)) is not None), None)
        found.append(
            InterfaceTold(
                token=attribute(one, "token"),
                name=text(one, "Info", "Name"),
                mac_address=mac_or_nothing(text(one, "Info", "HwAddress")),
                address=text(own, "Address"),
                prefix=min(32, whole(own, "PrefixLength")),
                is_dhcp=is_dhcp,
            )
        )
    return tuple(found)


def network_of(interfaces: tuple[InterfaceTold, ...], answers: dict[str, Element]) -> NetworkTold:
    """Its network settings, out of its interfaces and the answers that there are, by the name of the question."""
    dns = answers.get("GetDNS")
    ports = []
    for one in children(answers.get("GetNetworkProtocols"), "NetworkProtocols")[:16]:
        if flag(one, "Enabled"):
            ports.append(f"{text(one, 'Name')} {' '.join(text(port) for port in children(one, 'Port'))}".strip())
    return NetworkTold(
        interfaces=interfaces,
        gateway=text(answers.get("GetNetworkDefaultGateway"), "NetworkGateway", "IPv4Address"),
        dns=tuple(text(one) for one in anywhere(dns, "IPv4Address"))[:8],
        host_name=text(answers.get("GetHostname"), "HostnameInformation", "Name"),
        ports=tuple(ports),
    )


def time_servers_of(answer: Element) -> tuple[str, ...]:
    """Whom it asks for the time, out of an answer to GetNTP."""
    told = child(answer, "NTPInformation")
    each = [*children(told, "NTPManual"), *children(told, "NTPFromDHCP")]
    found = (text(one, "IPv4Address") or text(one, "DNSname") for one in each)
    return tuple(one for one in found if one)[:8]


def users_of(answer: Element) -> tuple[UserTold, ...]:
    """Its users, out of an answer to GetUsers."""
    each = ((text(one, "Username"), text(one, "UserLevel")) for one in children(answer, "User")[:64])
    return tuple(UserTold(name=name, level=level) for name, level in each if name)


def scopes_of(answer: Element) -> tuple[str, ...]:
    """What it says of itself, out of an answer to GetScopes: without what all scopes begin with."""
    texts = (text(one, "ScopeItem") for one in children(answer, "Scopes")[:MOST_NAMES])
    return tuple(unquote(one.removeprefix(f"{SCOPE_START}/"))[:300] for one in texts if one)
