"""A number with its unit in one line: typed as people write it, refused with a word when it is none."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtGui import QFocusEvent
from PySide6.QtWidgets import QLineEdit

from eager_lens.core.job.fields import number_from
from eager_lens.core.units import figure
from eager_lens.desk.theme import look


class NumberField(QLineEdit):
    """Shows ``12 days``; while it is edited, only the number. Empty is allowed where ``empty_words`` are given."""

    typed = Signal(object)
    """A float, or None for an empty field."""
    refused = Signal(str)

    def __init__(self, name: str, unit: str, empty_words: str = "", width: int = 86) -> None:
        super().__init__()
        self._name, self._unit, self._empty_words = name, unit, empty_words
        self._value: float | None = None
        self.setAccessibleName(name)
        look.fix_width(self, width)
        self.editingFinished.connect(self._finished)

    @property
    def value(self) -> float | None:
        """The number last shown or taken."""
        return self._value

    def show_value(self, value: float | None) -> None:
        """Show a number, unless somebody is typing."""
        self._value = None if value is None else float(value)
        if not self.hasFocus():
            self._show_with_unit()
        elif not self.isModified():
            self._show_bare()

    def _show_bare(self) -> None:
        self.setText("" if self._value is None else figure(self._value, 9))
        self.selectAll()

    def _show_with_unit(self) -> None:
        words = self._empty_words if self._value is None else f"{figure(self._value, 9)} {self._unit}"
        self.setText(words.strip())

    def focusInEvent(self, event: QFocusEvent) -> None:
        """Leave the unit out while typing."""
        super().focusInEvent(event)
        self._show_bare()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        """Show the unit again."""
        super().focusOutEvent(event)
        self._show_with_unit()

    def _finished(self) -> None:
        text = self.text().removesuffix(self._empty_words).strip() if self._empty_words else self.text().strip()
        if not text and self._empty_words:
            value: float | None = None
        else:
            try:
                value = number_from(text, self._unit)
            except ValueError as error:
                self.refused.emit(f"{self._name}: {error}")
                return
        if value != self._value:
            self._value = value
            self.typed.emit(value)
