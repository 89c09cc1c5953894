"""What answered on the network, out of the list of any search tool: pasted text, CSV or XLSX.

Rows with headings give name, serial and firmware too. Without headings, every line in which an address or a hardware
address is found is an answer; the rest of the line is its name.
"""

from __future__ import annotations

import re
from typing import NamedTuple

from eager_lens.core.addressing.ipv4 import address_number, mac_address
from eager_lens.core.errors import RefusedInput
from eager_lens.core.exchange.table_in import RawTable
from eager_lens.core.scan.found import ScanAnswer

HEADINGS: dict[str, tuple[str, ...]] = {
    "address": ("ip", "ip address", "address", "ipv4", "ipv4 address", "host"),
    "mac_address": (
        "mac",
        "mac address",
        "MAC address",
        "physical address",
        "hw address",
        "ethernet address",
    ),
    "serial": ("serial", "serial number", "serial no", "s/n", "sn"),
    "firmware": ("firmware", "firmware version", "version", "software version", "fw"),
    "name": ("name", "device name", "model", "device", "hostname", "type", "device type"),
}

_ADDRESS = re.compile(r"(?<![\d.])(?:\d{1,3}\.){3}\d{1,3}(?![\d.])", re.ASCII)
_HARDWARE = re.compile(
    r"(?<![0-9A-Fa-f:.-])(?:(?:[0-9A-Fa-f]{2}[:-]){5}[0-9A-Fa-f]{2}|(?:[0-9A-Fa-f]{4}\.){2}[0-9A-Fa-f]{4}|[0-9A-Fa-f]{12})"
    r"(?![0-9A-Fa-f:.-])",
    re.ASCII,
)


class ScanList(NamedTuple):
    """The answers, and a sentence for each row that is none."""

    answers: tuple[ScanAnswer, ...]
    problems: tuple[str, ...]


def scan_list(table: RawTable) -> ScanList:
    """Read the answers out of a table.

    Raises:
        RefusedInput: when no row holds an address or a MAC address.
    """
    columns = _columns(table.rows[0])
    rows = list(zip(table.numbers, table.rows, strict=True))
    answers, problems = [], []
    for number, row in rows[1:] if columns else rows:
        answer, problem = _from_columns(number, row, columns) if columns else _from_words(number, row)
        if answer is not None:
            answers.append(answer)
        elif problem:
            problems.append(problem)
    if not answers:
        raise RefusedInput(
            "scan list",
            f"no answer found in {len(rows)} rows: wanted are lines with an IPv4 address, a MAC address, or both",
        )
    return ScanList(tuple(answers), tuple(problems))


def _columns(row: tuple[str, ...]) -> dict[str, int]:
    """Which column is what; empty when the first row is no heading."""
    found: dict[str, int] = {}
    for at, cell in enumerate(row):
        words = re.sub(r"[\s_.:-]+", " ", cell).strip().lower()
        for target, names in HEADINGS.items():
            if words in names and target not in found:
                found[target] = at
    return found if {"address", "mac_address", "serial"} & found.keys() else {}


def _from_columns(number: int, row: tuple[str, ...], columns: dict[str, int]) -> tuple[ScanAnswer | None, str]:
    cells = {target: row[at].strip() for target, at in columns.items()}
    try:
        hardware = mac_address(cells.get("mac_address", ""))
        address = cells.get("address", "")
        if address:
            address_number(address)
    except ValueError as error:
        return None, f"Row {number} was left out: {error}"
    serial = cells.get("serial", "")
    if not (address or hardware or serial):
        return None, ""
    return ScanAnswer(address, hardware, serial, cells.get("firmware", ""), cells.get("name", "")), ""


def _from_words(number: int, row: tuple[str, ...]) -> tuple[ScanAnswer | None, str]:
    line = " ".join(cell for cell in row if cell)
    hardware = _HARDWARE.search(line)
    address = next((one for one in _ADDRESS.findall(line) if all(int(part) < 256 for part in one.split("."))), "")
    if not address and hardware is None:
        return None, f"Row {number} was left out: neither an address nor a MAC address is in it" if line else ""
    if address:
        address = ".".join(str(int(part)) for part in address.split("."))
    rest = line.replace(hardware[0], " ") if hardware else line
    rest = re.sub(r"\s+", " ", _ADDRESS.sub(" ", rest)).strip(" ,;|()-")
    return ScanAnswer(address, mac_address(hardware[0]) if hardware else "", "", "", rest), ""
