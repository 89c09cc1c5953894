"""The handover sheets as one HTML file that needs nothing else: styles and drawings are inside it."""

from __future__ import annotations

import base64
import io
from functools import cache

import jinja2
from PIL import Image

from eager_lens.core.outgoing.formats.print_look import PRINT
from eager_lens.core.outgoing.formats.reader import Paper
from eager_lens.core.outgoing.formats.sheets import (
    Bullets,
    Drawing,
    RulePicture,
    SheetSet,
    SheetTable,
    Signatures,
    WeekStrip,
    span_words,
)
from eager_lens.core.recording.week import FILLS, MINUTES_A_DAY, PATTERNS


@cache
def _template() -> jinja2.Template:
    environment = jinja2.Environment(
        loader=jinja2.PackageLoader("eager_lens", "assets/templates"),
        autoescape=True,
        trim_blocks=True,
        lstrip_blocks=True,
        undefined=jinja2.StrictUndefined,
    )
    environment.tests["table"] = lambda block: isinstance(block, SheetTable)
    environment.tests["schedule"] = lambda block: isinstance(block, WeekStrip)
    environment.tests["rule"] = lambda block: isinstance(block, RulePicture)
    environment.tests["drawing"] = lambda block: isinstance(block, Drawing)
    environment.tests["signatures"] = lambda block: isinstance(block, Signatures)
    environment.tests["bullets"] = lambda block: isinstance(block, Bullets)
    environment.globals.update(
        span_words=span_words,
        minutes_a_day=MINUTES_A_DAY,
        patterns=PATTERNS,
        fills=FILLS,
        print=PRINT,
        picture_uri=_picture_uri,
        drawing_uri=lambda block: _png_uri(block.png),
    )
    return environment.get_template("handover.html")


def handover_html(sheets: SheetSet, paper: Paper = "A4") -> str:
    """The whole set as HTML text; prints one sheet after the other."""
    return _template().render(sheets=sheets, paper=paper.lower())


def _picture_uri(block: RulePicture) -> str:
    """The picture of a rule's place, inside the file."""
    data = io.BytesIO()
    Image.frombytes("L", (block.wide, block.high), block.grey).save(data, "PNG")
    return _png_uri(data.getvalue())


def _png_uri(png: bytes) -> str:
    return "data:image/png;base64," + base64.b64encode(png).decode("ascii")
