"""Figures that stand in a job's file: those that it was saved with, and those that were handed over, with the model that made them.

They are not worked out again: they say what was said then, beside what is worked out now.
"""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from eager_lens.core.job.most import MOST_OTHERS
from eager_lens.core.job.texts import Id, Text
from eager_lens.core.validation import Number, Plain, Whole


class RecorderKept(Plain):
    """A recorder's figures as they were: days are None where nothing was recorded on it."""

    id: Id
    name: Text = ""
    promised_days: Number | None = None
    mean_days: Number | None = None
    usable_tb: Number = 0
    gb_per_day: Number = 0


class KeptFigures(Plain):
    """The figures of all recorders, and the number of the model that they were made with."""

    model: Annotated[Whole, Field(le=1000)]
    recorders: Annotated[tuple[RecorderKept, ...], Field(max_length=MOST_OTHERS)] = ()


class HandedOver(KeptFigures):
    """Figures that stood on papers which were handed over: for whom, when (local time), and asked days then."""

    what: Text
    at: Text
    by: Text = ""
    asked_days: Number = 0
