"""What the device service of a stand-in lets others set: time, network, name, users."""

from __future__ import annotations

import time
from datetime import UTC, datetime
from urllib.parse import unquote
from xml.etree.ElementTree import Element

from eager_lens.core.addressing.ipv4 import address_number, address_text
from eager_lens.core.clock.zones import posix_offset_s, posix_zone
from eager_lens.core.errors import RefusedInput
from eager_lens.onsite.open_protocol.names import SCOPE
from eager_lens.onsite.open_protocol.xml import child, children, flag, text, whole
from eager_lens.onsite.stand_ins.open_protocol.state import Answering, Served
from eager_lens.onsite.stand_ins.open_protocol.writing import Refusal, words

MOST_USERS = 10
LEVELS = ("Administrator", "Operator", "User")


def set_time(served: Served, asked: Element) -> str:
    """Zone, and either the time itself or that a server gives it."""
    kind = text(asked, "DateTimeType")
    if kind not in ("Manual", "NTP"):
        raise Refusal(f"no way of keeping time: {kind}", "InvalidArgVal", "InvalidDateTime")
    changes: dict[str, object] = {"asks_server": kind == "NTP"}
    zone = text(asked, "TimeZone", "TZ")
    if zone:
        changes["time_zone"] = _zone(served, zone)
    if kind == "Manual":
        moment = _moment(child(asked, "UTCDateTime"))
        served.clock.set_ahead(moment.timestamp() - time.time())
    served.change(**changes)
    return ""


def _zone(served: Served, zone: str) -> str:
    """A named zone where the POSIX text is that of the one it has now; else a fixed offset would lose summer time."""
    planned = served.stand_in.home_zone or served.stand_in.time_zone
    if planned[:1] not in "+-" and posix_zone(planned) == zone:
        return planned
    offset_s = posix_offset_s(zone, datetime.now(UTC).replace(tzinfo=None))
    if offset_s is None:
        raise Refusal(f"no time zone: {zone}", "InvalidArgVal", "InvalidTimeZone")
    return f"{offset_s / 60:+.0f}"


def _moment(told: Element | None) -> datetime:
    date, clock = child(told, "Date"), child(told, "Time")
    try:
        day = datetime(whole(date, "Year"), whole(date, "Month"), whole(date, "Day"), tzinfo=UTC)
        return day.replace(hour=whole(clock, "Hour"), minute=whole(clock, "Minute"), second=whole(clock, "Second"))
    except ValueError as error:
        raise Refusal("there is no such moment", "InvalidArgVal", "InvalidDateTime") from error


def _address(written: str) -> int:
    try:
        return address_number(written)
    except (RefusedInput, ValueError) as error:
        raise Refusal(f"no address: {written}", "InvalidArgVal", "InvalidIPv4Address") from error


def set_time_server(served: Served, asked: Element) -> str:
    if flag(asked, "FromDHCP"):
        served.change(time_server=0)
        return ""
    first = next(iter(children(asked, "NTPManual")), None)
    served.change(time_server=0 if first is None else _address(text(first, "IPv4Address")))
    return ""


def set_interface(served: Served, asked: Element) -> str:
    """Another address: it starts again there."""
    one = served.stand_in
    token = text(asked, "InterfaceToken")
    at = int(token.removeprefix("eth")) if token.removeprefix("eth").isdigit() else -1
    if not 0 <= at < len(one.interfaces):
        raise Refusal("there is no such interface", "InvalidArgVal", "InvalidNetworkInterface")
    settings = child(asked, "NetworkInterface", "IPv4")
    manual = next(iter(children(settings, "Manual")), None)
    now = one.interfaces[at]
    if flag(settings, "DHCP") or manual is None:
        raise Refusal("this stand-in has no DHCP client", "ActionNotSupported")
    address, prefix = _address(text(manual, "Address")), whole(manual, "PrefixLength")
    if not 1 <= prefix <= 30:
        raise Refusal("no size of a subnet", "InvalidArgVal", "InvalidIPv4Address")
    if (address, prefix) != (now.address, now.prefix):
        served.restart(at, now._replace(address=address, prefix=prefix, gateway=0))
    return words("tds:RebootNeeded", False)


def set_gateway(served: Served, asked: Element) -> str:
    """Its way out; none where none is told."""
    one = served.stand_in
    now = one.interfaces[0]
    written = text(asked, "IPv4Address")
    if not written:
        served.change(interfaces=(now._replace(gateway=0), *one.interfaces[1:]))
        return ""
    gateway = _address(written)
    mask = 0xFFFFFFFF << (32 - now.prefix) & 0xFFFFFFFF
    if gateway & mask != now.address & mask:
        raise Refusal(f"{address_text(gateway)} is outside its subnet", "InvalidArgVal", "InvalidGatewayAddress")
    served.change(interfaces=(now._replace(gateway=gateway), *one.interfaces[1:]))
    return ""


def set_dns(served: Served, asked: Element) -> str:
    served.change(dns=tuple(address_text(_address(text(one, "IPv4Address"))) for one in children(asked, "DNSManual")))
    return ""


def set_host_name(served: Served, asked: Element) -> str:
    name = text(asked, "Name")
    if not name or not all(one.isascii() and (one.isalnum() or one in "-.") for one in name) or len(name) > 63:
        raise Refusal("no host name", "InvalidArgVal", "InvalidHostname")
    served.change(host_name=name)
    return ""


def set_scopes(served: Served, asked: Element) -> str:
    """The scopes that can be set: its name."""
    for one in children(asked, "Scopes"):
        what, _, word = (one.text or "").strip().removeprefix(f"{SCOPE}/").partition("/")
        if what == "name":
            served.change(name=unquote(word))
    return ""


def create_users(served: Served, asked: Element) -> str:
    """Of a device out of its box the first user, with which it is set up; else one more."""
    for user in children(asked, "User"):
        name = text(user, "Username")
        if served.is_set_up and name in served.gate.users:
            raise Refusal("there is such a user", "OperationProhibited", "UsernameClash")
        if len(served.gate.users) >= MOST_USERS:
            raise Refusal("no more users", "OperationProhibited", "TooManyUsers", code="Receiver")
        _take(served, user)
    return ""


def set_user(served: Served, asked: Element) -> str:
    for user in children(asked, "User"):
        if text(user, "Username") not in served.gate.users:
            raise Refusal("there is no such user", "InvalidArgVal", "UsernameMissing")
        _take(served, user)
    return ""


def _take(served: Served, user: Element) -> None:
    name, password, level = text(user, "Username"), text(user, "Password"), text(user, "UserLevel")
    trouble = served.password_trouble(password) if password else ""
    if trouble or (not password and not served.is_set_up):
        raise Refusal(trouble or "a password is wanted", "OperationProhibited", "PasswordTooWeak")
    if level not in LEVELS:
        raise Refusal("there is no such level", "InvalidArgVal")
    if password:
        served.set_user(name, password)
    served.gate.levels[name] = level


def delete_users(served: Served, asked: Element) -> str:
    for one in children(asked, "Username"):
        name = (one.text or "").strip()
        if name not in served.gate.users:
            raise Refusal("there is no such user", "InvalidArgVal", "UsernameMissing")
        if len(served.gate.users) == 1:
            raise Refusal("it is the last user", "OperationProhibited", "FixedUser")
        served.drop_user(name)
    return ""


def reboot(served: Served, asked: Element) -> str:
    served.restart()
    return words("tds:Message", "It starts again.")


ANSWERS: dict[str, Answering] = {
    "SetSystemDateAndTime": set_time,
    "SetNTP": set_time_server,
    "SetNetworkInterfaces": set_interface,
    "SetNetworkDefaultGateway": set_gateway,
    "SetDNS": set_dns,
    "SetHostname": set_host_name,
    "SetScopes": set_scopes,
    "CreateUsers": create_users,
    "SetUser": set_user,
    "DeleteUsers": delete_users,
    "SystemReboot": reboot,
}
