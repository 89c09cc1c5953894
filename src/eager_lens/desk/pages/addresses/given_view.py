"""The four ways of giving addresses beside one another, for a group of devices."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QFrame, QGridLayout, QLabel, QPushButton, QSizePolicy, QWidget

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.job.model import AddressAssignment, Device, role_of
from eager_lens.core.options.address_options import ASSIGNMENTS, AssignmentFor, assignments_for, give_assignment
from eager_lens.core.plain_text import sentence_case
from eager_lens.core.units import count
from eager_lens.desk.session import Session
from eager_lens.desk.theme import SPACE
from eager_lens.desk.widgets.basics import button, column, label, row, rule

GROUPS = ("selected devices", "all cameras", "all recorders", "network devices")

OF_GROUP = {1: ("camera",), 2: ("recorder",), 3: ("router", "switch", "bridge", "other")}


class _Card(QFrame):
    """One way: how many have it, what it rests on, what goes wrong, what it takes, and the button that gives it."""

    def __init__(self, way: AddressAssignment, give: QPushButton) -> None:
        super().__init__()
        self._title = label("", "heading")
        self._now = label("", "figure")
        self._lines: tuple[QLabel, ...] = tuple(label("", wrap=True) for _ in range(3))
        for line in self._lines:
            line.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Minimum)
        names = ("Depends on", "Risk", "Takes")
        grid = QGridLayout()
        grid.setHorizontalSpacing(SPACE.HALF)
        grid.setVerticalSpacing(SPACE.TIGHT)
        grid.setColumnStretch(1, 1)
        for at, (name, line) in enumerate(zip(names, self._lines, strict=True)):
            grid.addWidget(label(name, "small"), at, 0)
            grid.addWidget(line, at, 1)
        self.give = give
        self.setLayout(
            column(rule(), row(self._title, None, self._now), grid, row(give, None), None, spacing=SPACE.TIGHT)
        )
        self.setAccessibleName(way)

    def show_assignment(self, one: AssignmentFor, devices: int) -> None:
        """Show one way of assignment for a group of devices."""
        self._title.setText(sentence_case(one.words))
        self._now.setText(f"{one.now} now, possible for {one.possible} of {devices}")
        for line, words in zip(self._lines, (one.rests_on, one.risk, one.work), strict=True):
            line.setText(words)
        self.give.setEnabled(one.possible > 0 and one.now < devices)


class GivenView(QWidget):
    """Four cards, for the selected devices or a group."""

    closed = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self._group = 1
        self._choices = [button(words, partial(self._select, at), "choice") for at, words in enumerate(GROUPS)]
        self.words = label("", "heading")
        self.cards = {way: _Card(way, button("Assign this way", partial(self._apply, way))) for way in ASSIGNMENTS}
        grid = QGridLayout()
        grid.setHorizontalSpacing(SPACE.WIDE)
        grid.setVerticalSpacing(SPACE.FULL)
        for at, card in enumerate(self.cards.values()):
            grid.addWidget(card, at // 2, at % 2)
            grid.setColumnStretch(at % 2, 1)
        why = label(
            "The default is static, outside the DHCP pool, so no server can lease the address to another device. A recorder "
            "remembers a camera by its address, which must never change.",
            "small",
            wrap=True,
        )
        head = row(self.words, None, *self._choices, button("Close", self.closed.emit, "quiet"), spacing=SPACE.TIGHT)
        self.setLayout(column(head, grid, why, None, spacing=SPACE.FULL))
        session.selection_changed.connect(
            lambda: self.show_assessment(session.assessment) if self.isVisible() else None
        )

    def devices(self) -> list[Device]:
        """The devices of the group."""
        devices = self.session.assessment.facts.devices
        if self._group == 0:
            return [device for device in devices if device.id in self.session.selected]
        return [device for device in devices if role_of(device) in OF_GROUP[self._group]]

    def show_assessment(self, assessment: Assessment) -> None:
        """Compare the ways for the group as it is."""
        devices = self.devices()
        self.words.setText(f"Address assignment for {count(len(devices), 'device')}")
        for one in assignments_for(assessment.facts, devices):
            self.cards[one.id].show_assignment(one, len(devices))
        for at, choice in enumerate(self._choices):
            choice.setChecked(at == self._group)

    def _select(self, at: int) -> None:
        self._group = at
        self.show_assessment(self.session.assessment)

    def _apply(self, way: AddressAssignment) -> None:
        devices = self.devices()
        if devices:
            self.session.attempt(lambda: give_assignment(devices, way))
