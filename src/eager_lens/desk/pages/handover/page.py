"""The handover sheets: what stands on the cover, a preview of every page, and export in open formats."""

from __future__ import annotations

import datetime
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QEvent, Qt, QTimer
from PySide6.QtGui import QImage, QPixmap
from PySide6.QtWidgets import (
    QFormLayout,
    QFrame,
    QLabel,
    QLineEdit,
    QPlainTextEdit,
    QProgressBar,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.errors import EagerLensError, advice_for
from eager_lens.core.exchange.handover import handover_sheets, handover_tables
from eager_lens.core.exchange.sheets import date_words
from eager_lens.core.exchange.table_out import camera_table, csv_bytes, job_tables, xlsx_bytes
from eager_lens.core.job.edits import set_job
from eager_lens.core.job.file import write_whole
from eager_lens.core.units import count
from eager_lens.desk.asking import Asker, FileKind
from eager_lens.desk.background import Task, Work, start
from eager_lens.desk.session import Session
from eager_lens.desk.theme import SPACE, look
from eager_lens.desk.widgets.basics import button, column, emptied, label, row
from eager_lens.desk.widgets.page import Page

PDF = FileKind("PDF", (".pdf",))
HTML = FileKind("HTML", (".html",))
CSV = FileKind("CSV", (".csv",))
XLSX = FileKind("XLSX workbook", (".xlsx",))

Progress = Callable[[float], None]

PREVIEW_PAGES = 60
PREVIEW_AFTER_MS = 350

FORM = (
    ("name", "Job"),
    ("customer", "Customer"),
    ("site", "Site"),
    ("prepared_by", "Prepared by"),
    ("contact", "Whom to call"),
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
        self._task: Task | None = None
        self._previewed: Assessment | None = None
        for words, act in (
            ("Export PDF…", lambda: self._export(PDF)),
            ("Export HTML…", lambda: self._export(HTML)),
            ("Tables as XLSX…", lambda: self._export(XLSX)),
            ("Tables as CSV…", lambda: self._export(CSV)),
        ):
            self.action_row.addWidget(button(words, act, "main" if "PDF" in words else "plain"))
        self.action_row.addStretch(1)
        self._lines: dict[str, QLineEdit] = {}
        form = QFormLayout()
        form.setVerticalSpacing(SPACE.HALF)
        form.setFieldGrowthPolicy(QFormLayout.FieldGrowthPolicy.AllNonFixedFieldsGrow)
        form.setRowWrapPolicy(QFormLayout.RowWrapPolicy.WrapAllRows)
        for name, words in FORM:
            line = QLineEdit()
            line.setMaxLength(200)
            line.editingFinished.connect(lambda name=name, words=words: self._typed(name, words))
            self._lines[name] = line
            form.addRow(label(words, "small"), line)
        self._note = QPlainTextEdit()
        self._note.setTabChangesFocus(True)
        self._note.setFixedHeight(look.px(84))
        self._note.setAccessibleName("Note")
        self._note.installEventFilter(self)
        form.addRow(label("Note", "small"), self._note)
        side = QWidget()
        side.setFixedWidth(look.px(232))
        side.setLayout(
            column(
                label("On the cover", "heading"),
                form,
                label("No password ever stands on these sheets. Hand them over sealed.", "caution", wrap=True),
                None,
            )
        )
        self._pages = QVBoxLayout()
        self._pages.setContentsMargins(SPACE.FULL, SPACE.HALF, SPACE.FULL, SPACE.FULL)
        self._pages.setSpacing(SPACE.FULL)
        inner = QWidget()
        inner.setLayout(self._pages)
        self._scroll = QScrollArea()
        self._scroll.setWidgetResizable(True)
        self._scroll.setWidget(inner)
        self._progress = QProgressBar()
        self._progress.setRange(0, 100)
        self._progress.setFormat("drawing the sheets")
        self._cancel = button("Cancel", self._cancel_task, "quiet")
        bar = row(self._progress, self._cancel)
        right = column(bar, self._scroll)
        right.setStretch(1, 1)
        both = row(side, right, spacing=SPACE.FULL)
        both.setStretch(1, 1)
        self.body.addLayout(both, 1)
        self._busy(False)
        self._wait = QTimer(self, singleShot=True, interval=PREVIEW_AFTER_MS)
        self._wait.timeout.connect(self._draw_preview)

    def _busy(self, busy: bool) -> None:
        self._progress.setVisible(busy)
        self._cancel.setVisible(busy)

    # ---- preview -------------------------------------------------------------------------------------------------

    def show_assessment(self, assessment: Assessment) -> None:
        """Fill the form, and draw the pages soon."""
        for name, line in self._lines.items():
            if not line.hasFocus():
                line.setText(getattr(assessment.job, name))
        if not self._note.hasFocus() and self._note.toPlainText() != assessment.job.note:
            self._note.setPlainText(assessment.job.note)
        self._wait.start()

    def _draw_preview(self) -> None:
        assessment = self.session.assessment
        if assessment is self._previewed:
            return
        self._cancel_task()
        date, ratio = written_date(), self.devicePixelRatioF()
        width_px = max(320, min(760, self._scroll.width() - 2 * SPACE.FULL - 20))

        def work(task: Task) -> Work[list[QImage]]:
            yield 0.02
            pdf = _pdf(assessment, date, lambda share: task.step(share * 0.5))
            yield 0.5
            return (yield from _page_images(pdf, round(width_px * ratio)))

        task = start(work, self)
        self._task = task
        self._busy(True)
        task.progressed.connect(
            lambda share: self._progress.setValue(round(100 * share)) if task is self._task else None
        )
        task.done.connect(lambda images: self._show_pages(images, ratio, assessment) if task is self._task else None)
        task.failed.connect(lambda text: self._failed(text) if task is self._task else None)

    def _show_pages(self, images: list[QImage], ratio: float, assessment: Assessment) -> None:
        self._busy(False)
        self._previewed = assessment
        at = self._scroll.verticalScrollBar().value()
        emptied(self._pages)
        for number, image in enumerate(images, 1):
            pixmap = QPixmap.fromImage(image)
            pixmap.setDevicePixelRatio(ratio)
            frame = QLabel()
            frame.setProperty("role", "frame")
            frame.setFrameShape(QFrame.Shape.Box)
            frame.setPixmap(pixmap)
            frame.setAccessibleName(f"Page {number}")
            self._pages.addWidget(frame, 0, Qt.AlignmentFlag.AlignHCenter)
        if len(images) == PREVIEW_PAGES:
            self._pages.addWidget(label("More pages follow in the export.", "muted"))
        self._pages.addStretch(1)
        QTimer.singleShot(0, lambda: self._scroll.verticalScrollBar().setValue(at))

    def _failed(self, text: str) -> None:
        self._busy(False)
        self.session.notice(f"The sheets could not be drawn: {text}", needs=True)

    def _cancel_task(self) -> None:
        if self._task is not None:
            self._task.cancel()
            self._task = None
        self._busy(False)

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
        path = self.asker.save_file(f"Export {kind.words}", kind, self.session.beside(kind.endings[0]))
        if path is None:
            return
        assessment, date = self.session.assessment, written_date()
        make = _MAKERS[kind]

        def work(task: Task) -> Work[list[Path]]:
            yield 0.02
            files = make(path, assessment, date, lambda share: task.step(share * 0.9))
            yield 0.9
            for target, data in files.items():
                try:
                    write_whole(target, data)
                except OSError as error:
                    raise EagerLensError(advice_for(error, target, "Writing")) from error
            return list(files)

        task = start(work, self)
        self._busy(True)
        self._task = task
        task.progressed.connect(lambda share: self._progress.setValue(round(100 * share)))
        task.done.connect(self._exported)
        task.failed.connect(self._failed)
        task.cancelled.connect(lambda: self.session.notice(f"{path.name} was not written"))

    def _exported(self, paths: list[Path]) -> None:
        self._busy(False)
        more = f" and {count(len(paths) - 1, 'file')} beside it" if len(paths) > 1 else ""
        self.session.notice(f"Written: {paths[0]}{more}")


def _pdf(assessment: Assessment, date: str, progress: Progress) -> bytes:
    from eager_lens.core.exchange.pdf import handover_pdf  # loads a layout engine that no other page needs

    return handover_pdf(handover_sheets(assessment, date), progress)


def _html(assessment: Assessment, date: str) -> bytes:
    from eager_lens.core.exchange.html import handover_html

    return handover_html(handover_sheets(assessment, date)).encode("utf-8")


def _xlsx(assessment: Assessment, date: str) -> bytes:
    return xlsx_bytes([*job_tables(assessment.job), *handover_tables(handover_sheets(assessment, date))])


def _csv(path: Path, assessment: Assessment) -> dict[Path, bytes]:
    """A CSV holds one table: the camera list under the name that was given, the sheets' tables beside it."""
    files = {path: csv_bytes(camera_table(assessment.job))}
    for table in handover_tables(handover_sheets(assessment, written_date())):
        name = table.name.lower().replace(" ", "-")
        files[path.with_name(f"{path.stem}-{name}.csv")] = csv_bytes(table)
    return files


_MAKERS: dict[FileKind, Callable[[Path, Assessment, str, Progress], dict[Path, bytes]]] = {
    PDF: lambda path, assessment, date, progress: {path: _pdf(assessment, date, progress)},
    HTML: lambda path, assessment, date, progress: {path: _html(assessment, date)},
    XLSX: lambda path, assessment, date, progress: {path: _xlsx(assessment, date)},
    CSV: lambda path, assessment, date, progress: _csv(path, assessment),
}
"""The files of an export, by kind."""


def _page_images(pdf: bytes, width_px: int) -> Work[list[QImage]]:
    """The pages of a PDF as images of a width, as the printed sheet will look."""
    import pypdfium2

    document = pypdfium2.PdfDocument(pdf)
    images: list[QImage] = []
    try:
        pages = min(len(document), PREVIEW_PAGES)
        for at in range(pages):
            page = document[at]
            bitmap = page.render(scale=width_px / page.get_width())
            raw = bitmap.to_pil().convert("RGB")
            image = QImage(raw.tobytes(), raw.width, raw.height, raw.width * 3, QImage.Format.Format_RGB888)
            images.append(image.copy())
            yield 0.5 + 0.5 * (at + 1) / pages
    finally:
        document.close()
    return images
