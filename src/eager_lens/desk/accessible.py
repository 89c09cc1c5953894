"""What a screen reader is told of widgets that paint themselves: their role. Name and content they tell by Qt's own means."""

from __future__ import annotations

from typing import Any

from PySide6.QtGui import QAccessible, QAccessibleInterface
from PySide6.QtWidgets import QAccessibleWidget, QWidget

AccessibleRole = QAccessible.Role

_installed = False


def _made(class_name: str, thing: Any) -> QAccessibleInterface | None:
    """An interface for widgets that name a role of their own; Qt makes that of all others."""
    role = getattr(thing, "accessible_role", None)
    return QAccessibleWidget(thing, role) if role is not None and isinstance(thing, QWidget) else None


def install() -> None:
    """Have Qt ask for roles here, once in a process."""
    global _installed
    if not _installed:
        QAccessible.installFactory(_made)
        _installed = True
