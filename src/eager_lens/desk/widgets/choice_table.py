"""A table of things to choose for before they go into the job: what is selected in it stays in the view."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from PySide6.QtCore import QModelIndex

from eager_lens.core.job.edits import Edit
from eager_lens.core.job.model import Job
from eager_lens.desk.session import Session
from eager_lens.desk.widgets.record_model import GroupRow, TableColumn
from eager_lens.desk.widgets.record_table import RecordTable


def CHOSEN(parts: Sequence[Any], text: str, job: Job) -> Edit:
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
