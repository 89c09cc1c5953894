"""What was proved on site and what is still open: acceptance tests, walks, readings, snags, steps of the mounting."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from eager_lens.core.job.texts import DueDate, Id, LocalMinute, LongText, Photos, Text
from eager_lens.core.validation import AnySign, Number, Plain

CheckHow = Literal["typed", "site check", "clip", "picture", "walk test", "readings", "field sheet"]
"""Where a result comes from."""


class Check(Plain):
    """One acceptance test as it was made.

    A test that is made again stands behind the earlier one in the job's list, and the last one counts; what failed stays on
    record.

    Attributes:
        device: what it was made on, or ``site``. check: which test. by, at: who and when (local time, ISO 8601).
        value: what was seen, in words. measured: in the test's unit; None where nothing was measured.
        how: where it comes from. photos: by their hashes.
        withdrawn_at, withdrawn_by, withdrawn_why: a wrong entry that counts no more, and stays on record with that.
    """

    device: Id
    check: Id
    outcome: Literal["passed", "failed"]
    by: Text = ""
    at: Text = ""
    value: Text = ""
    measured: AnySign | None = None
    how: CheckHow = "typed"
    photos: Photos = ()
    withdrawn_at: Text = ""
    withdrawn_by: Text = ""
    withdrawn_why: Text = ""

    @property
    def counts(self) -> bool:
        """Whether it was not withdrawn."""
        return not self.withdrawn_at


class Walk(Plain):
    """One walk of a walk test: through which zone, from where to where, by night or by day, and whether it was caught."""

    camera: Id
    zone: Text = ""
    route: Text = ""
    dark: bool = False
    caught: bool
    at: Text = ""
    by: Text = ""


class FillReading(Plain):
    """How full a recorder's drives were, and how old its oldest recording; None: not read."""

    recorder: Id
    at: LocalMinute
    used_tb: Annotated[Number, Field(le=1e7)] | None = None
    oldest_days: Annotated[Number, Field(le=36_500)] | None = None
    by: Text = ""


SnagState = Literal["open", "put right", "accepted"]


class SnagWords(Plain):
    """An open point, without its photos: what is wrong, who puts it right, by when, and what became of it.

    Attributes:
        device: a device's id, or ``site``. check: the acceptance test that failed, or empty.
        owner: who puts it right. state: ``accepted`` is what the customer takes as it is.
        outcome: what was done, or why it is accepted.
    """

    id: Id
    device: Id
    check: Text = ""
    text: Annotated[LongText, Field(min_length=1)]
    owner: Text = ""
    due: DueDate | None = None
    state: SnagState = "open"
    opened_at: Text = ""
    opened_by: Text = ""
    closed_at: Text = ""
    closed_by: Text = ""
    outcome: LongText = ""


class Snag(SnagWords):
    """An open point as the job has it."""

    photos: Photos = ()


class MountingStep(Plain):
    """A step of the mounting, as a firm's list has it.

    Attributes:
        id: its own in the list. stage: under which it stands. text: what to do. caution: what can hurt at it.
        minutes: how long it takes, as the firm finds.
        when: what must hold for a device to have it: ``camera``, ``bridge``, ``recorder``, ``outdoor``, ``indoor``, ``infrared``,
            ``dome``, ``bullet``, ``pole``, ``wall``, ``soffit``, ``poe``, ``supply``, ``surge``, ``box set-up``; ``a|b`` is either.
    """

    id: Id
    stage: Text
    text: Annotated[Text, Field(min_length=1)]
    caution: Text = ""
    minutes: Annotated[Number, Field(le=1000)] = 2
    when: Annotated[tuple[Text, ...], Field(max_length=12)] = ()
