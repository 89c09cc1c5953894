"""Every text of a sheet, in one place: ``texts.json`` holds them by key, so that a translation is one more such file.

Texts have places for values, as ``{cameras}``. What is put into them is worded where it is worked out (figures by
``core/units``, findings by the rules).
"""

from __future__ import annotations

import json
from functools import lru_cache
from importlib import resources
from typing import Any


@lru_cache(maxsize=1)
def texts() -> dict[str, str]:
    """All texts by their key."""
    text = resources.files("eager_lens.core.outgoing.formats").joinpath("texts.json").read_text("utf-8")
    return {key: str(value) for key, value in json.loads(text).items()}


def t(key: str, **values: Any) -> str:
    """The text of a key, with its values.

    Raises:
        KeyError: when there is no such text, or it has a place for a value that is not given.
    """
    text = texts()[key]
    return text.format_map(values) if values else text
