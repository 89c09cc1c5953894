"""WS-Discovery (April 2005): searches and answers as XML, written and read."""

from __future__ import annotations

import uuid
from typing import NamedTuple
from urllib.parse import quote, unquote
from xml.etree.ElementTree import Element, ParseError
from xml.sax.saxutils import escape

from defusedxml import DefusedXmlException, ElementTree

from eager_lens.core.plain_text import cleaned

PORT = 3702
GROUP = "239.255.255.250"
LARGEST_BYTES = 65_536
MOST_MATCHES, MOST_SCOPES, MOST_URLS, MOST_TEXT = 16, 64, 8, 200
SOAP = "http://www.w3.org/2003/05/soap-envelope"
ADDRESSING = "http://schemas.xmlsoap.org/ws/2004/08/addressing"
DISCOVERY = "http://schemas.xmlsoap.org/ws/2005/04/discovery"
DEVICES = "http://schemas.xmlsoap.org/ws/2006/02/devprof"
SCOPE = "scope://stand-in"


class Announced(NamedTuple):
    """What a device tells of itself. ``node``: its MAC address, from which its lasting name is made."""

    node: str
    name: str
    make: str
    serial: str
    firmware: str
    page_url: str

    @property
    def endpoint(self) -> str:
        """Its lasting name."""
        return f"urn:uuid:{uuid.uuid5(uuid.NAMESPACE_URL, 'mac:' + self.node)}"

    @property
    def scopes(self) -> tuple[str, ...]:
        """What it is, as scopes that a search can ask for."""
        identity = (("name", self.name), ("hardware", self.make), ("serial", self.serial), ("firmware", self.firmware))
        pairs = (*identity, ("mac", self.node))
        return tuple(f"{SCOPE}/{what}/{quote(text, safe='')}" for what, text in pairs if text)


class Search(NamedTuple):
    """A search: its message id, and the types and scopes that are wanted."""

    message_id: str
    types: tuple[str, ...]
    scopes: tuple[str, ...]


def search_of(data: bytes) -> Search | None:
    """Read a search; None for anything else, malformed or hostile."""
    root = _read(data)
    if root is None:
        return None
    probe = root.find(f"{{{SOAP}}}Body/{{{DISCOVERY}}}Probe")
    message_id = root.findtext(f"{{{SOAP}}}Header/{{{ADDRESSING}}}MessageID", "").strip()
    if probe is None or not message_id:
        return None
    types = probe.findtext(f"{{{DISCOVERY}}}Types", "").split()
    scopes = probe.findtext(f"{{{DISCOVERY}}}Scopes", "").split()
    return Search(message_id, tuple(one.rpartition(":")[2] for one in types), tuple(scopes))


def matches(device: Announced, search: Search) -> bool:
    """Whether a search wants a device: of type Device, in all scopes by their beginnings."""
    return all(one == "Device" for one in search.types) and all(
        any(own == wanted or own.startswith(wanted.rstrip("/") + "/") for own in device.scopes)
        for wanted in search.scopes
    )


def answer_to(device: Announced, search: Search) -> bytes:
    """The answer of a device to a search."""
    return f"""<?xml version="1.0" encoding="UTF-8"?>
<s:Envelope xmlns:s="{SOAP}" xmlns:a="{ADDRESSING}" xmlns:d="{DISCOVERY}" xmlns:v="{DEVICES}"><s:Header>
<a:MessageID>urn:uuid:{uuid.uuid4()}</a:MessageID><a:RelatesTo>{escape(search.message_id)}</a:RelatesTo>
<a:To>{ADDRESSING}/role/anonymous</a:To><a:Action>{DISCOVERY}/ProbeMatches</a:Action>
</s:Header><s:Body><d:ProbeMatches><d:ProbeMatch>
<a:EndpointReference><a:Address>{device.endpoint}</a:Address></a:EndpointReference>
<d:Types>v:Device</d:Types><d:Scopes>{escape(" ".join(device.scopes))}</d:Scopes>
<d:XAddrs>{escape(device.page_url)}</d:XAddrs><d:MetadataVersion>1</d:MetadataVersion>
</d:ProbeMatch></d:ProbeMatches></s:Body></s:Envelope>""".encode()


class Answered(NamedTuple):
    """What a device answered to a search: its lasting name, and what its scopes tell, as far as they do."""

    endpoint: str
    name: str = ""
    hardware: str = ""
    serial: str = ""
    firmware: str = ""
    mac_address: str = ""
    urls: tuple[str, ...] = ()


def search_text() -> tuple[str, bytes]:
    """A search for all devices: its message id, and what is sent."""
    message_id = f"urn:uuid:{uuid.uuid4()}"
    text = f"""<?xml version="1.0" encoding="UTF-8"?>
<s:Envelope xmlns:s="{SOAP}" xmlns:a="{ADDRESSING}" xmlns:d="{DISCOVERY}"><s:Header>
<a:MessageID>{message_id}</a:MessageID><a:To>urn:schemas-xmlsoap-org:ws:2005:04:discovery</a:To>
<a:Action>{DISCOVERY}/Probe</a:Action></s:Header><s:Body><d:Probe/></s:Body></s:Envelope>"""
    return message_id, text.encode()


def answers_of(data: bytes, message_id: str) -> list[Answered]:
    """Read the answers to a search of one's own; none for anything else, malformed or hostile. A few texts at most are taken
    from each, and those are cut."""
    root = _read(data)
    if root is None or root.findtext(f"{{{SOAP}}}Header/{{{ADDRESSING}}}RelatesTo", "").strip() != message_id:
        return []
    found = []
    for match in root.findall(f"{{{SOAP}}}Body/{{{DISCOVERY}}}ProbeMatches/{{{DISCOVERY}}}ProbeMatch")[:MOST_MATCHES]:
        endpoint = match.findtext(f"{{{ADDRESSING}}}EndpointReference/{{{ADDRESSING}}}Address", "").strip()
        by_scope: dict[str, str] = {}
        for scope in match.findtext(f"{{{DISCOVERY}}}Scopes", "").split()[:MOST_SCOPES]:
            what, _, text = scope.rpartition("/")
            by_scope.setdefault(what.rpartition("/")[2].lower(), cleaned(unquote(text))[:MOST_TEXT])
        urls = tuple(url[:MOST_TEXT] for url in match.findtext(f"{{{DISCOVERY}}}XAddrs", "").split()[:MOST_URLS])
        found.append(
            Answered(
                endpoint[:MOST_TEXT],
                by_scope.get("name", ""),
                by_scope.get("hardware", ""),
                by_scope.get("serial", ""),
                by_scope.get("firmware", ""),
                by_scope.get("mac", ""),
                urls,
            )
        )
    return found


def _read(data: bytes) -> Element | None:
    """XML from a device; None where it is malformed, too large, or made to harm."""
    if len(data) > LARGEST_BYTES:
        return None
    try:
        root: Element = ElementTree.fromstring(data)
    except (ParseError, DefusedXmlException, ValueError, LookupError):
        return None
    return root
