"""Texts and ids as all parts of a job hold them."""

from __future__ import annotations

from datetime import date, datetime
from typing import Annotated

from pydantic import AfterValidator, Field, StringConstraints

Text = Annotated[str, StringConstraints(strict=True, max_length=200)]
LongText = Annotated[str, StringConstraints(strict=True, max_length=4000)]
Id = Annotated[str, StringConstraints(strict=True, min_length=1, max_length=80)]

FIRST_YEAR, LAST_YEAR = 1970, 2200


def _moment(text: str) -> str:
    try:
        moment = datetime.fromisoformat(text)
    except ValueError:
        raise ValueError(f"{text!r} was given, which is not a date and time") from None
    if not FIRST_YEAR <= moment.year <= LAST_YEAR:
        raise ValueError(f"{text!r} was given; use a year from {FIRST_YEAR} to {LAST_YEAR}")
    return text


LocalMinute = Annotated[
    str, StringConstraints(strict=True, pattern=r"^\d{4}-\d\d-\d\dT\d\d:\d\d$"), AfterValidator(_moment)
]
"""A local date and time that there is, as ``2026-03-28T09:00``."""

LocalMoment = Annotated[
    str, StringConstraints(strict=True, pattern=r"^\d{4}-\d\d-\d\dT\d\d:\d\d(:\d\d)?$"), AfterValidator(_moment)
]
"""The same, with or without seconds."""

DueDate = Annotated[date, Field(ge=date(FIRST_YEAR, 1, 1), le=date(LAST_YEAR, 12, 31))]

Digest = Annotated[str, StringConstraints(strict=True, pattern=r"^[0-9a-f]{64}$")]
"""SHA-256 of a photo, in hex: the photo itself lies in the folder beside the job, under this name."""

Photos = Annotated[tuple[Digest, ...], Field(max_length=20)]
"""The photos of one thing."""
