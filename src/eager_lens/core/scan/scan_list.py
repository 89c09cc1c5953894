"""What answered on the network, out of the list of any search tool: pasted text, CSV, XLSX, JSON or XML.

Rows with headings give name, serial, firmware and state too. Without headings each line is read by the grammar of the lists
that it could come from (neighbour tables, address tables of all systems, reports of port scanners, ping sweeps, leases); else
an address or a hardware address in it is an answer, and the rest of the line its name. Lines of one host are one answer. What is
no answer is passed over and said: an entry that nothing answered to, a group address, the searching computer itself, a comment.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Sequence
from ipaddress import IPv6Address
from typing import NamedTuple

from eager_lens.core.addressing.ipv4 import address_number, address_text, mac_address
from eager_lens.core.errors import RefusedInput
from eager_lens.core.incoming.table_in import RawTable
from eager_lens.core.scan.found import ScanAnswer
from eager_lens.core.units import count

HEADINGS: dict[str, tuple[str, ...]] = {
    "address": ("ip", "ip address", "address", "ipv4", "ipv4 address", "host", "dst", "ip addr", "internet address"),
    "mac_address": (
        "mac",
        "mac address",
        "MAC address",
        "physical address",
        "hw address",
        "hwaddress",
        "hardware address",
        "ethernet address",
        "lladdr",
    ),
    "serial": ("serial", "serial number", "serial no", "s/n", "sn"),
    "firmware": ("firmware", "firmware version", "version", "software version", "fw"),
    "name": ("name", "device name", "model", "device", "hostname", "host name", "type", "device type"),
    "state": ("state", "status", "online", "alive", "reachable"),
}

_IP = r"(?:\d{1,3}\.){3}\d{1,3}"
_PAIRS = r"[0-9A-Fa-f]{1,2}(?:[:-][0-9A-Fa-f]{1,2}){5}"
_MAC = (
    rf"(?:{_PAIRS}|(?:[0-9A-Fa-f]{{4}}\.){{2}}[0-9A-Fa-f]{{4}}|[0-9A-Fa-f]{{6}}-[0-9A-Fa-f]{{6}}"
    r"|(?=\d*[A-Fa-f])[0-9A-Fa-f]{12})"
)
"""Twelve digits without a letter among them are a serial rather than a MAC address."""
_ADDRESS = re.compile(rf"(?<![\d.]){_IP}(?![\d.]\d|\d)", re.ASCII)
_HARDWARE = re.compile(rf"(?<![0-9A-Fa-f:.-]){_MAC}(?![0-9A-Fa-f:.-])", re.ASCII)
_IPV6 = re.compile(r"(?<![\w:])[0-9A-Fa-f]{0,4}(?::[0-9A-Fa-f]{0,4}){2,7}(?:%\w+)?(?:/\d+)?(?![\w:])", re.ASCII)

_FORMS = tuple(
    re.compile(pattern, re.ASCII | re.IGNORECASE)
    for pattern in (
        # A neighbour table: an address, its interface, and the state of the entry at the end.
        rf"(?P<address>{_IP}) dev \S+(?: lladdr (?P<mac>{_MAC}))?(?: (?:ref|used|probes|proto) \S+)*"
        r"(?: [a-z_]+)*? ?(?P<state>[a-z]+)?",
        # Address tables: a name or ?, the address in brackets, the hardware address or that there is none.
        rf"(?P<name>\S+) \((?P<address>{_IP})\) \S+ (?P<mac>{_MAC}|[<(]\S+[>)]) ?.*",
        rf"(?P<address>{_IP}) (?:ether )?(?P<mac>{_MAC}|[<(]incomplete[>)])"
        r"(?: (?:C|CM|d[iy]n\S*|\S*stati\S*))?(?: \S+)?",
        rf"(?P<address>{_IP}) 0x\w+ 0x\w+ (?P<mac>{_MAC}) \* \S+",
        # Tables of routers and switches: protocol or VLAN, age, and the port or interface at the end.
        rf"(?:internet|ip) (?P<address>{_IP}) (?:\d+|-) (?P<mac>{_MAC}|incomplete) arpa(?: \S+)?",
        rf"\*? ?\d+ (?P<mac>{_MAC}) (?:dynamic|static|learned?)(?: \S+){{1,4}}",
        # Reports of port scanners in one line for each port or host.
        rf"Host: (?P<address>{_IP}) \((?P<name>\S*)\)(?: Status: (?P<state>\w+).*| Ports: .*)?",
        rf"Discovered open port \S+ on (?P<address>{_IP})",
        rf"open \S+ \d+ (?P<address>{_IP}) \d+",
        # Ping sweeps.
        rf"(?P<address>{_IP}) is (?P<state>alive|unreachable)",
        rf"\d+ bytes from (?P<address>{_IP}): .*",
        # Leases in one line.
        rf"\d{{9,11}} (?P<mac>{_MAC}) (?P<address>{_IP}) (?P<name>\S+) \S+",
        # What devices tell of themselves by their name service: =;eth0;IPv4;name;...;host;address;port;
        rf"[=+] \S+ IPv4 (?P<name>.+?) _\S+ \S+ \S+ (?P<address>{_IP}) \d+.*",
    )
)
_BLOCKS = tuple(
    re.compile(pattern, re.ASCII | re.IGNORECASE)
    for pattern in (
        rf"(?:\w+ )?scan report for (?:(?P<name>\S+) \()?(?P<address>{_IP})\)?(?: \[host (?P<state>\w+).*)?",
        rf"lease (?P<address>{_IP}) \{{",
    )
)
"""Lines that open a host, whose further lines follow: port scanners' reports, and leases of a DHCP server."""

_IN_BLOCKS = tuple(
    re.compile(pattern, re.ASCII | re.IGNORECASE)
    for pattern in (
        rf"MAC Address: (?P<mac>{_MAC})(?: \(.*\))?",
        rf"hardware ethernet (?P<mac>{_MAC}) ?;?",
        r"client-hostname \"?(?P<name>[^\"]+?)\"? ?;?",
        r"binding state (?P<state>\w+) ?;?",
    )
)
_STATES_AMONG_WORDS = frozenset(
    ("failed", "incomplete", "down", "unreachable", "dead", "offline", "timeout", "expired", "abandoned", "inactive")
)
_NO_ANSWER = _STATES_AMONG_WORDS | {"free", "no", "false", "none", "0"}
"""What a state says of an address at which nothing is; the further words count only where they are a state, for a line may have
them as words of its own."""

_COMMENT = re.compile(r"(?:#|//|;|!|--|rem\b)", re.IGNORECASE)
_OWN = re.compile(r"Interface ?: ", re.IGNORECASE)

_GROUPS = ("01:00:5e", "33:33:", "01:80:c2", "01:00:0c", "ff:ff:ff:ff:ff:ff")
"""Group addresses as tables of systems hold them (RFC 1112, RFC 2464, IEEE 802.1). Not by the group bit alone: lists that people
type have invented addresses."""

Reason = str
NOTHING_THERE: Reason = "no device answered there"
GROUP: Reason = "a group address, not a device"
OWN: Reason = "the computer that searched"
COMMENT: Reason = "a comment"
IPV6: Reason = "an IPv6 address; the plan's addresses are of IPv4"
NEITHER: Reason = "no IPv4 address and no MAC address in it"


class ScanList(NamedTuple):
    """The answers, and what was passed over.

    Attributes:
        answers: one for each host, or for each of several that answer on one address. problems: one sentence for each reason
            for which rows were left out: how many, and the first of them. has_macs: whether any MAC address was told; a list
            without them can be compared by address alone.
    """

    answers: tuple[ScanAnswer, ...]
    problems: tuple[str, ...]
    has_macs: bool


class _Line(NamedTuple):
    """What a row says: an answer (empty texts for what it leaves open), or why it is none. ``opens``: further lines about this
    host may follow; ``goes_on``: it is one of those."""

    answer: ScanAnswer
    why_not: Reason = ""
    opens: bool = False
    goes_on: bool = False


NOTHING = ScanAnswer("", "", "", "", "")


def scan_list(table: RawTable) -> ScanList:
    """Read the answers out of a table.

    Raises:
        RefusedInput: when no row holds an answer.
    """
    columns = scan_columns(table.rows[0])
    passed: dict[Reason, list[int]] = {}
    found: list[ScanAnswer] = []
    in_block = False
    rows = zip(table.numbers, table.rows, strict=True)
    for number, row in list(rows)[1 if columns else 0 :]:
        line = _from_columns(row, columns) if columns else _from_words(row)
        if line is None or (in_block and line.why_not == NEITHER):
            continue
        if line.goes_on and in_block:
            # A block whose host does not count has none, and its further lines go by.
            if line.why_not and found[-1] is not NOTHING:
                passed.setdefault(line.why_not, []).append(number)
                found[-1] = NOTHING
            elif found[-1] is not NOTHING and _fits(found[-1], line.answer):
                found[-1] = _joined(found[-1], line.answer)
            continue
        in_block = line.opens
        if line.why_not:
            passed.setdefault(line.why_not, []).append(number)
        if line.opens or not line.why_not:
            found.append(NOTHING if line.why_not else line.answer)
    answers = tuple(_by_host(one for one in found if one is not NOTHING))
    problems = tuple(
        f"{count(len(rows), 'row')} skipped ({'first ' if len(rows) > 1 else ''}row {rows[0]}): {why}"
        for why, rows in passed.items()
    )
    if not answers:
        nothing = "; ".join(problems)
        raise RefusedInput(
            "scan list",
            f"no answer found in {count(len(table.rows), 'row')}: lines need an IPv4 address, a MAC address, or both"
            + (f". {nothing}" if nothing else ""),
        )
    return ScanList(answers, problems, any(one.mac_address for one in answers))


def scan_columns(row: tuple[str, ...]) -> dict[str, int]:
    """Which column is what; empty when the first row is no heading."""
    found: dict[str, int] = {}
    if row[0] in ("+", "=", "-"):
        return found  # a line of a name service, which tells the protocol where others have a heading
    for at, cell in enumerate(row):
        words = re.sub(r"[\s_.:-]+", " ", cell).strip().lower()
        for target, names in HEADINGS.items():
            if words in names and target not in found:
                found[target] = at
    return found if {"address", "mac_address", "serial"} & found.keys() else {}


def _from_columns(row: tuple[str, ...], columns: dict[str, int]) -> _Line | None:
    cells = {target: row[at].strip() for target, at in columns.items()}
    if _COMMENT.match(row[0].strip()):
        return _Line(NOTHING, COMMENT)
    serial, state = cells.get("serial", ""), cells.get("state", "")
    address, hardware = cells.get("address", ""), cells.get("mac_address", "")
    if not (address or hardware or serial):
        return None
    try:
        mac = "" if _is_incomplete(hardware) else mac_address(hardware)
        address = _four_parts(address) if address else ""
    except ValueError as error:
        return _Line(NOTHING, str(error))
    answer = ScanAnswer(address, mac, serial, cells.get("firmware", ""), cells.get("name", ""))
    return _judged(answer, hardware, state)


def _from_words(row: tuple[str, ...]) -> _Line | None:
    line = re.sub(r"\s+", " ", " ".join(cell for cell in row if cell)).strip()
    if not line:
        return None
    if _COMMENT.match(line):
        return _Line(NOTHING, COMMENT)
    if _OWN.match(line):
        return _Line(NOTHING, OWN)
    for forms in (_FORMS, _BLOCKS, _IN_BLOCKS):
        match = next((match for form in forms if (match := form.fullmatch(line))), None)
        if match is not None:
            return _from_form(match.groupdict())._replace(opens=forms is _BLOCKS, goes_on=forms is _IN_BLOCKS)
    without = _IPV6.sub(lambda match: match[0] if _HARDWARE.fullmatch(match[0]) else " ", line)
    address = next((one for one in _ADDRESS.findall(without) if all(int(part) < 256 for part in one.split("."))), "")
    hardware = _HARDWARE.search(without)
    if not address and any(_is_ipv6(match[0]) for match in _IPV6.finditer(line)):
        return _Line(NOTHING, IPV6)
    if not address and hardware is None:
        return _Line(NOTHING, NEITHER)
    rest = without.replace(hardware[0], " ") if hardware else without
    rest = re.sub(r"\s+", " ", _ADDRESS.sub(" ", rest)).strip(" ,;|()-:")
    mac = mac_address(hardware[0]) if hardware else ""
    answer = ScanAnswer(_four_parts(address) if address else "", mac, "", "", rest)
    state = next((word for word in re.findall(r"\w+", rest.lower()) if word in _STATES_AMONG_WORDS), "")
    return _judged(answer, mac, state)


def is_by_form(row: Sequence[str]) -> bool:
    """Whether a row is a line as search tools write them."""
    line = re.sub(r"\s+", " ", " ".join(cell for cell in row if cell)).strip()
    return any(form.fullmatch(line) for forms in (_FORMS, _BLOCKS, _IN_BLOCKS) for form in forms)


def _from_form(said: dict[str, str | None]) -> _Line:
    address, hardware, name, state = (said.get(key) or "" for key in ("address", "mac", "name", "state"))
    mac = "" if _is_incomplete(hardware) else mac_address(hardware)
    try:
        address = _four_parts(address) if address else ""
    except ValueError as error:
        return _Line(NOTHING, str(error))
    name = "" if name in ("?", "*", "-") else name
    return _judged(ScanAnswer(address, mac, "", "", name), hardware, state)


def _is_ipv6(text: str) -> bool:
    """Not a time (``10:00:00``), nor a MAC address."""
    try:
        IPv6Address(text.partition("/")[0])
    except ValueError:
        return False
    return True


def _is_incomplete(hardware: str) -> bool:
    return hardware.startswith(("<", "(")) or hardware.strip().lower() in ("incomplete", "n/a", "-", "none", "unknown")


def _four_parts(address: str) -> str:
    """An address as it is written here; lists also write its parts with leading zeros."""
    bare = ".".join(str(int(part)) if part.isascii() and part.isdigit() else part for part in address.split("."))
    return address_text(address_number(bare))


def _judged(answer: ScanAnswer, hardware: str, state: str) -> _Line:
    """The answer, or why it is none."""
    if (
        state.strip().lower() in _NO_ANSWER
        or "incomplete" in hardware.lower()
        or answer.mac_address == "00:00:00:00:00:00"
    ):
        return _Line(answer, NOTHING_THERE)
    first = int(answer.address.partition(".")[0]) if answer.address else 1
    if first >= 224 or first in (0, 127) or answer.mac_address.startswith(_GROUPS):
        return _Line(NOTHING, GROUP)
    return _Line(answer)


def _fits(one: ScanAnswer, other: ScanAnswer) -> bool:
    """Whether two lines can be of one device: nothing that both tell differs."""
    return all(not mine or not theirs or mine == theirs for mine, theirs in zip(one[1:4], other[1:4], strict=True))


def _joined(one: ScanAnswer, other: ScanAnswer) -> ScanAnswer:
    return ScanAnswer(*(mine or theirs for mine, theirs in zip(one, other, strict=True)))


def _by_host(found: Iterable[ScanAnswer]) -> Iterator[ScanAnswer]:
    """One answer for each host: lines with one address are of one device, unless their MAC addresses or serials differ."""
    hosts: dict[str, list[ScanAnswer]] = {}
    for answer in found:
        ones = hosts.setdefault(answer.address or answer.mac_address or answer.serial, [])
        at = next((at for at, one in enumerate(ones) if _fits(one, answer)), None)
        if at is None:
            ones.append(answer)
        else:
            ones[at] = _joined(ones[at], answer)
    for ones in hosts.values():
        yield from ones
