"""One entry of the event log, and the line that it is in the file.

A line is a JSON object that ends in ``,"hash":"<64 hex digits>"}``. The hash is SHA-256 of the bytes of the line before that
end, so that anybody can check it with ``sha256sum``, and a changed byte shows wherever it stands. It is also what the entry is
known by: ``previous`` holds the hashes of the entries that this one follows, of one as a rule, of none in the first, and of
several where logs were merged.
"""

from __future__ import annotations

import hashlib
import json
import re
from collections.abc import Mapping
from datetime import datetime
from types import MappingProxyType
from typing import Any, Literal, NamedTuple, get_args

from pydantic_core import from_json

from eager_lens.core.errors import RefusedInput
from eager_lens.core.plain_text import cleaned, clipped

EventKind = Literal[
    "log begun",
    "job opened",
    "work recovered",
    "edit",
    "undo",
    "redo",
    "check",
    "snag",
    "measurement",
    "photo",
    "site check",
    "set device",
    "take over",
    "fault found",
    "practice",
    "export",
    "saved",
    "closed",
    "merged",
    "signed",
    "line lost",
]
"""What an entry tells of."""

KINDS: frozenset[str] = frozenset(get_args(EventKind))
MOST_BYTES = 64 * 2**10
"""No line is longer."""
MOST_LETTERS = 500
"""A text of an entry is cut to this."""
MOST_ABOUT = 200
"""So many devices are named; of more, the number stands in ``values``."""

HASH_DIGITS = 64
FIRST_YEAR, LAST_YEAR = 1970, 2200
_HASH = re.compile(r"[0-9a-f]{64}", re.ASCII)
_ZONE = re.compile(r"[+-][0-2]\d:[0-5]\d", re.ASCII)
_BEFORE_HASH = b',"hash":"'
_END_BYTES = len(_BEFORE_HASH) + HASH_DIGITS + 2
_KEYS = frozenset({"number", "previous", "at", "zone", "by", "program", "kind", "what", "about", "values", "photos"})


class Event(NamedTuple):
    """What is to be noted.

    Attributes:
        kind: what it is. what: in words, as the name of an edit. about: ids of the devices that it is about.
        values: names and values that belong to it: plain numbers, texts, truths. photos: SHA-256 of each, in hex.
    """

    kind: EventKind
    what: str
    about: tuple[str, ...] = ()
    values: Mapping[str, Any] = MappingProxyType({})
    photos: tuple[str, ...] = ()


class LogEntry(NamedTuple):
    """An entry as it stands in a log.

    Attributes:
        event: what happened. number: one more than the highest of those that it follows, from 1. previous: their hashes.
        at: when, in UTC. zone: the clock's offset there and then, ``+01:00``. by: the person, as entered.
        program: name and version of the program. hash: see the module's text.
    """

    event: Event
    number: int
    previous: tuple[str, ...]
    at: datetime
    zone: str
    by: str
    program: str
    hash: str


def line_of(event: Event, number: int, previous: tuple[str, ...], now: datetime, by: str, program: str) -> bytes:
    """The line of a new entry, without its line end.

    Args:
        event: what happened. number, previous: its place. now: with its zone. by, program: as in ``LogEntry``.
    """
    about = event.about[:MOST_ABOUT]
    values = {_text(name): _value(value) for name, value in event.values.items()}
    if len(event.about) > len(about):
        values["devices"] = len(event.about)
    offset = now.strftime("%z") or "+0000"
    fields = {
        "number": number,
        "previous": previous,
        "at": moment_text(now),
        "zone": f"{offset[:3]}:{offset[3:5]}",
        "by": _text(by),
        "program": program,
        "kind": event.kind,
        "what": _text(event.what),
        "about": [_text(one) for one in about],
        "values": values,
        "photos": event.photos,
    }
    body = json.dumps(fields, ensure_ascii=False, allow_nan=False, separators=(",", ":")).encode()[:-1]
    return body + _BEFORE_HASH + hashlib.sha256(body).hexdigest().encode() + b'"}'


_UTC = datetime.fromisoformat("2000-01-01T00:00:00+00:00").tzinfo


def by_text(by: str) -> str:
    """A person's name as it stands in an entry."""
    return _text(by)


def moment_text(moment: datetime) -> str:
    """A moment as it stands in an entry: UTC, to a thousandth of a second."""
    utc = moment.astimezone(_UTC)
    return f"{utc:%Y-%m-%dT%H:%M:%S}.{utc.microsecond // 1000:03d}Z"


def _text(text: str) -> str:
    return clipped(cleaned(text), MOST_LETTERS)


def _value(value: Any) -> Any:
    return _text(value) if isinstance(value, str) else value


def hash_of(line: bytes) -> str:
    """The hash that a line bears, once it is sure that the line's bytes have it.

    Raises:
        RefusedInput: when the line does not end in a hash, or bears another than its bytes have.
    """
    body, borne = line[:-_END_BYTES], line[-HASH_DIGITS - 2 : -2]
    if not (line.endswith(b'"}') and line[len(body) : len(body) + len(_BEFORE_HASH)] == _BEFORE_HASH):
        raise RefusedInput("", "it does not end in a hash")
    made = hashlib.sha256(body).hexdigest()
    if made.encode() != borne:
        raise RefusedInput("", "its content does not match its hash: it was changed")
    return made


def read_line(line: bytes) -> LogEntry:
    """The entry of a line, without its line end.

    Raises:
        RefusedInput: when it is none, or its hash is not its own.
    """
    if len(line) > MOST_BYTES:
        raise RefusedInput("", f"it is longer than {MOST_BYTES:,} bytes")
    borne = hash_of(line)
    try:
        fields = from_json(line)
        fields.pop("hash")
        if fields.keys() != _KEYS:
            raise RefusedInput("", "it does not have the keys of an entry")
        at = datetime.fromisoformat(fields["at"])
        entry = LogEntry(
            Event(fields["kind"], fields["what"], tuple(fields["about"]), fields["values"], tuple(fields["photos"])),
            fields["number"],
            tuple(fields["previous"]),
            at,
            fields["zone"],
            fields["by"],
            fields["program"],
            borne,
        )
    except (ValueError, TypeError, RecursionError, AttributeError) as error:
        if isinstance(error, RefusedInput):
            raise
        raise RefusedInput("", "it is not an entry of an event log") from error
    _require_plain(entry)
    return entry


def _require_plain(entry: LogEntry) -> None:
    """That each value is of its kind, since what follows relies on it."""
    event = entry.event
    if not {str}.issuperset(map(type, (event.what, entry.zone, entry.by, entry.program, *event.about))):
        raise RefusedInput("", "one of its texts is not a text")
    if event.kind not in KINDS:
        raise RefusedInput("", "its kind is unknown")
    if type(entry.number) is not int or entry.number < 1 or entry.at.tzinfo is None or type(event.values) is not dict:
        raise RefusedInput("", "its number, time or values have the wrong type")
    if not all(type(one) is str and _HASH.fullmatch(one) for one in (*entry.previous, *event.photos)):
        raise RefusedInput("", "one of its hashes is not a hash")
    # Whoever shows it shows it in a zone: a moment at the end of the calendar has none.
    if not FIRST_YEAR <= entry.at.year <= LAST_YEAR or not _ZONE.fullmatch(entry.zone):
        raise RefusedInput("", "its time is outside a plausible range")
