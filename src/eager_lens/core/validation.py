"""The gate for everything that comes from outside: number types, strict JSON, and errors in one plain sentence.

The rules are those of the command line's contract: true, false and text are no numbers; a whole number may be written
4 or 4.0; nothing beyond 1e15 is taken; not-a-number and infinities are refused; unknown keys are refused at every
depth; a key given twice is refused.
"""

import json
from collections.abc import Sequence
from typing import Annotated, Any, TypeVar

from pydantic import AfterValidator, BaseModel, BeforeValidator, ConfigDict, Field, ValidationError

from eager_lens.core.errors import RefusedInput
from eager_lens.core.plain_text import cleaned, clipped, unwritable

LARGEST = 1e15

MOST_VALUES, MOST_OBJECTS = 6_000_000, 1_600_000
"""More than the largest job has: each takes some hundred bytes of memory once it is read."""

# A threshold counts as met when it is missed by at most this share of it, so that a value right on the line does not
# depend on the order of the arithmetic.
THRESHOLD_TOLERANCE = 1e-9


def at_most(value: float, limit: float) -> bool:
    """Whether ``value`` keeps to ``limit`` from above, within the threshold tolerance."""
    return value <= limit + THRESHOLD_TOLERANCE * abs(limit)


def at_least(value: float, limit: float) -> bool:
    """Whether ``value`` reaches ``limit``, within the threshold tolerance."""
    return value >= limit - THRESHOLD_TOLERANCE * abs(limit)


def _whole(value: Any) -> Any:
    """4.0 is the whole number 4; 4.5 stays what it is and is refused by the field."""
    if type(value) is float and value.is_integer() and abs(value) <= LARGEST:
        return int(value)
    return value


AnySign = Annotated[float, Field(strict=True, ge=-LARGEST, le=LARGEST, allow_inf_nan=False)]
Number = Annotated[float, Field(strict=True, ge=0, le=LARGEST, allow_inf_nan=False)]
Positive = Annotated[float, Field(strict=True, gt=0, le=LARGEST, allow_inf_nan=False)]
Share = Annotated[float, Field(strict=True, ge=0, le=1, allow_inf_nan=False)]
HoursOfDay = Annotated[float, Field(strict=True, ge=0, le=24, allow_inf_nan=False)]
Whole = Annotated[int, BeforeValidator(_whole), Field(strict=True, ge=0, le=int(LARGEST))]
Count = Annotated[int, BeforeValidator(_whole), Field(strict=True, ge=1, le=int(LARGEST))]


def one_of(*allowed: int) -> AfterValidator:
    """A whole number that is one of a few."""
    words = ", ".join(map(str, allowed[:-1])) + f" or {allowed[-1]}"

    def check(value: int) -> int:
        if value not in allowed:
            raise ValueError(f"{value} was given; allowed are {words}")
        return value

    return AfterValidator(check)


def _not_null(value: Any) -> Any:
    if value is None:
        raise ValueError("null was given; leave the key out or give a value")
    return value


NOT_NULL = BeforeValidator(_not_null)
"""For a key that may be left out (its default is None) but may not be null."""


class Plain(BaseModel):
    """A frozen value that refuses unknown keys: base of calculator inputs and outputs and of the job's parts."""

    model_config = ConfigDict(frozen=True, extra="forbid")


M = TypeVar("M", bound=BaseModel)


def read_as(model: type[M], data: Any) -> M:
    """``data`` (parsed JSON) as ``model``.

    Raises:
        RefusedInput: naming the first field that cannot be taken, what was given and what is allowed.
    """
    try:
        return model.model_validate(data)
    except ValidationError as error:
        raise refusal(error, model) from None
    except RecursionError:
        raise RefusedInput("", "the input is nested too deeply") from None


def parse_json(text: str, clean: bool = False) -> Any:
    """JSON in which an object must not give one key twice, and no text holds what could not be written again.

    ``clean`` takes such characters (half a surrogate pair, control characters) out of the texts; else they are refused.

    NaN and Infinity, which Python's reader lets through, are refused later by the field in which they stand, so that
    the message can name it.

    Raises:
        RefusedInput: with line and column where the text stops being JSON.
    """
    if text.count("{") > MOST_OBJECTS or text.count(",") + text.count("[") > MOST_VALUES:
        raise RefusedInput(
            "",
            f"it has more than {MOST_VALUES:,} values or {MOST_OBJECTS:,} objects, so it is not a file of this program",
        )
    try:
        found = json.loads(text, object_pairs_hook=_no_twins)
        # Only an escape, or what stood so in the text itself, can bring one in; most inputs hold neither.
        if "\\u" in text or unwritable(text) is not None:
            found = _writable(found, (), clean)
        return found
    except json.JSONDecodeError as error:
        raise RefusedInput("", f"not valid JSON at line {error.lineno}, column {error.colno}: {error.msg}") from None
    except RecursionError:
        raise RefusedInput("", "the JSON is nested too deeply") from None
    except RefusedInput:
        raise
    except ValueError as error:
        # Python refuses to convert integers of more than some thousand digits.
        raise RefusedInput("", f"not usable JSON: {error}") from None


def read_document_of(text: str, model: type[M], format: str, version: int, what: str) -> M:
    """A document of a known format and version out of its text. ``what`` it should be stands in the message.

    Raises:
        RefusedInput: when it is another, or naming what is wrong in it.
    """
    parsed = parse_json(text, clean=True)
    if not isinstance(parsed, dict) or parsed.get("format") != format:
        raise RefusedInput("format", f"it is not a {what}")
    if parsed.get("version") != version:
        raise RefusedInput(
            "version", f"it is of version {parsed.get('version')!r}; this program reads version {version}"
        )
    return read_as(model, parsed)


def _writable(value: Any, path: tuple[str | int, ...], clean: bool) -> Any:
    """A parsed value whose texts, keys too, can all be written."""
    if isinstance(value, str):
        code = unwritable(value)
        if code is None:
            return value
        if not clean:
            raise RefusedInput(
                path_text(path), f"the text contains {code}, which cannot be saved; remove that character"
            )
        return cleaned(value)
    if isinstance(value, list):
        return [_writable(one, (*path, at), clean) for at, one in enumerate(value)]
    if isinstance(value, dict):
        return {_writable(key, path, clean): _writable(one, (*path, key), clean) for key, one in value.items()}
    return value


def without_unwritable(value: Any) -> Any:
    """A value that was typed, pasted or made, its texts without what no file can hold."""
    return cleaned(value) if isinstance(value, str) else value


def _no_twins(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
    found = dict(pairs)
    if len(found) != len(pairs):
        seen: set[str] = set()
        twin = next(key for key, _ in pairs if key in seen or seen.add(key))  # type: ignore[func-returns-value]
        raise RefusedInput(twin, "this key appears twice in one object; remove one")
    return found


def path_text(location: Sequence[str | int]) -> str:
    """``("devices", 2, "keep")`` as ``devices[2].keep``."""
    text = ""
    for part in location:
        if isinstance(part, int):
            text += f"[{part}]"
        else:
            text += f".{part}" if text else part
    return text


def refusal(error: ValidationError, model: type[BaseModel]) -> RefusedInput:
    """The first trouble of a pydantic error as one sentence that names the field by its path."""
    # An unknown key is often the cause of a missing one (a typing error), so it is told first.
    troubles = error.errors(include_url=False)
    first = next((t for t in troubles if t["type"] == "extra_forbidden"), troubles[0])
    location = tuple(part for part in first["loc"] if part not in ("function-before[_whole()", "tagged-union"))
    path = path_text(location)
    kind, context, given = first["type"], first.get("ctx", {}), first["input"]
    if kind == "extra_forbidden":
        known = ", ".join(_keys_at(model, location[:-1]))
        return RefusedInput(path, "this key is unknown" + (f"; known are {known}" if known else ""))
    if kind == "missing":
        return RefusedInput(path, "this key is missing and has no default; add it")
    if kind == "value_error":
        # Our own checks name what was given themselves.
        return RefusedInput(path, str(context["error"]))
    return RefusedInput(path, f"{shown(given)} was given; {_allowed(kind, context, first['msg'])}")


def shown(value: Any) -> str:
    """A given value as it would stand in JSON, cut to a readable length."""
    if isinstance(value, float) and value.is_integer() and abs(value) <= LARGEST:
        value = int(value)
    if isinstance(value, str):
        value = clipped(value, 200)  # what is cut away below need not be made ready for it
    elif isinstance(value, list | tuple | dict) and len(value) > 50:
        return f"{'an object' if isinstance(value, dict) else 'a list'} of {len(value):,}"
    try:
        text = json.dumps(value, ensure_ascii=False)
    except (TypeError, ValueError, RecursionError):
        text = str(value)
    return text if len(text) <= 60 else text[:57] + "..."


_WANTED = {
    "float_type": "a number is needed",
    "int_type": "a whole number is needed",
    "int_from_float": "a whole number is needed",
    "string_type": "a text is needed",
    "bool_type": "true or false is needed",
    "list_type": "a list is needed",
    "tuple_type": "a list is needed",
    "dict_type": "an object is needed",
    "model_type": "an object is needed",
    "model_attributes_type": "an object is needed",
    "finite_number": "a finite number is needed",
}


def _allowed(kind: str, context: dict[str, Any], message: str) -> str:
    if kind in _WANTED:
        return _WANTED[kind]
    if kind == "literal_error":
        return f"allowed are {context['expected']}"
    limits = {
        "greater_than_equal": ("ge", "at least"),
        "greater_than": ("gt", "more than"),
        "less_than_equal": ("le", "at most"),
        "less_than": ("lt", "less than"),
    }
    if kind in limits:
        key, words = limits[kind]
        limit = context[key]
        return f"allowed is {words} {limit:g}" if isinstance(limit, int | float) else f"allowed is {words} {limit}"
    if kind in ("too_short", "too_long", "string_too_short", "string_too_long"):
        low, high = context.get("min_length"), context.get("max_length")
        return f"allowed is a length of at least {low}" if low is not None else f"allowed is a length of at most {high}"
    return message[0].lower() + message[1:]


def _keys_at(model: type[BaseModel], location: Sequence[str | int]) -> list[str]:
    """The keys that the model knows at a place of the input, as far as its annotations tell."""
    current: Any = model
    for part in location:
        if isinstance(part, int):
            continue
        fields = getattr(current, "model_fields", {})
        if part not in fields:
            return []
        current = _model_inside(fields[part].annotation)
    return [field.alias or name for name, field in getattr(current, "model_fields", {}).items()]


def _model_inside(annotation: Any) -> Any:
    if isinstance(annotation, type) and issubclass(annotation, BaseModel):
        return annotation
    for argument in getattr(annotation, "__args__", ()):
        found = _model_inside(argument)
        if found is not None:
            return found
    return None
