"""Sheets as a PDF: A4 or Letter, fonts embedded, contents with links, bookmarks, headings of tables repeated, pages numbered.

It bears its title and language, and text in reading order. The layout package writes no structure tags, so that a screen
reader has neither table cells nor headings from it; the HTML form of the sheets has both.
"""

from __future__ import annotations

import io
import re
import threading
from collections.abc import Callable, Iterator, Mapping
from functools import partial
from typing import Any

from PIL import Image
from reportlab.lib.colors import HexColor
from reportlab.lib.enums import TA_RIGHT
from reportlab.lib.pagesizes import A4, LETTER
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.lib.utils import ImageReader
from reportlab.pdfgen.canvas import Canvas
from reportlab.platypus import (
    BaseDocTemplate,
    CondPageBreak,
    Flowable,
    Frame,
    KeepTogether,
    PageBreak,
    PageTemplate,
    Paragraph,
    Spacer,
    Table,
)
from reportlab.platypus import Image as PagePicture
from reportlab.platypus.doctemplate import LayoutError

from eager_lens.core.errors import EagerLensError
from eager_lens.core.outgoing.formats.print_fonts import PLAIN, STRONG, markup, put, register_fonts, width_of
from eager_lens.core.outgoing.formats.print_look import PRINT
from eager_lens.core.outgoing.formats.reader import Paper
from eager_lens.core.outgoing.formats.sheets import (
    Block,
    Bullets,
    Drawing,
    RulePicture,
    SheetSet,
    SheetTable,
    Signatures,
    WeekStrip,
    with_texts,
)
from eager_lens.core.pauses import pause
from eager_lens.core.progress import turn
from eager_lens.core.recording.week import FILLS, MINUTES_A_DAY, PATTERNS, Fill, Span

INK, MUTED, RULE, DEEP, NEED = (HexColor(code) for code in (PRINT.ink, PRINT.muted, PRINT.rule, PRINT.deep, PRINT.need))
LEFT, RIGHT, TOP, BOTTOM = 18 * mm, 16 * mm, 22 * mm, 18 * mm
SIZES: dict[Paper, tuple[float, float]] = {"A4": A4, "Letter": LETTER}

ROWS_TO_A_TABLE = 100
"""reportlab lays a table out as a whole. Long ones are cut, so that the time stays in proportion to the length and
progress is told between the pieces."""


def _style(name: str, size: float, font: str = "Inter", **more: Any) -> ParagraphStyle:
    return ParagraphStyle(name, fontName=font, fontSize=size, leading=size * 1.35, textColor=INK, **more)


TITLE = _style("title", 20, "Inter-Strong", spaceAfter=2)
HEADING = _style("heading", 14, "Inter-Strong", spaceAfter=2)
CAPTION = _style("caption", 8.5, "Inter-Strong", spaceBefore=8, spaceAfter=3)
TEXT = _style("text", 9)
MUTED_TEXT = ParagraphStyle("muted", parent=TEXT, textColor=MUTED, spaceAfter=6)
ITEM = ParagraphStyle("item", parent=TEXT, spaceAfter=4)
NOTE = ParagraphStyle("note", parent=MUTED_TEXT, fontSize=7.5, leading=10, spaceAfter=3)
CELL = _style("cell", 7.8, splitLongWords=1)
CELL_RIGHT = ParagraphStyle("cell right", parent=CELL, alignment=TA_RIGHT)
HEAD = ParagraphStyle("head", parent=CELL, textColor=MUTED, fontName="Inter-Strong")
HEAD_RIGHT = ParagraphStyle("head right", parent=HEAD, alignment=TA_RIGHT)


class _Strip(Flowable):  # type: ignore[misc]
    """A week as seven strips with fill patterns, told apart without colour."""

    ROW, LABEL = 4.6 * mm, 24 * mm

    def __init__(self, strip: WeekStrip, width: float) -> None:
        super().__init__()
        self.strip = strip
        self.width, self.height = width, self.ROW * 7 + 10

    def draw(self) -> None:
        """Draw the seven days, hours marked below."""
        canvas, wide = self.canv, self.width - self.LABEL
        for at, (day, spans) in enumerate(self.strip.days):
            y = self.height - (at + 1) * self.ROW
            canvas.setFillColor(MUTED)
            put(canvas, 0, y + 3, day, PLAIN, 7)
            for span in spans:
                self._span(span, y, wide)
            canvas.setStrokeColor(RULE)
            canvas.setLineWidth(0.5)
            canvas.rect(self.LABEL, y, wide, self.ROW - 2, stroke=1, fill=0)
        canvas.setFillColor(MUTED)
        canvas.setFont(PLAIN, 7)
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


class _Heading(Paragraph):  # type: ignore[misc]
    """A sheet's title: it notes on which page it came to stand, for contents and bookmarks."""

    def __init__(self, text: str, at: int) -> None:
        super().__init__(markup(text, STRONG), HEADING)
        self.at, self.text = at, text

    def draw(self) -> None:
        """Draw it, and note where."""
        self.canv.notes.headings.append((self.at, self.text, self.canv.getPageNumber()))
        super().draw()


class _Contents(Flowable):  # type: ignore[misc]
    """Room for the contents; they are drawn once all pages are known."""

    LINE = 13.0

    def __init__(self, sheets: int, width: float) -> None:
        super().__init__()
        self.width, self.height = width, self.LINE * sheets + 12

    def draw(self) -> None:
        """Note where the room is."""
        left, bottom = self.canv.absolutePosition(0, 0)
        self.canv.notes.contents = (self.canv.getPageNumber(), left, bottom + self.height, self.width)


class _Notes:
    """What is known of a document only when it is laid out: where its sheets begin, and where the contents go."""

    def __init__(self, sheets: SheetSet, paper: Paper) -> None:
        self.sheets = sheets
        self.size = SIZES[paper]
        self.headings: list[tuple[int, str, int]] = []
        self.contents: tuple[int, float, float, float] | None = None


class _Numbered(Canvas):  # type: ignore[misc]
    """A canvas that keeps its pages until the last, so that each can say of how many it is."""

    def __init__(self, *args: Any, notes: _Notes, **more: Any) -> None:
        super().__init__(*args, **more)
        self.notes = notes
        self._pages: list[dict[str, Any]] = []

    def showPage(self) -> None:  # noqa: N802  (the layout package calls it so)
        """Keep the page."""
        self._pages.append(dict(self.__dict__))
        self._startPage()

    def save(self) -> None:
        """Write all pages with what was not known before."""
        notes, pages = self.notes, self._pages
        for page, kept in enumerate(pages, 1):
            self.__dict__.update(kept)
            self._furniture(page, len(pages))
            for at, title, where in notes.headings:
                if where == page:
                    self.bookmarkPage(f"sheet-{at}", fit="Fit")
                    self.addOutlineEntry(title, f"sheet-{at}", 0, False)
            if notes.contents is not None and notes.contents[0] == page:
                self._contents(*notes.contents[1:])
            super().showPage()
            pause()
        super().save()

    def _furniture(self, page: int, pages: int) -> None:
        wide, high = self.notes.size
        self.saveState()
        self.setFillColor(MUTED)
        put(self, LEFT, high - 13 * mm, self.notes.sheets.title[:100], PLAIN, 7.5)
        put(self, wide - RIGHT, high - 13 * mm, self.notes.sheets.date, PLAIN, 7.5, "right")
        put(self, wide - RIGHT, 10 * mm, f"page {page} of {pages}", PLAIN, 7.5, "right")
        self.setStrokeColor(RULE)
        self.line(LEFT, high - 15 * mm, wide - RIGHT, high - 15 * mm)
        self.restoreState()

    def _contents(self, left: float, top: float, width: float) -> None:
        self.saveState()
        for line, (at, title, page) in enumerate(self.notes.headings, 1):
            y = top - line * _Contents.LINE
            self.setFillColor(INK)
            put(self, left, y, title[:90], PLAIN, 9)
            self.setFillColor(MUTED)
            put(self, left + width, y, str(page), PLAIN, 9, "right")
            self.setStrokeColor(RULE)
            self.setLineWidth(0.4)
            begins = left + width_of(title[:90], PLAIN, 9) + 6
            ends = left + width - width_of(str(page), PLAIN, 9) - 6
            self.line(min(begins, ends), y + 2, ends, y + 2)
            self.linkRect(title, f"sheet-{at}", (left, y - 3, left + width, y + 9), relative=0, thickness=0)
        self.restoreState()


NOTHING: Mapping[str, str] = {}

LEAST_IN_CONTENTS = 6
"""Fewer sheets need no contents."""

LEAST_LEFT = 70 * mm
"""Where less of a page is left, a sheet that could follow on it begins on the next."""


def handover_pdf(
    sheets: SheetSet,
    progress: Callable[[float], None] | None = None,
    paper: Paper = "A4",
    language: str = "en",
    stand_ins: Mapping[str, str] = NOTHING,
) -> bytes:
    """The whole set as the bytes of a PDF.

    Args:
        sheets: the set. progress: told how much is done, 0 to 1, some times a second; it may raise to stop the work. paper,
            language: of the reader. stand_ins: by texts that no font here can print, what is printed in their place.
    """
    if stand_ins:
        longest_first = sorted(stand_ins, key=len, reverse=True)
        pattern = re.compile("|".join(map(re.escape, longest_first)))
        sheets = with_texts(sheets, lambda text: pattern.sub(lambda found: stand_ins[found[0]], text))
    with turn(LAYOUT, progress or (lambda share: None)):
        return _laid_out(sheets, progress, paper, language)


LAYOUT = threading.Lock()
"""The layout engine keeps fonts and settings for the whole process, so only one set is laid out at a time."""


def _laid_out(sheets: SheetSet, progress: Callable[[float], None] | None, paper: Paper, language: str) -> bytes:
    register_fonts()
    data = io.BytesIO()
    wide, high = SIZES[paper]
    width = wide - LEFT - RIGHT
    frame = Frame(LEFT, BOTTOM, width, high - TOP - BOTTOM, 0, 0, 0, 0)
    subject = sheets.subtitle or "handover"
    document = BaseDocTemplate(
        data,
        pagesize=(wide, high),
        title=f"{sheets.title}: {sheets.what}",
        subject=subject,
        author="",
        lang=language,
        displayDocTitle=True,
        invariant=1,
    )
    document.addPageTemplates(PageTemplate(frames=[frame]))
    if progress is not None:
        document.setProgressCallBack(_share_of_story(progress))
    notes = _Notes(sheets, paper)
    try:
        story = []
        for flowable in _story(sheets, width):
            story.append(flowable)
            if progress is not None:
                progress(0.0)
        document.build(story, canvasmaker=partial(_Numbered, notes=notes))
    except LayoutError as error:
        raise EagerLensError(
            "The papers cannot be laid out because something does not fit on a page. Shorten the longest names and notes."
        ) from error
    return data.getvalue()


def _marked_up(text: str) -> str:
    """A text as the layout engine takes it, its lines kept."""
    return markup(text).replace("\n", "<br/>")


def _share_of_story(progress: Callable[[float], None]) -> Callable[[str, float], None]:
    """What the layout engine tells while it works (pieces in all, pieces done), as a share."""
    total = 1.0

    def report(kind: str, value: float) -> None:
        nonlocal total
        if kind == "SIZE_EST":
            total = max(1.0, value)
        elif kind == "PROGRESS":
            progress(min(1.0, value / total))

    return report


def _story(sheets: SheetSet, width: float) -> Iterator[Flowable]:
    yield Paragraph(markup(sheets.title, STRONG), TITLE)
    if sheets.subtitle:
        yield Paragraph(markup(sheets.subtitle), MUTED_TEXT)
    if len(sheets.sheets) >= LEAST_IN_CONTENTS:
        yield _Contents(len(sheets.sheets), width)
        yield Spacer(1, 10)
    for at, sheet in enumerate(sheets.sheets):
        if at and sheet.follows:
            yield Spacer(1, 18)
            yield CondPageBreak(LEAST_LEFT)
        elif at:
            yield PageBreak()
        yield _Heading(sheet.title, at)
        yield Paragraph(markup(sheet.intro), MUTED_TEXT)
        for block in sheet.blocks:
            yield from _block(block, width)
        if any(isinstance(block, WeekStrip) for block in sheet.blocks):
            yield Paragraph(PATTERNS, MUTED_TEXT)


def _block(block: Block, width: float) -> Iterator[Flowable]:
    if isinstance(block, SheetTable):
        yield from _table(block, width)
    elif isinstance(block, WeekStrip):
        named = [Paragraph(markup(block.name, STRONG), CAPTION), Paragraph(markup(block.caption), MUTED_TEXT)]
        yield KeepTogether([*named, _Strip(block, width)])
        yield Spacer(1, 8)
    elif isinstance(block, RulePicture):
        words = [Paragraph(markup(block.name, STRONG), CAPTION), Paragraph(markup(block.caption), MUTED_TEXT)]
        yield KeepTogether([*words, _Rule(block)])
        yield Spacer(1, 8)
    elif isinstance(block, Drawing):
        yield _drawing(block, width)
    elif isinstance(block, Signatures):
        lines = ((Spacer(1, 16 * mm), _SignatureLine(line, width)) for line in block.lines)
        yield KeepTogether([part for pair in lines for part in pair])
    elif isinstance(block, Bullets):
        if block.caption:
            yield Paragraph(markup(block.caption, STRONG), CAPTION)
        yield Spacer(1, 4 if block.caption else 8)
        for number, item in enumerate(block.items, 1):
            yield Paragraph(f"{f'{number}.' if block.numbered else '–'}\u2002{_marked_up(item)}", ITEM)


MOST_HIGH = 215 * mm
"""A drawing is made to fit under a sheet's heading."""


def _drawing(block: Drawing, width: float) -> Flowable:
    """A picture as large as the page lets it be."""
    wide, high = Image.open(io.BytesIO(block.png)).size
    scale = min(width / wide, MOST_HIGH / high)
    return PagePicture(io.BytesIO(block.png), wide * scale, high * scale)


class _SignatureLine(Flowable):  # type: ignore[misc]
    """A line to sign on, with place and date, and who signs under it."""

    def __init__(self, who: str, width: float) -> None:
        super().__init__()
        self.who, self.width, self.height = who, width, 12.0

    def draw(self) -> None:
        """Draw both lines and what belongs under them."""
        canvas, gap = self.canv, 8 * mm
        canvas.setStrokeColor(INK)
        canvas.setLineWidth(0.6)
        third = (self.width - gap) / 3
        canvas.line(0, self.height, third, self.height)
        canvas.line(third + gap, self.height, self.width, self.height)
        canvas.setFillColor(MUTED)
        put(canvas, 0, 2, "Place, date", PLAIN, 7.5)
        put(canvas, third + gap, 2, self.who[:120], PLAIN, 7.5)


def _table(block: SheetTable, width: float) -> Iterator[Flowable]:
    if block.caption:
        yield Paragraph(markup(block.caption, STRONG), CAPTION)
    if block.note:
        yield Paragraph(markup(block.note), NOTE)
    total = sum(column.share for column in block.columns)
    widths = [width * column.share / total for column in block.columns]
    right = [column.align == "right" for column in block.columns]
    has_head = any(column.heading for column in block.columns)
    head = [
        [
            Paragraph(markup(c.heading, STRONG), HEAD_RIGHT if r else HEAD)
            for c, r in zip(block.columns, right, strict=True)
        ]
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
