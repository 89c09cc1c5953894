"""Sheets of labels, told by their figures so that any can be used; those that are named here are common sizes of office stock."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from eager_lens.core.job.texts import Text
from eager_lens.core.validation import Count, Number, Plain, Positive

Paper = Literal["A4", "Letter"]
Millimetres = Annotated[Number, Field(le=500)]


class LabelStock(Plain):
    """A sheet of labels: how many across and down, how large each is, where the first begins, and how far apart they are."""

    name: Annotated[Text, Field(min_length=1)]
    paper: Paper = "A4"
    across: Annotated[Count, Field(le=20)]
    down: Annotated[Count, Field(le=60)]
    width_mm: Annotated[Positive, Field(ge=20, le=300)]
    height_mm: Annotated[Positive, Field(ge=8, le=300)]
    left_mm: Millimetres
    top_mm: Millimetres
    pitch_x_mm: Annotated[Positive, Field(le=500)]
    pitch_y_mm: Annotated[Positive, Field(le=500)]

    @property
    def on_sheet(self) -> int:
        """Labels of a sheet."""
        return self.across * self.down


def _stock(name: str, paper: Paper, across: int, down: int, *mm_sizes: float) -> LabelStock:
    width, height, left, top, pitch_x, pitch_y = mm_sizes
    return LabelStock(
        name=name,
        paper=paper,
        across=across,
        down=down,
        width_mm=width,
        height_mm=height,
        left_mm=left,
        top_mm=top,
        pitch_x_mm=pitch_x,
        pitch_y_mm=pitch_y,
    )


STOCKS: tuple[LabelStock, ...] = (
    _stock("A4, 24 of 70 × 37 mm", "A4", 3, 8, 70, 37, 0, 0.5, 70, 37),
    _stock("A4, 21 of 63.5 × 38.1 mm", "A4", 3, 7, 63.5, 38.1, 7.25, 15.15, 66, 38.1),
    _stock("A4, 40 of 52.5 × 29.7 mm", "A4", 4, 10, 52.5, 29.7, 0, 0, 52.5, 29.7),
    _stock("A4, 65 of 38.1 × 21.2 mm", "A4", 5, 13, 38.1, 21.2, 4.75, 10.7, 40.6, 21.2),
    _stock("Letter, 30 of 66.7 × 25.4 mm", "Letter", 3, 10, 66.7, 25.4, 4.8, 12.7, 69.85, 25.4),
    _stock("Letter, 10 of 101.6 × 50.8 mm", "Letter", 2, 5, 101.6, 50.8, 4.0, 12.7, 106.2, 50.8),
)
