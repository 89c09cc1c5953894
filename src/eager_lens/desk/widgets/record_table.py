"""A table of a job's parts: edit in place, edit many at once, copy and paste, fold groups, all by keyboard too."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from PySide6.QtCore import (
    QEvent,
    QItemSelection,
    QItemSelectionModel,
    QItemSelectionRange,
    QModelIndex,
    QPointF,
    QRect,
    QRectF,
    QSize,
    Qt,
    QTimer,
    Signal,
)
from PySide6.QtGui import (
    QContextMenuEvent,
    QFontMetrics,
    QGuiApplication,
    QKeyEvent,
    QKeySequence,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QShowEvent,
)
from PySide6.QtWidgets import (
    QAbstractItemView,
    QComboBox,
    QCompleter,
    QHeaderView,
    QLineEdit,
    QMenu,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QTableView,
    QWidget,
)

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.finding import Severity
from eager_lens.core.units import count
from eager_lens.desk.guard import kept_within
from eager_lens.desk.session import Session
from eager_lens.desk.theme import SPACE, look
from eager_lens.desk.theme.look import NORMAL, SMALL
from eager_lens.desk.widgets.basics import elided_name
from eager_lens.desk.widgets.column_set import ColumnSets
from eager_lens.desk.widgets.marks import paint_mark
from eager_lens.desk.widgets.record_model import CellRole, GroupRow, Index, RecordModel, TableColumn
from eager_lens.desk.widgets.table_clipboard import block_edit, cells_of, copied, is_list

MARK_WIDTH = 16

WIDEST_NAME_PX, WIDEST_NAME_SHARE, BESIDE_NAME_PX, LOOKED_AT_ROWS = 230, 0.35, 34, 200
"""The first column is as wide as the names of its first rows, up to a width and a share of the table's; beside a name stand
its mark and its margins."""

EMPTY_WORDS = (
    "No cameras yet. Ctrl+I imports a list, Ctrl+Shift+V pastes one from a spreadsheet, "
    "and on the Wiring page (Alt+1) you can type them in."
)


class _CellDelegate(QStyledItemDelegate):
    """Draws cells with their marks, bars and dashed lines, and makes editors."""

    _for: object = None
    """The row that is typed into, by its key."""

    @kept_within
    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        """Draw one cell."""
        painter.save()
        rect: QRect = option.rect
        state: QStyle.StateFlag = option.state
        group = index.data(CellRole.GROUP)
        if group is not None:
            # The style sheet does not reach delegates, so backgrounds are painted here.
            painter.fillRect(rect, look.color("panel"))
        elif state & QStyle.StateFlag.State_Selected:
            painter.fillRect(rect, look.color("tint"))
        self._text(painter, rect, index, group)
        painter.setPen(QPen(look.color("rule"), 1))
        painter.drawLine(rect.bottomLeft(), rect.bottomRight())
        if state & QStyle.StateFlag.State_HasFocus:
            painter.setPen(QPen(look.color("accent"), 1.5))
            painter.drawRect(QRectF(rect).adjusted(1, 1, -1.5, -1.5))
        painter.restore()

    def _text(self, painter: QPainter, rect: QRect, index: Index, group: GroupRow | None) -> None:
        text = str(index.data() or "")
        area = rect.adjusted(SPACE.HALF - 2, 0, -SPACE.HALF + 2, 0)
        right = bool(index.data(Qt.ItemDataRole.TextAlignmentRole) & Qt.AlignmentFlag.AlignRight)
        painter.setFont(look.font(NORMAL, strong=group is not None, figures=right))
        painter.setPen(look.color("ink"))
        if group is not None and index.column() == 0:
            name = "right" if group.folded else "down"
            size = look.px(12)
            painter.drawPixmap(area.left(), area.center().y() - size // 2 + 1, look.pixmap(name, size))
            area.setLeft(area.left() + look.px(MARK_WIDTH))
        if index.column() == 0 and group is None:
            severity = index.data(CellRole.MARK)
            if severity is not None and severity > Severity.NOTE:
                center = QPointF(area.left() + look.px(5), area.center().y() + 1)
                paint_mark(painter, center, severity, look.px(9))
            area.setLeft(area.left() + look.px(MARK_WIDTH))
        mark = index.data(CellRole.CELL_MARK)
        if mark is not None:
            center = QPointF(area.left() + look.px(5), area.center().y() + 1)
            paint_mark(painter, center, None if mark == "done" else mark, look.px(9))
            area.setLeft(area.left() + look.px(MARK_WIDTH))
        icon = index.data(Qt.ItemDataRole.DecorationRole)
        if icon is not None:
            pixmap = icon.pixmap(icon.availableSizes()[0])
            painter.drawPixmap(area.left(), area.center().y() - pixmap.height() // 2 + 1, pixmap)
            area.setLeft(area.left() + pixmap.width() + SPACE.HALF)
        bar = index.data(CellRole.BAR)
        if bar is not None:
            room = area.width() - look.px(46)
            height = look.px(9)
            wide = max(1.0, room * min(1.0, bar)) if bar > 0 else 0.0
            painter.fillRect(
                QRectF(area.left(), area.center().y() - height / 2 + 1, wide, height), look.color("accent")
            )
        metrics = painter.fontMetrics()
        how = Qt.TextElideMode.ElideRight
        is_name = index.column() == 0 and group is None
        shown = elided_name(metrics, text, area.width()) if is_name else metrics.elidedText(text, how, area.width())
        side = Qt.AlignmentFlag.AlignRight if right else Qt.AlignmentFlag.AlignLeft
        painter.drawText(area, side | Qt.AlignmentFlag.AlignVCenter, shown)
        if index.data(CellRole.ASSUMED):
            wide = metrics.horizontalAdvance(shown)
            left = area.right() - wide if right else area.left()
            y = area.center().y() + metrics.height() / 2 + 1
            painter.setPen(QPen(look.color("muted"), 1, Qt.PenStyle.DashLine))
            painter.drawLine(QPointF(left, y), QPointF(left + wide, y))

    def createEditor(self, parent: QWidget, option: QStyleOptionViewItem, index: Index) -> QWidget:
        """A list to select from where there is one, else a line."""
        choices = index.data(CellRole.CHOICES)
        self._for = index.model().key_of(index.row())  # type: ignore[attr-defined]
        if choices is None:
            return QLineEdit(parent)
        box = QComboBox(parent)
        box.setEditable(True)
        box.addItems(choices)
        picture = index.model().columns[index.column()].picture  # type: ignore[attr-defined]
        if picture is not None:
            box.setIconSize(QSize(look.px(60), look.px(34)))
            for at, choice in enumerate(choices):
                box.setItemIcon(at, picture(choice))
        # Typed text is validated by the column; the list itself must not grow.
        box.setInsertPolicy(QComboBox.InsertPolicy.NoInsert)
        completer = QCompleter(choices, box)
        completer.setCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
        completer.setFilterMode(Qt.MatchFlag.MatchContains)
        box.setCompleter(completer)
        # Later, so that Return has closed the editor by then; closed within the key press, Return would reach the table
        # and open the cell again.
        box.activated.connect(lambda _: QTimer.singleShot(0, box, lambda: self._commit(box)))
        return box

    def _commit(self, editor: QWidget) -> None:
        if editor.isVisible():  # a choice may be told once more after the editor was closed
            self.commitData.emit(editor)
            self.closeEditor.emit(editor)

    def setEditorData(self, editor: QWidget, index: Index) -> None:
        """Put the present text into the editor, selected as a whole."""
        text = str(index.data(Qt.ItemDataRole.EditRole) or "")
        line = editor.lineEdit() if isinstance(editor, QComboBox) else editor
        if isinstance(editor, QComboBox):
            at = editor.findText(text)
            editor.setCurrentIndex(at)
        if isinstance(line, QLineEdit):
            line.setText(text)
            line.selectAll()

    def setModelData(self, editor: QWidget, model: Any, index: Index) -> None:
        """Hand what was typed on."""
        if model.key_of(index.row()) != self._for:
            return  # rows came or went while it was typed: it was meant for another
        text = editor.currentText() if isinstance(editor, QComboBox) else getattr(editor, "text", str)()
        if text != str(index.data(Qt.ItemDataRole.EditRole) or ""):
            model.setData(index, text, Qt.ItemDataRole.EditRole)


WALKING = (
    Qt.Key.Key_Left,
    Qt.Key.Key_Right,
    Qt.Key.Key_Up,
    Qt.Key.Key_Down,
    Qt.Key.Key_Home,
    Qt.Key.Key_End,
    Qt.Key.Key_PageUp,
    Qt.Key.Key_PageDown,
)
SHIFT = Qt.KeyboardModifier.ShiftModifier


def _name_px(table: RecordTable) -> int:
    """Width of the names in the first column, where people look for a device."""
    groups, metrics = set(table.records.group_rows()), table.fontMetrics()
    rows = (row for row in range(min(LOOKED_AT_ROWS, table.records.rowCount())) if row not in groups)
    names = (str(table.records.index(row, 0).data() or "") for row in rows)
    widest = max((metrics.horizontalAdvance(name) for name in names), default=0)
    room = min(look.px(WIDEST_NAME_PX), round(WIDEST_NAME_SHARE * table.width()))
    return min(room, widest + look.px(BESIDE_NAME_PX))


def _draw_words(viewport: QWidget, words: str) -> None:
    with QPainter(viewport) as painter:
        painter.setFont(look.font())
        painter.setPen(look.color("muted"))
        area = viewport.rect().adjusted(look.px(24), look.px(16), -look.px(24), 0)
        how = Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignTop | Qt.TextFlag.TextWordWrap
        painter.drawText(area, how, words)


class RecordTable(QTableView):
    """The table. Selection is by rows and goes to the session, so that every page shows the same choice."""

    delete_asked = Signal(object)
    """The parts that somebody wants to take out."""

    def __init__(
        self,
        session: Session,
        columns: Sequence[TableColumn],
        group_by: Callable[[Any], str] | None = None,
        shares_selection: bool = True,
    ) -> None:
        super().__init__()
        self.session = session
        self._shares_selection = shares_selection
        self._was_at: tuple[tuple[str, str], int] | None = None
        self.empty_words = EMPTY_WORDS if shares_selection else ""
        self.records = RecordModel(columns, group_by)
        self.records.on_edit = self._edited
        self.setModel(self.records)
        headings = [self.records.heading(column) for column in columns if column.heading]
        self.setAccessibleName(f"Table: {', '.join(headings)}")
        self.setItemDelegate(_CellDelegate(self))
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.setShowGrid(False)
        self.setWordWrap(False)
        # Tab leaves the table for the next control; arrows move inside it.
        self.setTabKeyNavigation(False)
        self.verticalHeader().hide()
        self.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setHorizontalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setEditTriggers(
            QAbstractItemView.EditTrigger.DoubleClicked
            | QAbstractItemView.EditTrigger.EditKeyPressed
            | QAbstractItemView.EditTrigger.AnyKeyPressed
        )
        header = self.horizontalHeader()
        header.setHighlightSections(False)
        # Of its own and always empty: with the table's, each paint of a heading looks at every row that is selected.
        header.setSelectionModel(QItemSelectionModel(self.records, header))
        header.setMinimumSectionSize(36)
        self.column_sets = ColumnSets(session, self.records, header)
        self.column_sets.changed.connect(self._look_changed)
        self._first_px = 0
        self._size_columns()
        look.changed.connect(self._look_changed)
        # The toolkit forgets the current cell at a reset; remember it by the part's key, not by its row.
        self.records.modelAboutToBeReset.connect(self._before_reset)
        self.records.modelReset.connect(self._after_reset)
        self.doubleClicked.connect(self._double_clicked)
        self.selectionModel().selectionChanged.connect(self._selection_changed)
        if shares_selection:
            session.selection_changed.connect(self._take_selection)
        self._taking = False
        session.opened.connect(self._let_job_go)

    def _look_changed(self) -> None:
        self._sized = False
        if self.isVisible():
            self._size_columns()

    def showEvent(self, event: QShowEvent) -> None:
        """Columns follow the type size; of a table out of sight when it comes into sight."""
        if not self._sized:
            self._size_columns()
        super().showEvent(event)
        if self._shares_selection:
            self._take_selection()
            self._into_sight()

    def _size_columns(self) -> None:
        self._sized = True
        header = self.horizontalHeader()
        self.verticalHeader().setDefaultSectionSize(look.px(25))
        metrics = QFontMetrics(look.font(SMALL))
        widths: list[int] = []
        for at, column in enumerate(self.records.columns):
            header.setSectionResizeMode(at, _resize_mode(column, self.records.columns[-1]))
            widths.append(max(look.px(column.width), metrics.horizontalAdvance(self.records.shown_heading(at)) + 16))
        widths[0] = self._first_px = max(widths[0], _name_px(self))
        self.column_sets.apply(widths)
        header.setStretchLastSection(self.records.columns[-1].stretch)

    # An editor that loses the keyboard while it is closed, or whose list tells its choice once more, would be committed and
    # closed again; Qt then complains of an editor that belongs to nobody.

    _closing: QWidget | None = None

    def commitData(self, editor: QWidget) -> None:
        """Take what an editor holds, unless it is closed already."""
        if editor.isVisible() and editor is not self._closing:
            super().commitData(editor)

    def closeEditor(self, editor: QWidget, hint: QStyledItemDelegate.EndEditHint) -> None:
        """Close an editor, unless it is closed already."""
        if editor.isVisible() and editor is not self._closing:
            self._closing = editor
            super().closeEditor(editor, hint)
            self._closing = None

    @kept_within
    def paintEvent(self, event: QPaintEvent) -> None:
        """An empty table says what to do."""
        super().paintEvent(event)
        if self.hasFocus() and not self.currentIndex().isValid():
            with QPainter(self.viewport()) as painter:
                painter.setPen(QPen(look.color("accent"), 1))
                painter.drawRect(self.viewport().rect().adjusted(0, 0, -1, -1))
        if self.records.rowCount() == 0 and self.empty_words:
            _draw_words(self.viewport(), self.empty_words)

    # ---- content and selection -----------------------------------------------------------------------------------

    def show_parts(
        self,
        parts: Sequence[Any],
        assessment: Assessment,
        marks: dict[str, Severity] | None = None,
        *,
        why_none: str | None = None,
    ) -> None:
        """Show parts; what was selected stays selected. Where there are none, say why, or what to do."""
        self.records.show(parts, assessment, marks or {})
        if why_none is not None and why_none != self.empty_words:
            self.empty_words = why_none
            self.viewport().update()

    def _let_job_go(self) -> None:
        """Another job has an order of its own; and out of sight, nothing of the one before is kept in memory."""
        (self.records.forget_order if self.isVisible() else self.records.forget)()

    def _before_reset(self) -> None:
        current = self.currentIndex()
        self._was_at = (self.records.key_of(current.row()), current.column()) if current.isValid() else None

    def _after_reset(self) -> None:
        """Rows came or went: the keyboard stays where it was, groups span their columns again."""
        if self._was_at is not None:
            row = self.records.row_with_key(self._was_at[0])
            if row is not None:
                how = QItemSelectionModel.SelectionFlag.NoUpdate
                self.selectionModel().setCurrentIndex(self.records.index(row, self._was_at[1]), how)
        # Only ever wider: a column that shrinks while names are typed would move everything beside it.
        if self._sized and self.isVisible() and _name_px(self) > self._first_px:
            self._size_columns()
        self.clearSpans()
        for at in self.records.group_rows():
            plain = next((i for i, c in enumerate(self.records.columns) if c.group is not None), None)
            span = plain if plain is not None else len(self.records.columns)
            if span > 1:
                self.setSpan(at, 0, 1, span)
        if self._shares_selection:
            self._take_selection()

    def selected_parts(self) -> list[Any]:
        """The parts of the selected rows; a selected group stands for its parts."""
        found: dict[str, Any] = {}
        for row in self._selected_rows():
            part = self.records.at(row)
            for one in part.parts if isinstance(part, GroupRow) else (part,):
                found[one.id] = one
        return list(found.values())

    def _selected_rows(self) -> list[int]:
        """Rows that are selected, in order. By ranges: asking for each of 10,000 rows by itself takes seconds."""
        rows: set[int] = set()
        selection = self.selectionModel().selection()
        for chunk in map(selection.at, range(selection.count())):
            rows.update(range(chunk.top(), chunk.bottom() + 1))
        return sorted(rows)

    def selectionCommand(self, index: Index, event: QEvent | None = None) -> QItemSelectionModel.SelectionFlag:
        """With several rows selected, keys that walk leave them selected: a hand that goes to the column of frame rates to
        type one for all must not lose them on the way. Escape, Shift and the mouse select anew."""
        walks = isinstance(event, QKeyEvent) and event.key() in WALKING and not event.modifiers() & SHIFT
        if walks and len(self._selected_rows()) > 1:
            return QItemSelectionModel.SelectionFlag.NoUpdate
        return super().selectionCommand(index, event)

    def _let_go(self) -> None:
        """Of several rows only that of the keyboard stays selected."""
        self.select_row(self.currentIndex().row(), self.currentIndex().column())

    def select_row(self, row: int, column: int = 0) -> None:
        """Select a row and no other, whatever keys are held: the toolkit's own way would add to what is selected while the
        hand is still on Ctrl and Shift of the shortcut that led here."""
        flags = QItemSelectionModel.SelectionFlag
        index = self.records.index(row, column)
        self.selectionModel().setCurrentIndex(index, flags.ClearAndSelect | flags.Rows)

    def _selection_changed(self) -> None:
        if self._shares_selection and not self._taking:
            self.session.select(part.id for part in self.selected_parts())

    def _take_selection(self) -> None:
        """Show the session's choice, unless this table shows it already; out of sight, when it comes into sight."""
        if not self.isVisible() or {part.id for part in self.selected_parts()} == set(self.session.selected):
            return
        # Without this, showing the session's selection would report it back as a new choice.
        self._taking = True
        selection = QItemSelection()
        last = self.records.columnCount() - 1
        # Ranges instead of single rows: the toolkit compares every range with every other.
        rows = sorted(row for one in self.session.selected if (row := self.records.row_of(one)) is not None)
        for first, end in runs_of(rows):
            selection.append(QItemSelectionRange(self.records.index(first, 0), self.records.index(end, last)))
        self.selectionModel().select(selection, QItemSelectionModel.SelectionFlag.ClearAndSelect)
        self._taking = False
        self._into_sight()

    def _into_sight(self) -> None:
        """What was chosen elsewhere is in sight here, and the keyboard is at it."""
        rows = self._selected_rows()
        if rows and self.currentIndex().row() not in rows:
            index = self.records.index(rows[0], max(0, self.currentIndex().column()))
            self.selectionModel().setCurrentIndex(index, QItemSelectionModel.SelectionFlag.NoUpdate)
            self.scrollTo(index, QAbstractItemView.ScrollHint.PositionAtCenter)

    def lead_to(self, part_id: str) -> None:
        """Select a part's row and bring it into sight."""
        if self.records.row_of(part_id) is None:
            self.records.unfold_for(part_id)
        row = self.records.row_of(part_id)
        if row is not None:
            self.select_row(row)
            self.scrollTo(self.records.index(row, 0), QAbstractItemView.ScrollHint.PositionAtCenter)

    # ---- editing -------------------------------------------------------------------------------------------------

    def _edited(self, index: QModelIndex, text: str) -> bool:
        """A text was typed into a cell: it counts for all selected rows, if the cell's row is among them."""
        column = self.records.columns[index.column()]
        part = self.records.at(index.row())
        if isinstance(part, GroupRow):
            return False
        selected = self.selected_parts()
        # Typing into a row outside the selection edits that row only.
        several = not column.one_by_one and any(one.id == part.id for one in selected)
        parts = selected if several else [part]
        if column.edit is None:
            return False
        make = column.edit
        return self.session.attempt(lambda: make(parts, text, self.session.job))

    def _double_clicked(self, index: QModelIndex) -> None:
        part, column = self.records.at(index.row()), self.records.columns[index.column()]
        if isinstance(part, GroupRow):
            self.records.fold(part.label, not part.folded)
        elif column.working is not None and (ref := column.working(part)) is not None:
            self.session.show_working(ref)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """A click on a group's arrow folds it."""
        index = self.indexAt(event.position().toPoint())
        if index.isValid() and index.column() == 0:
            part = self.records.at(index.row())
            if isinstance(part, GroupRow) and event.position().x() < look.px(26):
                self.records.fold(part.label, not part.folded)
                return
        super().mousePressEvent(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Copy, paste, delete, fold, and Return to edit or to see a working."""
        if self.state() == QAbstractItemView.State.EditingState:
            # Keys that the editor lets through (Return, when it commits) are not meant for the table.
            super().keyPressEvent(event)
            return
        current = self.currentIndex()
        part = self.records.at(current.row()) if current.isValid() else None
        if event.matches(QKeySequence.StandardKey.Copy):
            self.copy()
        elif event.matches(QKeySequence.StandardKey.Paste):
            self.paste(QGuiApplication.clipboard().text())
        elif event.key() == Qt.Key.Key_Delete:
            self.delete_asked.emit(self.selected_parts())
        elif isinstance(part, GroupRow) and event.key() in (Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Space):
            folded = not part.folded if event.key() == Qt.Key.Key_Space else event.key() == Qt.Key.Key_Left
            self.records.fold(part.label, folded)
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and current.isValid():
            if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
                self._double_clicked(current)
            elif self.records.flags(current) & Qt.ItemFlag.ItemIsEditable:
                self.edit(current)
            else:
                self._double_clicked(current)
        elif event.key() == Qt.Key.Key_Escape and current.isValid() and len(self._selected_rows()) > 1:
            self._let_go()
        elif event.key() == Qt.Key.Key_Space:
            # Space belongs to the page (a check, a stroke); it starts no editor.
            event.ignore()
        else:
            super().keyPressEvent(event)

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        """What can be done with a cell and its row."""
        index = self.indexAt(event.pos())
        if index.isValid():
            # A right click inside the selection keeps it, as in file managers.
            self.setCurrentIndex(index) if not self.selectionModel().isSelected(index) else None
            self.cell_menu(index).popup(event.globalPos())

    def cell_menu(self, index: QModelIndex) -> QMenu:
        """The menu of a cell."""
        menu = QMenu(self)
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        column, part = self.records.columns[index.column()], self.records.at(index.row())
        if self.records.flags(index) & Qt.ItemFlag.ItemIsEditable:
            menu.addAction("Edit\tReturn", lambda: self.edit(index))
        ref = None if column.working is None or isinstance(part, GroupRow) else column.working(part)
        if ref is not None:
            menu.addAction("Workings\tCtrl+Return", lambda: self.session.show_working(ref))
        if self._shares_selection and getattr(part, "id", "") in self.session.assessment.facts.by_device_id:
            menu.addAction("Find a fault…\tCtrl+Shift+F", lambda: self.session.command_asked.emit("find-fault"))
        menu.addMenu(self._heading_menu(index.column(), menu))
        menu.addAction("Copy rows\tCtrl+C", self.copy)
        menu.addAction("Paste\tCtrl+V", lambda: self.paste(QGuiApplication.clipboard().text()))
        menu.addAction("Remove\tDelete", lambda: self.delete_asked.emit(self.selected_parts()))
        return menu

    def _heading_menu(self, at: int, within: QMenu) -> QMenu:
        """Sorting and columns, for those who have no mouse."""
        menu = self.column_sets.menu(at, within)
        menu.setTitle("Columns and order")
        return menu

    def event(self, event: QEvent) -> bool:
        """Keep copy, paste and delete to the table while it has the focus, before the window's shortcuts."""
        own = (QKeySequence.StandardKey.Copy, QKeySequence.StandardKey.Paste)
        if (
            event.type() == QEvent.Type.ShortcutOverride
            and isinstance(event, QKeyEvent)
            and any(map(event.matches, own))
        ):
            event.accept()
            return True
        return super().event(event)

    def copy(self) -> None:
        """Copy the selected rows with headings, as a spreadsheet takes them."""
        rows = [row for row in self._selected_rows() if not isinstance(self.records.at(row), GroupRow)]
        if rows:
            QGuiApplication.clipboard().setText(copied(self.records, rows))
            self.session.notice(f"{count(len(rows), 'row')} copied")

    def paste(self, text: str) -> None:
        """Paste one value into all selected rows, or a block of cells from the current cell on."""
        lines = cells_of(text)
        current = self.currentIndex()
        if not lines:
            return
        if not current.isValid() or is_list(lines, self.records):
            self.session.list_pasted.emit(text)
        elif len(lines) == 1 and len(lines[0]) == 1:
            self._edited(current, lines[0][0])
        else:
            self.session.attempt(lambda: block_edit(self.records, current.row(), current.column(), lines))


def _resize_mode(column: TableColumn, last: TableColumn) -> QHeaderView.ResizeMode:
    """How a column takes its width; the last one may stretch and still be dragged."""
    stretches = column.stretch and column is not last
    return QHeaderView.ResizeMode.Stretch if stretches else QHeaderView.ResizeMode.Interactive


def type_into(table: RecordTable, index: QModelIndex, text: str) -> None:
    """Open a cell with a text in it, the cursor behind it."""
    table.setFocus()
    table.setCurrentIndex(index)
    table.edit(index)
    # The editor of the cell before may not be deleted yet.
    lines = [one for one in table.viewport().findChildren(QLineEdit) if one.isVisible()]
    if lines:
        lines[-1].setText(text)
        lines[-1].setFocus()


def runs_of(rows: Sequence[int]) -> list[tuple[int, int]]:
    """First and last of each run of rows that follow one another; ``rows`` are in order."""
    runs: list[tuple[int, int]] = []
    for row in rows:
        if runs and row == runs[-1][1] + 1:
            runs[-1] = (runs[-1][0], row)
        else:
            runs.append((row, row))
    return runs
