"""Truth marked by hand on a recorded clip, and which clip a camera's rule is tried on."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field, StringConstraints, model_validator

from eager_lens.core.validation import Number, Plain, Share
from eager_lens.core.values.kinds import Kind


class Mark(Plain):
    """Somebody or something that is there from one moment of a clip to another; ``counts``: whether it is to be caught."""

    kind: Kind = "person"
    begins_s: Annotated[Number, Field(le=86_400)]
    ends_s: Annotated[Number, Field(le=86_400)]
    counts: bool = True

    @model_validator(mode="after")
    def _in_order(self) -> Mark:
        if self.ends_s <= self.begins_s:
            raise ValueError(f"a mark must end after it begins; {self.ends_s:g} s is not after {self.begins_s:g} s")
        return self


class TriedClip(Plain):
    """A clip of the camera: its file, where its horizon lies (share of the height), and what was marked on it."""

    path: Annotated[str, StringConstraints(strict=True, min_length=1, max_length=1000)]
    horizon: Share = 0.3
    marks: Annotated[tuple[Mark, ...], Field(max_length=2000)] = ()
