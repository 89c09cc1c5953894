"""Figures of the fault finder's table that a job has otherwise, and their edits."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Annotated, Literal

from pydantic import Field, StringConstraints

from eager_lens.core.validation import Plain, Positive

FigureKind = Literal["share", "minutes", "chances"]
TableId = Annotated[str, StringConstraints(strict=True, min_length=1, max_length=100)]
Reason = Annotated[str, StringConstraints(strict=True, max_length=500)]


class FaultFigure(Plain):
    """A figure of the table, as it holds on this job.

    Attributes:
        kind: ``share``: of a cause among the calls with a symptom; ``minutes``: of a test; ``chances``: of the outcomes of a
            test under a cause.
        id: of the cause (share) or the test. under: the symptom (share), the cause or ``usual`` (chances); else empty.
        values: one figure, or one for each outcome. why: the reason.
    """

    kind: FigureKind
    id: TableId
    under: Annotated[str, StringConstraints(strict=True, max_length=100)] = ""
    values: Annotated[tuple[Annotated[Positive, Field(le=1000)], ...], Field(min_length=1, max_length=9)]
    why: Reason = ""

    @property
    def place(self) -> tuple[str, str, str]:
        """Where in the table it stands."""
        return (self.kind, self.id, self.under)


def joined_figures(mine: Iterable[FaultFigure], theirs: Iterable[FaultFigure]) -> tuple[FaultFigure, ...]:
    """Both, each place once; theirs where both have it."""
    return tuple({one.place: one for one in (*mine, *theirs)}.values())
