"""The knobs of a drawn scene, in physical units."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QGridLayout, QLineEdit, QWidget

from eager_lens.core.errors import EagerLensError
from eager_lens.core.job.fields import number_from
from eager_lens.core.job.model import changed
from eager_lens.core.motion.view import View
from eager_lens.core.motion.weather import KNOBS, Knob, Weather
from eager_lens.core.units import figure
from eager_lens.desk.theme import SPACE, look
from eager_lens.desk.widgets.basics import button, column, label, row


class WeatherPanel(QWidget):
    """A field for each knob, in two columns. ``turned`` tells the new weather; None: the scene's own."""

    turned = Signal(object)
    refused = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self._weather = Weather()
        self.fields: dict[str, QLineEdit] = {}
        grid = QGridLayout()
        grid.setHorizontalSpacing(SPACE.HALF)
        grid.setVerticalSpacing(SPACE.TIGHT)
        for at, knob in enumerate(KNOBS):
            field = self.fields[knob.field] = QLineEdit()
            field.setAccessibleName(f"{knob.words}, {knob.unit}")
            field.setMaximumWidth(look.px(48))
            field.editingFinished.connect(lambda knob=knob: self._typed(knob))
            line, side = at % 5, at // 5 * 2
            grid.addWidget(label(f"{knob.words}, {knob.unit}", "small", wrap=True), line, side)
            grid.addWidget(field, line, side + 1)
        grid.setColumnStretch(0, 1)
        grid.setColumnStretch(2, 1)
        self._own = button("The scene's own weather", lambda: self.turned.emit(None), "quiet")
        self.setLayout(column(label("Weather of the scene", "heading"), grid, row(self._own, None), None))

    def show_view(self, view: View, is_own: bool) -> None:
        """Show a scene's weather; ``is_own``: nobody turned a knob."""
        self._weather = view.weather
        for knob in KNOBS:
            if not self.fields[knob.field].hasFocus():
                self._fill(knob)
        self._own.setEnabled(not is_own)

    def _fill(self, knob: Knob) -> None:
        self.fields[knob.field].setText(figure(knob.scale * getattr(self._weather, knob.field), 3))

    def _typed(self, knob: Knob) -> None:
        text = self.fields[knob.field].text()
        if text == figure(knob.scale * getattr(self._weather, knob.field), 3):
            return
        try:
            self.turned.emit(changed(self._weather, **{knob.field: number_from(text) / knob.scale}))
        except (EagerLensError, ValueError) as error:
            self.refused.emit(f"{knob.words}: {getattr(error, 'problem', error)}")
            self._fill(knob)
