"""The four ways of giving addresses beside one another, for a group of devices."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QWidget

from eager_lens.core.assess.address_ways import give_way, ways_for
from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.job.model import Device, role_of
from eager_lens.core.units import count
from eager_lens.desk.session import Session
from eager_lens.desk.theme import SPACE
from eager_lens.desk.widgets.basics import button, column, label, row
from eager_lens.desk.widgets.record_model import TableColumn
from eager_lens.desk.widgets.record_table import RecordTable

COLUMNS = (
    TableColumn("way", "Given by", lambda one, a: one.words, width=136),
    TableColumn("now", "Now", lambda one, a: str(one.now), align="right", width=48),
    TableColumn("possible", "Possible for", lambda one, a: str(one.possible), align="right", width=84),
    TableColumn("rests", "Rests on", lambda one, a: one.rests_on, width=190),
    TableColumn("risk", "What goes wrong", lambda one, a: one.risk, width=300),
    TableColumn("work", "What it takes", lambda one, a: one.work, width=250, stretch=True),
)

GROUPS = ("the chosen devices", "all cameras", "all recorders", "network devices")


class GivenView(QWidget):
    """A table of the four ways, for the chosen devices or a group."""

    closed = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self._group = 1
        self._choices = [button(words, partial(self._choose, at), "choice") for at, words in enumerate(GROUPS)]
        self._words = label("", "heading")
        self.table = RecordTable(session, COLUMNS, shares_choice=False)
        self.table.selectionModel().selectionChanged.connect(lambda *_: self._show_chosen())
        self._chosen_words = label("", "", wrap=True)
        self._give = button("Give the group this way", self._apply, "main")
        why = label(
            "The default is by hand, outside the pool: nothing else can then give the address away. A recorder remembers a "
            "camera by its address, so whatever the way, the address must stay.",
            "small",
            wrap=True,
        )
        head = row(self._words, None, *self._choices, button("Close", self.closed.emit, "quiet"), spacing=SPACE.TIGHT)
        layout = column(head, self.table, self._chosen_words, row(self._give, None), why, spacing=SPACE.HALF)
        layout.setStretch(1, 1)
        self.setLayout(layout)
        session.chosen_changed.connect(lambda: self.show_assessment(session.assessment) if self.isVisible() else None)

    def devices(self) -> list[Device]:
        """The devices of the group."""
        devices = self.session.assessment.facts.devices
        if self._group == 0:
            return [device for device in devices if device.id in self.session.chosen]
        wanted = {1: ("camera",), 2: ("recorder",), 3: ("router", "switch", "bridge", "other")}[self._group]
        return [device for device in devices if role_of(device) in wanted]

    def show_assessment(self, assessment: Assessment) -> None:
        """Compare the ways for the group as it is."""
        devices = self.devices()
        self._words.setText(f"Four ways, for {count(len(devices), 'device')}")
        self.table.show_parts(ways_for(assessment.facts, devices), assessment)
        for at, choice in enumerate(self._choices):
            choice.setChecked(at == self._group)
        if not self.table.chosen_parts():
            self.table.selectRow(0)
        self._give.setEnabled(bool(devices))
        self._show_chosen()

    def _show_chosen(self) -> None:
        chosen = self.table.chosen_parts()
        if chosen:
            one = chosen[0]
            rests_on = one.rests_on[0].lower() + one.rests_on[1:]
            self._chosen_words.setText(f"{one.words.capitalize()}: rests on {rests_on}. {one.risk}. {one.work}.")

    def _choose(self, at: int) -> None:
        self._group = at
        self.show_assessment(self.session.assessment)

    def _apply(self) -> None:
        chosen, devices = self.table.chosen_parts(), self.devices()
        if chosen and devices:
            self.session.attempt(lambda: give_way(devices, chosen[0].id))
