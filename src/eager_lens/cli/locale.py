"""How whoever gave a command reads numbers and dates: as ``--locale`` says, else as this computer is set."""

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
        raise RefusedInput("--locale", f"{name!r} is no locale that is known; wanted is one as de_AT, en_GB or C")
    return reader
