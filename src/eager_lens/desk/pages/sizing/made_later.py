"""A place for a view that is made when somebody looks at it first."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtWidgets import QVBoxLayout, QWidget


class MadeLater(QWidget):
    """Stands in a stack in its view's place. A page of many views would else be made as a whole before its first is seen."""

    def __init__(self, make: Callable[[], QWidget]) -> None:
        super().__init__()
        self._make: Callable[[], QWidget] | None = make
        self._layout = QVBoxLayout(self)
        self._layout.setContentsMargins(0, 0, 0, 0)

    def fill(self) -> bool:
        """Make the view, unless that was done; whether it is new."""
        make, self._make = self._make, None
        if make is not None:
            self._layout.addWidget(make())
        return make is not None
