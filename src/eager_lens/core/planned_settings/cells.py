"""Active cells as they stand on the wire: a bit for each cell, row by row, packed (PackBits of TIFF 6.0), in base64."""

from __future__ import annotations

import base64
import binascii

from eager_lens.core.planned_settings.detector import Cells

LONGEST_RUN = 128


def cells_text(cells: Cells) -> str:
    """Cells as they are sent."""
    bits = "".join("1" if cell else "0" for row in cells for cell in row)
    bits += "0" * (-len(bits) % 8)
    data = bytes(int(bits[at : at + 8], 2) for at in range(0, len(bits), 8))
    return base64.b64encode(_packed(data)).decode("ascii")


def cells_in(text: str, columns: int, rows: int) -> Cells:
    """Cells out of what a device told; none where it is not that many cells."""
    try:
        data = _unpacked(base64.b64decode(text, validate=True), (columns * rows + 7) // 8)
    except (binascii.Error, ValueError, IndexError):
        return ()
    bits = "".join(f"{one:08b}" for one in data)
    if len(bits) < columns * rows:
        return ()
    return tuple(tuple(bits[row * columns + column] == "1" for column in range(columns)) for row in range(rows))


def _packed(data: bytes) -> bytes:
    packed, at = bytearray(), 0
    while at < len(data):
        run = 1
        while at + run < len(data) and run < LONGEST_RUN and data[at + run] == data[at]:
            run += 1
        packed += bytes([(257 - run) & 0xFF, data[at]]) if run > 1 else bytes([0, data[at]])
        at += run
    return bytes(packed)


def _unpacked(packed: bytes, most: int) -> bytes:
    found, at = bytearray(), 0
    while at < len(packed) and len(found) < most:
        head = packed[at]
        if head < LONGEST_RUN:
            found += packed[at + 1 : at + 2 + head]
            at += head + 2
        elif head > LONGEST_RUN:
            found += bytes([packed[at + 1]]) * (257 - head)
            at += 2
        else:
            at += 1
    return bytes(found[:most])
