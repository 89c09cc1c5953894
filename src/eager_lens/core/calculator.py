"""What a calculator is: a typed input, a function, a typed output, and the formula with its source.

A calculator is described once, beside its function; the command line, the JSON Schema and the working shown in the
window all come from that description.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Generic, TypeVar

from eager_lens.core.errors import RefusedInput
from eager_lens.core.validation import Plain, read_as

In = TypeVar("In", bound=Plain)
Out = TypeVar("Out", bound=Plain)


@dataclass(frozen=True)
class Calculator(Generic[In, Out]):
    """One named calculation.

    Attributes:
        name: the name on the command line.
        title: what it works out, for people.
        formula: the rule in words and signs, with the input's keys.
        source: where the rule comes from.
        input_model, output_model: frozen models whose keys carry their units.
        run: the function; raises ``RefusedInput`` for what it cannot take.
    """

    name: str
    title: str
    formula: str
    source: str
    input_model: type[In]
    output_model: type[Out]
    run: Callable[[In], Out]

    def answer(self, data: Any) -> dict[str, Any]:
        """The output, as plain JSON values, for an input of plain JSON values.

        Raises:
            RefusedInput: naming the field by its path, what was given and what is allowed.
        """
        given = read_as(self.input_model, data)
        try:
            result = self.run(given).model_dump()
        except (OverflowError, ZeroDivisionError):
            raise RefusedInput("", "the result would not be finite; give smaller values") from None
        _require_finite(result)
        return result

    def schema(self) -> dict[str, Any]:
        """JSON Schema of input and output."""
        return {
            "title": self.title,
            "description": f"{self.formula} ({self.source})",
            "input": self.input_model.model_json_schema(),
            "output": self.output_model.model_json_schema(),
        }


def _require_finite(value: Any) -> None:
    if isinstance(value, float) and not math.isfinite(value):
        raise RefusedInput("", "the result would not be finite; give smaller values")
    if isinstance(value, dict):
        for inner in value.values():
            _require_finite(inner)
