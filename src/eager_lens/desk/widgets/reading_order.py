"""The order in which Tab walks: as one reads, also for widgets that were put between others later."""

from __future__ import annotations

from collections.abc import Iterator

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QGridLayout, QLayout, QScrollArea, QSplitter, QStackedWidget, QWidget


def keys_in_order(root: QWidget) -> None:
    """Have Tab walk through a widget's children in the order of its layouts. Called after some of them were made anew."""
    before: QWidget | None = None
    for one in _in_order(root):
        if before is not None:
            QWidget.setTabOrder(before, one)
        before = one


def _in_order(widget: QWidget) -> Iterator[QWidget]:
    if widget.focusPolicy() & Qt.FocusPolicy.TabFocus and widget.focusProxy() is None:
        yield widget
    if isinstance(widget, QScrollArea):
        inner = [widget.widget()]
    elif isinstance(widget, QSplitter | QStackedWidget):
        inner = [widget.widget(at) for at in range(widget.count())]
    else:
        inner = list(_laid_out(widget.layout()))
    for one in inner:
        if one is not None:
            yield from _in_order(one)


def _laid_out(layout: QLayout | None) -> Iterator[QWidget]:
    """The widgets of a layout and of those inside it; of a grid row by row."""
    if layout is None:
        return
    numbers = range(layout.count())
    if isinstance(layout, QGridLayout):
        numbers = sorted(numbers, key=lambda at: layout.getItemPosition(at)[:2])  # type: ignore[index, assignment]
    for at in numbers:
        item = layout.itemAt(at)
        if item is None:
            continue
        if (widget := item.widget()) is not None:
            yield widget
        else:
            yield from _laid_out(item.layout())
