"""The work behind trying a rule, and what came of it: kept apart from how it is laid out, so that nothing stale is shown."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QWidget

from eager_lens.core.tried_rule.tried import Extent, Looked, TriedRule
from eager_lens.core.values.motion_rule import MotionRule
from eager_lens.desk.background import Task, Work
from eager_lens.desk.pages.motion.rule_editor import RuleEditor
from eager_lens.desk.session import Session
from eager_lens.desk.widgets.busy import Busy

if TYPE_CHECKING:
    from eager_lens.core.motion.outcome import Outcome
    from eager_lens.core.motion.source import Source
    from eager_lens.core.motion.tuning.proposal import Proposal


class TryWork(QObject):
    """Tries the editor's rule in its trial off the window's thread."""

    looked_at = Signal()
    """A picture is there, and perhaps an outcome."""
    proposed = Signal()
    """A better rule was looked for."""

    def __init__(self, session: Session, editor: RuleEditor, view: QWidget) -> None:
        super().__init__(view)
        self._editor = editor
        self.busy = Busy(session, view)
        self.looked: Looked | None = None
        """What was looked at last, with whichever rule."""
        self.proposal: Proposal | None = None
        self.source: Source | None = None
        """Where pictures come from: of what was looked at, or of one of its days."""
        self.asked_for: TriedRule | None = None
        self._proposed_in: TriedRule | None = None
        self._clip: tuple[str, Source] | None = None

    # ---- what still holds ------------------------------------------------------------------------------------------

    def fitting(self) -> Looked | None:
        """What the rule as it is did in this trial; None when it was not tried so."""
        looked = self.looked
        return looked if looked is not None and (looked.trial, looked.rule) == self._now() else None

    def outcome(self) -> Outcome | None:
        """The outcome of the rule as it is; None when there is none."""
        looked = self.fitting()
        return looked.outcome if looked is not None else None

    def fitting_proposal(self) -> Proposal | None:
        """What was found in this trial for rules like the one as it is: trying one of its settings keeps the others."""
        found, (trial, rule) = self.proposal, self._now()
        if found is None or self._proposed_in != trial:
            return None
        searched = found.now.rule
        return found if (rule.line, rule.kinds) == (searched.line, searched.kinds) else None

    def _now(self) -> tuple[TriedRule, MotionRule]:
        return self._editor.trial(), self._editor.rule()

    # ---- work ------------------------------------------------------------------------------------------------------

    def _known_clip(self, trial: TriedRule) -> Source | None:
        """The clip as it was read before."""
        known = self._clip
        return known[1] if known is not None and trial.clip is not None and known[0] == trial.clip.path else None

    def draw(self, trial: TriedRule) -> None:
        """Draw the pictures of a trial, without judging anything."""
        rule, known = self._editor.rule(), self._known_clip(trial)

        def work(task: Task) -> Work[Looked]:
            source = yield from trial.source(known)
            return Looked(trial, source, rule)

        self.looked, self.asked_for = None, trial
        self.busy.begin(work, self._take_looked)

    def look(self, extent: Extent) -> None:
        """Try the rule as it is, in as much of the trial as was asked for."""
        trial, rule = self._now()
        known = self._known_clip(trial)

        def work(task: Task) -> Work[Looked]:
            source = yield from trial.source(known)
            looked = yield from trial.look(source, rule, extent)
            return looked

        self.busy.begin(work, self._take_looked)

    def tune(self) -> None:
        """Look for a better rule, and prove it on pictures that it has not seen."""
        trial, rule = self._now()
        known = self._known_clip(trial)
        selected: list[Proposal] = []

        def work(task: Task) -> Work[Proposal]:
            source = yield from trial.source(known)
            proposal = yield from trial.suggest(source, rule, selected.append)
            return proposal

        def stopped() -> None:
            # What was found before its proof is worth its time.
            for proposal in selected:
                self._take_proposal(trial, proposal)

        self.busy.begin(work, partial(self._take_proposal, trial), stopped)

    def go_to_day(self, at_row: int) -> None:
        """Take pictures from one day of a windy week."""
        looked = self.looked
        if looked is not None and looked.days and 0 <= at_row < len(looked.days):
            self.source = looked.days[at_row].scene(looked.trial.view)

    def _take_looked(self, looked: Looked) -> None:
        self.looked, self.source = looked, looked.source
        if looked.trial.clip is not None:
            self._clip = (looked.trial.clip.path, looked.source)
        self.looked_at.emit()

    def _take_proposal(self, trial: TriedRule, proposal: Proposal) -> None:
        self.proposal, self._proposed_in = proposal, trial
        self.proposed.emit()
