"""The proof: mounting, acceptance tests, walk tests, drives that fill, snags, and the log of it all."""

from __future__ import annotations

from PySide6.QtWidgets import QLineEdit

from eager_lens.desk.asking import Asker
from eager_lens.desk.pages.proof.acceptance_view import AcceptanceView
from eager_lens.desk.pages.proof.field_view import FieldView
from eager_lens.desk.pages.proof.filling_view import FillingView
from eager_lens.desk.pages.proof.log_view import LogView
from eager_lens.desk.pages.proof.mounting_view import MountingView
from eager_lens.desk.pages.proof.snags_view import SnagsView
from eager_lens.desk.pages.proof.walk_view import WalkView
from eager_lens.desk.session import Session
from eager_lens.desk.theme import look
from eager_lens.desk.widgets.basics import held, label, row
from eager_lens.desk.widgets.page import TabbedPage

MOUNTING, TESTS, WALK, FILLING, SNAGS, FIELD, LOG = range(7)


class ProofPage(TabbedPage):
    """From the box to the signed log."""

    stage = "proof"

    def __init__(self, session: Session, asker: Asker) -> None:
        super().__init__(session, asker)
        self.mounting, self.acceptance = MountingView(session, asker), AcceptanceView(session, asker)
        self.walk, self.filling = WalkView(session), FillingView(session)
        self.snags, self.log = SnagsView(session), LogView(session, asker)
        self.field = FieldView(session, asker)
        self.lay_out_views(
            (
                (
                    "Mounting",
                    "Checklist for each device, from unpacking to removing the protective film",
                    self.mounting,
                ),
                ("Acceptance tests", "Tests for each device, planned and measured", self.acceptance),
                ("Walk test", "Announces walks and counts the detected ones", self.walk),
                ("Days so far", "Days kept, from how full the drives are", self.filling),
                ("Snags", "Open points, with owner and due date", self.snags),
                ("Field sheet", "All of this on a telephone, and back", self.field),
                ("Event log", "What happened in the job, when and by whom", self.log),
            )
        )
        self.person = QLineEdit(session.person)
        self.person.setPlaceholderText("your name")
        look.limit_width(self.person, 120)
        self.person.setMaxLength(200)
        self.person.setAccessibleName("Your name, recorded with your results")
        self.person.editingFinished.connect(self._take_person)
        session.preferences_changed.connect(self._show_person)
        who = held(row(label("By", "small"), self.person))
        self.action_row.addWidget(who)
        self.show_view(TESTS)

    def _take_person(self) -> None:
        name = self.person.text().strip()
        self.session.set_preferences(self.session.preferences.model_copy(update={"person": name}))

    def _show_person(self) -> None:
        if not self.person.hasFocus():
            self.person.setText(self.session.person)

    def lead_to(self, subject: str) -> None:
        """Show a device's acceptance tests."""
        self.show_view(TESTS)
        self.acceptance.lead_to(subject)
