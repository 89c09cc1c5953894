"""Number and date style of a command's output: ``--locale``, otherwise that of this computer."""

from __future__ import annotations

import argparse

from eager_lens.core.errors import RefusedInput
from eager_lens.core.outgoing.formats.reader import Reader, reader_of, system_reader


def reader_for(arguments: argparse.Namespace) -> Reader:
    """The reader of a command's texts and sheets.

    Raises:
        RefusedInput: when the locale is not known.
    """
    name = str(arguments.locale or "")
    if not name:
        return system_reader()
    reader = reader_of(name)
    if not reader.locale and name not in ("C", "POSIX"):
        raise RefusedInput("--locale", f"{name!r} is not a known locale; use one such as de_AT, en_GB or C")
    return reader
