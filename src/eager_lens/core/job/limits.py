"""How much a job may hold, taken from the model itself: edits are held to it, and a file beyond it is cut, not refused."""

from __future__ import annotations

from typing import Any

from annotated_types import MaxLen
from pydantic import ValidationError

from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.model import JOB_LISTS, Job
from eager_lens.core.validation import path_text, refusal, shown

WORDS = {
    "network": "network devices",
    "power_units": "power units",
    "commissioning": "ticked steps",
    "rules": "saved rules",
}
"""What a list holds, in words, where its name in the file is not that."""

MOST_ROUNDS = 20
"""So often a document may show new surplus below what was cut before it is given up."""


def _most_of(name: str) -> int:
    found: int = next(part.max_length for part in Job.model_fields[name].metadata if isinstance(part, MaxLen))
    return found


LIST_LIMITS: dict[str, int] = {name: _most_of(name) for name in JOB_LISTS}
"""How many parts each list of a job may hold, by the list's name."""


def require_room(job: Job, lists: dict[str, Any]) -> None:
    """Refuse lists that are longer than a job's may be.

    Raises:
        RefusedInput: naming the list, how long it would be, and how many there may be.
    """
    for name, parts in lists.items():
        most = LIST_LIMITS.get(name)
        if most is not None and len(parts) > most:
            what = WORDS.get(name, name.replace("_", " "))
            raise RefusedInput(
                name,
                f"{len(parts):,} {what} are too many: a job holds at most {most:,} and has {len(getattr(job, name)):,}. Split "
                "the work into two jobs, or remove what is not needed",
            )


def read_document(document: dict[str, Any]) -> tuple[Job, tuple[str, ...]]:
    """A parsed job file as a job; what is beyond a limit is cut off and named, one sentence each.

    Raises:
        RefusedInput: when anything else is wrong with it.
    """
    surplus: list[str] = []
    for _ in range(MOST_ROUNDS):
        try:
            return Job.model_validate(document), tuple(surplus)
        except ValidationError as error:
            cuts = [
                trouble
                for trouble in error.errors(include_url=False)
                if trouble["type"] in ("too_long", "string_too_long")
            ]
            if not cuts:
                raise refusal(error, Job) from None
            for trouble in cuts:
                surplus.append(_cut(document, trouble["loc"], trouble["ctx"]["max_length"]))
        except RecursionError:
            break
    raise RefusedInput("", "the input is nested too deeply")


def _cut(document: dict[str, Any], location: tuple[str | int, ...], most: int) -> str:
    """Cut a list or text in a document to its limit; what was cut, in a sentence."""
    *above, last = location
    holder: Any = document
    for part in above:
        holder = holder[part]
    whole = holder[last]
    if isinstance(whole, dict):
        holder[last] = dict(list(whole.items())[:most])
        first = list(whole)[most]
    else:
        holder[last] = whole[:most]
        first = whole[most]
    path = path_text(location)
    if isinstance(whole, str):
        return (
            f"{path}: the last {len(whole) - most:,} of {len(whole):,} characters were left out (the limit is {most:,})"
        )
    name = first.get("name") or first.get("id") if isinstance(first, dict) else first
    return (
        f"{path}: the file has {len(whole):,} and the limit is {most:,}, so {len(whole) - most:,} were left out, from "
        f"{shown(name)} on"
    )
