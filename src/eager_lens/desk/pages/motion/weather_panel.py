"""The knobs of a drawn scene, in physical units."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QWidget

from eager_lens.core.errors import EagerLensError
from eager_lens.core.job.model import changed
from eager_lens.core.motion.view import View
from eager_lens.core.values.weather import KNOBS, Knob, Weather
from eager_lens.desk.theme import look
from eager_lens.desk.widgets.basics import button, column, held, label, row
from eager_lens.desk.widgets.flow import flow
from eager_lens.desk.widgets.number_field import NumberField

PART_PX = 112


class WeatherPanel(QWidget):
    """A field for each knob, in as many columns as there is room for. ``turned`` tells the new weather; None: the scene's own."""

    turned = Signal(object)
    refused = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self._weather = Weather()
        self.fields: dict[str, NumberField] = {}
        parts: list[QWidget] = []
        for knob in KNOBS:
            field = self.fields[knob.field] = NumberField(knob.words, knob.unit, width=80)
            field.typed.connect(partial(self._typed, knob))
            field.refused.connect(self.refused)
            part = held(column(label(knob.words, "small"), field, spacing=0))
            look.fix_width(part, PART_PX)
            parts.append(part)
        self._own = button("The scene's own weather", lambda: self.turned.emit(None), "quiet")
        self.setLayout(column(label("Weather of the scene", "heading"), flow(*parts), row(self._own, None), None))

    def show_view(self, view: View, is_own: bool) -> None:
        """Show a scene's weather; ``is_own``: nobody turned a knob."""
        self._weather = view.weather
        for knob in KNOBS:
            self._fill(knob)
        self._own.setEnabled(not is_own)

    def _fill(self, knob: Knob) -> None:
        self.fields[knob.field].show_value(round(knob.scale * getattr(self._weather, knob.field), 6))

    def _typed(self, knob: Knob, value: float) -> None:
        try:
            self.turned.emit(changed(self._weather, **{knob.field: value / knob.scale}))
        except EagerLensError as error:
            self.refused.emit(str(error))
        self._fill(knob)
