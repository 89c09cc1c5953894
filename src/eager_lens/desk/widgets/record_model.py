"""Rows of a job's parts as a Qt table model: columns that know how to show and how to edit, rows grouped if wanted."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from enum import IntEnum
from typing import Any, Literal

from PySide6.QtCore import QAbstractTableModel, QMimeData, QModelIndex, QPersistentModelIndex, Qt
from PySide6.QtGui import QIcon

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.finding import Severity
from eager_lens.core.job.edits import Edit
from eager_lens.core.job.model import Job
from eager_lens.core.present.working import FigureRef
from eager_lens.core.reference.glossary import column_words
from eager_lens.core.units import THIN_SPACE
from eager_lens.desk.guard import tell_later
from eager_lens.desk.widgets.dragging import devices_mime
from eager_lens.desk.widgets.plain_words import as_plain

Index = QModelIndex | QPersistentModelIndex
ANY_INDEX = QModelIndex()

Mark = Severity | Literal["done"] | None
"""A finding's mark, or the tick of what is done."""


@dataclass(frozen=True)
class TableColumn:
    """One column.

    Attributes:
        show: the text of a part.
        edit: the edit for a text typed for some parts; None for a column that is worked out.
        choices: the texts to select from, where there is a list.
        assumed: whether a part's figure rests on an assumption (drawn with a dashed line under it).
        bar: a length from 0 to 1 drawn before the figure.
        working: the figure whose working a double click shows; None for a part that has none.
        group: the text of a group's row, for a sum.
        mark: the mark before the text; None for no mark.
        picture: a picture for each of the choices, where they have one.
        icon: a small picture before the text, by the text.
        one_by_one: typed for the cell's own row only, even with several selected: a name or an address is one device's.
    """

    id: str
    heading: str
    show: Callable[[Any, Assessment], str]
    edit: Callable[[Sequence[Any], str, Job], Edit] | None = None
    choices: Callable[[Any, Job], Sequence[str]] | None = None
    unit: str = ""
    align: Literal["left", "right"] = "left"
    width: int = 90
    stretch: bool = False
    assumed: Callable[[Any, Assessment], bool] | None = None
    bar: Callable[[Any, Assessment], float] | None = None
    working: Callable[[Any], FigureRef | None] | None = None
    group: Callable[[Sequence[Any], Assessment], str] | None = None
    one_by_one: bool = False
    mark: Callable[[Any, Assessment], Mark] | None = None
    picture: Callable[[str], QIcon] | None = None
    icon: Callable[[str], QIcon] | None = None


CANNOT_BE_SHOWN = "cannot be shown"
NOTHING: tuple[tuple[int, float, str], ...] = ()

_PIECES = re.compile(r"(\d+(?:\.\d+)?)")
_DOTTED = re.compile(r"\d+(?:\.\d+){2,}.*")


def natural_key(text: str) -> tuple[tuple[int, float, str], ...]:
    """What a cell is sorted by: figures in it by their value, addresses by their parts, the rest as letters."""
    bare = text.replace(THIN_SPACE, "").strip().casefold()
    if bare in ("", "–", "—", "none"):
        return NOTHING
    pieces = re.split(r"(\d+)", bare) if _DOTTED.match(bare) else _PIECES.split(bare)
    # Only a sign in front of the first figure counts; "10-20" is a range, not minus twenty.
    below = -1.0 if re.match(r"[-−]\d", bare) else 1.0
    return tuple(
        (0, below * float(one), "") if one[0].isdigit() else (1, 0.0, one)
        for one in pieces
        if one not in ("", "-", "−")
    )


@dataclass(frozen=True)
class GroupRow:
    """The row above the parts of one group."""

    label: str
    parts: tuple[Any, ...]
    folded: bool


class CellRole(IntEnum):
    """What the delegate asks for beyond Qt's own roles."""

    # Explicit numbers: reordering these must not change what a saved or running delegate asks for.
    ASSUMED = Qt.ItemDataRole.UserRole + 1
    BAR = Qt.ItemDataRole.UserRole + 2
    MARK = Qt.ItemDataRole.UserRole + 3
    GROUP = Qt.ItemDataRole.UserRole + 4
    CHOICES = Qt.ItemDataRole.UserRole + 5
    CELL_MARK = Qt.ItemDataRole.UserRole + 6


# Made once: a selection of all rows asks for the flags of every cell.
PLAIN = Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable | Qt.ItemFlag.ItemIsDragEnabled
EDITABLE = PLAIN | Qt.ItemFlag.ItemIsEditable


class RecordModel(QAbstractTableModel):
    """Parts of a job as rows. It holds no truth: ``show`` gives it parts, and editing is left to ``on_edit``."""

    def __init__(self, columns: Sequence[TableColumn], group_by: Callable[[Any], str] | None = None) -> None:
        super().__init__()
        self.columns = tuple(columns)
        self._group_by = group_by
        self._assessment: Assessment | None = None
        self._parts: tuple[Any, ...] = ()
        self._rows: list[Any] = []
        self._row_of: dict[str, int] = {}
        self._marks: dict[str, Severity] = {}
        self._folded: set[str] = set()
        self.sorted_at: int | None = None
        """The column that the rows are sorted by; None: as the job has them."""
        self.sorted_order = Qt.SortOrder.AscendingOrder
        self._rank: dict[str, int] = {}
        self.on_edit: Callable[[QModelIndex, str], bool] = lambda index, text: False

    # ---- order -----------------------------------------------------------------------------------------------------

    def sort_by(self, at: int) -> None:
        """Put the rows in the order of a column: upward, then downward, then as the job has them. Rows keep their places
        while they are edited, and new ones come last, so that nothing moves under somebody's hands."""
        if self.sorted_at != at:
            self.sorted_at, self.sorted_order = at, Qt.SortOrder.AscendingOrder
        elif self.sorted_order == Qt.SortOrder.AscendingOrder:
            self.sorted_order = Qt.SortOrder.DescendingOrder
        else:
            self.sorted_at = None
        self._rank = self._ranked()
        if self._assessment is not None:
            self.show(self._parts, self._assessment, self._marks)

    def forget_order(self) -> None:
        """Have the rows as the job has them: it is another job."""
        self.sorted_at, self._rank = None, {}

    def forget(self) -> None:
        """Show nothing, and hold nothing of what was shown."""
        self.forget_order()
        self._assessment, self._marks = None, {}
        if self._rows:
            self.beginResetModel()
            self._parts, self._rows, self._row_of = (), [], {}
            self.endResetModel()

    def _ranked(self) -> dict[str, int]:
        if self.sorted_at is None or self._assessment is None:
            return {}
        show, assessment = self.columns[self.sorted_at].show, self._assessment
        keyed = [(natural_key(_shown(show, part, assessment)), part.id) for part in self._parts]
        filled = [one for one in keyed if one[0] != NOTHING]
        filled.sort(key=lambda one: one[0], reverse=self.sorted_order == Qt.SortOrder.DescendingOrder)
        # What is empty stands last either way.
        empty = [one for one in keyed if one[0] == NOTHING]
        return {part_id: at for at, (_, part_id) in enumerate((*filled, *empty))}

    # ---- content -------------------------------------------------------------------------------------------------

    def show(self, parts: Sequence[Any], assessment: Assessment, marks: dict[str, Severity]) -> None:
        """Show parts. Rows are kept as they are where only their content changed."""
        self._assessment, self._marks = assessment, marks
        parts = tuple(parts)
        rows = self._laid_out(self._ordered(parts))
        # A reset loses editor, scroll position and current cell, so it happens only when rows come or go.
        same_shape = len(rows) == len(self._rows) and all(
            _key(new) == _key(old) for new, old in zip(rows, self._rows, strict=True)
        )
        if same_shape:
            self._parts, self._rows = parts, rows
            if rows:
                self.dataChanged.emit(self.index(0, 0), self.index(len(rows) - 1, len(self.columns) - 1))
            return
        self.beginResetModel()
        self._parts, self._rows = parts, rows
        self._row_of = {row.id: at for at, row in enumerate(rows) if not isinstance(row, GroupRow)}
        self.endResetModel()

    def _ordered(self, parts: tuple[Any, ...]) -> tuple[Any, ...]:
        if not self._rank:
            return parts
        # Parts that came after sorting have no rank and stand last.
        last = len(self._rank)
        return tuple(sorted(parts, key=lambda part: self._rank.get(part.id, last)))

    def _laid_out(self, parts: tuple[Any, ...]) -> list[Any]:
        if self._group_by is None:
            return list(parts)
        groups: dict[str, list[Any]] = {}
        for part in parts:
            groups.setdefault(self._group_by(part), []).append(part)
        rows: list[Any] = []
        for name, members in groups.items():
            folded = name in self._folded
            rows.append(GroupRow(name, tuple(members), folded))
            if not folded:
                rows += members
        return rows

    def fold(self, label: str, folded: bool) -> None:
        """Fold a group away or open it."""
        (self._folded.add if folded else self._folded.discard)(label)
        if self._assessment is not None:
            self.show(self._parts, self._assessment, self._marks)

    def unfold_for(self, part_id: str) -> None:
        """Open the group in which a part stands."""
        if self._group_by is None:
            return
        for part in self._parts:
            if part.id == part_id:
                self.fold(self._group_by(part), False)

    def at(self, row: int) -> Any:
        """The part or group of a row."""
        return self._rows[row]

    def row_of(self, part_id: str) -> int | None:
        """The row of a part, or None when it is not shown."""
        return self._row_of.get(part_id)

    @staticmethod
    def heading(column: TableColumn) -> str:
        """A column's heading with its unit."""
        return ", ".join(part for part in (column.heading, column.unit) if part)

    def shown_heading(self, at: int) -> str:
        """A column's heading as it stands above it: with an arrow where the rows are sorted by it."""
        words = self.heading(self.columns[at])
        if at != self.sorted_at:
            return words
        return f"{'↑' if self.sorted_order == Qt.SortOrder.AscendingOrder else '↓'} {words}"

    def key_of(self, row: int) -> tuple[str, str]:
        """What a row is, whatever its place: a part by its id, a group by its label."""
        return _key(self._rows[row])[:2]

    def row_with_key(self, key: tuple[str, str]) -> int | None:
        """The row that is this part or group, or None when it is not shown."""
        return next((at for at, row in enumerate(self._rows) if _key(row)[:2] == key), None)

    def group_rows(self) -> list[int]:
        """The rows that are groups."""
        return [at for at, row in enumerate(self._rows) if isinstance(row, GroupRow)]

    # ---- Qt's interface ------------------------------------------------------------------------------------------

    def rowCount(self, parent: Index = ANY_INDEX) -> int:
        """How many rows are shown."""
        return 0 if parent.isValid() else len(self._rows)

    def columnCount(self, parent: Index = ANY_INDEX) -> int:
        """How many columns there are."""
        return 0 if parent.isValid() else len(self.columns)

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        """The heading with its unit."""
        if orientation is not Qt.Orientation.Horizontal or not 0 <= section < len(self.columns):
            return None
        column = self.columns[section]
        if role == Qt.ItemDataRole.DisplayRole:
            return self.shown_heading(section)
        if role == Qt.ItemDataRole.TextAlignmentRole:
            return _alignment(column)
        if role == Qt.ItemDataRole.ToolTipRole:
            return as_plain(column_words(column.id)) or None
        return None

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        """Text, alignment and what the delegate draws besides. What cannot be worked out is said so, in its cell."""
        try:
            return self._data(index, role)
        except Exception as error:  # noqa: BLE001  (a value that nobody foresaw must not reach the toolkit as an error)
            tell_later(error)
            return CANNOT_BE_SHOWN if role == Qt.ItemDataRole.DisplayRole else None

    def _data(self, index: Index, role: int) -> Any:
        if not index.isValid() or self._assessment is None:
            return None
        part, column = self._rows[index.row()], self.columns[index.column()]
        if isinstance(part, GroupRow):
            return self._group_data(part, index.column(), column, role)
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.EditRole):
            return column.show(part, self._assessment)
        if role == Qt.ItemDataRole.TextAlignmentRole:
            return _alignment(column)
        if role == Qt.ItemDataRole.DecorationRole:
            return None if column.icon is None else column.icon(column.show(part, self._assessment))
        if role == CellRole.ASSUMED:
            return column.assumed is not None and column.assumed(part, self._assessment)
        if role == CellRole.BAR:
            return None if column.bar is None else column.bar(part, self._assessment)
        if role == CellRole.MARK:
            return self._marks.get(part.id) if index.column() == 0 else None
        if role == CellRole.CELL_MARK:
            return None if column.mark is None else column.mark(part, self._assessment)
        if role == CellRole.CHOICES:
            return None if column.choices is None else list(column.choices(part, self._assessment.job))
        if role == Qt.ItemDataRole.ToolTipRole:
            tip = self._tip(column, part)
            return None if tip is None else as_plain(tip)
        return None

    def _tip(self, column: TableColumn, part: Any) -> str | None:
        assert self._assessment is not None
        text = column.show(part, self._assessment)
        if column.working is not None and column.working(part) is not None:
            return f"{text} {column.unit}".strip() + ": double-click to see the workings"
        return text if len(text) > 12 else None

    def _group_data(self, group: GroupRow, at: int, column: TableColumn, role: int) -> Any:
        if role == CellRole.GROUP:
            return group
        if role == Qt.ItemDataRole.DisplayRole:
            if at == 0:
                return f"{group.label or 'No place'} · {len(group.parts)}"
            assert self._assessment is not None
            return column.group(group.parts, self._assessment) if column.group else ""
        if role == Qt.ItemDataRole.TextAlignmentRole:
            return _alignment(column)
        return None

    def flags(self, index: Index) -> Qt.ItemFlag:
        """Groups can be walked to; cells with an edit can be edited."""
        if not index.isValid():
            return Qt.ItemFlag.NoItemFlags
        if self.columns[index.column()].edit is not None and not isinstance(self._rows[index.row()], GroupRow):
            return EDITABLE
        return PLAIN

    def mimeData(self, indexes: Sequence[QModelIndex]) -> QMimeData:
        """What is dragged out of the table: the ids of the rows' parts; a group stands for its parts."""
        ids: dict[str, None] = {}
        for index in indexes:
            row = self._rows[index.row()]
            for part in row.parts if isinstance(row, GroupRow) else (row,):
                ids[part.id] = None
        return devices_mime(list(ids))

    def setData(self, index: Index, value: Any, role: int = Qt.ItemDataRole.EditRole) -> bool:
        """Pass typed text to ``on_edit``."""
        if role != Qt.ItemDataRole.EditRole or not index.isValid():
            return False
        return self.on_edit(self.index(index.row(), index.column()), str(value))


def _shown(show: Callable[[Any, Assessment], str], part: Any, assessment: Assessment) -> str:
    try:
        return show(part, assessment)
    except Exception as error:  # noqa: BLE001  (as in ``data``)
        tell_later(error)
        return ""


def _alignment(column: TableColumn) -> Qt.AlignmentFlag:
    side = Qt.AlignmentFlag.AlignRight if column.align == "right" else Qt.AlignmentFlag.AlignLeft
    return side | Qt.AlignmentFlag.AlignVCenter


def _key(row: Any) -> tuple[str, str, bool]:
    return ("group", row.label, row.folded) if isinstance(row, GroupRow) else ("part", row.id, False)
