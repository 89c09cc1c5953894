"""The handover sheets as one HTML file that needs nothing else: styles and drawings are inside it."""

from __future__ import annotations

from functools import cache

import jinja2

from eager_lens.core.exchange.handover import Bullets, SheetSet, SheetTable, WeekStrip, span_words
from eager_lens.core.recording.week import MINUTES_A_DAY


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
    environment.tests["week"] = lambda block: isinstance(block, WeekStrip)
    environment.tests["bullets"] = lambda block: isinstance(block, Bullets)
    environment.globals.update(span_words=span_words, minutes_a_day=MINUTES_A_DAY)
    return environment.get_template("handover.html")


def handover_html(sheets: SheetSet) -> str:
    """The whole set as HTML text; prints as A4, one sheet after the other."""
    return _template().render(sheets=sheets)
