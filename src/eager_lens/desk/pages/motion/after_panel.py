"""Seconds to record after an event, from the gaps between the triggers of real visits; and events as measured."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QGridLayout, QWidget

from eager_lens.core.job.model import Camera
from eager_lens.core.units import figure, fixed
from eager_lens.desk.theme import SPACE
from eager_lens.desk.widgets.basics import button, column, emptied, label, row

if TYPE_CHECKING:
    from eager_lens.core.motion.outcome import Outcome

HEADS = ("After", "Clips per visit", "In one clip", "Recorded")


class AfterPanel(QWidget):
    """A small table, and two buttons: ``after`` tells the seconds, ``events`` how many an hour and how long."""

    after = Signal(float)
    events = Signal(float, float)

    def __init__(self) -> None:
        super().__init__()
        self._post_s = 0.0
        self._events = (0.0, 0.0)
        self.words = label("", "muted", wrap=True)
        self._grid = QGridLayout()
        self._grid.setHorizontalSpacing(SPACE.HALF)
        self._grid.setVerticalSpacing(SPACE.TIGHT)
        self.set_after = button("", lambda: self.after.emit(self._post_s), "main")
        self.take_events = button(
            "Use these events", lambda: self.events.emit(*self._events), tip="As measured events of the camera"
        )
        self.measured = label("", "small", wrap=True)
        self.setLayout(
            column(
                label("Post-recording from the gaps", "heading"),
                self.words,
                self._grid,
                row(self.set_after, None),
                self.measured,
                row(self.take_events, None),
                None,
            )
        )

    def show_outcome(self, outcome: Outcome | None, camera: Camera | None) -> None:
        """Show after-times for what was caught, and the events an hour."""
        emptied(self._grid)
        known = outcome is not None and camera is not None and bool(outcome.triggers or outcome.of_visits)
        for part in (self.set_after, self.take_events, self.measured):
            part.setVisible(known)
        if outcome is None or camera is None or not known:
            self.words.setText("Try the rule first; it finds the gaps between movements of a visit.")
            return
        from eager_lens.core.tried_rule.after import after_times, events_of, sensible_after_s

        per_h, event_s = events_of(outcome)
        times = after_times(outcome, camera.pre_recording_s, per_h, event_s)
        best = sensible_after_s(times)
        for column_at, head in enumerate(HEADS):
            self._grid.addWidget(label(head, "small"), 0, column_at)
        for line, one in enumerate(times, 1):
            cells = (
                f"{figure(one.post_s)} s",
                fixed(one.fragments, 1),
                f"{fixed(100 * one.in_one_clip, 0)} %",
                f"{fixed(100 * one.recorded, 1)} %",
            )
            for column_at, words in enumerate(cells):
                self._grid.addWidget(label(words, "figure" if one is best else ""), line, column_at)
        source = "of all frames" if outcome.is_whole else "by formula"
        self.words.setText(
            f"With {figure(camera.pre_recording_s)} s of pre-recording; recorded share {source}. With {figure(best.post_s)} s "
            f"of post-recording {fixed(100 * best.in_one_clip, 0)} % of the visits are in one clip."
        )
        self._post_s, self._events = best.post_s, (round(per_h, 1), round(event_s, 1))
        self.set_after.setText(f"Post-recording {figure(best.post_s)} s")
        self.set_after.setEnabled(best.post_s != camera.post_recording_s)
        self.measured.setText(
            f"Counted here: {figure(per_h)} events an hour of {figure(event_s, 2)} s, true detections and false alarms. If you "
            "apply them, sizing uses them as measured."
        )
        self.take_events.setEnabled(event_s > 0)
