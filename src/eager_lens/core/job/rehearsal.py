"""What the job remembers of its rehearsal on simulated devices, and of the commissioning on the real bench.

A rehearsal is kept as the actions that were done and when: the simulation comes out the same again from them, so that
it can be resumed, undone, and replayed when the job has changed. Passwords never stand in it, only stand-ins.
"""

from typing import Annotated, Literal

from pydantic import Field, StringConstraints

from eager_lens.core.job.texts import LocalMinute
from eager_lens.core.validation import AnySign, Number, Plain, Whole

Word = Annotated[str, StringConstraints(strict=True, max_length=200)]
LONGEST_S = 400 * 86_400.0


class SiteAction(Plain):
    """Something that a hand did: what, to which device (by id), with which values, seconds after the start."""

    at_s: Annotated[Number, Field(le=LONGEST_S)]
    do: Word
    device: Word = ""
    values: Annotated[dict[str, Word], Field(max_length=12, default_factory=dict)]


class Rehearsal(Plain):
    """A rehearsal: where it begins, and all that was done.

    Attributes:
        seed: makes the devices' own chances come out the same again.
        begins: local date and time at the start, as ``2026-03-28T09:00``.
        ambient_c: how warm it is, for devices that run in their boxes.
        now_s: how far the clock has come, in seconds from the start.
        practice: the code of a practice, whose fault is put on the site before anything is done; empty: none.
    """

    seed: Annotated[Whole, Field(le=2**31)] = 1
    begins: LocalMinute = "2026-03-02T09:00"
    ambient_c: Annotated[AnySign, Field(ge=-40, le=60)] = 20
    now_s: Annotated[Number, Field(le=LONGEST_S)] = 0
    practice: Annotated[str, StringConstraints(strict=True, max_length=50, pattern=r"^([a-z]+-[1-3]-\d{1,9})?$")] = ""
    actions: Annotated[tuple[SiteAction, ...], Field(max_length=500_000)] = ()


class Tick(Plain):
    """A step of the commissioning that was done, or left out, on the real bench: by whom and when (local time)."""

    step: Word
    outcome: Literal["done", "skipped"] = "done"
    by: Word = ""
    at: Word = ""
    note: Word = ""
