"""What a working is, and how a calculator's inputs become its lines."""

import re
from dataclasses import dataclass
from typing import Any, Literal, NamedTuple

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.figures.rates import Origin
from eager_lens.core.assess.rules.sizing import has_estimated_rate
from eager_lens.core.calculator import Calculator
from eager_lens.core.job.fields import MATERIAL_WORDS
from eager_lens.core.sizing.drives import LEVEL_WORDS
from eager_lens.core.units import UNIT_BY_SUFFIX, figure, unit_of

FigureKind = Literal[
    "days",
    "incoming",
    "drives",
    "view",
    "rate",
    "gb-per-day",
    "volts",
    "power",
    "load",
    "stops",
    "unit",
    "radio",
    "channels",
    "addresses",
    "steps",
]


class FigureRef(NamedTuple):
    """A figure: its kind, and the id of the recorder or camera that it belongs to (empty for the whole job)."""

    kind: FigureKind
    subject: str = ""


class WorkingLine(NamedTuple):
    """One line of a working: what, how much with its unit, and where it came from."""

    label: str
    value: str
    origin: Origin


@dataclass(frozen=True)
class Working:
    """The whole working of one figure."""

    title: str
    value: str
    formula: str
    lines: tuple[WorkingLine, ...]
    source: str

    def as_text(self) -> str:
        """The working as plain lines, for the clipboard."""
        rows = [f"  {line.label}: {line.value} ({line.origin})" for line in self.lines]
        return "\n".join([f"{self.title}: {self.value}", f"  {self.formula}", *rows, f"  Source: {self.source}"])


def calculated(
    calculator: Calculator[Any, Any], inputs: dict[str, tuple[Any, Origin]]
) -> tuple[dict[str, Any], tuple[WorkingLine, ...]]:
    """Run a calculator on inputs that carry their origin; its output, and the inputs as lines of a working."""
    output = calculator.answer({key: value for key, (value, _) in inputs.items()})
    lines = tuple(WorkingLine(_label(key), with_unit(key, value), origin) for key, (value, origin) in inputs.items())
    return output, lines


VALUE_WORDS = {**LEVEL_WORDS, **MATERIAL_WORDS}


def with_unit(key: str, value: Any) -> str:
    """A value with the unit that its key names."""
    if isinstance(value, str):
        return VALUE_WORDS.get(value, value)
    if key.endswith("_share"):
        return f"{figure(100 * value)} %"
    return f"{figure(value)} {unit_of(key)}".strip()


def _label(key: str) -> str:
    words = key.split("_")
    unit_words = {suffix for suffix, _ in UNIT_BY_SUFFIX}
    while len(words) > 1 and words[-1] in unit_words:
        words.pop()
    return " ".join(words).replace(" h per day", " a day").replace(" per h", " an hour").replace(" per day", " a day")


_NAMES = re.compile(r"\b[a-z][a-z0-9]*(?:_[a-z0-9]+)+\b")


def in_words(formula: str) -> str:
    """A formula with the words of its lines in place of the names that scripts know."""
    worded = _NAMES.sub(lambda name: _label(name[0]), formula)
    return re.sub(r"\braid(\d+)", r"RAID \1", worded).replace(" x ", " × ")


def rates_origin(assessment: Assessment) -> Origin:
    """Where the rates of a job come from, taken together: measured only if every one is."""
    return "assumed" if assessment.facts.having(has_estimated_rate) else "measured"
