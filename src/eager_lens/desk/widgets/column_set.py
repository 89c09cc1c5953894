"""Which columns of a table somebody wants to see and how wide, kept for this person; and sorting by a heading."""

from __future__ import annotations

import zlib
from functools import partial

from PySide6.QtCore import QObject, QPoint, Qt, QTimer, Signal
from PySide6.QtWidgets import QHeaderView, QMenu

from eager_lens.desk.preferences import ColumnSet
from eager_lens.desk.session import Session
from eager_lens.desk.theme import look
from eager_lens.desk.widgets.record_model import RecordModel

KEPT_AFTER_MS = 800


class ColumnSets(QObject):
    """Looks after the heading row of a table: click sorts, the menu hides and shows, a drag widens; all but the sorting is
    remembered, for every table with the same columns."""

    changed = Signal()
    """Other columns are wanted, other widths, or another order."""

    def __init__(self, session: Session, records: RecordModel, header: QHeaderView) -> None:
        super().__init__(header)
        self._session, self._records, self._header = session, records, header
        ids = ",".join(column.id for column in records.columns)
        self._key = f"{records.columns[0].id}-{zlib.crc32(ids.encode()):08x}"
        self._sizing = False
        self._applied = ColumnSet()
        self._given: list[int] = []
        self._keep_soon = QTimer(self, singleShot=True, interval=KEPT_AFTER_MS)
        self._keep_soon.timeout.connect(self._keep)
        header.setSectionsClickable(True)
        header.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        header.customContextMenuRequested.connect(self._ask)
        header.sectionClicked.connect(self.sort_by)
        header.sectionResized.connect(self._resized)
        session.preferences_changed.connect(self._preferences_changed)

    @property
    def _set(self) -> ColumnSet:
        return self._session.preferences.columns.get(self._key, ColumnSet())

    # ---- sorting ---------------------------------------------------------------------------------------------------

    def sort_by(self, at: int) -> None:
        """Sort by a column: upward, then downward, then as the job has it."""
        if self._keep_soon.isActive():
            # A width that was dragged a moment ago is not sized away by what follows.
            self._keep_soon.stop()
            self._keep()
        self._records.sort_by(at)
        self._header.viewport().update()
        self.changed.emit()

    # ---- which, and how wide ---------------------------------------------------------------------------------------

    def apply(self, widths: list[int]) -> None:
        """Size the columns, by hand where somebody did, else as given (pixels now), and hide what is not wanted."""
        wanted = self._applied = self._set
        self._sizing, self._given = True, widths
        for at, column in enumerate(self._records.columns):
            own = wanted.widths.get(column.id)
            self._header.resizeSection(at, look.px(own) if own else widths[at])
            self._header.setSectionHidden(at, at > 0 and column.id in wanted.hidden)
        self._sizing = False

    def _resized(self, *_: int) -> None:
        if not self._sizing and self._header.isVisible():
            self._keep_soon.start()

    def _keep(self) -> None:
        """Remember widths that somebody changed, at normal type."""
        last = len(self._records.columns) - 1
        widths = dict(self._set.widths)
        for at, column in enumerate(self._records.columns):
            size = self._header.sectionSize(at)
            stretched = at == last and self._header.stretchLastSection()
            own = widths.get(column.id)
            usual = look.px(own) if own else self._given[at]
            if not stretched and not self._header.isSectionHidden(at) and size != usual:
                widths[column.id] = max(20, min(2000, round(100 * size / look.px(100))))
        self._change(ColumnSet(hidden=self._set.hidden, widths=widths))

    def _preferences_changed(self) -> None:
        if self._set != self._applied:
            self.changed.emit()

    def _change(self, new: ColumnSet) -> None:
        others = {key: one for key, one in self._session.preferences.columns.items() if key != self._key}
        columns = {**others, self._key: new} if new != ColumnSet() else others
        self._session.set_preferences(self._session.preferences.model_copy(update={"columns": columns}))

    def _toggle(self, column_id: str) -> None:
        hidden = set(self._set.hidden) ^ {column_id}
        ordered = tuple(column.id for column in self._records.columns if column.id in hidden)
        self._change(ColumnSet(hidden=ordered, widths=self._set.widths))

    def _ask(self, point: QPoint) -> None:
        menu = self.menu(self._header.logicalIndexAt(point))
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        menu.popup(self._header.mapToGlobal(point))

    def menu(self, at: int = -1, within: QMenu | None = None) -> QMenu:
        """The menu of a heading: sort by it, and which columns are in sight; by itself, or within another that it ends with."""
        menu = QMenu(within or self._header)
        look.apply_style(menu)
        if at >= 0:
            words = self._records.heading(self._records.columns[at])
            menu.addAction(f"Sort by “{words}”", partial(self.sort_by, at))
            menu.addSeparator()
        for column in self._records.columns[1:]:
            action = menu.addAction(self._records.heading(column) or column.id)
            action.setCheckable(True)
            action.setChecked(column.id not in self._set.hidden)
            action.triggered.connect(lambda _, one=column.id: self._toggle(one))
        menu.addSeparator()
        menu.addAction("All columns, default widths", lambda: self._change(ColumnSet()))
        return menu
