"""The handover sheets: what stands on the cover, a preview of every page, and export in open formats."""

from __future__ import annotations

import contextlib
import datetime
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QEvent, QTimer
from PySide6.QtWidgets import QFormLayout, QLineEdit, QPlainTextEdit, QVBoxLayout, QWidget

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.errors import EagerLensError, advice_for
from eager_lens.core.exchange.handover import handover_sheets, handover_tables
from eager_lens.core.exchange.pdf_pages import PagePicture, drawn_pages, page_shapes
from eager_lens.core.exchange.sheets import Sheet, SheetSet, date_words
from eager_lens.core.exchange.table_out import camera_table, csv_bytes, job_tables, xlsx_bytes
from eager_lens.core.files import write_whole
from eager_lens.core.job.edits import set_job
from eager_lens.core.job.model import Job
from eager_lens.core.site_check.run_file import latest_run, runs_beside
from eager_lens.core.site_check.sheet import site_check_sheet
from eager_lens.core.units import count
from eager_lens.desk.asking import PDF, Asker, FileKind, file_to_write
from eager_lens.desk.background import Task, Work
from eager_lens.desk.pages.handover.sheet_view import SheetView
from eager_lens.desk.session import Session
from eager_lens.desk.theme import SPACE, look
from eager_lens.desk.widgets.basics import button, column, label, row
from eager_lens.desk.widgets.busy import Busy
from eager_lens.desk.widgets.page import Page
from eager_lens.desk.writing import tell_written

HTML = FileKind("HTML", (".html",))
CSV = FileKind("CSV", (".csv",))
XLSX = FileKind("XLSX workbook", (".xlsx",))

Progress = Callable[[float], None]
Sheets = Callable[[Progress], SheetSet]

PREVIEW_AFTER_MS = 350
DRAW_AFTER_MS = 30

FORM = (
    ("name", "Job"),
    ("customer", "Customer"),
    ("site", "Site"),
    ("prepared_by", "Prepared by"),
    ("contact", "Contact"),
)


def written_date() -> str:
    """Today, as it stands on the sheets."""
    return date_words(datetime.date.today())


class HandoverPage(Page):
    """The form at the left, the pages at the right."""

    stage = "handover"

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.asker: Asker | None = None
        self._previewed: Assessment | None = None
        self._previewed_runs_ns = 0
        for words, act in (
            ("Export PDF…", lambda: self._export(PDF)),
            ("Export HTML…", lambda: self._export(HTML)),
            ("Tables as XLSX…", lambda: self._export(XLSX)),
            ("Tables as CSV…", lambda: self._export(CSV)),
        ):
            self.action_row.addWidget(button(words, act, "main" if "PDF" in words else "plain"))
        self.action_row.addStretch(1)
        side = QWidget()
        side.setFixedWidth(look.px(232))
        side.setLayout(
            column(
                label("On the cover", "heading"),
                self._form(),
                label("No password ever stands on these sheets. Hand them over sealed.", "caution", wrap=True),
                None,
            )
        )
        # Sheets that are looked at and files that are written know nothing of each other: neither stops the other.
        self._laying, self._drawing, self._exporting = (Busy(session, self) for _ in range(3))
        self._pdf = b""
        self._wait = QTimer(self, singleShot=True, interval=PREVIEW_AFTER_MS)
        self._wait.timeout.connect(self._draw_preview)
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

    def _sheets(self) -> QVBoxLayout:
        """The pages, and what is being done with them."""
        self.sheets = SheetView()
        self._draw_soon = QTimer(self, singleShot=True, interval=DRAW_AFTER_MS)
        self._draw_soon.timeout.connect(self._draw_pages)
        self.sheets.wanted.connect(self._draw_soon.start)
        right = column(
            self._exporting.line("Writing"),
            self._laying.line("Laying the sheets out"),
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

    def show_assessment(self, assessment: Assessment) -> None:
        """Fill the form, and draw the pages soon."""
        for name, line in self._lines.items():
            if not line.hasFocus():
                line.setText(getattr(assessment.job, name))
                line.setCursorPosition(0)
        if not self._note.hasFocus() and self._note.toPlainText() != assessment.job.note:
            self._note.setPlainText(assessment.job.note)
        self._wait.start()

    def _draw_preview(self) -> None:
        """Lay the sheets out anew, unless they are of this assessment; their pages are drawn as they come into sight."""
        assessment, beside = self.session.assessment, self._runs_path()
        runs_ns = _changed_ns(beside)
        if (assessment is self._previewed and runs_ns == self._previewed_runs_ns) or not self.isVisible():
            return
        sheets = _sheets_of(assessment, written_date(), beside)

        def work(task: Task) -> Work[tuple[bytes, tuple[tuple[float, float], ...]]]:
            yield 0.02
            pdf = _pdf(sheets, task.step)
            return pdf, page_shapes(pdf, task.step)

        def done(made: tuple[bytes, tuple[tuple[float, float], ...]]) -> None:
            self._previewed, self._previewed_runs_ns = assessment, runs_ns
            self._drawing.stop()
            self._pdf, shapes = made
            self.sheets.show_shapes(shapes)

        self._laying.begin(work, done)

    def _runs_path(self) -> Path | None:
        """Where the runs of the site check are kept, beside the job."""
        return None if self.session.path is None else runs_beside(self.session.path)

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

    def _export(self, kind: FileKind) -> None:
        if self.asker is None:
            return
        path = file_to_write(self.asker, f"Export {kind.words}", kind, self.session.beside(kind.endings[0]))
        if path is None:
            return
        assessment = self.session.assessment
        sheets = _sheets_of(assessment, written_date(), self._runs_path())
        make = _MAKERS[kind]

        def work(task: Task) -> Work[dict[Path, bytes]]:
            yield 0.02
            return make(path, assessment.job, sheets, lambda share: task.step(share * 0.9))

        self._exporting.begin(
            work,
            lambda files: self._write(path, files),
            lambda: self.session.notice(f"Stopped: {path.name} was not written"),
        )

    def _write(self, path: Path, files: dict[Path, bytes]) -> None:
        """Write what was made; other files than the one that was named are replaced only after a question."""
        others = [other for other in files if other != path and other.exists()]
        if others and self.asker is not None:
            names = ", ".join(other.name for other in others[:6]) + (", …" if len(others) > 6 else "")
            text = f"Beside {path.name} these would be replaced, which are there already: {names}."
            answers = (f"Replace {count(len(others), 'file')}", "Write nothing")
            if self.asker.ask("There already", text, answers, 1) != 0:
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
                    write_whole(target, data)
                except OSError as error:
                    more = f" {so_far()}." if len(files) > 1 else ""
                    raise EagerLensError(f"{advice_for(error, target, 'Writing')}{more}") from error
                written.append(target)

        def done(_: object) -> None:
            more = f" and {count(len(files) - 1, 'file')} beside it" if len(files) > 1 else ""
            tell_written(self.session, path, files[path], more)

        self._exporting.begin(work, done, lambda: self.session.notice(f"Stopped: {so_far()}", needs=True))


def _changed_ns(path: Path | None) -> int:
    """When a file was changed last; 0 where there is none."""
    try:
        return 0 if path is None else path.stat().st_mtime_ns
    except OSError:
        return 0


def _sheets_of(assessment: Assessment, date: str, runs: Path | None) -> Sheets:
    """What makes the sheets, with that of the latest site check where there was one."""

    def sheets(progress: Progress) -> SheetSet:
        further: list[Sheet] = []
        if runs is not None:
            # Runs that cannot be read are told where they are looked at; the handover goes on without.
            with contextlib.suppress(EagerLensError):
                further.append(site_check_sheet(assessment, latest_run(runs)))
        return handover_sheets(assessment, date, progress, further)

    return sheets


def _pdf(sheets: Sheets, progress: Progress) -> bytes:
    from eager_lens.core.exchange.pdf import handover_pdf  # loads a layout engine that no other page needs

    return handover_pdf(sheets(progress), progress)


def _html(sheets: Sheets, progress: Progress) -> bytes:
    from eager_lens.core.exchange.html import handover_html

    return handover_html(sheets(progress)).encode("utf-8")


def _xlsx(job: Job, sheets: Sheets, progress: Progress) -> bytes:
    return xlsx_bytes([*job_tables(job), *handover_tables(sheets(progress))], progress)


def _csv(path: Path, job: Job, sheets: Sheets, progress: Progress) -> dict[Path, bytes]:
    """A CSV holds one table: the camera list under the name that was given, the sheets' tables beside it."""
    files = {path: csv_bytes(camera_table(job))}
    for table in handover_tables(sheets(progress)):
        name = table.name.lower().replace(" ", "-")
        files[path.with_name(f"{path.stem}-{name}.csv")] = csv_bytes(table)
    return files


_MAKERS: dict[FileKind, Callable[[Path, Job, Sheets, Progress], dict[Path, bytes]]] = {
    PDF: lambda path, job, sheets, progress: {path: _pdf(sheets, progress)},
    HTML: lambda path, job, sheets, progress: {path: _html(sheets, progress)},
    XLSX: lambda path, job, sheets, progress: {path: _xlsx(job, sheets, progress)},
    CSV: _csv,
}
"""The files of an export, by kind."""
