"""The side panel: findings, worst first, each with its remedy; below them the working of the figure last asked for."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Hashable
from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QFrame, QGridLayout, QPushButton, QVBoxLayout, QWidget

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.finding import Finding, Severity, Stage, names_listed
from eager_lens.core.options.remedies.newcomers import told_by_history
from eager_lens.core.present.stages import STAGE_WORDS
from eager_lens.core.present.working import FigureRef, Working, working_of
from eager_lens.core.units import count
from eager_lens.desk.panels.finding_cards import AcceptedCard, CardStack, FindingCard
from eager_lens.desk.session import Session
from eager_lens.desk.theme import SPACE, look
from eager_lens.desk.widgets.basics import button, column, emptied, held, label, row, rule, scrolled
from eager_lens.desk.widgets.reading_order import keys_in_order

SHOWN_FIRST, SHOWN_MORE = 10, 20
"""About two screens of findings, and as many more at each press. Every card is styled and laid out with each change
of the look, seen or not."""


class SidePanel(QWidget):
    """Findings of the stage in sight, or of the whole job, and a working below."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("side")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._session = session
        self._stage: Stage = "sizing"
        self._whole = False
        self._most = SHOWN_FIRST
        self._ref: FigureRef | None = None
        self._stale = True
        self._title = label("", "heading")
        self._scope = button("", self._toggle_scope, "quiet")
        self._cards = CardStack()
        head = row(self._title, None, self._scope)
        head.setContentsMargins(SPACE.FULL, SPACE.HALF, SPACE.HALF, SPACE.TIGHT)
        self._working = _WorkingBox(session, self.hide_working)
        self._working.hide()
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addLayout(head)
        layout.addWidget(rule())
        layout.addWidget(scrolled(self._cards), 1)
        layout.addWidget(self._working)
        session.assessed.connect(lambda _: self._refresh())
        session.opened.connect(self._let_go)
        session.working_asked.connect(self.show_working)
        session.working_made.connect(self.show_made)
        look.fix_width(self, 284)
        look.changed.connect(self._working.fit)

    def show_stage(self, stage: Stage) -> None:
        """Show the findings of a stage."""
        if stage != self._stage:
            self._most = SHOWN_FIRST
        self._stage = stage
        self._refresh()

    def _let_go(self) -> None:
        """Of the job before nothing stays, neither its cards nor a question begun in one."""
        self._most = SHOWN_FIRST
        self._cards.hold({})

    def _toggle_scope(self) -> None:
        self._whole = not self._whole
        self._most = SHOWN_FIRST
        self._refresh()

    def setVisible(self, visible: bool) -> None:
        """What came about while it was out of sight is drawn when it comes into sight, and in the look of now: making its cards
        takes as long as an edit, and styling them as a page."""
        if visible and self.isHidden():
            if self._stale:
                self._draw()
            look.apply_style(self)
        super().setVisible(visible)

    def _refresh(self) -> None:
        self._stale = self.isHidden()
        if not self._stale:
            self._draw()

    def _draw(self) -> None:
        self._stale = False
        assessment = self._session.assessment
        findings = told_by_history(
            assessment.findings if self._whole else assessment.of_stage(self._stage),
            assessment.job,
            self._session.history.past(),
        )
        self._title.setText("Findings · " + ("whole job" if self._whole else STAGE_WORDS[self._stage]))
        self._scope.setText("This page" if self._whole else f"Whole job ({len(assessment.findings)})")
        self._show_working(assessment)
        open_ = {_key_of(finding): finding for finding in findings[: self._most]}
        cards: dict[Hashable, Callable[[], QWidget]] = {
            key: partial(FindingCard, finding, self._session) for key, finding in open_.items()
        }
        if not findings:
            words = _calm(assessment) if self._session.is_open else ""
            cards[words] = partial(_words, words)
        cards |= self._accepted(assessment, len(findings))
        focus = self.window().focusWidget()
        had_keys = focus is not None and focus.hasFocus() and self._cards.isAncestorOf(focus)
        is_new = self._cards.hold(cards)
        for key, finding in open_.items():
            card = self._cards.card(key)
            if isinstance(card, FindingCard):
                card.renew(finding)
        if not is_new:
            return
        keys_in_order(self)
        if had_keys and (focus is None or not focus.hasFocus()):
            # The card that the keyboard was at is made anew, or gone with what it was about.
            first: QWidget = next(iter(self._cards.findChildren(QPushButton)), self._scope)
            first.setFocus(Qt.FocusReason.OtherFocusReason)

    def _accepted(self, assessment: Assessment, open_: int) -> dict[Hashable, Callable[[], QWidget]]:
        """What lies below the open findings: those that are meant so, and the way to all for which there was no room yet."""
        why = {(one.code, one.subjects): one.why for one in assessment.job.accepted}
        accepted = [one for one in assessment.accepted if self._whole or one.stage == self._stage]
        cards: dict[Hashable, Callable[[], QWidget]] = {}
        for finding in accepted[: max(0, self._most - open_)]:
            reason = why[finding.key]
            key = (finding.key, finding.title, reason)
            cards[key] = partial(AcceptedCard, finding, reason, self._session)
        left = open_ + len(accepted) - self._most
        if left > 0:
            words = f"Show {left} more" if left <= SHOWN_MORE else f"Show {SHOWN_MORE} of {left} more"
            cards[words] = partial(_way_on, words, self._show_more)
        return cards

    def _show_more(self) -> None:
        before = self._cards.count()
        self._most += SHOWN_MORE
        self._draw()
        # In place of the button that was pressed.
        first = next(iter(self._cards.at(before - 1).findChildren(QPushButton)), None)
        if first is not None:
            first.setFocus(Qt.FocusReason.OtherFocusReason)

    def show_working(self, ref: FigureRef) -> None:
        """Show how a figure came about, and keep it up to date until it is closed."""
        self._ref = ref
        self.show()
        self._show_working(self._session.assessment)

    def show_made(self, working: Working) -> None:
        """Show a working that took a while to make; the next change of the job closes it."""
        self._ref = None
        self.show()
        self._working.setVisible(True)
        self._working.show_working(working)

    def hide_working(self) -> None:
        """Close the working."""
        self._ref = None
        self._working.hide()

    def _show_working(self, assessment: Assessment) -> None:
        working = working_of(self._ref, assessment) if self._ref is not None else None
        self._working.setVisible(working is not None)
        if working is not None:
            self._working.show_working(working)


def _key_of(finding: Finding) -> Hashable:
    """What a card says, and where it leads. What its fix does is a new function each time, and is renewed."""
    fix = None if finding.fix is None else finding.fix.label
    said = (finding.code, finding.severity, finding.title, finding.why, finding.action)
    return (*said, finding.subjects, fix, finding.set_at)


def _words(text: str) -> QWidget:
    made = label(text, "muted", wrap=True)
    made.setContentsMargins(SPACE.FULL, SPACE.FULL, SPACE.FULL, SPACE.FULL)
    return made


def _way_on(words: str, act: Callable[[], None]) -> QWidget:
    inside = row(button(words, act), None)
    inside.setContentsMargins(SPACE.FULL, SPACE.HALF, SPACE.HALF, SPACE.HALF)
    return held(inside)


def _calm(assessment: Assessment) -> str:
    """What stands where a stage has no finding: that there is none here is no promise for the others."""
    counts = Counter(finding.severity for finding in assessment.findings)
    open_ = [
        count(counts[severity], *words)
        for severity, words in (
            (Severity.FAULT, ("fault",)),
            (Severity.WARNING, ("warning",)),
            (Severity.TODO, ("to-do", "to-dos")),
        )
        if counts[severity]
    ]
    return f"No findings here. On other pages: {names_listed(open_)}." if open_ else "No open findings."


class _WorkingBox(QFrame):
    """A working: title and value, the inputs with their origin, the formula, the source."""

    def __init__(self, session: Session, close: Callable[[], None]) -> None:
        super().__init__()
        self.setObjectName("workingBox")
        self._session = session
        self._working: Working | None = None
        self._title = label("", "heading", wrap=True)
        self._lines = QGridLayout()
        self._lines.setHorizontalSpacing(SPACE.HALF)
        self._lines.setVerticalSpacing(3)
        self._lines.setColumnStretch(0, 1)
        self._lines.setColumnStretch(1, 1)
        self._formula = label("", "small", wrap=True)
        self._source = label("", "small", wrap=True)
        inner = QWidget()
        content = column(self._lines, self._formula, self._source, None, spacing=SPACE.TIGHT)
        content.setContentsMargins(0, 0, SPACE.HALF, 0)
        inner.setLayout(content)
        scroll = scrolled(inner)
        head = row(self._title, button("Copy", self._copy, "quiet"), button("Close", close, "quiet"))
        head.setStretch(0, 1)
        layout = column(head, scroll, spacing=SPACE.TIGHT)
        layout.setContentsMargins(SPACE.FULL, SPACE.HALF, SPACE.HALF, SPACE.HALF)
        self.setLayout(layout)
        self.fit()

    def fit(self) -> None:
        """Take the height that the type size of now asks for."""
        self.setMinimumHeight(look.px(240))
        self.setMaximumHeight(look.px(330))

    def show_working(self, working: Working) -> None:
        """Show a working."""
        if working == self._working:
            return
        self._working = working
        self._title.setText(f"{working.title}: {working.value}")
        emptied(self._lines)
        for at, line in enumerate(working.lines):
            value = label(line.value, "figure", wrap=True)
            value.setAlignment(Qt.AlignmentFlag.AlignRight)
            if line.origin == "assumed":
                value.setProperty("assumed", "true")
            words = column(label(line.label, wrap=True), label(line.origin, "small"), spacing=0)
            self._lines.addLayout(words, at, 0)
            self._lines.addWidget(value, at, 1, Qt.AlignmentFlag.AlignTop)
        self._formula.setText(working.formula)
        self._source.setText(f"Source: {working.source}")

    def _copy(self) -> None:
        if self._working is not None:
            QGuiApplication.clipboard().setText(self._working.as_text())
            self._session.notice("Workings copied")
