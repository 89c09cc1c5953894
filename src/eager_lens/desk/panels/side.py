"""The side panel: findings, worst first, each with its remedy; below them the working of the figure last asked for."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtGui import QAction, QFontMetrics, QGuiApplication
from PySide6.QtWidgets import QFrame, QGridLayout, QLineEdit, QPushButton, QVBoxLayout, QWidget

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.codes import Code
from eager_lens.core.assess.finding import Finding, Severity, Stage, names_listed
from eager_lens.core.job.accepting import accept, take_back
from eager_lens.core.options.remedies.choices import may_have_remedies, remedies
from eager_lens.core.options.remedies.newcomers import told_by_history
from eager_lens.core.present.stages import STAGE_WORDS
from eager_lens.core.present.working import FigureRef, Working, working_of
from eager_lens.core.units import count
from eager_lens.desk.background import waited_for
from eager_lens.desk.session import Session
from eager_lens.desk.theme import SPACE, look
from eager_lens.desk.widgets.basics import ButtonKind, button, column, emptied, label, row, rule, scrolled
from eager_lens.desk.widgets.flow import flow
from eager_lens.desk.widgets.marks import Mark
from eager_lens.desk.widgets.plain_words import set_tip
from eager_lens.desk.widgets.reading_order import keys_in_order

MOST_SHOWN = 40


class FindingCard(QFrame):
    """One finding: what, why it matters here, what to do, and a button where one edit does it."""

    def __init__(self, finding: Finding, session: Session) -> None:
        super().__init__()
        self._finding, self._session = finding, session
        title = label(finding.title, "heading", wrap=True)
        words = column(
            title, label(finding.why, wrap=True), label(finding.action, "muted", wrap=True), spacing=SPACE.TIGHT
        )
        buttons = flow(spacing=SPACE.HALF)
        if finding.fix is not None:
            fix = finding.fix
            room = look.px(178 if finding.subjects else 220)
            text = QFontMetrics(look.font()).elidedText(fix.label, Qt.TextElideMode.ElideRight, room - 24)
            buttons.addWidget(button(text, lambda: session.apply(fix), "main", tip=fix.label))
        if finding.subjects:
            kind: ButtonKind = "plain" if finding.fix is None else "quiet"
            buttons.addWidget(button("Show", lambda: _show(finding, session), kind))
        if finding.set_at is not None:
            place = finding.set_at
            buttons.addWidget(button(f"Go to {place.words}", lambda: session.go(place.stage, place.field)))
        if may_have_remedies(finding):
            self._choose = button(
                "Choices", self._show_choices, "quiet", tip="What could be done, and what each changes"
            )
            buttons.addWidget(self._choose)
        at_fault = [one for one in finding.subjects if one in session.assessment.facts.by_device_id][:1]
        if at_fault:
            find = QAction("Find the fault", self)
            find.triggered.connect(lambda: session.fault_asked.emit(at_fault, ""))
            self.addAction(find)
            self.setContextMenuPolicy(Qt.ContextMenuPolicy.ActionsContextMenu)
        if finding.code == Code.FAILED_CHECK and at_fault:
            buttons.addWidget(button("Find the fault", find.trigger, "quiet"))
        buttons.addWidget(button("Accept …", self._ask_why, "quiet", tip="Say that it is meant so, and why"))
        words.addLayout(buttons)
        self._choices = column(spacing=SPACE.HALF)
        words.addLayout(self._choices)
        mark = Mark(finding.severity)
        layout = row(mark, words, spacing=SPACE.HALF)
        layout.setAlignment(mark, Qt.AlignmentFlag.AlignTop)
        layout.setStretch(1, 1)
        layout.setContentsMargins(SPACE.FULL, SPACE.HALF + 2, SPACE.HALF, SPACE.HALF + 2)
        self.setLayout(layout)

    def _ask_why(self) -> None:
        """Ask for the reason why it is meant so; pressed again, put the question away."""
        had = self._choices.count()
        emptied(self._choices)
        if had:
            return
        why = QLineEdit()
        why.setPlaceholderText("why it is meant so")
        why.setAccessibleName("Why it is meant so")
        why.setMaxLength(200)
        finding, session = self._finding, self._session

        def take() -> None:
            session.apply(accept(finding.code.value, finding.subjects, finding.title, why.text()))

        why.returnPressed.connect(take)
        self._choices.addLayout(row(why, button("Accept", take)))
        why.setFocus()

    def _show_choices(self) -> None:
        """Work the ways out out, and show each with what it changes and a button; pressed again, put them away."""
        if self._choices.count():
            emptied(self._choices)
            return
        finding, session = self._finding, self._session
        assessment = session.assessment
        found = waited_for(lambda: remedies(finding, assessment), "Working out the choices…")
        for remedy in found:
            self._choices.addWidget(rule())
            self._choices.addWidget(label(remedy.edit.label, "heading", wrap=True))
            for line in remedy.changes:
                self._choices.addWidget(label(line, "small", wrap=True))
            edit = remedy.edit
            do_it = button("Do it", lambda edit=edit: session.apply(edit), tip=edit.label)  # type: ignore[misc]
            do_it.setAccessibleName(f"Do it: {edit.label}")
            self._choices.addLayout(row(do_it, None))
        if not found:
            words = "Nothing else settles this without a new fault; the words above say what is left to do by hand."
            self._choices.addWidget(label(words, "small", wrap=True))
        keys_in_order(self)


class AcceptedCard(QFrame):
    """A finding that somebody says is meant so, the reason, and a button that shows it again."""

    def __init__(self, finding: Finding, why: str, session: Session) -> None:
        super().__init__()
        back = take_back(finding.code.value, finding.subjects, finding.title)
        again = button("Show it again", lambda: session.apply(back), "quiet")
        again.setAccessibleName(back.label)
        reason = label(why or "no reason given", "small", wrap=True)
        words = column(label(finding.title, "muted", wrap=True), reason, row(again, None), spacing=SPACE.TIGHT)
        mark = Mark(None)
        set_tip(mark, "accepted")
        layout = row(mark, words, spacing=SPACE.HALF)
        layout.setAlignment(mark, Qt.AlignmentFlag.AlignTop)
        layout.setStretch(1, 1)
        layout.setContentsMargins(SPACE.FULL, SPACE.TIGHT, SPACE.HALF, SPACE.TIGHT)
        self.setLayout(layout)


class SidePanel(QWidget):
    """Findings of the stage in sight, or of the whole job, and a working below."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("side")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._session = session
        self._stage: Stage = "sizing"
        self._whole = False
        self._ref: FigureRef | None = None
        self._shown: tuple[object, ...] = ()
        self._stale = True
        self._title = label("", "heading")
        self._scope = button("", self._toggle_scope, "quiet")
        self._cards = QVBoxLayout()
        self._cards.setContentsMargins(0, 0, 0, 0)
        self._cards.setSpacing(0)
        inner = self._inner = QWidget()
        outer = QVBoxLayout(inner)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.addLayout(self._cards)
        outer.addStretch(1)
        scroll = scrolled(inner)
        head = row(self._title, None, self._scope)
        head.setContentsMargins(SPACE.FULL, SPACE.HALF, SPACE.HALF, SPACE.TIGHT)
        self._working = _WorkingBox(session, self.hide_working)
        self._working.hide()
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addLayout(head)
        layout.addWidget(rule())
        layout.addWidget(scroll, 1)
        layout.addWidget(self._working)
        session.assessed.connect(lambda _: self._refresh())
        session.working_asked.connect(self.show_working)
        session.working_made.connect(self.show_made)
        look.changed.connect(self._restyle)
        self._restyle()

    def _restyle(self) -> None:
        self.setFixedWidth(look.px(284))
        self._shown = ()
        self._refresh()

    def show_stage(self, stage: Stage) -> None:
        """Show the findings of a stage."""
        self._stage = stage
        self._refresh()

    def _toggle_scope(self) -> None:
        self._whole = not self._whole
        self._refresh()

    def setVisible(self, visible: bool) -> None:
        """What came about while it was out of sight is drawn when it comes into sight: making its cards takes as long as an
        edit."""
        if visible and self._stale and self.isHidden():
            self._draw()
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
        self._scope.setText("This stage" if self._whole else f"Whole job ({len(assessment.findings)})")
        self._show_working(assessment)
        # Findings are compared without their fixes, which are new functions each time and mean the same.
        shown: tuple[object, ...] = tuple((f.code, f.title, f.why, f.action, f.subjects) for f in findings)
        accepted = [one for one in assessment.accepted if self._whole or one.stage == self._stage]
        why = {(one.code, one.subjects): one.why for one in assessment.job.accepted}
        calm = "" if findings or not self._session.is_open else _calm(assessment)
        shown = (*shown, calm, *((one.code, one.subjects, why[one.code.value, one.subjects]) for one in accepted))
        if shown == self._shown:
            return
        self._shown = shown
        focus = self.window().focusWidget()
        had_keys = focus is not None and focus.hasFocus() and self._inner.isAncestorOf(focus)
        emptied(self._cards)
        for finding in findings[:MOST_SHOWN]:
            self._cards.addWidget(FindingCard(finding, self._session))
            self._cards.addWidget(rule())
        if len(findings) > MOST_SHOWN:
            more = label(f"and {len(findings) - MOST_SHOWN} more; the handover sheet lists all", "muted", wrap=True)
            more.setContentsMargins(SPACE.FULL, SPACE.HALF, SPACE.HALF, SPACE.HALF)
            self._cards.addWidget(more)
        if not findings:
            words = label(calm, "muted", wrap=True)
            words.setContentsMargins(SPACE.FULL, SPACE.FULL, SPACE.FULL, SPACE.FULL)
            self._cards.addWidget(words)
        for finding in accepted[:MOST_SHOWN]:
            self._cards.addWidget(AcceptedCard(finding, why[finding.code.value, finding.subjects], self._session))
            self._cards.addWidget(rule())
        keys_in_order(self)
        if had_keys:
            # The card that the keyboard was at is made anew, or gone with what it was about.
            first: QWidget = next(iter(self._inner.findChildren(QPushButton)), self._scope)
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


def _show(finding: Finding, session: Session) -> None:
    """Lead to the first that a finding is about, and select all of them."""
    session.go(finding.stage, finding.subjects[0])
    devices = session.assessment.facts.by_device_id
    about = [subject for subject in finding.subjects if subject in devices]
    if len(about) > 1:
        session.select(about)


def _calm(assessment: Assessment) -> str:
    """What stands where a stage has no finding: that there is none here is no promise for the others."""
    counts = Counter(finding.severity for finding in assessment.findings)
    open_ = [
        count(counts[severity], *words)
        for severity, words in (
            (Severity.FAULT, ("fault",)),
            (Severity.WARNING, ("warning",)),
            (Severity.TODO, ("thing to do", "things to do")),
        )
        if counts[severity]
    ]
    return f"Nothing here. On other pages: {names_listed(open_)}." if open_ else "Nothing needs you."


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
        self.setMaximumHeight(look.px(330))
        self.setMinimumHeight(look.px(240))

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
            self._session.notice("Working copied")
