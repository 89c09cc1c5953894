"""WS-Discovery (April 2005): searches, answers and announcements as XML, written and read."""

from __future__ import annotations

import uuid
from typing import Literal, NamedTuple
from urllib.parse import quote, unquote
from xml.etree.ElementTree import Element
from xml.sax.saxutils import escape

from eager_lens.core.addressing.ipv4 import mac_or_nothing
from eager_lens.core.plain_text import cleaned
from eager_lens.onsite.open_protocol.names import DEVICE, NETWORK, SCOPE, SOAP
from eager_lens.onsite.open_protocol.xml import Unreadable, anywhere, child, local, parsed, text

PORT = 3702
GROUP = "239.255.255.250"
LARGEST_BYTES = 65_536
MOST_MATCHES, MOST_SCOPES, MOST_URLS, MOST_TEXT = 16, 64, 8, 200
ADDRESSING = "http://schemas.xmlsoap.org/ws/2004/08/addressing"
DISCOVERY = "http://schemas.xmlsoap.org/ws/2005/04/discovery"
TO_ALL = "urn:schemas-xmlsoap-org:ws:2005:04:discovery"
TYPES = ("NetworkVideoTransmitter", "Device")
_PREFIXES = f'xmlns:s="{SOAP}" xmlns:a="{ADDRESSING}" xmlns:d="{DISCOVERY}" xmlns:dn="{NETWORK}" xmlns:tds="{DEVICE}"'

Announcement = Literal["Hello", "Bye"]


class Announced(NamedTuple):
    """What a device tells of itself. ``node``: its MAC address, from which its lasting name is made. ``kind``: what it is by the
    standard's scopes. ``is_loose``: it answers as some devices do that are not by the standard."""

    node: str
    name: str
    make: str
    url: str
    kind: str = "video_encoder"
    is_loose: bool = False

    @property
    def endpoint(self) -> str:
        """Its lasting name."""
        return f"urn:uuid:{uuid.uuid5(uuid.NAMESPACE_URL, 'mac:' + self.node)}"

    @property
    def scopes(self) -> tuple[str, ...]:
        """What it is, as scopes that a search can ask for."""
        pairs = (("type", self.kind), ("Profile", "Streaming"), ("name", self.name), ("hardware", self.make))
        return tuple(f"{SCOPE}/{what}/{quote(word, safe='')}" for what, word in pairs if word)


class Search(NamedTuple):
    """A search: its message id, and the types and scopes that are wanted."""

    message_id: str
    types: tuple[str, ...]
    scopes: tuple[str, ...]


def search_of(data: bytes) -> Search | None:
    """Read a search; None for anything else, malformed or hostile."""
    root = _read(data)
    probe = child(root, "Body", "Probe")
    message_id = text(root, "Header", "MessageID")
    if probe is None or not message_id:
        return None
    types = text(probe, "Types").split()
    return Search(
        message_id, tuple(one.rpartition(":")[2] for one in types), tuple(_raw(child(probe, "Scopes")).split())
    )


def matches(device: Announced, search: Search) -> bool:
    """Whether a search wants a device: of the standard's types, in all scopes by their beginnings."""
    return all(one in TYPES for one in search.types) and all(
        any(own == wanted or own.startswith(wanted.rstrip("/") + "/") for own in device.scopes)
        for wanted in search.scopes
    )


def answer_to(device: Announced, search: Search) -> bytes:
    """The answer of a device to a search."""
    match = _told(device, "ProbeMatch")
    body = match if device.is_loose else f"<d:ProbeMatches>{match}</d:ProbeMatches>"
    relates = f"<a:RelatesTo>{escape(search.message_id)}</a:RelatesTo>"
    return _message("ProbeMatches", f"{ADDRESSING}/role/anonymous", body, relates)


def announcement(device: Announced, what: Announcement) -> bytes:
    """What a device tells everyone when it comes and when it goes."""
    return _message(what, TO_ALL, _told(device, what))


def _told(device: Announced, name: str) -> str:
    return (
        f"<d:{name}><a:EndpointReference><a:Address>{device.endpoint}</a:Address></a:EndpointReference>"
        f"<d:Types>dn:NetworkVideoTransmitter tds:Device</d:Types><d:Scopes>{escape(' '.join(device.scopes))}</d:Scopes>"
        f"<d:XAddrs>{escape(device.url)}</d:XAddrs><d:MetadataVersion>1</d:MetadataVersion></d:{name}>"
    )


def _message(action: str, to: str, body: str, more: str = "", message_id: str = "") -> bytes:
    return (
        f'<?xml version="1.0" encoding="UTF-8"?><s:Envelope {_PREFIXES}><s:Header>'
        f"<a:MessageID>{message_id or uuid.uuid4().urn}</a:MessageID>{more}"
        f"<a:To>{to}</a:To><a:Action>{DISCOVERY}/{action}</a:Action></s:Header><s:Body>{body}</s:Body></s:Envelope>"
    ).encode()


class Answered(NamedTuple):
    """What a device told in an answer or by itself: its lasting name, what its scopes tell, and where its device service is.

    ``is_leaving``: it says that it goes. ``note``: what of it is not by the standard.
    """

    endpoint: str
    name: str = ""
    hardware: str = ""
    mac_address: str = ""
    urls: tuple[str, ...] = ()
    is_leaving: bool = False
    note: str = ""


def search_text(with_type: bool = False) -> tuple[str, bytes]:
    """A search for all devices: its message id, and what is sent. Some devices answer only where their type is asked for, and
    others only where none is."""
    message_id = uuid.uuid4().urn
    types = "<d:Types>dn:NetworkVideoTransmitter</d:Types>" if with_type else ""
    return message_id, _message("Probe", TO_ALL, f"<d:Probe>{types}</d:Probe>", "", message_id)


def answers_of(data: bytes, message_ids: frozenset[str]) -> list[Answered]:
    """Read answers to searches of one's own, and announcements; none for anything else, malformed or hostile. A few texts at
    most are taken from each, and those are cut."""
    root = _read(data)
    body = child(root, "Body")
    if root is None or body is None:
        return []
    note = ""
    found: list[tuple[Element, bool, str]] = []
    for one in body:
        kind = local(one.tag)
        if kind in ("Hello", "Bye"):
            found.append((one, kind == "Bye", ""))
        elif kind in ("ProbeMatches", "ProbeMatch"):
            if text(root, "Header", "RelatesTo") not in message_ids:
                return []
            note = "it answers a search without a list" if kind == "ProbeMatch" else ""
            each = [one] if kind == "ProbeMatch" else [match for match in one if local(match.tag) == "ProbeMatch"]
            found += [(match, False, note) for match in each]
    return [_answered(*one) for one in found[:MOST_MATCHES]]


def _answered(match: Element, is_leaving: bool, note: str) -> Answered:
    endpoint = next((text(one, "Address") for one in anywhere(match, "EndpointReference")), "")[:MOST_TEXT]
    by_scope: dict[str, str] = {}
    for scope in _raw(child(match, "Scopes")).split()[:MOST_SCOPES]:
        what, _, word = scope.removeprefix(f"{SCOPE}/").partition("/")
        by_scope.setdefault(what.lower(), cleaned(unquote(word))[:MOST_TEXT])
    urls = tuple(url[:MOST_TEXT] for url in _raw(child(match, "XAddrs")).split()[:MOST_URLS])
    told_mac = next((word for what, word in by_scope.items() if what.startswith("mac")), "")
    mac = mac_or_nothing(told_mac) or _mac_in(endpoint)
    return Answered(endpoint, by_scope.get("name", ""), by_scope.get("hardware", ""), mac, urls, is_leaving, note)


def _raw(one: Element | None) -> str:
    return "" if one is None or one.text is None else one.text.strip()[:LARGEST_BYTES]


def _mac_in(endpoint: str) -> str:
    """The MAC address in a lasting name that was made from one (RFC 4122, version 1)."""
    try:
        name = uuid.UUID(endpoint.rpartition(":")[2])
    except ValueError:
        return ""
    # A set multicast bit marks a random number in place of a MAC address (RFC 4122, 4.5).
    if name.version != 1 or name.node >> 40 & 1:
        return ""
    return mac_or_nothing(f"{name.node:012x}")


def _read(data: bytes) -> Element | None:
    """XML from a device; None where it is malformed, too large, or made to harm."""
    if len(data) > LARGEST_BYTES:
        return None
    try:
        return parsed(data)
    except Unreadable:
        return None
