"""What a finding is: a judgement about the job, with its reason and its remedy."""

from __future__ import annotations

from dataclasses import dataclass
from enum import IntEnum
from typing import Literal, NamedTuple

from eager_lens.core.assess.codes import Code
from eager_lens.core.job.edits import Edit

Stage = Literal["wiring", "sizing", "addresses", "bench", "schedule", "motion", "proof", "handover"]
"""A stage of the work, by its id. What a stage is called and says stands in ``present/stages.py``."""


class Severity(IntEnum):
    """How bad: a fault will not work, a warning may not, a to-do is not done yet, a note is for knowing."""

    NOTE = 0
    TODO = 1
    WARNING = 2
    FAULT = 3

    @property
    def word(self) -> str:
        """The word that stands beside the mark."""
        return "to do" if self is Severity.TODO else self.name.lower()


class FieldPlace(NamedTuple):
    """Where a field of the job itself is set: the page, the field's name there, and the place in words."""

    stage: Stage
    field: str
    words: str


def on_makes(field: str) -> FieldPlace:
    """The place of a field that stands with the makes."""
    return FieldPlace("bench", field, "Bench, Makes")


@dataclass(frozen=True)
class Finding:
    """One judgement.

    Attributes:
        code: the rule's name, for scripts.
        severity, stage: how bad, and which stage of the work it belongs to.
        title: what is so, with its figure.
        why: why it matters in this job.
        action: what to do about it.
        subjects: ids of the devices, weeks or subnets it is about, the first to be led to first.
        fix: an edit that puts it right, where that is unambiguous.
        set_at: where it is put right by hand, when that is no field of a device.
    """

    code: Code
    severity: Severity
    stage: Stage
    title: str
    why: str
    action: str
    subjects: tuple[str, ...] = ()
    fix: Edit | None = None
    set_at: FieldPlace | None = None


def names_listed(names: list[str], most: int = 3) -> str:
    """``A, B and C`` or ``A, B, C and 9 more``."""
    if len(names) > most:
        return f"{', '.join(names[:most])} and {len(names) - most} more"
    if len(names) > 1:
        return f"{', '.join(names[:-1])} and {names[-1]}"
    return names[0] if names else ""
