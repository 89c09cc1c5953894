"""What the rehearsal's tables show: the shelf, the search list, the recorders' channels, the event log."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import replace
from typing import NamedTuple

from eager_lens.core.addressing.ipv4 import address_text
from eager_lens.core.assess.finding import Severity
from eager_lens.core.job.model import Camera
from eager_lens.core.simulation.actions.looking import Answer
from eager_lens.core.simulation.lights import state_words
from eager_lens.core.simulation.parts import Entry, Unit
from eager_lens.core.simulation.site import LogLine, Site
from eager_lens.desk.pages.bench.rehearsal.lights import lights_icon
from eager_lens.desk.widgets.record_model import Mark, TableColumn

MOST_LINES = 400
"""So many lines of the event log are shown, the newest first."""

REASON = re.compile(r"(, channel \d+: \w+): .*")
"""A channel's status in the event log, and the reason behind it."""

SEEN_AS = {"silent": "no-picture", "refused": "red", "alternating": "comes-and-goes"}
"""A channel's status, as a symptom of the fault finder."""

ROLE_ORDER = ("laptop", "recorder", "router", "switch", "supply", "bridge", "other", "camera", "phone")


class ShelfRow(NamedTuple):
    """A device on the shelf, as it is seen without a network."""

    id: str
    name: str
    state: str
    label: str


class FoundRow(NamedTuple):
    """A line of the search list."""

    id: str
    answer: Answer
    twins: bool


class ChannelRow(NamedTuple):
    """A channel of a recorder, as the recorder shows it."""

    id: str
    recorder: str
    number: int
    entry: Entry


class LogRow(NamedTuple):
    """A line of the event log."""

    id: str
    when: str
    line: LogLine


SHELF_COLUMNS: tuple[TableColumn, ...] = (
    TableColumn("name", "Devices", lambda one, a: one.name, width=146),
    TableColumn("lights", "Lights", lambda one, a: one.state, width=146, icon=lights_icon),
    TableColumn("label", "Label", lambda one, a: one.label, width=60, stretch=True),
)

STATUS_MARKS: dict[str, Mark] = {
    "receiving": "done",
    "alternating": Severity.WARNING,
    "refused": Severity.FAULT,
    "silent": Severity.FAULT,
}

FOUND_COLUMNS: tuple[TableColumn, ...] = (
    TableColumn("four", "Ends in", lambda one, a: one.answer.mac_address.replace(":", "")[-4:], width=62),
    TableColumn(
        "address",
        "Address",
        lambda one, a: f"{one.answer.address}/{one.answer.mask}",
        width=140,
        mark=lambda one, a: Severity.FAULT if one.twins else None if one.answer.reachable else Severity.WARNING,
    ),
    TableColumn("set_up", "Set up", lambda one, a: "yes" if one.answer.set_up else "not yet", width=62),
    TableColumn("says", "Reports", lambda one, a: one.answer.says, width=118),
    TableColumn("serial", "Serial", lambda one, a: one.answer.serial or "–", width=84),
    TableColumn("firmware", "Firmware", lambda one, a: one.answer.firmware, width=66, stretch=True),
)

CHANNEL_COLUMNS: tuple[TableColumn, ...] = (
    TableColumn("number", "Channel", lambda one, a: str(one.number), align="right", width=62),
    TableColumn("name", "Name", lambda one, a: one.entry.name or "–", width=140),
    TableColumn("address", "Address", lambda one, a: address_text(one.entry.address), width=104),
    TableColumn(
        "status", "Status", lambda one, a: one.entry.shown, width=102, mark=lambda one, a: STATUS_MARKS[one.entry.shown]
    ),
    TableColumn("why", "Why", lambda one, a: one.entry.why or "–", width=220),
    TableColumn("recorder", "Recorder", lambda one, a: one.recorder, width=120, stretch=True),
)

LOG_COLUMNS: tuple[TableColumn, ...] = (
    TableColumn("when", "Time", lambda one, a: one.when, width=88),
    TableColumn(
        "words",
        "What happened",
        lambda one, a: one.line.words,
        width=600,
        stretch=True,
        mark=lambda one, a: Severity.WARNING if one.line.weight == "lesson" else None,
    ),
)


def shelf_rows(site: Site) -> list[ShelfRow]:
    """The devices, those first that a hand goes to first."""
    rank = {role: at for at, role in enumerate(ROLE_ORDER)}
    units = sorted(site.units.values(), key=lambda unit: rank[unit.role])
    return [_shelf_row(site, unit) for unit in units if unit.role != "phone"]


def channel_rows(site: Site, hides: bool) -> list[ChannelRow]:
    """The recorders' channels; ``hides``: as a recorder shows them, without the simulation's own reason (in a practice)."""
    return [
        ChannelRow(f"{recorder.id}:{number}", recorder.name, number, replace(entry, why="") if hides else entry)
        for recorder in site.recorders()
        for number, entry in sorted(recorder.entries.items())
    ]


def log_rows(site: Site, hides: bool) -> list[LogRow]:
    """The event log, the newest line first; ``hides``: a channel's status comes without its reason."""
    first = len(site.log_lines)
    lines = [
        line._replace(words=REASON.sub(r"\1", line.words)) if hides else line for line in site.log_lines[-MOST_LINES:]
    ]
    return [
        LogRow(f"line-{first - at}", f"{site.local(line.at_s):%H:%M:%S}", line)
        for at, line in enumerate(reversed(lines))
    ]


def fault_seen(site: Site, selected: Sequence[ChannelRow]) -> tuple[str, str] | None:
    """The camera of the first selected channel without a picture, else of the first of all, and the symptom there."""
    for rows in (selected, channel_rows(site, False)):
        for one in rows:
            camera = planned_on(site, one) if one.entry.shown in SEEN_AS else None
            if camera is not None:
                return camera.id, SEEN_AS[one.entry.shown]
    return None


def planned_on(site: Site, row: ChannelRow) -> Camera | None:
    """The camera that is planned on a channel, or at its address."""
    recorder_id = row.id.rpartition(":")[0]
    for camera in site.job.cameras:
        if any((one.recorder, one.channel) == (recorder_id, row.number) for one in camera.registered):
            return camera
    address = address_text(row.entry.address)
    return next((camera for camera in site.job.cameras if camera.address == address), None)


def _shelf_row(site: Site, unit: Unit) -> ShelfRow:
    four = f"…{unit.last_four}" if unit.role not in ("laptop", "supply") else ""
    host = site.units.get(unit.host)
    if unit.role == "laptop":
        four = f"at {host.name}" if host is not None else "not connected"
    return ShelfRow(unit.id, unit.name, state_words(site, unit), four)
