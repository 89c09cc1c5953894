"""Words that may come from a file, shown as they are.

The toolkit guesses at markup in tool tips, and takes & for a key in menus and buttons: a name with an image tag in it
would be fetched and drawn. Every tool tip goes through here.
"""

from __future__ import annotations

import html

from PySide6.QtCore import QPoint
from PySide6.QtGui import Qt
from PySide6.QtWidgets import QToolTip, QWidget


def as_plain(text: str) -> str:
    """A text that shows as itself where the toolkit guesses at markup."""
    if not Qt.mightBeRichText(text):
        return text
    return f"<qt>{html.escape(text).replace(chr(10), '<br>')}</qt>"


def set_tip(widget: QWidget, text: str) -> None:
    """Give a widget a tool tip."""
    widget.setToolTip(as_plain(text))


def show_tip(at: QPoint, text: str, widget: QWidget) -> None:
    """Show a tool tip now, at a place of the screen."""
    QToolTip.showText(at, as_plain(text), widget)


def as_label(text: str) -> str:
    """A text for a menu or a button in which & is just that."""
    return text.replace("&", "&&")
