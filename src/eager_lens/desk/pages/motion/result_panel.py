"""What a rule did and what would be better: causes, the curve of misses against false alarms, the proposal with its proof."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QWidget

from eager_lens.core.plain_text import inside
from eager_lens.core.units import count, figure, fixed
from eager_lens.core.values.motion_rule import MotionRule
from eager_lens.desk.pages.motion.tradeoff_chart import Spot, TradeoffChart, Tried
from eager_lens.desk.widgets.basics import button, column, label, row

if TYPE_CHECKING:
    from eager_lens.core.motion.outcome import Outcome
    from eager_lens.core.motion.tuning.other_days import Gain
    from eager_lens.core.motion.tuning.proposal import Proposal, TuningPoint

SETTINGS = (
    ("sensitivity", "Sensitivity", ""),
    ("smallest_m", "Smallest", " m"),
    ("largest_m", "Largest", " m"),
    ("shortest_s", "Moves for", " s"),
)


class ResultPanel(QWidget):
    """Words and a chart. ``taken`` tells a rule to take over: the proposal, or a setting of the chart."""

    taken = Signal(object, str)

    def __init__(self) -> None:
        super().__init__()
        self.proposal: Proposal | None = None
        self.causes = label("", "", wrap=True)
        self._heading = label("Missed visits, %, against false alarms", "heading")
        self.chart = TradeoffChart()
        self.chart.empty_words = (
            "“Suggest a better rule” tries sensitivities, sizes and exclusion zones in several weathers, plots them here, and "
            "checks the best on other days."
        )
        self.chart.picked.connect(self._picked)
        self.changes = label("", "", wrap=True)
        self.proof = label("", "", wrap=True)
        self.take = button("Apply this rule", self._take, "main")
        layout = column(self.causes, self.changes, self.proof, row(self.take, None), self._heading, self.chart)
        layout.setStretch(5, 1)
        self.setLayout(layout)

    def show_result(self, outcome: Outcome | None, words: str, proposal: Proposal | None, rule: MotionRule) -> None:
        """Show what is known."""
        self.proposal = proposal
        self.causes.setText(words)
        self.causes.setVisible(bool(words) and proposal is None)
        self._show_chart(outcome, proposal, rule)
        is_shown = proposal is not None and not proposal.is_refuted
        self.take.setVisible(proposal is not None and proposal.is_better and proposal.rule != rule)
        self.changes.setText("" if proposal is None else _changes(rule, proposal))
        self.changes.setVisible(is_shown)
        self.proof.setText("" if proposal is None else _proof(proposal))
        self.proof.setVisible(proposal is not None)

    def _show_chart(self, outcome: Outcome | None, proposal: Proposal | None, rule: MotionRule) -> None:
        if proposal is None:
            spots = [] if outcome is None else [Spot(outcome.false_per_h, outcome.missed_share, "now", "now")]
            self.chart.show_settings((), (), spots)
            return
        from eager_lens.core.motion.tuning.proposal import front_of

        tried = [_tried(one.rule, one.left_out, one.false_per_h, one.missed_share) for one in proposal.points]
        fronts = [
            ([_tried(one.rule, left_out, one.false_per_h, one.missed_share) for one in front], not left_out)
            for left_out in (False, True)
            for front in (front_of(proposal.points, left_out),)
            if front
        ]
        spots = [Spot(one.false_per_h, one.missed_share, "now", "now") for one in _now_at(rule, proposal)]
        if proposal.rule != rule and not proposal.is_refuted:
            best = proposal.best
            spots.append(Spot(best.false_per_h, best.missed_share, "proposed", "proposed"))
        self.chart.show_settings(tried, fronts, spots)

    def _picked(self, at: int) -> None:
        if self.proposal is not None:
            self.taken.emit(self.proposal.points[at].rule, "Apply a setting of the curve")

    def _take(self) -> None:
        if self.proposal is not None:
            self.taken.emit(self.proposal.rule, "Apply the tuned rule")


def _tried(rule: MotionRule, left_out: bool, false_per_h: float, missed_share: float) -> Tried:
    words = f"sensitivity {figure(rule.sensitivity)}, smallest {figure(rule.smallest_m)} m"
    return Tried(false_per_h, missed_share, words + (", exclusion zones" if left_out else ""), left_out)


def _now_at(rule: MotionRule, proposal: Proposal) -> list[TuningPoint]:
    """The rule as it is among what was tried; nothing where it is another by now."""
    return [one for one in (proposal.now, *proposal.points) if one.rule == rule][:1]


def _changes(rule: MotionRule, proposal: Proposal) -> str:
    """What the proposal changes, and what its zones cost."""
    if proposal.rule == rule:
        return "The rule is as proposed."
    changes = [
        f"{inside(words)} {figure(getattr(proposal.rule, name))}{unit}"
        for name, words, unit in SETTINGS
        if getattr(rule, name) != getattr(proposal.rule, name)
    ]
    if proposal.zones:
        changes.append(f"{count(len(proposal.zones), 'exclusion zone')} (dashed)")
    words = "Proposed: " + ", ".join(changes) + "."
    if proposal.zones:
        share = f"{figure(100 * proposal.left_out_share, 2)} %"
        takes = "the zone covers" if len(proposal.zones) == 1 else "the zones cover"
        words += f" Nothing is detected in excluded parts: {takes} {share} of the picture."
    return words


def _proof(proposal: Proposal) -> str:
    """The proof, or why there is none."""
    before, after = proposal.before, proposal.after
    if before is None or after is None:
        return "Stopped before the check on other days. Try the rule before you rely on it."
    if proposal.rule == proposal.now.rule:
        return (
            f"No better rule was found. On other days this rule gives {figure(before.false_per_h, 2)} false alarms an hour and "
            f"misses {fixed(100 * before.missed_share, 1)} % of {count(before.visits, 'visit')}."
        )
    watched = f"{figure(after.watched_s / 60)} min"
    less = figure(after.false_per_h, 2) if after.false_per_h else f"none in {watched}"
    words = f"{figure(before.false_per_h, 2)} false alarms an hour → {less}; missed " + ", ".join(
        f"{before.missed[group]} → {after.missed[group]} of {count(after.come[group], *name)}"
        for group, name in enumerate(_groups(after))
        if after.come[group]
    )
    if proposal.is_better:
        return f"On other days, in other weather: {words}."
    return f"No better rule was found: on other days the best one gave {words}."


def _groups(gain: Gain) -> tuple[tuple[str, str], ...]:
    """How one and several of each group are called; of marks on a clip nobody knows who is a child."""
    from eager_lens.core.motion.tuning.takes import CHILDREN  # loaded with the search, not with the window

    people = ("adult", "adults") if gain.come[CHILDREN] else ("person", "people")
    return people, ("child", "children"), ("other", "others")
