"""Names that no font of this computer can print: told before printing, and printed as the device's number."""

from __future__ import annotations

from datetime import date

from eager_lens.core.assess.finding import names_listed
from eager_lens.core.job.model import Job
from eager_lens.core.outgoing.formats.print_fonts import font_of, is_printable
from eager_lens.core.outgoing.formats.reader import Reader
from eager_lens.core.units import count

LEAST_LEFT = 2
"""With fewer letters left of a name, its number stands alone."""

MOST_NAMED = 3


def stand_ins(job: Job) -> dict[str, str]:
    """By a name that cannot be printed, what is printed in its place: what is left of it, and the device's number."""
    found = {}
    for device in (*job.devices(), *job.spare_devices()):
        if device.name not in found and not is_printable(device.name):
            left = "".join(one for one in device.name if font_of(one) is not None).strip()
            found[device.name] = f"{left} [{device.id}]" if sum(map(str.isalnum, left)) >= LEAST_LEFT else device.id
    return found


def warning(job: Job) -> str:
    """What is to be said before printing; empty where all names can be printed."""
    found = stand_ins(job)
    if not found:
        return ""
    listed = names_listed([f"{name} as {number}" for name, number in found.items()], MOST_NAMED)
    return (
        f"The fonts of this computer cannot print {count(len(found), 'name')}: {listed}. Install a TrueType font for that "
        "script, or export as HTML."
    )


def date_words(reader: Reader, day: date) -> str:
    """A date as the reader writes it; in figures where no font has its letters."""
    words = reader.date_words(day)
    return words if is_printable(words) else day.isoformat()
