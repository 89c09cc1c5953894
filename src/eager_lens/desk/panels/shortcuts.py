"""The list of all keys."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog, QLabel, QWidget

from eager_lens.desk.actions import shortcut_list
from eager_lens.desk.theme import SPACE, look
from eager_lens.desk.widgets.basics import button, column, row, scrolled


class Shortcuts(QDialog):
    """Lists the keys beside what they do. It is gone when it is closed."""

    def __init__(self, window: QWidget) -> None:
        super().__init__(window)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setWindowTitle("Shortcuts")
        rows = "".join(
            f"<tr><td><b>{keys}</b>&nbsp;&nbsp;&nbsp;</td><td>{words}</td></tr>" for keys, words in shortcut_list()
        )
        table = QLabel(f"<table cellpadding='3'>{rows}</table>")
        table.setTextFormat(Qt.TextFormat.RichText)
        table.setWordWrap(True)
        table.setAlignment(Qt.AlignmentFlag.AlignTop)
        area = scrolled(table)
        area.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        area.setAccessibleName("All keys")
        close = button("Close", self.close, "main")
        layout = column(area, row(None, close))
        layout.setStretch(0, 1)
        layout.setContentsMargins(SPACE.FULL, SPACE.FULL, SPACE.FULL, SPACE.FULL)
        self.setLayout(layout)
        look.apply_style(self)
        self.resize(min(look.px(620), window.width()), min(look.px(640), window.height() - look.px(40)))
        area.setFocus()
