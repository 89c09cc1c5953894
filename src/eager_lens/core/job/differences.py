"""Two states of a job compared part by part and field by field: the whole job, whatever it comes to hold.

A return visit tells the differences, and jobs are merged by them.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence
from typing import Any, NamedTuple

from eager_lens.core.job.model import JOB_LISTS, Job, changed
from eager_lens.core.validation import Plain

KEYS: dict[str, tuple[str, ...]] = {
    "make_profiles": ("make",),
    "fault_figures": ("kind", "id", "under"),
    "drive_offers": ("name", "tb", "currency"),
    "prices": ("what",),
    "commissioning": ("step",),
    "mounting": ("step",),
    "checks": ("device", "check", "at", "by"),
    "walks": ("camera", "zone", "route", "dark", "at", "by"),
    "fill_readings": ("recorder", "at"),
    "accepted": ("code", "subjects"),
    "handed_over": ("what", "at"),
}
"""What tells the parts of a list apart; of all other lists, their id."""

ORDERED = frozenset({"exceptions"})
"""Lists in which the order counts: where exceptions overlap, the later one wins."""

RECORDS = frozenset(
    {"commissioning", "mounting", "checks", "walks", "fill_readings", "snags", "accepted", "rehearsal", "handed_over"}
)
"""What was done and found on a job; all else is how it is planned."""

WHOLE, ORDER = "", "order"
Key = tuple[Any, ...]


class Difference(NamedTuple):
    """Something that is another in two states.

    Attributes:
        list: the job's field. key: which part of its list; empty where the field is no list.
        field: of that part; ``WHOLE`` where the part came or went, or is a single value; ``ORDER`` where the list's order changed.
        before, now: its values; of a part that came or went None on that side.
    """

    list: str
    key: Key
    field: str
    before: Any
    now: Any

    @property
    def place(self) -> tuple[str, Key, str]:
        """What it is about."""
        return (self.list, self.key, self.field)


def keyed(name: str, parts: Iterable[Plain]) -> dict[Key, Plain]:
    """The parts of a job's list by what tells them apart."""
    fields = KEYS.get(name, ("id",))
    return told_apart(parts, lambda part: tuple(getattr(part, field) for field in fields))


def told_apart(parts: Iterable[Plain], key_of: Callable[[Any], Key]) -> dict[Key, Plain]:
    """Parts by a key; of several with one key each further one has its number behind it."""
    found: dict[Key, Plain] = {}
    for part in parts:
        own = key = key_of(part)
        number = 2
        while key in found:
            key = (*own, number)
            number += 1
        found[key] = part
    return found


def differences(before: Job, now: Job) -> Iterator[Difference]:
    """All differences between two states of a job, in the order of its file."""
    for name in Job.model_fields:
        was, is_now = getattr(before, name), getattr(now, name)
        if was is is_now or was == is_now:
            continue
        if name in JOB_LISTS:
            yield from _of_list(name, was, is_now)
        elif isinstance(was, Plain) and isinstance(is_now, Plain):
            yield from _of_part(name, (), was, is_now)
        else:
            yield Difference(name, (), WHOLE, was, is_now)


def _of_list(name: str, before: Sequence[Plain], now: Sequence[Plain]) -> Iterator[Difference]:
    old, new = keyed(name, before), keyed(name, now)
    for key, part in new.items():
        was = old.get(key)
        if was is None:
            yield Difference(name, key, WHOLE, None, part)
        elif was is not part:
            yield from _of_part(name, key, was, part)
    for key, part in old.items():
        if key not in new:
            yield Difference(name, key, WHOLE, part, None)
    if name in ORDERED:
        stayed = [key for key in old if key in new], [key for key in new if key in old]
        if stayed[0] != stayed[1]:
            yield Difference(name, (), ORDER, tuple(old), tuple(new))


def _of_part(name: str, key: Key, before: Plain, now: Plain) -> Iterator[Difference]:
    for field in type(now).model_fields:
        was, is_now = getattr(before, field), getattr(now, field)
        if was is not is_now and was != is_now:
            yield Difference(name, key, field, was, is_now)


def with_differences(job: Job, found: Iterable[Difference]) -> Job:
    """The job with these differences applied. What is about a part that the job does not have is left out.

    Raises:
        RefusedInput: when the job cannot be so.
    """
    by_list: dict[str, list[Difference]] = {}
    for one in found:
        by_list.setdefault(one.list, []).append(one)
    values: dict[str, Any] = {}
    for name, ones in by_list.items():
        if name in JOB_LISTS:
            values[name] = _with_parts(name, getattr(job, name), ones)
        elif ones[0].field == WHOLE:
            values[name] = ones[0].now
        else:
            values[name] = changed(getattr(job, name), **{one.field: one.now for one in ones})
    return changed(job, **values) if values else job


def _with_parts(name: str, parts: Sequence[Plain], found: Iterable[Difference]) -> tuple[Plain, ...]:
    kept = keyed(name, parts)
    fields: dict[Key, dict[str, Any]] = {}
    order: tuple[Key, ...] = ()
    for one in found:
        if one.field == ORDER and not one.key:
            order = one.now
        elif one.field != WHOLE:
            fields.setdefault(one.key, {})[one.field] = one.now
        elif one.now is None:
            kept.pop(one.key, None)
        else:
            kept[one.key] = one.now
    for key, values in fields.items():
        if key in kept:
            kept[key] = changed(kept[key], **values)
    if order:
        places = {key: at for at, key in enumerate(order)}
        return tuple(kept[key] for key in sorted(kept, key=lambda key: places.get(key, len(places))))
    return tuple(kept.values())
