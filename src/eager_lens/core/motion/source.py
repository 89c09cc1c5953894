"""Pictures with truth: what a drawn scene and a recorded clip both offer to a detector and to those who judge it."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple, Protocol

from eager_lens.core.motion.lens import GroundBox, Lens, Picture
from eager_lens.core.motion.looks import Looks
from eager_lens.core.motion.view import Cause
from eager_lens.core.values.kinds import Kind


class Visit(NamedTuple):
    """Something that comes along: kind, when (seconds from the start), its way in metres, and whether it is to be caught.

    ``back_s`` above 0: it waits so long at the end of its way, and goes the same way back. ``looks``: None is as usual.
    """

    kind: Kind
    begins_s: float
    ends_s: float
    start: tuple[float, float]
    end: tuple[float, float]
    counts: bool
    back_s: float = 0.0
    looks: Looks | None = None

    def there(self) -> Visit:
        """The same visit without coming back."""
        if not self.back_s:
            return self
        one_way_s = (self.ends_s - self.begins_s - self.back_s) / 2
        return self._replace(ends_s=self.begins_s + one_way_s, back_s=0.0)

    def at(self, at_s: float) -> tuple[float, float]:
        """Where it is at a moment: metres across and away."""
        share = (at_s - self.begins_s) / (self.ends_s - self.begins_s)
        if self.back_s:
            one_way_s = (self.ends_s - self.begins_s - self.back_s) / 2
            gone_s = at_s - self.begins_s
            share = min(1.0, gone_s / one_way_s, max(0.0, self.ends_s - at_s) / one_way_s)
        return (
            self.start[0] + share * (self.end[0] - self.start[0]),
            self.start[1] + share * (self.end[1] - self.start[1]),
        )


class Blame(NamedTuple):
    """Whose an area is: a visit's that is to be caught, or nobody's and then the cause."""

    visit: Visit | None
    cause: Cause | None


class Source(Protocol):
    """What a detector looks at."""

    lens: Lens
    duration_s: float
    visits: Sequence[Visit]

    def picture(self, at_s: float) -> Picture:
        """The picture of a moment."""

    def seen(self, at_s: float) -> list[tuple[Visit, GroundBox]]:
        """Who is seen at a moment, and where."""

    def blame(self, at_s: float, box: GroundBox) -> Blame:
        """Whose a place is at a moment."""
