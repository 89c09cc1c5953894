"""The handover sheets as a PDF: A4, fonts embedded, headings repeated over page breaks, pages numbered."""

from __future__ import annotations

import io
import threading
from collections.abc import Callable, Iterator
from functools import cache
from typing import Any
from xml.sax.saxutils import escape

from PIL import Image
from reportlab.lib.colors import HexColor
from reportlab.lib.enums import TA_RIGHT
from reportlab.lib.pagesizes import A4
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.lib.utils import ImageReader
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.platypus import (
    BaseDocTemplate,
    Flowable,
    Frame,
    KeepTogether,
    PageBreak,
    PageTemplate,
    Paragraph,
    Spacer,
    Table,
)
from reportlab.platypus.doctemplate import LayoutError

from eager_lens.assets import asset
from eager_lens.core.errors import EagerLensError
from eager_lens.core.exchange.print_look import PRINT
from eager_lens.core.exchange.sheets import Bullets, RulePicture, SheetSet, SheetTable, WeekStrip
from eager_lens.core.progress import turn
from eager_lens.core.recording.week import FILLS, MINUTES_A_DAY, PATTERNS, Fill, Span

INK, MUTED, RULE, DEEP, NEED = (HexColor(code) for code in (PRINT.ink, PRINT.muted, PRINT.rule, PRINT.deep, PRINT.need))
LEFT, RIGHT, TOP, BOTTOM = 18 * mm, 16 * mm, 22 * mm, 18 * mm
WIDTH = A4[0] - LEFT - RIGHT

ROWS_TO_A_TABLE = 100
"""reportlab lays a table out as a whole. Long ones are cut, so that the time stays in proportion to the length and
progress is told between the pieces."""


@cache
def _register_fonts() -> None:
    for name, file in (("Inter", "Inter-Regular.ttf"), ("Inter-Strong", "Inter-SemiBold.ttf")):
        pdfmetrics.registerFont(TTFont(name, str(asset("fonts", file))))


def _style(name: str, size: float, font: str = "Inter", **more: Any) -> ParagraphStyle:
    return ParagraphStyle(name, fontName=font, fontSize=size, leading=size * 1.35, textColor=INK, **more)


TITLE = _style("title", 20, "Inter-Strong", spaceAfter=2)
HEADING = _style("heading", 14, "Inter-Strong", spaceAfter=2)
CAPTION = _style("caption", 8.5, "Inter-Strong", spaceBefore=8, spaceAfter=3)
TEXT = _style("text", 9)
MUTED_TEXT = ParagraphStyle("muted", parent=TEXT, textColor=MUTED, spaceAfter=6)
NOTE = ParagraphStyle("note", parent=MUTED_TEXT, fontSize=7.5, leading=10, spaceAfter=3)
CELL = _style("cell", 7.8, splitLongWords=1)
CELL_RIGHT = ParagraphStyle("cell right", parent=CELL, alignment=TA_RIGHT)
HEAD = ParagraphStyle("head", parent=CELL, textColor=MUTED, fontName="Inter-Strong")
HEAD_RIGHT = ParagraphStyle("head right", parent=HEAD, alignment=TA_RIGHT)


class _Strip(Flowable):  # type: ignore[misc]
    """A week as seven strips with fill patterns, told apart without colour."""

    ROW, LABEL = 4.6 * mm, 24 * mm

    def __init__(self, strip: WeekStrip) -> None:
        super().__init__()
        self.strip = strip
        self.width, self.height = WIDTH, self.ROW * 7 + 10

    def draw(self) -> None:
        """Draw the seven days, hours marked below."""
        canvas, wide = self.canv, WIDTH - self.LABEL
        canvas.setFont("Inter", 7)
        for at, (day, spans) in enumerate(self.strip.days):
            y = self.height - (at + 1) * self.ROW
            canvas.setFillColor(MUTED)
            canvas.drawString(0, y + 3, day)
            for span in spans:
                self._span(span, y, wide)
            canvas.setStrokeColor(RULE)
            canvas.setLineWidth(0.5)
            canvas.rect(self.LABEL, y, wide, self.ROW - 2, stroke=1, fill=0)
        canvas.setFillColor(MUTED)
        for hour in range(0, 25, 4):
            canvas.drawCentredString(self.LABEL + wide * hour / 24, 0, f"{hour:02d}")

    def _span(self, span: Span, y: float, wide: float) -> None:
        x, width = self.LABEL + wide * span.start / MINUTES_A_DAY, wide * (span.end - span.start) / MINUTES_A_DAY
        tall = self.ROW - 2
        canvas, fill = self.canv, FILLS[span.mode]
        canvas.saveState()
        canvas.setFillColor(DEEP)
        canvas.setStrokeColor(DEEP)
        if fill.solid:
            canvas.rect(x, y, width, tall, stroke=0, fill=1)
        else:
            path = canvas.beginPath()
            path.rect(x, y, width, tall)
            canvas.clipPath(path, stroke=0)
            self._pattern(fill, x, y, width, tall)
        canvas.restoreState()

    def _pattern(self, fill: Fill, x: float, y: float, width: float, tall: float) -> None:
        step = 4.0
        for at in range(int((width + tall) / step) + 2):
            left = x - tall + at * step
            if fill.hatched:
                self.canv.setLineWidth(1.1)
                self.canv.line(left, y, left + tall, y + tall)
            if fill.dotted:
                self.canv.circle(left, y + tall * 0.3, 0.7, stroke=0, fill=1)
                self.canv.circle(left + step / 2, y + tall * 0.7, 0.7, stroke=0, fill=1)


class _Rule(Flowable):  # type: ignore[misc]
    """A rule's place with its zones: hatched what is left out, framed what is looked at, and a line to cross, with a dot on
    the side to which it counts."""

    def __init__(self, rule: RulePicture) -> None:
        super().__init__()
        self.rule = rule
        self.width, self.height = 120 * mm, 120 * mm * rule.high / rule.wide

    def draw(self) -> None:
        """Draw the picture, then the zones and the line."""
        canvas, rule = self.canv, self.rule
        canvas.saveState()
        if rule.grey:
            picture = ImageReader(Image.frombytes("L", (rule.wide, rule.high), rule.grey))
            canvas.drawImage(picture, 0, 0, self.width, self.height)
        canvas.setStrokeColor(RULE)
        canvas.rect(0, 0, self.width, self.height, stroke=1, fill=0)
        for corners, leave_out in rule.zones:
            self._zone(corners, leave_out)
        if rule.line is not None:
            canvas.setStrokeColor(DEEP)
            canvas.setLineWidth(2.2)
            canvas.line(*self._at(rule.line[0]), *self._at(rule.line[1]))
            canvas.setFillColor(DEEP)
            for middle, tip in rule.arrows:
                canvas.line(*self._at(middle), *self._at(tip))
                canvas.circle(*self._at(tip), 1.4 * mm, stroke=0, fill=1)
        canvas.restoreState()

    def _at(self, corner: tuple[float, float]) -> tuple[float, float]:
        return corner[0] * self.width, (1 - corner[1]) * self.height

    def _zone(self, corners: tuple[tuple[float, float], ...], leave_out: bool) -> None:
        canvas = self.canv
        canvas.saveState()
        path = canvas.beginPath()
        path.moveTo(*self._at(corners[0]))
        for corner in corners[1:]:
            path.lineTo(*self._at(corner))
        path.close()
        canvas.setStrokeColor(NEED if leave_out else DEEP)
        canvas.setLineWidth(1.6)
        canvas.drawPath(path, stroke=1, fill=0)
        if leave_out:
            canvas.clipPath(path, stroke=0)
            canvas.setLineWidth(0.6)
            step = 3 * mm
            for at in range(int((self.width + self.height) / step) + 1):
                canvas.line(at * step, 0, at * step - self.height, self.height)
        canvas.restoreState()


def handover_pdf(sheets: SheetSet, progress: Callable[[float], None] | None = None) -> bytes:
    """The whole set as the bytes of a PDF.

    ``progress`` is told how much is done, 0 to 1, some times a second; it may raise to stop the work.
    """
    with turn(_LAYOUT, progress or (lambda share: None)):
        return _laid_out(sheets, progress)


_LAYOUT = threading.Lock()
"""The layout engine keeps fonts and settings for the whole process, so only one set is laid out at a time."""


def _laid_out(sheets: SheetSet, progress: Callable[[float], None] | None) -> bytes:
    _register_fonts()
    data = io.BytesIO()

    def furniture(canvas: Any, document: Any) -> None:
        canvas.saveState()
        canvas.setFont("Inter", 7.5)
        canvas.setFillColor(MUTED)
        canvas.drawString(LEFT, A4[1] - 13 * mm, sheets.title[:100])
        canvas.drawRightString(A4[0] - RIGHT, A4[1] - 13 * mm, sheets.date)
        canvas.drawRightString(A4[0] - RIGHT, 10 * mm, f"page {document.page}")
        canvas.setStrokeColor(RULE)
        canvas.line(LEFT, A4[1] - 15 * mm, A4[0] - RIGHT, A4[1] - 15 * mm)
        canvas.restoreState()

    frame = Frame(LEFT, BOTTOM, WIDTH, A4[1] - TOP - BOTTOM, 0, 0, 0, 0)
    document = BaseDocTemplate(data, pagesize=A4, title=f"{sheets.title}: handover", author="", invariant=1)
    document.addPageTemplates(PageTemplate(frames=[frame], onPage=furniture))
    if progress is not None:
        document.setProgressCallBack(_share_of_story(progress))
    try:
        story = []
        for flowable in _story(sheets):
            story.append(flowable)
            if progress is not None:
                progress(0.0)
        document.build(story)
    except LayoutError as error:
        raise EagerLensError(
            "The sheets cannot be laid out: something on them fits on no page. Shorten the longest names and notes."
        ) from error
    return data.getvalue()


def _marked_up(text: str) -> str:
    """A text as the layout engine takes it, its lines kept."""
    return escape(text).replace("\n", "<br/>")


def _share_of_story(progress: Callable[[float], None]) -> Callable[[str, float], None]:
    """What the layout engine tells while it works (pieces in all, pieces done), as a share."""
    total = 1.0

    def told(kind: str, value: float) -> None:
        nonlocal total
        if kind == "SIZE_EST":
            total = max(1.0, value)
        elif kind == "PROGRESS":
            progress(min(1.0, value / total))

    return told


def _story(sheets: SheetSet) -> Iterator[Flowable]:
    yield Paragraph(escape(sheets.title), TITLE)
    if sheets.subtitle:
        yield Paragraph(escape(sheets.subtitle), MUTED_TEXT)
    for at, sheet in enumerate(sheets.sheets):
        if at:
            yield PageBreak()
        yield Paragraph(escape(sheet.title), HEADING)
        yield Paragraph(escape(sheet.intro), MUTED_TEXT)
        for block in sheet.blocks:
            if isinstance(block, SheetTable):
                yield from _table(block)
            elif isinstance(block, WeekStrip):
                yield KeepTogether(
                    [
                        Paragraph(escape(block.name), CAPTION),
                        Paragraph(escape(block.caption), MUTED_TEXT),
                        _Strip(block),
                    ]
                )
                yield Spacer(1, 8)
            elif isinstance(block, RulePicture):
                words = [Paragraph(escape(block.name), CAPTION), Paragraph(escape(block.caption), MUTED_TEXT)]
                yield KeepTogether([*words, _Rule(block)])
                yield Spacer(1, 8)
            elif isinstance(block, Bullets):
                yield Spacer(1, 8)
                for item in block.items:
                    yield Paragraph(f"–\u2002{escape(item)}", ParagraphStyle("item", parent=TEXT, spaceAfter=4))
        if any(isinstance(block, WeekStrip) for block in sheet.blocks):
            yield Paragraph(PATTERNS, MUTED_TEXT)


def _table(block: SheetTable) -> Iterator[Flowable]:
    if block.caption:
        yield Paragraph(escape(block.caption), CAPTION)
    if block.note:
        yield Paragraph(escape(block.note), NOTE)
    total = sum(column.share for column in block.columns)
    widths = [WIDTH * column.share / total for column in block.columns]
    right = [column.align == "right" for column in block.columns]
    has_head = any(column.heading for column in block.columns)
    head = [
        [Paragraph(escape(c.heading), HEAD_RIGHT if r else HEAD) for c, r in zip(block.columns, right, strict=True)]
    ]
    chunk = ROWS_TO_A_TABLE
    for start in range(0, max(1, len(block.rows)), chunk):
        rows = [
            [Paragraph(_marked_up(cell), CELL_RIGHT if r else CELL) for cell, r in zip(row, right, strict=True)]
            for row in block.rows[start : start + chunk]
        ]
        content = (head if has_head else []) + rows
        if not content:
            return
        style = [
            ("VALIGN", (0, 0), (-1, -1), "TOP"),
            ("LEFTPADDING", (0, 0), (-1, -1), 0),
            ("RIGHTPADDING", (0, 0), (-1, -1), 5),
            ("TOPPADDING", (0, 0), (-1, -1), 2.2),
            ("BOTTOMPADDING", (0, 0), (-1, -1), 2.6 + (4 * mm if block.to_write_in else 0)),
            ("LINEBELOW", (0, 0), (-1, -1), 0.4, RULE),
        ]
        if has_head:
            style.append(("LINEBELOW", (0, 0), (-1, 0), 0.6, INK))
        # A cell that is higher than a page goes on on the next.
        yield Table(content, colWidths=widths, repeatRows=1 if has_head else 0, style=style, splitInRow=1)
    yield Spacer(1, 4)
