"""Safe reading of XML that a device sent, and looking things up in it by their names alone.

Names are compared without their namespace: devices write other prefixes, older namespaces, or none.
"""

from __future__ import annotations

from collections.abc import Iterator
from xml.etree.ElementTree import Element, ParseError

from defusedxml import DefusedXmlException, ElementTree

from eager_lens.core.plain_text import cleaned

LARGEST_BYTES = 1_048_576
MOST_DEEP = 100
MOST_TEXT = 300


class Unreadable(Exception):
    """What a device sent is no XML, too large, too deep, or made to harm."""


def parsed(data: bytes) -> Element:
    """The root of an XML text.

    Raises:
        Unreadable: when it is none that is safe.
    """
    if len(data) > LARGEST_BYTES:
        raise Unreadable("its answer is too long")
    try:
        # A document type has no place in SOAP (SOAP 1.2, 5); forbidding it forbids every trick with entities.
        root: Element = ElementTree.fromstring(data, forbid_dtd=True)
    except DefusedXmlException as error:
        raise Unreadable("its answer is XML that defines entities, which this protocol does not allow") from error
    except (ParseError, ValueError, LookupError) as error:
        raise Unreadable("its answer is not valid XML") from error
    if _is_too_deep(root):
        raise Unreadable("its answer is nested too deeply")
    return root


def _is_too_deep(root: Element) -> bool:
    level = [root]
    for _ in range(MOST_DEEP):
        level = [child for one in level for child in one]
        if not level:
            return False
    return True


def local(name: str) -> str:
    """A tag without its namespace."""
    return name.rpartition("}")[2]


def children(parent: Element | None, name: str) -> list[Element]:
    """Its children of a name."""
    return [] if parent is None else [child for child in parent if local(child.tag) == name]


def parts(parent: Element | None) -> list[Element]:
    """All its children; a missing parent has none."""
    return [] if parent is None else list(parent)


def child(parent: Element | None, *path: str) -> Element | None:
    """What is found under it by a path of names; None where there is none."""
    found = parent
    for name in path:
        found = next(iter(children(found, name)), None)
    return found


def anywhere(parent: Element | None, name: str) -> Iterator[Element]:
    """All under it that have a name, however deep."""
    return (one for one in (parent.iter() if parent is not None else ()) if local(one.tag) == name)


def text(parent: Element | None, *path: str) -> str:
    """A text under it, cleaned and cut; empty where there is none."""
    found = child(parent, *path)
    return "" if found is None or found.text is None else cleaned(found.text.strip())[:MOST_TEXT]


def attribute(one: Element | None, name: str) -> str:
    """An attribute by its local name, cleaned and cut."""
    if one is None:
        return ""
    value = next((value for key, value in one.attrib.items() if local(key) == name), "")
    return cleaned(value.strip())[:MOST_TEXT]


def number(parent: Element | None, *path: str) -> float | None:
    """A number under it that is not negative; None where there is none."""
    return as_number(text(parent, *path))


def as_number(written: str) -> float | None:
    """A text as a number from 0 to 1e12; None for anything else."""
    try:
        value = float(written)
    except ValueError:
        return None
    return value if 0 <= value <= 1e12 else None


def whole(parent: Element | None, *path: str) -> int:
    """A whole number under it, 0 where there is none."""
    return int(number(parent, *path) or 0)


def flag(parent: Element | None, *path: str) -> bool:
    """Whether a truth value under it is true."""
    return text(parent, *path).lower() in ("true", "1")
