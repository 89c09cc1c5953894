"""The text of a scan list as a table: JSON and XML by their own grammar, all else as any table of texts."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any
from xml.etree import ElementTree

from eager_lens.core.errors import DamagedFile
from eager_lens.core.files import read_whole
from eager_lens.core.incoming.table_in import LARGEST_TABLE_BYTES, RawTable, decoded, table_from_bytes, table_from_text

MOST_DEEP = 60
COLUMNS = ("address", "mac address", "state", "name")


def read_scan(path: Path, step: Callable[[float], None] = lambda share: None) -> RawTable:
    """The table of a file that a search tool wrote.

    Raises:
        FileTrouble: when it cannot be read. DamagedFile: when it is no table, JSON or XML of hosts.
    """
    data = read_whole(path, LARGEST_TABLE_BYTES, "scan list")
    if data[:4] == b"PK\x03\x04":
        return table_from_bytes(data, str(path), step)
    return scan_table(decoded(data)[0], str(path))


def scan_table(text: str, name: str = "the pasted text") -> RawTable:
    """As ``read_scan``, for a text.

    Raises:
        DamagedFile: when it is no table, JSON or XML of hosts.
    """
    start = text.lstrip("\ufeff \t\r\n")[:1]
    if start == "<":
        return _table(list(_hosts_of_xml(text, name)), name, "XML")
    if start in ("[", "{"):
        try:
            found = json.loads(text)
        except (ValueError, RecursionError):
            # A line may begin with a bracket and be no JSON, as the time in a log does.
            return table_from_text(text, name)
        return _table(list(_hosts_of_json(found)), name, "JSON")
    return table_from_text(text, name)


def _table(rows: list[tuple[str, ...]], name: str, reading: str) -> RawTable:
    if not rows:
        raise DamagedFile(f"{name} is {reading} without any host.")
    return RawTable((COLUMNS, *rows), tuple(range(len(rows) + 1)), reading)


KEYS = {
    "address": ("dst", "ip", "address", "ipv4", "ip_address", "ipaddress", "addr", "host"),
    "mac address": ("lladdr", "mac", "mac_address", "macaddress", "hwaddr", "hardware_address"),
    "state": ("state", "status"),
    "name": ("name", "hostname", "host_name", "model"),
}


def _hosts_of_json(found: Any, deep: int = 0) -> Iterator[tuple[str, ...]]:
    """The hosts of nested lists and objects: each object that has an address or a hardware address."""
    if isinstance(found, list) and deep < MOST_DEEP:
        for one in found:
            yield from _hosts_of_json(one, deep + 1)
    elif isinstance(found, dict):
        said = {str(key).lower().replace("-", "_"): value for key, value in found.items()}
        cells = tuple(next((_text(said[key]) for key in KEYS[column] if key in said), "") for column in COLUMNS)
        if (cells[0] or cells[1]) and ":" not in cells[0]:
            yield cells
        elif deep < MOST_DEEP:
            for value in found.values():
                yield from _hosts_of_json(value, deep + 1)


def _text(value: Any) -> str:
    if isinstance(value, list):
        return " ".join(_text(one) for one in value[:1])
    return str(value) if isinstance(value, str | int | float) and not isinstance(value, bool) else ""


def _hosts_of_xml(text: str, name: str) -> Iterator[tuple[str, ...]]:
    """The hosts of a port scanner's report: ``host`` elements with ``address`` elements of type ``ipv4`` and ``mac``."""
    if "<!ENTITY" in text.upper():
        raise DamagedFile(f"{name} is XML that defines entities, which no scan report does.")
    try:
        root = ElementTree.fromstring(text)
    except ElementTree.ParseError as error:
        raise DamagedFile(f"{name} looks like XML but cannot be read: {error}.") from None
    for host in root.iter("host"):
        kinds = {one.get("addrtype", "ipv4"): one.get("addr", "") for one in host.iter("address")}
        status, named = host.find("status"), next(host.iter("hostname"), None)
        yield (
            kinds.get("ipv4", ""),
            kinds.get("mac", ""),
            "" if status is None else status.get("state", ""),
            "" if named is None else named.get("name", ""),
        )
