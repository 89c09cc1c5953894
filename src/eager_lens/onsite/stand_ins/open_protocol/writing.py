"""XML of answers, written."""

from __future__ import annotations

from collections.abc import Mapping
from xml.sax.saxutils import escape, quoteattr

from eager_lens.onsite.open_protocol.names import ERRORS, SOAP


def tag(name: str, *inside: str, **attributes: object) -> str:
    """An element around XML that is written already."""
    written = "".join(f" {key}={quoteattr(str(value))}" for key, value in attributes.items())
    return f"<{name}{written}>{''.join(inside)}</{name}>" if inside else f"<{name}{written}/>"


def words(name: str, value: object) -> str:
    """An element around a text or number."""
    if isinstance(value, bool):
        return f"<{name}>{str(value).lower()}</{name}>"
    written = f"{value:g}" if isinstance(value, float) else str(value)
    return f"<{name}>{escape(written)}</{name}>"


def each(prefix: str, values: Mapping[str, object]) -> str:
    """Elements with texts, in their order."""
    return "".join(words(f"{prefix}:{name}", value) for name, value in values.items())


class Refusal(Exception):
    """A request that a stand-in refuses. ``code``: Sender or Receiver; ``subcodes``: as the standard names them."""

    def __init__(self, reason: str, *subcodes: str, code: str = "Sender", status: int = 400) -> None:
        super().__init__(reason)
        self.reason, self.subcodes, self.code, self.status = reason, subcodes, code, status


def fault(refusal: Refusal) -> str:
    """The body of a refusal (SOAP 1.2, 5.4)."""
    inner = ""
    for subcode in reversed(refusal.subcodes):
        value = f"<s:Value>ter:{subcode}</s:Value>"
        inner = f'<s:Subcode xmlns:ter="{ERRORS}">{value}{inner}</s:Subcode>'
    return (
        f'<s:Fault xmlns:s="{SOAP}"><s:Code><s:Value>s:{refusal.code}</s:Value>{inner}</s:Code><s:Reason>'
        f'<s:Text xml:lang="en">{escape(refusal.reason)}</s:Text></s:Reason></s:Fault>'
    )
