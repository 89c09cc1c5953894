"""Labels for devices, in print and as a QR code, on sheets of label stock: name, place, address, MAC address. Never a password."""

from __future__ import annotations

import io
from collections.abc import Iterable
from typing import NamedTuple

import segno
from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas

from eager_lens.core.firm.label_stock import LabelStock
from eager_lens.core.job.model import Device, Job
from eager_lens.core.outgoing.formats.pdf import INK, LAYOUT, MUTED, RULE, SIZES
from eager_lens.core.outgoing.formats.print_fonts import PLAIN, STRONG, put, register_fonts, width_of
from eager_lens.core.outgoing.handover.printable import stand_ins


class Label(NamedTuple):
    """What stands on a label: its lines, the first the largest, and what its code holds."""

    lines: tuple[str, ...]
    code: str


def label_of(device: Device) -> Label:
    """The label of a device. Its code holds the same as lines of text, which any telephone shows."""
    facts = [device.place, device.address, device.mac_address]
    plain_lines = [
        device.name,
        *(f"{what} {text}" for what, text in (("IP", device.address), ("MAC", device.mac_address)) if text),
    ]
    return Label((device.name, *(text for text in facts if text)), "\n".join(plain_lines))


def labels_of(job: Job) -> list[Label]:
    """Labels of all devices, in the order of the job. A name that cannot be printed is its number in print; the code holds it as
    it is."""
    names = stand_ins(job)
    labels = ((device, label_of(device)) for device in job.devices())
    return [label._replace(lines=(names.get(device.name, device.name), *label.lines[1:])) for device, label in labels]


PAD_MM, LEAST_CODE_MM, MOST_CODE_MM = 2.0, 12.0, 26.0


def labels_pdf(labels: Iterable[Label], stock: LabelStock, first: int = 1) -> bytes:
    """Sheets of labels. ``first``: the first label that is still on a sheet that was begun, from 1."""
    with LAYOUT:
        register_fonts()
        data = io.BytesIO()
        wide, high = SIZES[stock.paper]
        canvas = Canvas(data, pagesize=(wide, high), invariant=1)
        canvas.setTitle("Labels")
        at = max(0, min(first, stock.on_sheet) - 1)
        for number, label in enumerate(labels):
            place = at + number
            if number and place % stock.on_sheet == 0:
                canvas.showPage()
            row, column = divmod(place % stock.on_sheet, stock.across)
            left = (stock.left_mm + column * stock.pitch_x_mm) * mm
            top = high - (stock.top_mm + row * stock.pitch_y_mm) * mm
            _draw(canvas, label, left, top, stock)
        canvas.save()
    return data.getvalue()


def _draw(canvas: Canvas, label: Label, left: float, top: float, stock: LabelStock) -> None:
    pad = PAD_MM * mm
    inner = min(stock.height_mm - 2 * PAD_MM, stock.width_mm / 2)
    side = min(MOST_CODE_MM, max(LEAST_CODE_MM, inner)) * mm
    canvas.setStrokeColor(RULE)
    canvas.setLineWidth(0.2)
    canvas.rect(left, top - stock.height_mm * mm, stock.width_mm * mm, stock.height_mm * mm)
    _code(canvas, label.code, left + pad, top - stock.height_mm * mm / 2 + side / 2, side)
    room = stock.width_mm * mm - side - 3 * pad
    scale = min(1.5, max(0.8, stock.height_mm / 25.4))
    sizes = [
        _size_in(line, room, (8.5 if at == 0 else 6.5) * scale, STRONG if at == 0 else PLAIN)
        for at, line in enumerate(label.lines)
    ]
    high = stock.height_mm * mm
    y = top - max(pad, (high - 1.3 * sum(sizes)) / 2)
    for at, (line, size) in enumerate(zip(label.lines, sizes, strict=True)):
        y -= size * 1.3
        if y < top - high + 1:
            break
        font = STRONG if at == 0 else PLAIN
        canvas.setFillColor(INK if at == 0 else MUTED)
        put(canvas, left + side + 2 * pad, y + 0.3 * size, _cut(line, room, size, font), font, size)


LEAST_POINTS = 5.5


def _size_in(text: str, room: float, most: float, font: str) -> float:
    """The size at which a text fits, as large as it may be."""
    wide = width_of(text, font, most)
    return most if wide <= room else max(LEAST_POINTS, most * room / wide)


def _cut(text: str, room: float, size: float, font: str) -> str:
    if width_of(text, font, size) <= room:
        return text
    while text and width_of(text + "…", font, size) > room:
        text = text[:-1]
    return text + "…"


def _code(canvas: Canvas, text: str, left: float, top: float, side: float) -> None:
    """A QR code with its quiet zone, drawn as rectangles: sharp on any printer."""
    rows = [list(row) for row in segno.make(text, error="m", micro=False).matrix_iter(border=2)]
    module = side / len(rows)
    canvas.setFillColor(INK)
    path = canvas.beginPath()
    for at, row in enumerate(rows):
        begins = None
        for column, dark in enumerate([*row, False]):
            if dark and begins is None:
                begins = column
            elif not dark and begins is not None:
                path.rect(left + begins * module, top - (at + 1) * module, (column - begins) * module, module)
                begins = None
    canvas.drawPath(path, stroke=0, fill=1)
