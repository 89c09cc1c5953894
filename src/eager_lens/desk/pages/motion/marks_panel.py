"""Truth marked by hand on a clip: who is there from when to when."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QVBoxLayout, QWidget

from eager_lens.core.errors import EagerLensError
from eager_lens.core.job.model import changed
from eager_lens.core.values.kinds import KINDS
from eager_lens.core.values.marks import Mark, TriedClip
from eager_lens.desk.widgets.basics import Choice, button, column, emptied, label, row
from eager_lens.desk.widgets.number_field import NumberField
from eager_lens.desk.widgets.reading_order import keys_in_order


def moment_words(at_s: float) -> str:
    """A moment of a clip as minutes and seconds."""
    return f"{int(at_s) // 60}:{at_s % 60:04.1f}"


class MarksPanel(QWidget):
    """A kind, two buttons for its coming and going, and the list. ``changed`` tells the clip with its new marks."""

    clip_changed = Signal(object, str)
    picked = Signal(float)
    refused = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.at_s = 0.0
        self._clip: TriedClip | None = None
        self._begins_s: float | None = None
        self.kind = Choice()
        self.kind.setAccessibleName("What comes")
        self.kind.addItems([*KINDS, "not to be detected"])
        self.comes = button("Appears here", self._comes, tip="At the time shown")
        self.goes = button("Leaves here", self._goes, tip="At the time shown")
        self.horizon = NumberField("Horizon, from the top", "%", width=58)
        self.horizon.typed.connect(self._horizon_typed)
        self.horizon.refused.connect(self.refused)
        self.words = label("", "muted", wrap=True)
        self._list = QVBoxLayout()
        layout = column(
            label("True detections", "heading"),
            self.words,
            row(label("Who", "small"), self.kind, None),
            row(self.comes, self.goes, None),
            self._list,
            None,
            row(label("Horizon, from the top", "small"), self.horizon, None),
        )
        self.setLayout(layout)

    def show_clip(self, clip: TriedClip | None) -> None:
        """Show the marks of a clip; None: a scene is drawn, which knows its own truth."""
        self._clip = clip
        for part in (self.kind, self.comes, self.goes, self.horizon):
            part.setEnabled(clip is not None)
        emptied(self._list)
        if clip is None:
            self._begins_s = None
            self.words.setText("Marks are for recorded clips; a drawn scene needs none.")
            return
        self.horizon.show_value(round(100 * clip.horizon, 6))
        if self._begins_s is None:
            self.words.setText(
                "Go to the moment when a person or vehicle appears and mark it, then to the moment when it has left."
            )
        else:
            self.words.setText(f"Appears at {moment_words(self._begins_s)}; now go to the moment when it has left.")
        for at, mark in enumerate(clip.marks):
            span = f"{moment_words(mark.begins_s)} to {moment_words(mark.ends_s)}"
            who = mark.kind if mark.counts else "not to be detected"
            go = button(f"{span}  {who}", partial(self.picked.emit, mark.begins_s), "quiet")
            gone = button("Remove", partial(self._remove, at), "quiet", f"The mark {span}")
            self._list.addLayout(row(go, None, gone))
        keys_in_order(self)

    def _comes(self) -> None:
        self._begins_s = self.at_s
        self.show_clip(self._clip)

    def _goes(self) -> None:
        if self._clip is None or self._begins_s is None:
            self.refused.emit("Mark first the moment of appearing")
            return
        counts = self.kind.currentIndex() < len(KINDS)
        kind = KINDS[self.kind.currentIndex()] if counts else "animal"
        try:
            mark = changed(
                Mark(begins_s=0, ends_s=1), kind=kind, begins_s=self._begins_s, ends_s=self.at_s, counts=counts
            )
        except EagerLensError as error:
            self.refused.emit(str(error))
            return
        self._begins_s = None
        marks = sorted((*self._clip.marks, mark), key=lambda one: one.begins_s)
        self.clip_changed.emit(changed(self._clip, marks=tuple(marks)), "Mark a visit")

    def _remove(self, at: int) -> None:
        if self._clip is not None:
            marks = tuple(mark for number, mark in enumerate(self._clip.marks) if number != at)
            self.clip_changed.emit(changed(self._clip, marks=marks), "Remove a mark")

    def _horizon_typed(self, value: float) -> None:
        if self._clip is None:
            return
        try:
            self.clip_changed.emit(changed(self._clip, horizon=value / 100), "Set the horizon")
        except EagerLensError as error:
            self.refused.emit(str(error))
        self.horizon.show_value(round(100 * self._clip.horizon, 6))
