"""What a finding is: a judgement about the job, with its reason and its remedy."""

from __future__ import annotations

from dataclasses import dataclass
from enum import IntEnum
from typing import Literal, NamedTuple

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


Readout = Literal["days", "incoming", "power", "registered", "addresses", "tests"]
"""A figure of the strip at the top of the window (``present/readout.py``)."""

WayOut = Literal[
    "another run",
    "connect",
    "join networks",
    "larger switch",
    "powered port",
    "feed",
    "more channels",
    "serve purpose",
    "smaller picture",
    "another codec",
    "less power",
    "other twin",
    "more days",
    "cap",
    "cap what comes in",
    "cap what a link carries",
    "cap what the air carries",
    "cap what is uploaded",
]
"""What makes choices for a finding: each is a function of ``options/remedies``, which weighs them by assessing the job again."""


@dataclass(frozen=True)
class FindingKind:
    """All that is so of every finding of one kind; each stands in the file of its rule.

    Attributes:
        code: its name for scripts and job files; never another once it was in a release.
        stage: which stage of the work it belongs to.
        colours: the figure of the readout that takes its colour.
        way_out: what makes choices for it, where one fix is not all there is.
        of_what_is_missing: whether it says of a device what it lacks before it is installed; it may be a spare one.
        settled_after: whether a way out of another finding may bring it, for its own fix settles it by one press.
        button: verb and object on the button of its fix, where the fix's own label is too long for a button.
    """

    code: str
    stage: Stage
    colours: Readout | None = None
    way_out: WayOut | None = None
    of_what_is_missing: bool = False
    settled_after: bool = False
    button: str = ""


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
        kind: what is so of all findings like it.
        severity: how bad.
        title: what is so, with its figure.
        why: why it matters in this job.
        action: what to do about it.
        subjects: ids of the devices, weeks or subnets it is about, the first to be led to first.
        fix: an edit that puts it right, where that is unambiguous.
        set_at: where it is put right by hand, when that is no field of a device.
        button: as of its kind, where the words depend on the case.
    """

    kind: FindingKind
    severity: Severity
    title: str
    why: str
    action: str
    subjects: tuple[str, ...] = ()
    fix: Edit | None = None
    set_at: FieldPlace | None = None
    button: str = ""

    @property
    def button_words(self) -> str:
        """What the button of its fix says: short enough to be read whole beside the page."""
        if self.fix is None:
            return ""
        return self.button or self.kind.button or self.fix.label

    @property
    def code(self) -> str:
        """The name of its kind, for scripts and job files."""
        return self.kind.code

    @property
    def stage(self) -> Stage:
        """The stage of the work that it belongs to."""
        return self.kind.stage

    @property
    def key(self) -> tuple[str, tuple[str, ...]]:
        """What tells it from all others of a job, also after an edit: kind and subjects."""
        return self.kind.code, self.subjects


def cameras_named(names: list[str]) -> str:
    """One or two cameras by name, more by their number: a title has to be read at a glance."""
    return names_listed(names) if len(names) <= 2 else f"{len(names)} cameras"


def names_listed(names: list[str], most: int = 3) -> str:
    """``A, B and C`` or ``A, B, C and 9 more``."""
    if len(names) > most:
        return f"{', '.join(names[:most])} and {len(names) - most} more"
    if len(names) > 1:
        return f"{', '.join(names[:-1])} and {names[-1]}"
    return names[0] if names else ""
