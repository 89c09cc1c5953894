"""A search for a fault: left what is known, in the middle the one question, right the causes as bars."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from typing import NamedTuple

from PySide6.QtCore import QSignalBlocker, Qt, Signal
from PySide6.QtGui import QGuiApplication, QKeyEvent, QResizeEvent
from PySide6.QtWidgets import QWidget

from eager_lens.core.fault_finder.known_answers import KnownAnswers
from eager_lens.core.fault_finder.search import FaultSearch, percent
from eager_lens.core.fault_finder.table import Cause
from eager_lens.core.plain_text import inside, sentence_case
from eager_lens.core.records.event_log.entry import Event
from eager_lens.core.reference.acceptance import HEIGHT
from eager_lens.core.units import count, figure
from eager_lens.desk.asking import Asker, FileKind, file_to_write
from eager_lens.desk.pages.bench.fault_finder.chance_bars import ChanceBars
from eager_lens.desk.session import Session
from eager_lens.desk.theme import SPACE, look
from eager_lens.desk.widgets.basics import Choice, button, column, emptied, label, row, scrolled
from eager_lens.desk.widgets.flow import flow
from eager_lens.desk.widgets.splitter import Splitter
from eager_lens.desk.writing import export

REPORT_FILE = FileKind("Report", (".txt",))
MOST_CAUSES, LEAST_SHOWN = 9, 0.01
THREE_COLUMNS_PX = 700
"""What three columns want at least, at the usual type."""
CAUTIONS = {
    "ladder": HEIGHT,
    "interrupts recording": "Recording of this device stops meanwhile; tell the person who watches it.",
}
"""By what a test needs."""


class TestMaker(NamedTuple):
    """A way in which the program makes a test itself: its words, and what does it."""

    label: str
    tip: str
    make: Callable[[], object]


class FaultSearchView(QWidget):
    """One search, step by step. Digits answer, 0 says that nobody knows, Backspace takes back."""

    left = Signal()
    """A new search is wanted."""
    figures_asked = Signal()
    """Somebody wants to see the figures that it goes by."""

    def __init__(
        self,
        session: Session,
        asker: Asker,
        known_answers: Callable[[FaultSearch], Sequence[KnownAnswers]],
        makers: Callable[[FaultSearch], Sequence[TestMaker]],
    ) -> None:
        super().__init__()
        self.session, self.asker = session, asker
        self.search: FaultSearch | None = None
        self.known_answers, self.makers = known_answers, makers
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self._head = label("", "heading")
        self._known, self._middle = column(), column(spacing=SPACE.HALF)
        self._bars = ChanceBars()
        self._rest = label("", "small", wrap=True)
        parts = Splitter(Qt.Orientation.Horizontal)
        known = column(label("Known", "heading"), self._known, None)
        self._asked = column(self._middle, None)
        likely = column(label("Likely", "heading"), self._bars, self._rest, None)
        self._known_pane, asked_pane, likely_pane = QWidget(), QWidget(), QWidget()
        for pane, inner in ((self._known_pane, known), (asked_pane, self._asked), (likely_pane, likely)):
            inner.setContentsMargins(0 if inner is known else SPACE.HALF, 0, SPACE.HALF, 0)
            pane.setLayout(inner)
        self._left = scrolled(self._known_pane)
        for area in (self._left, scrolled(asked_pane), scrolled(likely_pane)):
            parts.addWidget(area)
        parts.setChildrenCollapsible(False)
        parts.setStretchFactor(1, 1)
        parts.setSizes([look.px(236), look.px(350), look.px(194)])
        anew = button("Start again", self.left.emit, "quiet")
        figures = button(
            "Figures …", self.figures_asked.emit, "quiet", "The probabilities used, and the own figures of this job"
        )
        page = column(row(self._head, None, figures, anew), parts)
        page.setStretch(1, 1)
        self.setLayout(page)

    def show_search(self, search: FaultSearch) -> None:
        """Show a search as it stands."""
        self.search = search
        symptom = search.of.case.table.symptom(search.of.case.symptom).label
        others = f" and {len(search.of.down) - 1} more" if len(search.of.down) > 1 else ""
        self._head.setText(f"{search.of.device.name}{others} · {symptom}")
        self._show_known(search)
        self._show_middle(search)
        shown = [one for one in search.ranked[:MOST_CAUSES] if one[1] >= LEAST_SHOWN] or search.ranked[:1]
        self._bars.show_chances([(cause.label, percent(chance), chance) for cause, chance in shown])
        more = len(search.ranked) - len(shown)
        least = percent(max(search.ranked[len(shown)][1], LEAST_SHOWN)) if more else ""
        self._rest.setText(f"{count(more, 'other cause')}, {least} at most each." if more else "")
        look.apply_style(self)

    @property
    def head_words(self) -> str:
        """What is looked for, as it stands above."""
        return self._head.text()

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Where three columns have no room, what is known goes below the question."""
        narrow = self.width() < look.px(THREE_COLUMNS_PX)
        if narrow and self._left.widget() is not None:
            self._asked.insertWidget(1, self._left.takeWidget())
            self._left.hide()
        elif not narrow and self._left.widget() is None:
            self._left.setWidget(self._known_pane)
            self._left.show()
        self._known_pane.show()

    # ---- left -------------------------------------------------------------------------------------------------------

    def _show_known(self, search: FaultSearch) -> None:
        emptied(self._known)
        for answer in search.answers:
            ask, outcome = search.answer_words(answer)
            back = button("Take back", partial(self.become, search.taken_back(answer.test)), "quiet")
            back.setAccessibleName(f"Take back: {ask}")
            self._known.addWidget(label(ask, "small", wrap=True))
            line = row(label(sentence_case(outcome), wrap=True), back)
            line.setStretch(0, 1)
            self._known.addLayout(line)
        for cause_id in sorted(search.not_these):
            words = f"{search.of.case.table.cause(cause_id).label}: the remedy did not help."
            self._known.addWidget(label(words, wrap=True))
        for known in self.known_answers(search):
            words = f"Use {count(len(known.answers), 'answer')} of the {known.source}"
            take = button(words, partial(self.become, search.with_answers(known.answers)), tip=_when(known.at))
            self._known.addLayout(row(take, None))
        likely = [one for one in search.of.said if one.likely]
        out = [one for one in search.of.said if not one.likely]
        for heading, said in (("Likely, from the job", likely), ("Ruled out by the job", out)):
            if said:
                self._known.addWidget(label(heading, "heading"))
                for one in said:
                    self._known.addWidget(label(f"{one.cause.label}: {one.words}.", "small", wrap=True))
        if not self._known.count():
            self._known.addWidget(label("Your answers appear here.", "small", wrap=True))

    # ---- middle -----------------------------------------------------------------------------------------------------

    def _show_middle(self, search: FaultSearch) -> None:
        emptied(self._middle)
        if search.asked is not None:
            self._show_question(search)
        elif search.named is not None:
            self._show_cause(search, search.named)
        else:
            self._show_nothing_left(search)

    def _show_question(self, search: FaultSearch) -> None:
        asked = search.asked
        assert asked is not None
        self._middle.addWidget(label(search.of.filled(asked.test.ask), "verdict", wrap=True))
        takes = " · ".join((f"{figure(asked.test.minutes)} min", *asked.test.needs))
        self._middle.addWidget(label(takes, "small"))
        for need in asked.test.needs:
            if need in CAUTIONS:
                self._middle.addWidget(label(CAUTIONS[need], "caution", wrap=True))
        for at, (outcome, (cause, chance)) in enumerate(zip(asked.test.outcomes, asked.leads_to, strict=True)):
            words = f"{at + 1}   {sentence_case(search.of.filled(outcome))}"
            self._middle.addWidget(button(words, partial(self.become, search.answered(at)), "answer"))
            means = f"most likely then: {inside(search.of.case.table.cause(cause).label)}, {percent(chance)}"
            self._middle.addWidget(label(means, "small", wrap=True))
        self._middle.addLayout(
            flow(
                button("0   Don't know", partial(self.become, search.answered(None)), "quiet"),
                *self._back(search),
            )
        )
        made = [button(one.label, one.make, tip=one.tip) for one in self.makers(search)]
        if made:
            self._middle.addLayout(flow(*made))
        self._middle.addWidget(label(f"{asked.test.why} {_why(search)}", "small", wrap=True))
        others = [one for one in search.proposed if one is not asked]
        if others:
            choice = Choice()
            choice.setAccessibleName("Do another test instead")
            with QSignalBlocker(choice):
                choice.addItem("Another test …")
                for one in others:
                    choice.addItem(f"{figure(one.test.minutes)} min · {search.of.filled(one.test.ask)}", one.test.id)
            choice.setMinimumContentsLength(20)
            choice.setSizeAdjustPolicy(Choice.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
            choice.activated.connect(lambda at: self.become(search.choosing(choice.itemData(at) or "")))
            self._middle.addWidget(choice)

    def _show_cause(self, search: FaultSearch, cause: Cause) -> None:
        self._middle.addWidget(label(cause.label, "verdict", wrap=True))
        took = f"{count(len(search.answers), 'test')}, {figure(search.minutes)} min"
        self._middle.addWidget(
            label(f"{percent(search.ranked[0][1])} sure, after {took}. {cause.why}", "small", wrap=True)
        )
        self._show_remedy(search, cause)
        finding = search.of.findings.get(cause.id)
        if finding is not None and finding.fix is not None:
            fix = finding.fix
            change = button("Change it in the job", lambda: self.session.apply(fix), tip=fix.label)
            self._middle.addLayout(row(change, None))
        checks = search.checks_after(cause)
        if checks:
            self._middle.addWidget(label("Afterwards", "heading"))
            for check in checks:
                self._middle.addWidget(label(check, wrap=True))
        self._show_endings(search)

    def _show_nothing_left(self, search: FaultSearch) -> None:
        self._middle.addWidget(label("No cause stands out", "verdict", wrap=True))
        words = (
            "No test is left that tells more. Start with the remedy for the most likely cause on the right, or pass on the "
            "report with everything that was tried."
        )
        self._middle.addWidget(label(words, wrap=True))
        cause = search.ranked[0][0]
        self._middle.addWidget(label(cause.label, "heading"))
        self._show_remedy(search, cause)
        self._show_endings(search)

    def _show_remedy(self, search: FaultSearch, cause: Cause) -> None:
        for at, step in enumerate(search.remedy_of(cause), 1):
            self._middle.addWidget(label(f"{at}. {step}.", wrap=True))

    def _show_endings(self, search: FaultSearch) -> None:
        """What can be said of the likeliest cause once nothing more is asked."""
        self._middle.addLayout(
            flow(
                button("This was it", self._conclude, "main", "Adds it to the event log"),
                button(
                    "This was not it",
                    partial(self.become, search.not_this()),
                    tip="Continues with the next likely cause",
                ),
                button("Copy the report", self._copy, "quiet"),
                button("Save the report …", self._save, "quiet", "For support, with everything that was tried"),
                *self._back(search),
            )
        )

    def _back(self, search: FaultSearch) -> list[QWidget]:
        if not search.answers:
            return []
        return [button("Take back", partial(self.become, search.taken_back()), "quiet", "The key Backspace")]

    # ---- what is done -----------------------------------------------------------------------------------------------

    def become(self, search: FaultSearch) -> None:
        """Go on with another state of the search."""
        self.show_search(search)
        self.setFocus()

    def _conclude(self) -> None:
        if self.search is not None:
            cause = self.search.ranked[0][0]
            words = f"{self.search.sentence()}; found: {inside(cause.label)}"
            values = {"cause": cause.id, "symptom": self.search.of.case.symptom, "minutes": self.search.minutes}
            self.session.log.note(Event("fault found", words, (self.search.of.device.id,), values))
            self.session.notice(f"In the event log: {words}")
            self.left.emit()

    def _save(self) -> None:
        if self.search is None:
            return
        proposed = self.session.beside(f" fault, {self.search.of.device.name.replace('/', ' ')}.txt")
        path = file_to_write(self.asker, "Save the report", REPORT_FILE, proposed)
        if path is not None:
            export(self.session, path, self.search.report().encode())

    def _copy(self) -> None:
        if self.search is not None:
            QGuiApplication.clipboard().setText(self.search.report())
            self.session.notice("The report is on the clipboard")

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Digits answer, 0 does not know, Backspace takes back."""
        search = self.search
        text = event.text()
        if search is not None and event.key() == Qt.Key.Key_Backspace and search.answers:
            self.become(search.taken_back())
        elif search is not None and search.asked is not None and text.isascii() and text.isdigit():
            if text == "0":
                self.become(search.answered(None))
            elif int(text) <= len(search.asked.test.outcomes):
                self.become(search.answered(int(text) - 1))
        else:
            super().keyPressEvent(event)


def _why(search: FaultSearch) -> str:
    """Why this test and no other."""
    if search.proposed[0] is search.asked:
        return "This test tells most for its time."
    return "You selected this test instead of the most useful one."


def _when(at: str) -> str:
    """When something was read, for reading."""
    return f"From {at.replace('T', ' ')[:16]}" if at else "Readings of this device"
