"""Changing what a device told, and sending it back: what nobody wanted changed stays as the device had it."""

from __future__ import annotations

from collections.abc import Sequence
from xml.etree.ElementTree import Element, SubElement, tostring

from eager_lens.onsite.open_protocol.names import SCHEMA
from eager_lens.onsite.open_protocol.xml import child, local


def put(parent: Element, path: Sequence[str], value: str, after: Sequence[str] = ()) -> None:
    """Give an element under another a text; what is missing on the way is made.

    Args:
        after: of the first part that is made the names of its elder siblings, since the standard keeps an order. Without any
            it becomes the last.
    """
    here = parent
    for at, name in enumerate(path):
        found = child(here, name)
        if found is None:
            found = _made(here, name, after if at == 0 else ())
        here = found
    here.text = value


def _made(parent: Element, name: str, after: Sequence[str]) -> Element:
    if not after:
        return SubElement(parent, f"{{{SCHEMA}}}{name}")
    made = Element(f"{{{SCHEMA}}}{name}")
    places = [at for at, one in enumerate(parent) if local(one.tag) in after]
    parent.insert(places[-1] + 1 if places else len(parent), made)
    return made


def drop(parent: Element, name: str) -> None:
    """Take what has a name out from under an element."""
    for one in [one for one in parent if local(one.tag) == name]:
        parent.remove(one)


def as_sent(one: Element, namespace: str, name: str) -> str:
    """An element under another name, as it is sent back."""
    one.tag = f"{{{namespace}}}{name}"
    one.tail = None
    return tostring(one, encoding="unicode")


def decimal(value: float) -> str:
    """A number without an exponent, which some devices cannot read."""
    return f"{value:.6f}".rstrip("0").rstrip(".")
