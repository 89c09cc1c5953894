"""What an offer charges besides its parts: the currency, an hour's rate, the tax; and a price list of parts."""

from __future__ import annotations

from PySide6.QtWidgets import QLineEdit, QWidget

from eager_lens.core.incoming.price_list import part_prices
from eager_lens.core.incoming.table_in import RawTable, read_table
from eager_lens.core.job.edits import set_charges, set_prices
from eager_lens.core.outgoing.formats.table_out import Table, csv_bytes
from eager_lens.core.outgoing.handover.sums import price_of, prices_of
from eager_lens.core.present.parts import parts_list
from eager_lens.core.units import count
from eager_lens.desk.amounts import read_amounts
from eager_lens.desk.asking import LIST_FILE, Asker, FileKind, file_to_write
from eager_lens.desk.session import Session
from eager_lens.desk.theme import SPACE
from eager_lens.desk.widgets.basics import button, column, label, row
from eager_lens.desk.widgets.busy import Busy
from eager_lens.desk.widgets.number_field import NumberField
from eager_lens.desk.writing import export

CSV = FileKind("CSV", (".csv",))


class ChargesForm(QWidget):
    """The fields, and the ways a price list comes and goes."""

    def __init__(self, session: Session, asker: Asker) -> None:
        super().__init__()
        self.session = session
        self.asker = asker
        self.busy = Busy(session, self)
        self.currency = QLineEdit()
        self.currency.setMaxLength(20)
        self.currency.setAccessibleName("Currency")
        self.currency.setPlaceholderText("as EUR")
        self.currency.editingFinished.connect(self._set_currency)
        self.rate = NumberField("Hourly rate", "an hour", "not offered", width=104)
        self.tax = NumberField("Tax", "%", width=104)
        for field in (self.rate, self.tax):
            field.refused.connect(lambda words: session.notice(words, needs=True))
        self.rate.typed.connect(lambda value: self._set("Set the rate", rate_per_h=value))
        self.tax.typed.connect(lambda value: self._set("Set the tax", tax_share=(value or 0) / 100))
        self._words = label("", "small", wrap=True)
        self.take = button("Load prices …", self._ask, tip="A list with the columns What and Price, as CSV or XLSX")
        self.blank = button("Price list to fill in …", self._blank, "quiet", "The parts list with a column for prices")
        self.setLayout(
            column(
                label("Prices", "heading"),
                row(label("Currency", "small"), self.currency),
                row(label("Hour", "small"), self.rate, None),
                row(label("Tax", "small"), self.tax, None),
                self._words,
                row(self.take, self.blank, None),
                spacing=SPACE.TIGHT,
            )
        )
        session.assessed.connect(lambda _: self._show())

    def showEvent(self, event: object) -> None:
        """Catch up with what changed while it was out of sight."""
        self._show()

    def _show(self) -> None:
        if not self.isVisible():
            return
        job = self.session.job
        if not self.currency.hasFocus():
            self.currency.setText(job.charges.currency)
        self.rate.show_value(job.charges.rate_per_h)
        self.tax.show_value(100 * job.charges.tax_share)
        prices = prices_of(job)
        parts = [part for part in parts_list(self.session.assessment.facts) if part.unit != "runs"]
        priced = sum(price_of(part.what, prices) is not None for part in parts)
        self._words.setText(f"{priced} of {count(len(parts), 'part')} have a price. Prices are never assumed.")

    def _set(self, words: str, **fields: object) -> None:
        self.session.attempt(lambda: set_charges(words, **fields))

    def _set_currency(self) -> None:
        text = self.currency.text().strip()
        if text != self.session.job.charges.currency:
            self._set("Set the currency", currency=text)

    def _ask(self) -> None:
        path = self.asker.open_file("A price list of parts", (LIST_FILE,))
        if path is not None:
            self.busy.read(path, read_table, self.take_list)

    def take_list(self, table: RawTable) -> None:
        """Take prices out of a list, asking how its decimals are written where it does not show that."""
        found = read_amounts(lambda decimal: part_prices(table, decimal), self.session, self.asker)
        if found is None:
            return
        own = self.session.job.charges.currency
        if self.session.apply(set_prices(found.prices, found.currency)):
            words = [f"{count(len(found.prices), 'price')} loaded."]
            others = {one.currency for one in found.prices} - {"", self.session.job.charges.currency}
            if others and own:
                words.append(f"Prices in {', '.join(sorted(others))} have a separate sum from those in {own}.")
            words += [f"{problem}." for problem in found.problems[:1]]
            self.session.tell_step(" ".join(words), needs=len(words) > 1)

    def _blank(self) -> None:
        path = file_to_write(self.asker, "Price list to fill in", CSV, self.session.beside(" prices.csv"))
        if path is None:
            return
        prices = prices_of(self.session.job)
        parts = [part for part in parts_list(self.session.assessment.facts) if part.unit != "runs"]
        own = self.session.job.charges.currency
        rows = []
        for part in parts:
            price = price_of(part.what, prices)
            amount: float | str = "" if price is None else price.amount
            rows.append((part.what, amount, own if price is None else price.currency, part.unit))
        export(self.session, path, csv_bytes(Table("Prices", ("What", "Price", "Currency", "For one of"), tuple(rows))))
