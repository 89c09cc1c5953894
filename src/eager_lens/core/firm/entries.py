"""Lists of a firm held against others, entry by entry: what is new, what is another, what only one side has; and put together by
what is chosen of each."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from typing import Any, Literal, NamedTuple

from eager_lens.core.firm.lists import IN_JOBS, FirmLists, lists_of
from eager_lens.core.job.differences import Key, told_apart
from eager_lens.core.job.edits import Edit, with_parts
from eager_lens.core.job.model import DriveOffer, Job
from eager_lens.core.job.prices import Charges
from eager_lens.core.units import count, figure, fixed
from eager_lens.core.validation import Plain

State = Literal["new", "another", "the same", "only here"]
Fate = Literal["take", "leave", "remove"]

KEYS: dict[str, Callable[[Any], Key]] = {
    "make_profiles": lambda one: (one.make.casefold(),),
    "mounting_list": lambda one: (one.id,),
    "prices": lambda one: (one.what.casefold(),),
    "drive_offers": lambda one: (one.name.casefold(), one.tb, one.currency),
    "fault_figures": lambda one: one.place,
    "label_stocks": lambda one: (one.name.casefold(), one.paper),
    "templates": lambda one: (one.name.casefold(),),
}
"""What tells the entries of a list apart; several with one key are told apart by their number."""

LIST_WORDS = {
    "make_profiles": "Make profile",
    "mounting_list": "Mounting step",
    "prices": "Price",
    "drive_offers": "Drive",
    "fault_figures": "Fault figure",
    "label_stocks": "Label stock",
    "templates": "Template",
    "charges": "Rate and tax",
}


class FirmEntry(NamedTuple):
    """An entry of two lists.

    Attributes:
        id: its own. list, key: which of the lists, and what tells it apart there. name: what it is called. state: of the other side
            against the one here.
        here, there: the entry on each side; None where a side has none.
    """

    id: str
    list: str
    key: Key
    name: str
    state: State
    here: Plain | None
    there: Plain | None

    @property
    def here_words(self) -> str:
        """What stands here."""
        return "" if self.here is None else _words(self.here, self.there)

    @property
    def there_words(self) -> str:
        """What would stand there."""
        return "" if self.there is None else _words(self.there, self.here)


def entries(here: FirmLists, there: FirmLists) -> list[FirmEntry]:
    """All entries of both, what is new or another first."""
    found = [entry for name in KEYS for entry in _of_list(name, getattr(here, name), getattr(there, name))]
    if there.charges != Charges():
        own = None if here.charges == Charges() else here.charges
        state: State = "the same" if own == there.charges else "new" if own is None else "another"
        found.append(FirmEntry("charges", "charges", (), "rates", state, own, there.charges))
    elif here.charges != Charges():
        found.append(FirmEntry("charges", "charges", (), "rates", "only here", here.charges, None))
    order: tuple[State, ...] = ("another", "new", "only here", "the same")
    return sorted(found, key=lambda one: order.index(one.state))


def _of_list(name: str, here: Sequence[Plain], there: Sequence[Plain]) -> Iterator[FirmEntry]:
    own, others = told_apart(here, KEYS[name]), told_apart(there, KEYS[name])
    for at, (key, part) in enumerate(others.items()):
        mine = own.get(key)
        state: State = "new" if mine is None else "the same" if mine == part else "another"
        yield FirmEntry(f"{name}-{at}", name, key, _name(part), state, mine, part)
    for at, (key, part) in enumerate(own.items()):
        if key not in others:
            yield FirmEntry(f"{name}-own-{at}", name, key, _name(part), "only here", part, None)


def _name(part: Any) -> str:
    for field in ("name", "what", "make", "text", "id"):
        if text := str(getattr(part, field, "")):
            return f"{text}, {figure(part.tb)} TB" if isinstance(part, DriveOffer) else text
    return "all other makes"


def _words(part: Any, other: Any) -> str:
    """An entry in a few words: what differs from the other side, or what counts in it."""
    if isinstance(part, Charges):
        rate = "no rate" if part.rate_per_h is None else f"{figure(part.rate_per_h, 6)} {part.currency} an hour"
        return f"{rate}, {part.tax_name or 'tax'} {figure(100 * part.tax_share)} %"
    if isinstance(part, Job):
        return f"{count(len(part.cameras), 'camera')}, {count(len(part.recorders), 'recorder')}"
    if hasattr(part, "price"):
        return f"{fixed(part.price, 2)} {part.currency}".rstrip()
    usual = {name: field.default for name, field in type(part).model_fields.items()}
    names = [name for name in usual if getattr(part, name) != getattr(other, name, usual[name])]
    return ", ".join(f"{name.replace('_', ' ')} {getattr(part, name)}"[:60] for name in names[:3])


def fates_of(found: Sequence[FirmEntry], over: bool) -> dict[str, Fate]:
    """What is proposed for each: new ones are taken, what only this side has stays. ``over``: whether what is another is taken
    too; else what is here stays until it is chosen."""
    return {one.id: "take" if one.state == "new" or (one.state == "another" and over) else "leave" for one in found}


def allowed(one: FirmEntry) -> tuple[Fate, ...]:
    """What may become of an entry."""
    if one.state in ("new", "another"):
        return ("take", "leave")
    return ("leave", "remove") if one.state == "only here" else ("leave",)


def put_together(here: FirmLists, found: Sequence[FirmEntry], fates: Mapping[str, Fate]) -> FirmLists:
    """The lists here with what was chosen of the others taken, and what was chosen to go gone."""
    values: dict[str, Any] = {}
    for name in KEYS:
        parts = told_apart(getattr(here, name), KEYS[name])
        for one in (one for one in found if one.list == name):
            if fates.get(one.id) == "take" and one.there is not None:
                parts[one.key] = one.there
            elif fates.get(one.id) == "remove":
                parts.pop(one.key, None)
        values[name] = tuple(parts.values())
    for one in found:
        if one.list == "charges" and fates.get(one.id) in ("take", "remove"):
            values["charges"] = one.there or Charges()
    return here.model_copy(update=values)


def take_entries(found: Sequence[FirmEntry], fates: Mapping[str, Fate]) -> Edit:
    """Have a job go by what was chosen of a firm's lists."""
    many = sum(fate != "leave" for fate in fates.values())

    def apply(job: Job) -> Job:
        now = put_together(lists_of(job), found, fates)
        return with_parts(job, **{name: getattr(now, name) for name in IN_JOBS})

    return Edit(f"Use {count(many, 'entry', 'entries')} of the firm's lists", apply)


def begin_with(firm: FirmLists, job: Job) -> Job:
    """A new job that goes by a firm's lists."""
    found = entries(lists_of(job), firm)
    return take_entries(found, fates_of(found, over=True)).apply(job)
