"""Where a search for a fault begins: the device, and what is seen."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QGridLayout, QWidget

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.finding import names_listed
from eager_lens.core.fault_finder.groups import common_parts
from eager_lens.core.fault_finder.table import usual_table
from eager_lens.core.job.model import Camera
from eager_lens.core.units import count
from eager_lens.desk.session import Session
from eager_lens.desk.theme import SPACE
from eager_lens.desk.widgets.basics import beside, button, column, label
from eager_lens.desk.widgets.flow import flow
from eager_lens.desk.widgets.record_model import TableColumn
from eager_lens.desk.widgets.record_table import RecordTable

MOST_COMMON = 4


class FaultStart(QWidget):
    """Devices on the left, symptoms as large buttons on the right."""

    begun = Signal(list, str)
    """The ids of the devices, and a symptom's."""
    figures_asked = Signal()
    """Somebody wants to see the figures that it goes by."""

    def __init__(self, session: Session, down_now: Callable[[], Sequence[str]]) -> None:
        super().__init__()
        self.session, self.down_now = session, down_now
        self._down = button(
            "", self._select_down, tip="From the last site check, or from the channels of the rehearsal"
        )
        self.devices = RecordTable(
            session,
            (
                TableColumn("device", "Device", lambda one, a: one.name, width=150, stretch=True),
                TableColumn("place", "Place", lambda one, a: one.place, width=84),
            ),
        )
        self.devices.empty_words = (
            "No devices yet. Add them on the Wiring page; the fault finder needs to know how they are connected."
        )
        self.devices.selectionModel().selectionChanged.connect(lambda *_: self._show_selected())
        self._whose = label("", "verdict", wrap=True)
        self._seen = label("What is the symptom?", "heading")
        self._common = label("", wrap=True)
        self.symptoms = {
            one.id: button(one.label, partial(self._begin, one.id), "answer") for one in usual_table().symptoms
        }
        grid = QGridLayout()
        grid.setSpacing(SPACE.HALF)
        for at, made in enumerate(self.symptoms.values()):
            grid.addWidget(made, at // 2, at % 2)
        note = label(
            "It then asks the question that tells most for its time, as a colleague on the telephone would. If several devices "
            "are down, select them all to see what they have in common.",
            "small",
            wrap=True,
        )
        figures = button(
            "Figures …", self.figures_asked.emit, "quiet", "The probabilities used, and the own figures of this job"
        )
        right = column(self._whose, self._common, self._seen, grid, note, flow(self._down, figures), None)
        self.setLayout(column(beside(column(self.devices), right)))

    def show_assessment(self, assessment: Assessment) -> None:
        """Draw the devices; cameras first, because most faults show there."""
        self.devices.show_parts(
            sorted(assessment.facts.devices, key=lambda device: not isinstance(device, Camera)), assessment
        )
        many = len(self.down_now())
        self._down.setText(f"Select the {count(many, 'camera')} that {'is' if many == 1 else 'are'} down")
        self._down.setVisible(bool(many))
        if not self.devices.selected_parts() and self.devices.records.rowCount():
            self.devices.lead_to(self.devices.records.at(0).id)
        self._show_selected()

    def _show_selected(self) -> None:
        chosen = self.devices.selected_parts()
        self._whose.setText(
            names_listed([one.name for one in chosen], 2) if chosen else "Select the device, or several, at the left"
        )
        for made in self.symptoms.values():
            made.setEnabled(bool(chosen))
        cameras = [one.id for one in chosen if isinstance(one, Camera)]
        parts = common_parts(self.session.assessment, cameras)[:MOST_COMMON] if len(cameras) > 1 else []
        lines = [f"{one.name}: {one.down} of {count(one.behind, 'camera')} behind it" for one in parts]
        if lines:
            self._common.setText("First check what they have in common:\n" + "\n".join(lines))
        elif len(cameras) > 1:
            self._common.setText("They have nothing in common; start with one of them.")
        self._common.setVisible(len(cameras) > 1)

    def _select_down(self) -> None:
        """Select all that are down, to begin with what they have in common."""
        self.session.select(list(self.down_now()))
        self.devices.setFocus()

    def _begin(self, symptom: str) -> None:
        chosen = self.devices.selected_parts()
        if chosen:
            self.begun.emit([one.id for one in chosen], symptom)
