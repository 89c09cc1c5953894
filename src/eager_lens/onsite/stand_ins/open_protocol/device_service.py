"""The device service of a stand-in."""

from __future__ import annotations

from datetime import UTC, datetime
from urllib.parse import quote
from xml.etree.ElementTree import Element

from eager_lens.core.addressing.ipv4 import address_text
from eager_lens.core.clock.zones import is_summer, posix_zone
from eager_lens.onsite.open_protocol.names import SCOPE
from eager_lens.onsite.stand_ins.open_protocol import device_settings
from eager_lens.onsite.stand_ins.open_protocol.state import Answering, Served
from eager_lens.onsite.stand_ins.open_protocol.writing import each, tag, words


def time(served: Served, asked: Element) -> str:
    now = datetime.fromtimestamp(served.clock.now_s(), UTC)
    local = now.astimezone(served.zone)
    one = served.stand_in
    told = words("tt:DateTimeType", "NTP" if one.time_server and one.asks_server else "Manual")
    told += words("tt:DaylightSavings", is_summer(local)) + tag(
        "tt:TimeZone", words("tt:TZ", posix_zone(one.time_zone))
    )
    if not one.is_loose:
        told += tag("tt:UTCDateTime", _moment(now))
    told += tag("tt:LocalDateTime", _moment(local))
    return tag("tds:SystemDateAndTime", told)


def _moment(moment: datetime) -> str:
    clock = each("tt", {"Hour": moment.hour, "Minute": moment.minute, "Second": moment.second})
    date = each("tt", {"Year": moment.year, "Month": moment.month, "Day": moment.day})
    return tag("tt:Time", clock) + tag("tt:Date", date)


def services(served: Served, asked: Element) -> str:
    version = tag("tds:Version", words("tt:Major", 20), words("tt:Minor", 12))
    return "".join(
        tag("tds:Service", words("tds:Namespace", namespace), words("tds:XAddr", served.told_url(namespace)), version)
        for namespace in served.services
    )


def capabilities(served: Served, asked: Element) -> str:
    """What GetServices says, as clients of before ask for it."""
    yes_no = dict.fromkeys(("RTPMulticast", "RTP_TCP", "RTP_RTSP_TCP"), False) | {"RTP_TCP": True, "RTP_RTSP_TCP": True}
    parts = {name: served.told_url(namespace) for name, namespace in served.by_word.items()}
    found = ""
    if "analytics" in parts:
        found += tag(
            "tt:Analytics",
            words("tt:XAddr", parts["analytics"]),
            each("tt", {"RuleSupport": True, "AnalyticsModuleSupport": True}),
        )
    found += tag("tt:Device", words("tt:XAddr", parts["device"]))
    if "events" in parts:
        subscribing = {
            "WSSubscriptionPolicySupport": False,
            "WSPullPointSupport": True,
            "WSPausableSubscriptionManagerInterfaceSupport": False,
        }
        found += tag("tt:Events", words("tt:XAddr", parts["events"]), each("tt", subscribing))
    if "imaging" in parts:
        found += tag("tt:Imaging", words("tt:XAddr", parts["imaging"]))
    if "media 1" in parts:
        streaming = tag("tt:StreamingCapabilities", each("tt", yes_no))
        found += tag("tt:Media", words("tt:XAddr", parts["media 1"]), streaming)
    extension = ""
    if "recording" in parts:
        kinds = {
            "ReceiverSource": True,
            "MediaProfileSource": False,
            "DynamicRecordings": False,
            "DynamicTracks": False,
        }
        extension += tag(
            "tt:Recording", words("tt:XAddr", parts["recording"]), each("tt", kinds), words("tt:MaxStringLength", 64)
        )
    if "search" in parts:
        extension += tag("tt:Search", words("tt:XAddr", parts["search"]), words("tt:MetadataSearch", False))
    if "replay" in parts:
        extension += tag("tt:Replay", words("tt:XAddr", parts["replay"]))
    if "receiver" in parts:
        numbers = {"SupportedReceivers": 64, "MaximumRTSPURILength": 256}
        kinds = {"RTP_Multicast": False, "RTP_TCP": True, "RTP_RTSP_TCP": True}
        extension += tag("tt:Receiver", words("tt:XAddr", parts["receiver"]), each("tt", {**kinds, **numbers}))
    if extension:
        found += tag("tt:Extension", extension)
    return tag("tds:Capabilities", found)


def service_capabilities(served: Served, asked: Element) -> str:
    network = tag("tds:Network", NTP=1)
    security = {"HttpDigest": "true", "UsernameToken": "true", "TLS1.2": str(served.stand_in.tls_only).lower()}
    return tag("tds:Capabilities", network, tag("tds:Security", **security), tag("tds:System", DiscoveryBye="true"))


def information(served: Served, asked: Element) -> str:
    one = served.stand_in
    make, _, model = one.make.partition(" ")
    serial = "" if one.is_loose else one.serial
    told = {"Manufacturer": make, "Model": model, "FirmwareVersion": one.firmware}
    return each("tds", {**told, "SerialNumber": serial, "HardwareId": one.make})


def interfaces(served: Served, asked: Element) -> str:
    found = ""
    for at, one in enumerate(served.stand_in.interfaces):
        info = tag(
            "tt:Info", words("tt:Name", f"eth{at}"), words("tt:HwAddress", one.mac_address), words("tt:MTU", 1500)
        )
        address = each("tt", {"Address": address_text(one.address), "PrefixLength": one.prefix})
        settings = (tag("tt:Manual", address) if one.address else "") + words("tt:DHCP", False)
        ipv4 = tag("tt:IPv4", words("tt:Enabled", True), tag("tt:Config", settings))
        found += tag("tds:NetworkInterfaces", words("tt:Enabled", True), info, ipv4, token=f"eth{at}")
    return found


def gateway(served: Served, asked: Element) -> str:
    found = [address_text(one.gateway) for one in served.stand_in.interfaces if one.gateway]
    return tag("tds:NetworkGateway", *(words("tt:IPv4Address", one) for one in found[:1]))


def dns(served: Served, asked: Element) -> str:
    manual = "".join(
        tag("tt:DNSManual", words("tt:Type", "IPv4"), words("tt:IPv4Address", one)) for one in served.stand_in.dns
    )
    return tag("tds:DNSInformation", words("tt:FromDHCP", False), manual)


def ntp(served: Served, asked: Element) -> str:
    server = served.stand_in.time_server
    manual = (
        tag("tt:NTPManual", words("tt:Type", "IPv4"), words("tt:IPv4Address", address_text(server))) if server else ""
    )
    return tag("tds:NTPInformation", words("tt:FromDHCP", False), manual)


def host_name(served: Served, asked: Element) -> str:
    one = served.stand_in
    plain = "".join(sign if sign.isascii() and sign.isalnum() else " " for sign in one.name)
    name = one.host_name or "-".join(plain.split())
    return tag("tds:HostnameInformation", words("tt:FromDHCP", False), words("tt:Name", name[:60] or "device"))


def scopes(served: Served, asked: Element) -> str:
    return "".join(
        tag(
            "tds:Scopes",
            words("tt:ScopeDef", "Configurable" if "/name/" in one else "Fixed"),
            words("tt:ScopeItem", one),
        )
        for one in (*served.announced().scopes, f"{SCOPE}/location/{quote(served.stand_in.id, safe='')}")
    )


def users(served: Served, asked: Element) -> str:
    if not served.is_set_up:
        return ""
    gate = served.gate
    return "".join(
        tag("tds:User", words("tt:Username", name), words("tt:UserLevel", gate.levels.get(name, "Administrator")))
        for name in gate.users
    )


def protocols(served: Served, asked: Element) -> str:
    found = ""
    for name, (port, is_on) in served.ports().items():
        found += tag("tds:NetworkProtocols", each("tt", {"Name": name, "Enabled": is_on, "Port": port}))
    return found


ANSWERS: dict[str, Answering] = {
    "GetSystemDateAndTime": time,
    "GetServices": services,
    "GetServiceCapabilities": service_capabilities,
    "GetCapabilities": capabilities,
    "GetDeviceInformation": information,
    "GetNetworkInterfaces": interfaces,
    "GetNetworkDefaultGateway": gateway,
    "GetDNS": dns,
    "GetNTP": ntp,
    "GetHostname": host_name,
    "GetScopes": scopes,
    "GetUsers": users,
    "GetNetworkProtocols": protocols,
    **device_settings.ANSWERS,
}
BEFORE_LOGIN = frozenset({"GetSystemDateAndTime", "GetServices", "GetServiceCapabilities", "GetCapabilities"})
"""What the standard lets anybody ask."""
