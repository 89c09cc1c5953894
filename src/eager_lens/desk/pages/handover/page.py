"""The handover sheets: what stands on the cover, a preview of every page, and export in open formats."""

from __future__ import annotations

import datetime
from collections.abc import Callable
from functools import partial
from pathlib import Path

from PySide6.QtCore import QEvent, QTimer
from PySide6.QtWidgets import (
    QCheckBox,
    QFormLayout,
    QLineEdit,
    QMenu,
    QPlainTextEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.model_changes import handed_over
from eager_lens.core.errors import EagerLensError, advice_for
from eager_lens.core.files import PRIVATE, read_whole, write_whole
from eager_lens.core.firm.label_stock import STOCKS, LabelStock
from eager_lens.core.firm.lists import FIRM_LISTS, read_firm
from eager_lens.core.job.edits import note_handed_over, set_job
from eager_lens.core.outgoing.formats.pdf_pages import PagePicture, drawn_pages, page_shapes
from eager_lens.core.outgoing.formats.reader import PAPERS, system_reader
from eager_lens.core.outgoing.formats.table_out import camera_table, spoiled_words
from eager_lens.core.outgoing.handover.modes import MODE_RECORDS, MODES
from eager_lens.core.outgoing.handover.printable import warning
from eager_lens.core.records.sealed.vault import ENDING, LARGEST_BYTES
from eager_lens.core.units import count
from eager_lens.desk.asking import JOB_FILE, PDF, Asker, FileKind, file_to_write
from eager_lens.desk.background import Task, Work
from eager_lens.desk.pages.handover.beside import Beside
from eager_lens.desk.pages.handover.charges_form import ChargesForm
from eager_lens.desk.pages.handover.files import (
    CSV,
    HTML,
    MAKERS,
    XLSX,
    Wanted,
    pdf_of,
    sheets_maker,
    wiring_drawing,
    with_wiring,
)
from eager_lens.desk.pages.handover.sheet_view import SheetView
from eager_lens.desk.session import Session
from eager_lens.desk.theme import SPACE, look
from eager_lens.desk.widgets.basics import Choice, button, column, label, row
from eager_lens.desk.widgets.busy import Busy
from eager_lens.desk.widgets.page import Page
from eager_lens.desk.widgets.plain_words import as_label
from eager_lens.desk.writing import tell_written

ZIP = FileKind("Packs", (".zip",))
FOLDER = FileKind("Folders", ("",))

PREVIEW_AFTER_MS = 350
DRAW_AFTER_MS = 30

FORM = (
    ("name", "Job"),
    ("customer", "Customer"),
    ("site", "Site"),
    ("prepared_by", "Prepared by"),
    ("contact", "Contact"),
)


class HandoverPage(Page):
    """The form at the left, the pages at the right."""

    stage = "handover"

    def __init__(self, session: Session, asker: Asker) -> None:
        super().__init__(session, asker)
        # Compared with the session's counter, so that a chosen earlier file is forgotten with its job.
        self._opened = -1
        self._previewed: Assessment | None = None
        self._wait = QTimer(self, singleShot=True, interval=PREVIEW_AFTER_MS)
        self._wait.timeout.connect(self._draw_preview)
        self._previewed_key: tuple[object, ...] = ()
        self.mode = Choice()
        self.mode.setAccessibleName("Reader of the papers")
        for mode in MODES:
            self.mode.addItem(MODE_RECORDS[mode].label, mode)
        self.mode.setCurrentIndex(MODES.index("as built"))
        self.paper = Choice()
        self.paper.setAccessibleName("Paper")
        self.paper.addItems(PAPERS)
        self.paper.setCurrentIndex(PAPERS.index(system_reader().paper))
        for choice in (self.mode, self.paper):
            choice.currentIndexChanged.connect(lambda _: self._wait.start())
        self.pack = button(
            "Create the pack …", self._make_pack, "main", "Everything for this reader, as one ZIP or a folder"
        )
        self.as_folder = QCheckBox("as a folder")
        self.labels = button("Labels ▾", tip="Name, place, address, MAC address and a QR code; never a password")
        self._label_menu = QMenu(self.labels)
        self._label_menu.aboutToShow.connect(self.fill_label_menu)
        self.labels.setMenu(self._label_menu)
        self.earlier: Path | None = None
        self.compare = button(
            "Compared with …", self._ask_earlier, tip="An earlier job file, as handed over or as offered"
        )
        self.compare.hide()
        for part in (self.mode, self.compare, self.paper, self.pack, self.as_folder):
            self.action_row.addWidget(part)
        self.action_row.addWidget(self._formats())
        self.action_row.addWidget(self.labels)
        self.action_row.addStretch(1)
        self.unprintable = label("", "caution", wrap=True)
        self.unprintable.hide()
        side = QWidget()
        look.fix_width(side, 232)
        side.setLayout(
            column(
                self.unprintable,
                label("On the cover", "heading"),
                self._form(),
                self._charges_form(),
                label("These papers never contain passwords. Hand passwords over sealed.", "caution", wrap=True),
                None,
            )
        )
        # Sheets that are looked at and files that are written know nothing of each other: neither stops the other.
        self._laying, self._drawing, self._exporting = (Busy(session, self) for _ in range(3))
        self._pdf = b""
        both = row(side, self._sheets(), spacing=SPACE.FULL)
        both.setStretch(1, 1)
        self.body.addLayout(both, 1)

    def _form(self) -> QFormLayout:
        """What stands on the cover."""
        self._lines: dict[str, QLineEdit] = {}
        form = QFormLayout()
        form.setVerticalSpacing(SPACE.HALF)
        form.setFieldGrowthPolicy(QFormLayout.FieldGrowthPolicy.AllNonFixedFieldsGrow)
        form.setRowWrapPolicy(QFormLayout.RowWrapPolicy.WrapAllRows)
        for name, words in FORM:
            line = QLineEdit()
            line.setMaxLength(200)
            line.setAccessibleName(words)
            line.editingFinished.connect(lambda name=name, words=words: self._typed(name, words))
            self._lines[name] = line
            form.addRow(label(words, "small"), line)
        self._note = QPlainTextEdit()
        self._note.setTabChangesFocus(True)
        self._note.setFixedHeight(look.px(84))
        self._note.setAccessibleName("Note")
        self._note.installEventFilter(self)
        form.addRow(label("Note", "small"), self._note)
        return form

    def _charges_form(self) -> QVBoxLayout:
        """What the offer charges; in sight in that mode."""
        self.charges = ChargesForm(self.session, self.asker)
        self.mode.currentIndexChanged.connect(lambda _: self._mode_selected())
        self.charges.hide()
        return column(self.charges)

    @property
    def wanted(self) -> Wanted:
        """For whom sheets are made, and on which paper."""
        paper = PAPERS[max(0, self.paper.currentIndex())]
        return Wanted(MODES[max(0, self.mode.currentIndex())], system_reader()._replace(paper=paper), self.earlier)

    def _mode_selected(self) -> None:
        self.charges.setVisible(self.wanted.mode == "offer")
        self.compare.setVisible(self.wanted.mode == "return visit")

    def _ask_earlier(self) -> None:
        path = self.asker.open_file("An earlier state of this job", (JOB_FILE,))
        if path is not None:
            self.earlier = path
            self.compare.setText(f"Compared with {path.name.removesuffix(JOB_FILE.endings[0])[:24]} …")
            self._wait.start()

    def _sheets(self) -> QVBoxLayout:
        """The pages, and what is being done with them."""
        self.sheets = SheetView()
        self._draw_soon = QTimer(self, singleShot=True, interval=DRAW_AFTER_MS)
        self._draw_soon.timeout.connect(self._draw_pages)
        self.sheets.wanted.connect(self._draw_soon.start)
        right = column(
            self._exporting.line("Writing"),
            self._laying.line("Laying out the papers"),
            self.sheets,
        )
        right.setStretch(2, 1)
        return right

    def showEvent(self, event: object) -> None:
        """Sheets that were not laid out while the page was out of sight are now."""
        super().showEvent(event)
        self._wait.start()

    def hideEvent(self, event: object) -> None:
        """Nobody looks at the sheets: what is laid out for that is not worth its time. A file that is written goes on."""
        self._laying.stop()
        self._drawing.stop()
        super().hideEvent(event)  # type: ignore[arg-type]

    # ---- preview -------------------------------------------------------------------------------------------------

    def lead_to(self, subject: str) -> None:
        """Show a line of the cover sheet, by its field."""
        if subject in self._lines:
            self._lines[subject].setFocus()

    def show_assessment(self, assessment: Assessment) -> None:
        """Fill the form, and draw the pages soon."""
        if self._opened != self.session.times_opened:
            self._opened, self.earlier = self.session.times_opened, None
            self.compare.setText("Compared with …")
        for name, line in self._lines.items():
            # Never overwrite a field that is being typed into.
            if not line.hasFocus():
                line.setText(getattr(assessment.job, name))
                line.setCursorPosition(0)
        if not self._note.hasFocus() and self._note.toPlainText() != assessment.job.note:
            self._note.setPlainText(assessment.job.note)
        self._wait.start()

    def _draw_preview(self) -> None:
        """Lay out the papers, unless those shown belong to this assessment; pages are drawn when they come into sight."""
        assessment, beside = self.session.assessment, self._beside()
        key = (self.wanted, beside.state)
        # Identity is enough: every edit makes a new assessment.
        if (assessment is self._previewed and key == self._previewed_key) or not self.isVisible():
            return
        sheets, reader = sheets_maker(self.wanted, assessment, beside), self.wanted.reader

        def work(task: Task) -> Work[tuple[bytes, tuple[tuple[float, float], ...], str]]:
            yield 0.02
            pdf = pdf_of(assessment.job, sheets, reader, task.step)
            return pdf, page_shapes(pdf, task.step), warning(assessment.job)

        def done(made: tuple[bytes, tuple[tuple[float, float], ...], str]) -> None:
            self._previewed, self._previewed_key = assessment, key
            self._drawing.stop()
            self._pdf, shapes, unprintable = made
            self.unprintable.setText(unprintable)
            self.unprintable.setVisible(bool(unprintable))
            self.sheets.show_shapes(shapes)

        self._laying.begin(work, done)

    def _beside(self) -> Beside:
        # The sheet shows the anchor of the log, so entries still waiting must be on the disk first.
        self.session.log.flush()
        return Beside(self.session.path)

    def _draw_pages(self) -> None:
        """Draw the pages in sight that are not drawn yet."""
        numbers, pdf, width_px = self.sheets.missing(), self._pdf, self.sheets.page_width_px()
        if not numbers or not pdf:
            return

        def work(task: Task) -> Work[list[PagePicture]]:
            yield 0.0
            return drawn_pages(pdf, numbers, width_px, task.step)

        self._drawing.begin(work, lambda pictures: self._show_pages(pictures, pdf))

    def _show_pages(self, pictures: list[PagePicture], pdf: bytes) -> None:
        if pdf is self._pdf:
            self.sheets.show_pictures(pictures)

    # ---- edits and export ----------------------------------------------------------------------------------------

    def _typed(self, name: str, words: str) -> None:
        text = self._lines[name].text().strip()
        if name == "name" and not text:
            self._lines[name].setText(self.session.job.name)
        elif text != getattr(self.session.job, name):
            self.session.attempt(lambda: set_job(words.lower(), **{name: text}))

    def eventFilter(self, watched: object, event: object) -> bool:
        """The note counts as typed when it is left."""
        if isinstance(event, QEvent) and event.type() == QEvent.Type.FocusOut:
            text = self._note.toPlainText()[:4000]
            if text != self.session.job.note:
                self.session.attempt(lambda: set_job("note", note=text))
        return super().eventFilter(watched, event)  # type: ignore[arg-type]

    def _formats(self) -> QPushButton:
        """A button with a menu of the formats."""
        formats = button("One format ▾", tip="Only these papers")
        menu = QMenu(formats)
        for kind in (PDF, HTML, XLSX, CSV):
            menu.addAction(kind.words, partial(self._export, kind))
        formats.setMenu(menu)
        return formats

    def _export(self, kind: FileKind) -> None:
        path = file_to_write(self.asker, f"Export {kind.words}", kind, self.session.beside(kind.endings[0]))
        if path is None:
            return
        assessment = self.session.assessment
        wanted = self.wanted
        sheets = sheets_maker(wanted, assessment, self._beside())
        make = MAKERS[kind]

        def work(task: Task) -> Work[dict[Path, bytes]]:
            yield 0.02
            return make(path, assessment.job, sheets, wanted.reader, lambda share: task.step(share * 0.9))

        note = self._note_handed_over if kind in (PDF, HTML) else lambda assessment, wanted: None
        self._exporting.begin(
            work,
            lambda files: self._write(path, files, then=lambda: note(assessment, wanted)),
            lambda: self.session.notice(f"Stopped: {path.name} was not written"),
        )

    def _note_handed_over(self, assessment: Assessment, wanted: Wanted) -> None:
        """Keep in the job what the papers say of days, so that it can stand beside figures of another day or model."""
        now = datetime.datetime.now().isoformat(timespec="minutes")
        what = MODE_RECORDS[wanted.mode].label
        kept = handed_over(assessment, what, now, self.session.person[:200])
        edit = note_handed_over(kept)
        if edit.apply(self.session.job) is not self.session.job:
            self.session.apply(edit)

    def _make_pack(self) -> None:
        """All that goes to this reader, as one file or one folder; sealed passwords apart from it."""
        wanted, assessment, beside = self.wanted, self.session.assessment, self._beside()
        label_words = MODE_RECORDS[wanted.mode].label.lower()
        folder = self.as_folder.isChecked()
        kind = FOLDER if folder else ZIP
        path = file_to_write(
            self.asker, "Create the pack", kind, self.session.beside(f" {label_words}{kind.endings[0]}")
        )
        if path is None:
            return
        # With the layout engine, which no other page needs.
        from eager_lens.core.outgoing.handover.pack import SUMS, PackPlan, pack_files, zipped

        today = datetime.date.today()
        stock = next((one for one in self._stocks() if one.paper == wanted.reader.paper), STOCKS[0])

        def work(task: Task) -> Work[dict[Path, bytes]]:
            yield 0.02
            own = {} if MODE_RECORDS[wanted.mode].without_addresses else beside.files()
            drawn = yield from wiring_drawing(assessment)
            extras = with_wiring(beside.extras(assessment, wanted.compared), assessment, task.step)
            plan = PackPlan(wanted.mode, today, wanted.reader, stock, extras, {**own, "wiring.svg": drawn})
            files = pack_files(assessment, plan, lambda share: task.step(share * 0.9))
            if not folder:
                return {path: zipped(files, today)}
            return {path / SUMS: files[SUMS], **{path / name: data for name, data in files.items()}}

        def done(files: dict[Path, bytes]) -> None:
            sealed = beside.sealed
            if sealed is not None and wanted.mode == "as built":
                apart = path.with_name(f"{path.name.partition('.')[0]} passwords{ENDING}")
                files = {**files, apart: read_whole(sealed, LARGEST_BYTES, "sealed file")}
            self._write(next(iter(files)), files, folder, lambda: self._note_handed_over(assessment, wanted))

        self._exporting.begin(work, done, lambda: self.session.notice(f"Stopped: {path.name} was not written"))

    def _stocks(self) -> tuple[LabelStock, ...]:
        """Label stock: the firm's own first, then the common sizes."""
        try:
            own = read_firm(self.session.config_folder / FIRM_LISTS).label_stocks
        except EagerLensError:
            own = ()  # told where the firm's lists are used
        return (*own, *STOCKS)

    def fill_label_menu(self) -> None:
        """The label stock there is."""
        self._label_menu.clear()
        for stock in self._stocks():
            self._label_menu.addAction(as_label(stock.name), partial(self._labels, stock))

    def _labels(self, stock: LabelStock) -> None:
        path = file_to_write(self.asker, "Labels", PDF, self.session.beside(" labels.pdf"))
        if path is None:
            return
        job = self.session.job

        def work(task: Task) -> Work[dict[Path, bytes]]:
            from eager_lens.core.outgoing.handover.labels import labels_of, labels_pdf

            yield 0.1
            return {path: labels_pdf(labels_of(job), stock)}

        self._exporting.begin(work, lambda files: self._write(path, files))

    def _write(
        self, path: Path, files: dict[Path, bytes], folder: bool = False, then: Callable[[], None] = lambda: None
    ) -> None:
        """Write what was made; other files than the one that was named are replaced only after a question. ``folder``: their
        folders are made."""
        others = [other for other in files if other != path and other.exists()]
        if others:
            names = ", ".join(other.name for other in others[:6]) + (", …" if len(others) > 6 else "")
            text = f"These files beside {path.name} exist already and would be replaced: {names}."
            answers = (f"Replace {count(len(others), 'file')}", "Cancel")
            if self.asker.ask("Files exist", text, answers, 1) != 0:
                self.session.notice(f"{path.name} was not written")
                return
        written: list[Path] = []

        def so_far() -> str:
            names = ", ".join(one.name for one in written[:6]) + (", …" if len(written) > 6 else "")
            return f"{len(written)} of {count(len(files), 'file')} were written{': ' if written else ''}{names}"

        def work(task: Task) -> Work[None]:
            for target, data in files.items():
                yield len(written) / len(files)
                try:
                    if folder:
                        target.parent.mkdir(parents=True, exist_ok=True)
                    if target.name.endswith(ENDING):
                        write_whole(target, data, PRIVATE, PRIVATE)
                    else:
                        write_whole(target, data)
                except OSError as error:
                    more = f" {so_far()}." if len(files) > 1 else ""
                    raise EagerLensError(f"{advice_for(error, target, 'Writing')}{more}") from error
                written.append(target)

        def done(_: object) -> None:
            more = f" and {count(len(files) - 1, 'file')} beside it" if len(files) > 1 else ""
            if path.name.endswith(".csv") and (spoiled := spoiled_words(camera_table(self.session.job))):
                more += f". {spoiled}"
            tell_written(self.session, path, files[path], more)
            then()

        self._exporting.begin(work, done, lambda: self.session.notice(f"Stopped: {so_far()}", needs=True))
