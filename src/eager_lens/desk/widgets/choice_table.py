"""A table of things to choose for before they go into the job: what is selected in it stays in the view."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from PySide6.QtCore import QModelIndex
from PySide6.QtWidgets import QWidget

from eager_lens.core.job.edits import Edit
from eager_lens.core.job.model import Job
from eager_lens.desk.session import Session
from eager_lens.desk.theme import SPACE
from eager_lens.desk.widgets.basics import column, label, row
from eager_lens.desk.widgets.record_model import GroupRow, TableColumn
from eager_lens.desk.widgets.record_table import RecordTable


def no_edit(parts: Sequence[Any], text: str, job: Job) -> Edit:
    """The edit of a column of choices: none, since the view keeps what was chosen."""
    return Edit("", lambda unchanged: unchanged)


class ChoiceTable(RecordTable):
    """A table whose choices go to ``choose``, with the rows that they are for; with several selected, for all of them."""

    def __init__(
        self, session: Session, columns: Sequence[TableColumn], choose: Callable[[Sequence[Any], str], bool]
    ) -> None:
        self._choose = choose
        super().__init__(session, columns, shares_selection=False)

    def _edited(self, index: QModelIndex, text: str) -> bool:
        part = self.records.at(index.row())
        if isinstance(part, GroupRow):
            return False
        selected = self.selected_parts()
        return self._choose(selected if any(one.id == part.id for one in selected) else [part], text)

    def paste(self, text: str) -> None:
        """Nothing is pasted here: the rows are what was read."""


class ChoicePage(QWidget):
    """A question in the page's place: what it is about, the table of what to choose for, and the answers under it."""

    def __init__(self, table: ChoiceTable, *answers: QWidget | None) -> None:
        super().__init__()
        self.table = table
        self.title = label("", "verdict", wrap=True)
        self.words = label("", "muted", wrap=True)
        layout = column(self.title, self.words, table, row(*answers), spacing=SPACE.HALF)
        layout.setStretch(2, 1)
        layout.setContentsMargins(SPACE.WIDE, SPACE.FULL, SPACE.WIDE, SPACE.FULL)
        self.setLayout(layout)
