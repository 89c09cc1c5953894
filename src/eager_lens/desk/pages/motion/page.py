"""Recording on motion: its times and the chain to the clip, and a rule tried before the wind does."""

from __future__ import annotations

from eager_lens.desk.asking import Asker
from eager_lens.desk.pages.motion.times_view import TimesView
from eager_lens.desk.pages.motion.try_view import TryView
from eager_lens.desk.session import Session
from eager_lens.desk.widgets.page import TabbedPage
from eager_lens.desk.widgets.record_table import RecordTable

TIMES, TRY = range(2)


class MotionPage(TabbedPage):
    """Times and chain, and the rule tried."""

    stage = "motion"

    def __init__(self, session: Session, asker: Asker) -> None:
        super().__init__(session, asker)
        self.times, self.trying = TimesView(session), TryView(session, asker)
        self.lay_out_views(
            (
                (
                    "Pre- and post-recording",
                    "How long is recorded, and whether camera and recorder settings match",
                    self.times,
                ),
                ("Try the rule", "In a drawn scene with wind, night and visitors", self.trying),
            )
        )
        session.selection_changed.connect(self._choice_changed)

    def _choice_changed(self) -> None:
        if self.isVisible() and self.shown_view == TRY:
            self.trying.show_assessment(self.session.assessment)

    @property
    def cameras(self) -> RecordTable:
        """The table of cameras."""
        return self.times.cameras

    def lead_to(self, subject: str) -> None:
        """Show a camera's row."""
        self.show_view(TIMES)
        self.times.lead_to(subject)
