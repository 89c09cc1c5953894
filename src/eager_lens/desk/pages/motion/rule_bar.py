"""The settings of a rule in a line, kinds, and saved rules by name.

The way a line is crossed, and saving and forgetting, belong to it too; the view lays them out under the picture.
"""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial
from typing import get_args

from PySide6.QtCore import QEvent, QObject, Signal
from PySide6.QtWidgets import QLineEdit, QMenu, QWidget

from eager_lens.core.errors import EagerLensError
from eager_lens.core.job.model import SavedRule, changed
from eager_lens.core.units import figure
from eager_lens.core.values.kinds import KINDS, Kind
from eager_lens.core.values.motion_rule import Direction, MotionRule
from eager_lens.desk.theme import SPACE
from eager_lens.desk.widgets.basics import Choice, button
from eager_lens.desk.widgets.flow import flow, pair
from eager_lens.desk.widgets.number_field import NumberField

FIELDS = (
    ("sensitivity", "Sensitivity", "of 100", 82),
    ("smallest_m", "Smallest", "m", 58),
    ("largest_m", "Largest", "m", 58),
    ("shortest_s", "Moves for", "s", 58),
)

SIZES = ("smallest_m", "largest_m")

OWN = "Camera settings"


class RuleBar(QWidget):
    """``edited`` tells the new rule and what was done; ``given`` the saved rule that was selected; ``saved`` a name."""

    edited = Signal(object, str)
    given = Signal(str)
    saved = Signal(str)
    removed = Signal(str)
    refused = Signal(str)
    sizes_focused = Signal(bool)
    """A size is being typed, or no longer."""

    def __init__(self) -> None:
        super().__init__()
        self._rule = MotionRule()
        self.fields: dict[str, NumberField] = {}
        parts: list[QWidget] = []
        for name, words, unit, width in FIELDS:
            field = self.fields[name] = NumberField(words, unit, width=width)
            field.typed.connect(partial(self._typed, name))
            field.refused.connect(self.refused)
            if name in SIZES:
                field.installEventFilter(self)
            parts.append(pair(words, field))
        self.kinds = button(
            "All objects", self._ask_kinds, "quiet", "Object classes that trigger, if the camera can tell them apart"
        )
        self._menu = QMenu(self)
        self._ticks = {}
        for kind in KINDS:
            tick = self._menu.addAction(kind)
            tick.setCheckable(True)
            tick.triggered.connect(lambda _=False, kind=kind: self._ticked(kind))
            self._ticks[kind] = tick
        self.direction = Choice()
        self.direction.setAccessibleName("Direction across the line")
        self.direction.addItems(get_args(Direction))
        self.direction.currentTextChanged.connect(self._turned)
        self.names = Choice()
        self.names.setAccessibleName("Saved rules")
        self.names.setMinimumContentsLength(12)
        self.names.activated.connect(self._selected)
        self.save = button("Save as…", self._ask_name, "quiet", "Save the rule under a name, for other cameras")
        self.name = QLineEdit()
        self.name.setPlaceholderText("Name, then Return")
        self.name.setAccessibleName("Name of the rule")
        self.name.returnPressed.connect(self._named)
        self.name.hide()
        self.remove = button("Remove", self._remove, "quiet", "Remove the saved rule; cameras keep their settings")
        self.setLayout(flow(*parts, self.kinds, spacing=SPACE.TIGHT))

    def show_rule(self, rule: MotionRule, saved: Sequence[SavedRule]) -> None:
        """Show a rule, and the names it could be given."""
        self._rule = rule
        for name, field in self.fields.items():
            field.show_value(getattr(rule, name))
        for kind, tick in self._ticks.items():
            tick.setChecked(kind in rule.kinds)
        self.kinds.setText("Objects: " + ", ".join(rule.kinds) if rule.kinds else "All objects")
        self.direction.setVisible(rule.line is not None)
        if rule.line is not None:
            self.direction.blockSignals(True)
            self.direction.setCurrentText(rule.line.direction)
            self.direction.blockSignals(False)
        fitting = next((one.id for one in saved if one.rule == rule), "")
        self.names.offer([("", OWN), *((one.id, one.name[:40]) for one in saved)], fitting)
        self.names.setVisible(bool(saved))
        self.remove.setVisible(bool(fitting))

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Tell when a size is being typed."""
        if event.type() in (QEvent.Type.FocusIn, QEvent.Type.FocusOut):
            self.sizes_focused.emit(event.type() == QEvent.Type.FocusIn)
        return super().eventFilter(watched, event)

    def _typed(self, name: str, value: float) -> None:
        words, unit = next((words, unit) for field, words, unit, _ in FIELDS if field == name)
        try:
            self.edited.emit(changed(self._rule, **{name: value}), f"{words} {figure(value)} {unit}")
        except EagerLensError as error:
            self.refused.emit(str(error))
        self.fields[name].show_value(getattr(self._rule, name))

    def _ask_kinds(self) -> None:
        self._menu.popup(self.kinds.mapToGlobal(self.kinds.rect().bottomLeft()))

    def _ticked(self, kind: Kind) -> None:
        kinds = tuple(one for one in KINDS if (one in self._rule.kinds) != (one == kind))
        self.edited.emit(changed(self._rule, kinds=kinds), "Object classes")

    def _turned(self, direction: str) -> None:
        if self._rule.line is not None:
            line = changed(self._rule.line, direction=direction)
            self.edited.emit(changed(self._rule, line=line), f"Line crossed {direction}")

    def _selected(self, at: int) -> None:
        rule_id = str(self.names.itemData(at) or "")
        if rule_id:
            self.given.emit(rule_id)

    def _ask_name(self) -> None:
        self.save.hide()
        self.name.setText("")
        self.name.show()
        self.name.setFocus()

    def _named(self) -> None:
        self.name.hide()
        self.save.show()
        self.saved.emit(self.name.text())

    def _remove(self) -> None:
        self.removed.emit(str(self.names.currentData() or ""))
