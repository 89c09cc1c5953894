"""The table of what is set: a row for each setting, and one for what stays by hand or is not touched."""

from __future__ import annotations

from collections.abc import Mapping
from typing import NamedTuple

from eager_lens.core.assess.finding import Severity
from eager_lens.core.commission.act import DevicePlan, SetPlan
from eager_lens.core.commission.ledger import ActLine, State
from eager_lens.desk.widgets.record_model import Mark, TableColumn

STATES: dict[State, str] = {
    "begun": "being set",
    "done": "set",
    "refused": "refused",
    "not taken": "other than sent",
    "lost": "no answer",
}
NOT_YET, BY_HAND, LEFT_ALONE = "to be set", "by hand", "left alone"


FIRST = ("being set", "no answer", "refused", "other than sent", NOT_YET, BY_HAND, LEFT_ALONE, "set")


class SettingRow(NamedTuple):
    """A row. ``state``: how far it is; ``why``: what is to be told of it."""

    id: str
    device: str
    name: str
    what: str
    now: str
    will_be: str
    state: str
    why: str


Lines = Mapping[tuple[str, str], ActLine]
"""What was written last, by device and act."""


def rows_of(plan: SetPlan, lines: Lines) -> list[SettingRow]:
    """The rows of a plan, as far as it was carried out: what is being set and what went wrong first, what is done last."""
    found = [row for one in plan.devices for row in _rows(one, lines)]
    return sorted(found, key=lambda row: FIRST.index(row.state))


def _rows(one: DevicePlan, lines: Lines) -> list[SettingRow]:
    if one.refused:
        where = one.address or one.planned_address
        return [
            SettingRow(one.device, one.device, one.name, "All settings", where, "", LEFT_ALONE, _sentence(one.refused))
        ]
    found = []
    for act in one.acts:
        line = lines.get((one.device, act.key))
        state = NOT_YET if line is None else STATES[line.state]
        for at, row in enumerate(act.settings):
            why = _sentence(line.why) if line is not None and line.why else _sentence(row.note)
            key = f"{one.device}/{act.key}/{at}"
            found.append(SettingRow(key, one.device, one.name, _capital(row.what), row.now, row.will_be, state, why))
    for at, hand in enumerate(one.by_hand):
        key = f"{one.device}/by hand/{at}"
        found.append(SettingRow(key, one.device, one.name, _capital(hand.what), "", "", BY_HAND, _sentence(hand.why)))
    return found


def _capital(text: str) -> str:
    return f"{text[:1].upper()}{text[1:]}"


def _sentence(text: str) -> str:
    return f"{_capital(text)}{'' if text.endswith('.') else '.'}" if text else ""


def _mark(row: SettingRow) -> Mark:
    if row.state == STATES["done"]:
        return "done"
    if row.state in (STATES["refused"], STATES["not taken"], LEFT_ALONE):
        return Severity.WARNING
    if row.state == STATES["lost"]:
        return Severity.FAULT
    return Severity.NOTE if row.state == BY_HAND else None


COLUMNS = (
    TableColumn("device", "Device", lambda one, a: one.name, width=140),
    TableColumn("what", "Setting", lambda one, a: one.what, width=175),
    TableColumn("now", "Now", lambda one, a: one.now, width=115),
    TableColumn("will_be", "Will be", lambda one, a: one.will_be, width=190),
    TableColumn("state", "State", lambda one, a: one.state, width=108, mark=lambda one, a: _mark(one)),
    TableColumn("why", "Why", lambda one, a: one.why, width=300, stretch=True),
)
