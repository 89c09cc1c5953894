"""Going through a trial's pictures: to the next false alarm or miss, playing on, and what the detector sees."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QTimer, Signal
from PySide6.QtWidgets import QWidget

from eager_lens.core.motion.small import FPS
from eager_lens.desk.theme import SPACE
from eager_lens.desk.widgets.basics import Choice, button, label, row

STEP_NAMES = ("Picture", "Background", "Difference", "Over the threshold", "Neighbours agree")

BEFORE_S = 1.0
"""Going to a moment shows it from a little before, so that playing on shows how it came about."""


def clock_words(at_s: float) -> str:
    """A moment as hours, minutes and seconds."""
    whole = int(at_s)
    return f"{whole // 3600 % 24:02d}:{whole // 60 % 60:02d}:{whole % 60:02d}"


class Player(QWidget):
    """Buttons under the picture. It shows nothing itself: ``moment`` tells what to show."""

    moment = Signal(float)
    step_selected = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.at_s = 0.0
        self._false: tuple[float, ...] = ()
        self._missed: tuple[float, ...] = ()
        self._end_s = 0.0
        self.last_false = button("◀", lambda: self._jump(self._false, -1), tip="The previous false alarm")
        self.next_false = button("▶", lambda: self._jump(self._false, 1), tip="The next false alarm")
        self.next_miss = button("▶", lambda: self._jump(self._missed, 1), tip="The next missed visit")
        self.play = button("Play", self._toggle, "choice", "Five frames a second, as the detector gets them")
        self._time = label("00:00:00", "figure")
        self.step = Choice()
        self.step.setAccessibleName("What the detector sees")
        self.step.addItems(STEP_NAMES)
        self.step.currentIndexChanged.connect(lambda _: self.step_selected.emit())
        self._timer = QTimer(self, interval=round(1000 / FPS))
        self._timer.timeout.connect(self._on)
        self.setLayout(
            row(
                label("False", "small"),
                self.last_false,
                self.next_false,
                label("Miss", "small"),
                self.next_miss,
                self.play,
                self._time,
                None,
                self.step,
                spacing=SPACE.TIGHT,
            )
        )
        self.show_moments((), (), 0.0)

    def show_moments(self, false: Sequence[float], missed: Sequence[float], end_s: float) -> None:
        """What can be gone to, and where the pictures end."""
        self._false, self._missed, self._end_s = tuple(sorted(false)), tuple(sorted(missed)), end_s
        for part in (self.last_false, self.next_false):
            part.setEnabled(bool(self._false))
        self.next_miss.setEnabled(bool(self._missed))
        self.play.setEnabled(end_s > 0)

    def show_time(self, at_s: float) -> None:
        """The moment that is shown."""
        self.at_s = at_s
        self._time.setText(clock_words(at_s))

    def _jump(self, moments: Sequence[float], way: int) -> None:
        """To the next or the last moment, round the end."""
        starts = [max(0.0, at_s - BEFORE_S) for at_s in moments]
        if way > 0:
            found = next((one for one in starts if one > self.at_s + 0.01), starts[0])
        else:
            found = next((one for one in reversed(starts) if one < self.at_s - 0.01), starts[-1])
        self.moment.emit(found)

    def _toggle(self) -> None:
        if self._timer.isActive():
            self.stop()
        else:
            self._timer.start()
            self.play.setChecked(True)

    def stop(self) -> None:
        """Stand still."""
        self._timer.stop()
        self.play.setChecked(False)

    def _on(self) -> None:
        if not self.isVisible() or self.at_s + 1 / FPS >= self._end_s:
            self.stop()
            return
        self.moment.emit(self.at_s + 1 / FPS)
