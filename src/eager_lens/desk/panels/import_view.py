"""Importing a camera list: what each column is taken for, what was read, what could not be, then one step to add it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from itertools import islice

from PySide6.QtCore import Qt
from PySide6.QtGui import QGuiApplication, QStandardItem, QStandardItemModel
from PySide6.QtWidgets import (
    QCheckBox,
    QHeaderView,
    QPlainTextEdit,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from eager_lens.core.incoming.camera_import import (
    Column,
    ImportResult,
    KnownRows,
    Mapping,
    guess_mapping,
    read_cameras,
    targets,
)
from eager_lens.core.incoming.number_marks import Decimal
from eager_lens.core.incoming.table_in import RawTable
from eager_lens.core.job.model import MEASURED_WHEN
from eager_lens.core.units import count, figure
from eager_lens.desk.background import Task, Work
from eager_lens.desk.panels.import_questions import DecimalsAsked, KnownCameras
from eager_lens.desk.session import Session
from eager_lens.desk.theme import SPACE, look
from eager_lens.desk.widgets.basics import Choice, button, label, row
from eager_lens.desk.widgets.busy import Busy
from eager_lens.desk.widgets.flow import pair
from eager_lens.desk.widgets.number_field import NumberField
from eager_lens.desk.widgets.plain_words import set_tip

MOST_MIN = 1e6
MOST_SHOWN_ROWS, MOST_SHOWN_CELLS = 200, 6000
MORE_BOXES = 3
"""So many columns beyond those in sight have their list made already, so that the keyboard finds it."""
ENTERED = "settings or data sheet figures"
AT_ONCE = 200
"""Longer lists are read off the window's thread."""


class ImportView(QWidget):
    """Takes the place of the page until the list is added or given up."""

    def __init__(self, session: Session, leave: Callable[[], object]) -> None:
        super().__init__()
        self._session = session
        self._leave = leave
        self._table: RawTable | None = None
        self._mapping: Mapping | None = None
        self._result: ImportResult | None = None
        self._filled: RawTable | None = None
        self._busy = Busy(session, self)
        self._meanings = QStandardItemModel(self)
        for target, text in targets().items():
            item = QStandardItem(text)
            item.setData(target, Qt.ItemDataRole.UserRole)
            self._meanings.appendRow(item)
        self._verdict = label("", "verdict", wrap=True)
        self._reading = label("", "muted", wrap=True)
        self._headings = QCheckBox("The first row has headings")
        self._headings.toggled.connect(self._headings_toggled)
        self._decimals = DecimalsAsked(self._take_decimal)
        self._known = KnownCameras(self._known_chosen)
        self._when = Choice()
        for when, words in MEASURED_WHEN.items():
            self._when.addItem(f"measured on the running cameras, {words}" if when else ENTERED, when)
        self._when.setAccessibleName("Origin of the bit rates")
        self._when.activated.connect(lambda _: self._when_chosen())
        self._when_row = QWidget()
        self._for = NumberField("Minutes over which the bit rates were read", "min", "not stated", width=76)
        self._for.typed.connect(lambda _: self._when_chosen())
        self._for.refused.connect(lambda text: session.notice(text, needs=True))
        self._for_pair = pair("over", self._for)
        self._when_row.setLayout(row(label("The bit rates are"), self._when, self._for_pair, None))
        self._grid = QTableWidget()
        self._grid.verticalHeader().setDefaultSectionSize(look.px(25))
        self._grid.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        self._grid.horizontalHeader().hide()
        self._grid.setShowGrid(False)
        self._grid.horizontalScrollBar().valueChanged.connect(self._fill_boxes)
        self._grid.horizontalScrollBar().rangeChanged.connect(self._fill_boxes)
        self._problems = QPlainTextEdit()
        self._problems.setReadOnly(True)
        self._problems.setMaximumHeight(look.px(150))
        self._problems_words = label("", "heading")
        self._copy = button("Copy the skipped rows", self._copy_left_out)
        self._add = button("", self._import, "main")
        layout = QVBoxLayout(self)
        layout.setContentsMargins(SPACE.WIDE, SPACE.FULL, SPACE.WIDE, SPACE.FULL)
        layout.setSpacing(SPACE.HALF)
        layout.addWidget(self._verdict)
        layout.addWidget(self._reading)
        layout.addLayout(row(self._headings, None, spacing=SPACE.FULL))
        layout.addWidget(self._decimals)
        layout.addWidget(self._known)
        layout.addWidget(self._when_row)
        layout.addWidget(label("Above each column: its meaning. Change it if the guess is wrong.", "small", wrap=True))
        layout.addWidget(self._grid, 1)
        layout.addWidget(self._busy.line("Reading the rows"))
        layout.addLayout(row(self._problems_words, None, self._copy))
        layout.addWidget(self._problems)
        layout.addLayout(row(None, button("Cancel", leave), self._add))

    def show_table(self, table: RawTable, name: str) -> None:
        """Show a list, with the meaning of its columns guessed."""
        self._table = table
        self._name = name
        self._reading.setText(f"From {name}: {count(len(table.rows), 'row')}, read with {table.reading}.")
        self._take(guess_mapping(table))
        self._add.setFocus()

    def _take(self, mapping: Mapping) -> None:
        """Read the list by a mapping and show what comes of it."""
        assert self._table is not None
        self._mapping = mapping
        self._headings.blockSignals(True)
        self._headings.setChecked(mapping.has_headings)
        self._headings.blockSignals(False)
        self._decimals.show_mapping(mapping)
        self._when.setCurrentIndex(self._when.findData(mapping.measured_when))
        self._when_row.setVisible(mapping.asks_when)
        self._for.show_value(mapping.measured_min)
        self._for_pair.setVisible(bool(mapping.measured_when))
        table, job = self._table, self._session.job
        if len(table.rows) <= AT_ONCE:
            self._busy.stop()
            self._show_read(read_cameras(table, mapping, job))
            return
        self._result = None
        self._verdict.setText(f"Reading {count(len(table.rows), 'row')} …")
        self._add.setEnabled(False)
        self._fill_grid(table, mapping)

        def work(task: Task) -> Work[ImportResult]:
            yield 0.0
            return read_cameras(table, mapping, job, task.step)

        self._busy.begin(work, self._show_read, lambda: self._verdict.setText("Stopped: nothing was read"))

    def _take_decimal(self, at: int, decimal: Decimal) -> None:
        if self._mapping is not None:
            self._take(self._mapping.with_decimal(decimal, at))

    def _known_chosen(self, known_rows: KnownRows) -> None:
        if self._mapping is not None:
            self._take(replace(self._mapping, known_rows=known_rows))

    def _show_read(self, result: ImportResult) -> None:
        assert self._table is not None and self._mapping is not None
        self._result = result
        self._fill_grid(self._table, self._mapping)
        self._fill_problems(result)

    def _fill_grid(self, table: RawTable, mapping: Mapping) -> None:
        shown = table.rows[: min(MOST_SHOWN_ROWS, MOST_SHOWN_CELLS // max(1, len(mapping.columns)))]
        grid = self._grid
        anew = self._filled is not table
        if anew:
            self._filled = table
            grid.clear()
            grid.setColumnCount(len(mapping.columns))
            grid.setRowCount(len(shown) + 1)
        bad = {problem.row for problem in self._result.problems} if self._result else set()
        strong, plain = look.font(strong=True), look.font()
        need, muted, ink = (look.color(name) for name in ("need", "muted", "ink"))
        for at, column in enumerate(mapping.columns):
            self._show_target(at, column)
            for down, cells in enumerate(shown, 1):
                if anew:
                    grid.setItem(down, at, QTableWidgetItem(cells[at]))
                item = grid.item(down, at)
                assert item is not None
                is_heading = down == 1 and mapping.has_headings
                needs = table.numbers[down - 1] in bad
                item.setFont(strong if is_heading else plain)
                item.setForeground(need if needs else muted if not column.target and not is_heading else ink)
        grid.setVerticalHeaderLabels(["", *(str(number) for number in table.numbers[: len(shown)])])
        grid.setRowHeight(0, look.px(30))
        for at in range(len(mapping.columns)):
            grid.setColumnWidth(at, look.px(132))
        if len(mapping.columns) * look.px(132) < grid.viewport().width():
            grid.horizontalHeader().setSectionResizeMode(len(mapping.columns) - 1, QHeaderView.ResizeMode.Stretch)
        self._fill_boxes()

    def _fill_boxes(self) -> None:
        """Have the lists above the columns in sight and the next ones on both sides: there may be two hundred columns, and
        all their lists at once would take most of a second."""
        if self._mapping is None:
            return
        first, last = (self._grid.columnAt(x) for x in (0, self._grid.viewport().width() - 1))
        until = len(self._mapping.columns) if last < 0 else last + 1 + MORE_BOXES
        for at, column in islice(enumerate(self._mapping.columns), max(0, first - MORE_BOXES), until):
            if self._grid.cellWidget(0, at) is None:
                self._grid.setCellWidget(0, at, self._box_of(at))
                self._show_target(at, column)

    def _box_of(self, at: int) -> Choice:
        """The list above a column of what it may be taken for."""
        box = Choice()
        box.setModel(self._meanings)
        box.activated.connect(lambda _: self._target_changed(at, str(box.currentData())))
        return box

    def _show_target(self, at: int, column: Column) -> None:
        box = self._grid.cellWidget(0, at)
        if isinstance(box, Choice):
            box.setCurrentIndex(box.findData(column.target))
            set_tip(box, f"Column “{column.heading}”" + (f", in {column.unit}" if column.unit else ""))

    def _fill_problems(self, result: ImportResult) -> None:
        cameras, left = len(result.cameras), len(result.left_out)
        sentence = f"{count(cameras, 'camera')} can be imported"
        if result.known:
            sentence = f"{count(cameras, 'new camera')}; {result.known} already in the job"
        known_rows: KnownRows = "update" if self._mapping is None else self._mapping.known_rows
        self._known.show_result(result, known_rows, self._session.job)
        if left:
            sentence += f"; {count(left, 'row')} skipped"
        self._verdict.setText(sentence)
        shown = "\n".join(problem.sentence() for problem in result.problems[:500])
        self._problems.setPlainText(shown)
        for part in (self._problems, self._problems_words):
            part.setVisible(bool(result.problems))
        self._problems_words.setText(f"{count(len(result.problems), 'cell')} could not be imported")
        self._copy.setVisible(left > 0)
        self._add.setText(result.words or "Nothing to import")
        self._add.setEnabled(bool(result.words))

    def _target_changed(self, at: int, target: str) -> None:
        if self._mapping is not None:
            self._take(self._mapping.with_target(at, target))

    def _headings_toggled(self, on: bool) -> None:
        if self._mapping is not None:
            self._take(replace(self._mapping, has_headings=on))

    def _when_chosen(self) -> None:
        if self._mapping is not None:
            minutes = self._for.value
            if minutes is not None and not 0 < minutes <= MOST_MIN:
                self._session.notice(f"Enter more than 0 and at most {figure(MOST_MIN)} minutes", needs=True)
                minutes = self._mapping.measured_min
            self._take(replace(self._mapping, measured_when=self._when.currentData(), measured_min=minutes))

    def _copy_left_out(self) -> None:
        """The rows as they stood, with the headings, so that they can be put right and pasted."""
        if self._result is None or self._table is None or self._mapping is None:
            return
        rows = [self._table.rows[0]] if self._mapping.has_headings else []
        lines = ["\t".join(cells) for cells in (*rows, *self._result.left_out)]
        QGuiApplication.clipboard().setText("\n".join(lines))
        self._session.notice(f"{count(len(self._result.left_out), 'row')} copied; correct them and paste them again")

    def _import(self) -> None:
        result = self._result
        if result is None or not result.words:
            return
        before = len(self._session.job.cameras)
        if self._session.apply(result.edit()):
            added = [camera.id for camera in self._session.job.cameras[before:]]
            self._session.select([*added, *(one.camera for one in result.changed)])
            parts = [f"{count(len(added), 'camera')} imported"] if added else []
            parts += [f"{count(len(result.changed), 'camera')} updated"] if result.changed else []
            self._session.notice(f"{', '.join(parts)} from {self._name}; undo reverts it in one step")
            self._leave()
