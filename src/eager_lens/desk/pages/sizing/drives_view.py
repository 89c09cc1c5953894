"""The cheapest drives that keep the days, out of a price list, below the recorders."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QCheckBox, QSizePolicy, QWidget

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.figures.capped_need import capped_need_tb
from eager_lens.core.errors import EagerLensError
from eager_lens.core.incoming.price_list import price_list
from eager_lens.core.incoming.table_in import RawTable, read_table, table_from_text
from eager_lens.core.job.edits import set_drive_offers
from eager_lens.core.job.model import Recorder
from eager_lens.core.options.best.drives import LEVELS, Purchase, purchases
from eager_lens.core.units import count, figure
from eager_lens.desk.amounts import read_amounts
from eager_lens.desk.asking import LIST_FILE, Asker
from eager_lens.desk.session import Session
from eager_lens.desk.theme import SPACE
from eager_lens.desk.widgets.basics import button, column, label, row
from eager_lens.desk.widgets.busy import Busy
from eager_lens.desk.widgets.record_model import TableColumn
from eager_lens.desk.widgets.record_table import RecordTable

MOST_SHOWN = 40

NO_LIST = (
    "Load or paste a price list of drives (columns Name, TB, Price in your currency) to see which drives keep the days, "
    "cheapest first."
)

COLUMNS = (
    TableColumn("words", "Drives", lambda bought, a: bought.words, width=330, stretch=True),
    TableColumn("usable", "Holds", lambda bought, a: figure(bought.usable_tb), unit="TB", align="right", width=90),
    TableColumn(
        "may_fail", "May fail", lambda bought, a: str(bought.may_fail), unit="drives", align="right", width=120
    ),
    TableColumn(
        "price",
        "Price",
        lambda bought, a: f"{bought.price:,.0f} {bought.offer.currency}".replace(",", " ").strip(),
        align="right",
        width=120,
    ),
)


class DrivesView(QWidget):
    """What to buy for the recorder in focus; the choice goes into it by one button."""

    def __init__(self, session: Session, asker: Asker) -> None:
        super().__init__()
        self.session = session
        self.asker = asker
        self._recorder: Recorder | None = None
        self._shown: tuple[str, Assessment] | None = None
        session.opened.connect(self._let_go)
        self._need_tb: float | None = None
        self._capped_tb: float | None = None
        self._words = label("", "heading", wrap=True)
        self._words.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Minimum)
        self._redundant = QCheckBox("one may fail")
        self._redundant.toggled.connect(lambda _: self._show())
        self._take = button("Apply these drives", self._make, "main")
        self.table = RecordTable(session, COLUMNS, shares_selection=False)
        self.table.selectionModel().selectionChanged.connect(lambda *_: self._enable())
        self.table.doubleClicked.connect(lambda _: self._make())
        head = row(
            self._words,
            self._redundant,
            button("Load a price list …", self._load),
            button("Paste price list", self._paste),
            self._take,
            spacing=SPACE.HALF,
        )
        head.setStretch(0, 1)
        self._reading = Busy(session, self)
        layout = column(head, self._reading.line("Reading the price list"), self.table, spacing=SPACE.TIGHT)
        layout.setStretch(2, 1)
        layout.setContentsMargins(0, 0, 0, 0)
        self.setLayout(layout)

    def _let_go(self) -> None:
        self._shown = None

    def show_recorder(self, recorder: Recorder | None, assessment: Assessment) -> None:
        """What a recorder needs for the days that were asked, and the drives that hold it."""
        what = None if recorder is None else (recorder.id, assessment)
        if what is not None and what == self._shown:
            return
        self._recorder, self._shown = recorder, what
        keeping = None if recorder is None else assessment.facts.keeping[recorder.id]
        least = assessment.job.retention.least_days
        self._need_tb = None if keeping is None or least <= 0 else keeping.space_gb_for(least) / 1000
        self._capped_tb = None
        if recorder is not None and self._need_tb is not None:
            self._capped_tb = capped_need_tb(assessment.facts, recorder)
        self._show()

    def _show(self) -> None:
        recorder, need_tb = self._recorder, self._need_tb
        found: list[Purchase] = []
        if recorder is None:
            self._words.setText("Cheapest drives")
        elif need_tb is None:
            self._words.setText(f"Cheapest drives for {recorder.name}")
        else:
            offers = self.session.job.drive_offers
            levels = LEVELS[1:] if self._redundant.isChecked() else LEVELS
            found = purchases(need_tb, offers, recorder, levels)
            asked = figure(self.session.job.retention.least_days)
            words = f"{recorder.name} needs {figure(need_tb)} TB to promise {asked} days"
            if self._capped_tb is not None:
                words += f", {figure(self._capped_tb)} TB with maximum bit rates"
            if offers and not found:
                words += f"; no drives on the list give that in {count(recorder.bays, 'bay')}"
            self._words.setText(words)
        self.table.show_parts(found[:MOST_SHOWN], self.session.assessment, why_none=self._why_none())
        self._enable()

    def _why_none(self) -> str:
        """Why no drive is listed, where none is."""
        if not self.session.job.drive_offers:
            return NO_LIST
        if self._recorder is None:
            return "Add a recorder to see the cheapest drives that keep its days."
        if self._need_tb is None:
            return "Nothing is recorded yet, or no retention is entered, so any drive is enough."
        return "No drives on the list are enough."

    def _enable(self) -> None:
        self._take.setEnabled(bool(self.table.selected_parts()))

    def _load(self) -> None:
        path = self.asker.open_file("Load a price list", (LIST_FILE,), self.session.path)
        if path is not None:
            self.read(path)

    def read(self, path: Path) -> None:
        """Take a price list from a file."""
        self._reading.read(path, read_table, self._take_list)

    def _paste(self) -> None:
        try:
            self._take_list(table_from_text(QGuiApplication.clipboard().text()))
        except EagerLensError as error:
            self.session.notice(str(error), needs=True)

    def _take_list(self, table: RawTable) -> None:
        got = read_amounts(lambda decimal: price_list(table, decimal), self.session, self.asker)
        if got is None:
            return
        if self.session.apply(set_drive_offers(got.offers)):
            more = f" and {len(got.problems) - 1} more" if len(got.problems) > 1 else ""
            words = f"{got.problems[0]}{more}" if got.problems else f"{count(len(got.offers), 'drive')} on the list"
            self.session.tell_step(words, needs=bool(got.problems))

    def _make(self) -> None:
        selected = self.table.selected_parts()
        if not selected or self._recorder is None:
            return
        edit = selected[0].edit(self._recorder)
        if self.session.apply(edit):
            self.session.tell_step(edit.label)
