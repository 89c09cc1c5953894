"""Setting by the device service: users, time, name, network."""

from __future__ import annotations

from datetime import UTC, datetime
from urllib.parse import quote
from xml.sax.saxutils import escape

from eager_lens.onsite.open_protocol.names import DEVICE, SCOPE
from eager_lens.onsite.open_protocol.opened import OpenedDevice
from eager_lens.onsite.open_protocol.xml import children, flag, text

ADMINISTRATOR, ONLY_LOOKS = "Administrator", "User"


async def create_user(device: OpenedDevice, name: str, password: str, level: str = ADMINISTRATOR) -> None:
    """Give it a user; of a device out of its box the first."""
    await device.ask(DEVICE, "tds:CreateUsers", _user(name, password, level))


async def set_password(device: OpenedDevice, name: str, password: str, level: str = ADMINISTRATOR) -> None:
    """Give a user that it has another password."""
    await device.ask(DEVICE, "tds:SetUser", _user(name, password, level))


def _user(name: str, password: str, level: str) -> str:
    inside = f"<tt:Username>{escape(name)}</tt:Username><tt:Password>{escape(password)}</tt:Password>"
    return f"<tds:User>{inside}<tt:UserLevel>{level}</tt:UserLevel></tds:User>"


async def set_clock(device: OpenedDevice, zone: str) -> None:
    """Set its clock to this computer's, in a POSIX zone. User tokens go by its own time, which is another from now on."""
    now = datetime.now(UTC)
    time = f"<tt:Hour>{now.hour}</tt:Hour><tt:Minute>{now.minute}</tt:Minute><tt:Second>{now.second}</tt:Second>"
    date = f"<tt:Year>{now.year}</tt:Year><tt:Month>{now.month}</tt:Month><tt:Day>{now.day}</tt:Day>"
    moment = f"<tds:UTCDateTime><tt:Time>{time}</tt:Time><tt:Date>{date}</tt:Date></tds:UTCDateTime>"
    await device.ask(DEVICE, "tds:SetSystemDateAndTime", _time("Manual", zone) + moment)
    device.talk.ahead_s = 0.0


async def set_time_server(device: OpenedDevice, server: str, zone: str) -> None:
    """Have it ask a time server by its address; without one it keeps its own time."""
    manual = f"<tt:Type>IPv4</tt:Type><tt:IPv4Address>{escape(server)}</tt:IPv4Address>"
    servers = f"<tds:NTPManual>{manual}</tds:NTPManual>" if server else ""
    await device.ask(DEVICE, "tds:SetNTP", f"<tds:FromDHCP>false</tds:FromDHCP>{servers}")
    if server:
        await device.ask(DEVICE, "tds:SetSystemDateAndTime", _time("NTP", zone))
    else:
        await set_clock(device, zone)


def _time(kind: str, zone: str) -> str:
    # A POSIX zone says when summer time is; the flag is for zones that do not.
    summer = str("," in zone).lower()
    return (
        f"<tds:DateTimeType>{kind}</tds:DateTimeType><tds:DaylightSavings>{summer}</tds:DaylightSavings>"
        f"<tds:TimeZone><tt:TZ>{escape(zone)}</tt:TZ></tds:TimeZone>"
    )


async def set_name(device: OpenedDevice, name: str) -> None:
    """Give it a name, which it tells in searches; what else it tells there, and can be set, stays."""
    answer = await device.ask(DEVICE, "tds:GetScopes")
    start = f"{SCOPE}/name/"
    each = [(text(one, "ScopeDef"), text(one, "ScopeItem")) for one in children(answer, "Scopes")]
    kept = [item for kind, item in each if kind.lower() == "configurable" and not item.startswith(start)]
    scopes = [start + quote(name, safe=""), *kept]
    inside = "".join(f"<tds:Scopes>{escape(one)}</tds:Scopes>" for one in scopes)
    await device.ask(DEVICE, "tds:SetScopes", inside)


async def set_address(device: OpenedDevice, interface: str, address: str, prefix: int, dhcp: bool) -> bool:
    """Give one of its interfaces an address, or have it ask a DHCP server; whether it wants to be started again for that."""
    manual = (
        f"<tt:Manual><tt:Address>{escape(address)}</tt:Address><tt:PrefixLength>{prefix}</tt:PrefixLength></tt:Manual>"
    )
    inside = f"<tt:Enabled>true</tt:Enabled>{'' if dhcp else manual}<tt:DHCP>{str(dhcp).lower()}</tt:DHCP>"
    answer = await device.ask(
        DEVICE,
        "tds:SetNetworkInterfaces",
        f"<tds:InterfaceToken>{escape(interface)}</tds:InterfaceToken>"
        f"<tds:NetworkInterface><tt:IPv4>{inside}</tt:IPv4></tds:NetworkInterface>",
    )
    return flag(answer, "RebootNeeded")


async def set_gateway(device: OpenedDevice, gateway: str) -> None:
    """Tell it its gateway; an empty one takes it away."""
    inside = f"<tds:IPv4Address>{escape(gateway)}</tds:IPv4Address>" if gateway else ""
    await device.ask(DEVICE, "tds:SetNetworkDefaultGateway", inside)


async def start_again(device: OpenedDevice) -> None:
    """Start it again."""
    await device.ask(DEVICE, "tds:SystemReboot")
