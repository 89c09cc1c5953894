"""Texts and ids as all parts of a job hold them."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field, StringConstraints

Text = Annotated[str, StringConstraints(strict=True, max_length=200)]
LongText = Annotated[str, StringConstraints(strict=True, max_length=4000)]
Id = Annotated[str, StringConstraints(strict=True, min_length=1, max_length=80)]

Digest = Annotated[str, StringConstraints(strict=True, pattern=r"^[0-9a-f]{64}$")]
"""SHA-256 of a photo, in hex: the photo itself lies in the folder beside the job, under this name."""

Photos = Annotated[tuple[Digest, ...], Field(max_length=20)]
"""The photos of one thing."""
