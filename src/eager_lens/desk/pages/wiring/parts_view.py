"""The parts list of the wiring as planned, with its waste share, to copy and to write as CSV or XLSX."""

from __future__ import annotations

from PySide6.QtWidgets import QWidget

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.job.edits import set_job
from eager_lens.core.outgoing.formats.table_out import csv_bytes, parts_table, xlsx_bytes
from eager_lens.core.present.parts import parts_list
from eager_lens.core.units import count
from eager_lens.desk.asking import Asker, FileKind, file_to_write
from eager_lens.desk.pages.wiring.tables import ListedPart, part_columns
from eager_lens.desk.session import Session
from eager_lens.desk.widgets.basics import button, column, label
from eager_lens.desk.widgets.flow import flow
from eager_lens.desk.widgets.number_field import NumberField
from eager_lens.desk.widgets.record_table import RecordTable
from eager_lens.desk.writing import export

CSV = FileKind("CSV", (".csv",))
XLSX = FileKind("XLSX workbook", (".xlsx",))


class PartsView(QWidget):
    """Waste share and exports above the list."""

    def __init__(self, session: Session, asker: Asker) -> None:
        super().__init__()
        self.session = session
        self.asker = asker
        self._words = label("", "muted")
        self.waste = NumberField("Waste on cable", "%", width=64)
        self.waste.typed.connect(self._set_waste)
        self.waste.refused.connect(lambda text: session.notice(text, needs=True))
        self.parts = RecordTable(session, part_columns(), group_by=lambda part: part.group, shares_selection=False)
        self.parts.empty_words = "Nothing to buy yet; the list follows the wiring."
        tools = flow(
            label("Waste on cable"),
            self.waste,
            self._words,
            None,
            button("Copy all", self._copy),
            button("As CSV…", lambda: self._export(CSV)),
            button("As XLSX…", lambda: self._export(XLSX)),
        )
        layout = column(tools, self.parts)
        layout.setStretch(1, 1)
        self.setLayout(layout)

    def show_assessment(self, assessment: Assessment) -> None:
        """Fill the list."""
        parts = parts_list(assessment.facts)
        self.waste.show_value(100 * assessment.job.cable_waste_share)
        self.parts.show_parts([ListedPart(f"{part.group} {part.what}", part) for part in parts], assessment)
        self._words.setText(f"{count(len(parts), 'line')}. Check the list on site before you order.")

    def _set_waste(self, percent: float | None) -> None:
        if percent is not None:
            self.session.attempt(lambda: set_job("waste on cable", cable_waste_share=percent / 100))
            self.waste.show_value(100 * self.session.job.cable_waste_share)

    def _copy(self) -> None:
        self.parts.selectAll()
        self.parts.copy()
        self.parts.clearSelection()

    def _export(self, kind: FileKind) -> None:
        path = file_to_write(self.asker, f"Export {kind.words}", kind, self.session.beside(f"-parts{kind.endings[0]}"))
        if path is None:
            return
        table = parts_table(self.session.assessment.facts)
        export(self.session, path, csv_bytes(table) if kind is CSV else xlsx_bytes([table]))
