"""Envelopes of SOAP 1.2: requests written, answers opened, faults told."""

from __future__ import annotations

import uuid
from xml.etree.ElementTree import Element
from xml.sax.saxutils import escape

from eager_lens.onsite.open_protocol.names import PREFIXES, SOAP
from eager_lens.onsite.open_protocol.xml import Unreadable, anywhere, child, children, local, parsed, text

CONTENT_TYPE = "application/soap+xml; charset=utf-8"
LOGIN_WANTED = ("NotAuthorized", "FailedAuthentication", "InvalidSecurity", "FailedCheck")
LOCKED = ("AccountLocked", "Locked", "LockedOut")
NOT_OFFERED = ("ActionNotSupported", "OptionalActionNotImplemented", "UnknownAction", "NotImplemented", "NoSuchService")


class SoapFault(Exception):
    """A device refused a request.

    Attributes:
        codes: its code and subcodes without prefixes, outermost first; reason: in its own words.
    """

    def __init__(self, codes: tuple[str, ...], reason: str) -> None:
        super().__init__(reason or " ".join(codes) or "no reason told")
        self.codes, self.reason = codes, reason

    def says(self, names: tuple[str, ...]) -> bool:
        """Whether one of some codes is among its own, or, where it has none but the outermost, in its reason."""
        if any(code in names for code in self.codes):
            return True
        plain = self.reason.lower().replace(" ", "")
        return len(self.codes) < 2 and any(name.lower() in plain for name in names)

    @property
    def wants_login(self) -> bool:
        """Whether it refused for want of a log-in, or of the right one. Some devices say so in words alone."""
        return self.says(LOGIN_WANTED) or (len(self.codes) < 2 and "notauthori" in self.reason.lower().replace(" ", ""))


_NAMESPACES = " ".join(f'xmlns:{prefix}="{namespace}"' for prefix, namespace in PREFIXES.items())


def envelope(body: str, header: str = "") -> bytes:
    """An envelope around the XML of a body; the prefixes of ``names.PREFIXES`` are declared."""
    head = f"<s:Header>{header}</s:Header>" if header else ""
    return (
        f'<?xml version="1.0" encoding="UTF-8"?><s:Envelope xmlns:s="{SOAP}" {_NAMESPACES}>{head}'
        f"<s:Body>{body}</s:Body></s:Envelope>"
    ).encode()


def addressed(action: str, to: str) -> str:
    """Header blocks that say what is asked and of whom (WS-Addressing), which the event service wants."""
    return (
        f'<wsa:Action s:mustUnderstand="1">{escape(action)}</wsa:Action>'
        f"<wsa:MessageID>urn:uuid:{uuid.uuid4()}</wsa:MessageID><wsa:To>{escape(to)}</wsa:To>"
    )


def body_of(data: bytes) -> Element:
    """The first element in the body of an envelope.

    Raises:
        SoapFault: when it is one. Unreadable: when there is no envelope with a body.
    """
    root = parsed(data)
    body = root if local(root.tag) == "Body" else child(root, "Body")
    first = next(iter(body), None) if body is not None else None
    if first is None:
        raise Unreadable("its answer is not an answer of the open protocol")
    if local(first.tag) == "Fault":
        raise fault_of(first)
    return first


def fault_of(fault: Element) -> SoapFault:
    """A fault as SOAP 1.2 has it; also as SOAP 1.1 did, which some devices send."""
    codes = [local_code(one.text) for one in anywhere(child(fault, "Code"), "Value")]
    codes += [local_code(one.text) for one in children(fault, "faultcode")]
    reason = text(fault, "Reason", "Text") or text(fault, "faultstring")
    return SoapFault(tuple(code for code in codes if code), reason)


def local_code(written: str | None) -> str:
    """A code without its prefix."""
    return (written or "").strip().rpartition(":")[2][:80]
