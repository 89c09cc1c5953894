"""What an action is: its words, the devices that it is for, the values that it takes, and what it does."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Literal, NamedTuple

from eager_lens.core.addressing.ipv4 import address_number, address_text
from eager_lens.core.errors import RefusedInput
from eager_lens.core.simulation.access import WORDS, log_in
from eager_lens.core.simulation.parts import DEFAULT_PASSWORD, Unit, UnitRole
from eager_lens.core.simulation.reach import reached
from eager_lens.core.simulation.site import Site

Values = Mapping[str, str]

FieldKind = Literal["text", "address", "password", "zone", "yes", "channel", "choice"]


class ActionOutcome(NamedTuple):
    """What came of an action: whether it did what was meant, and what is to be seen."""

    done: bool
    words: str


class ActionField(NamedTuple):
    """A value that an action takes: its name, its words, its kind, for a choice what can be selected, and what empty means."""

    name: str
    label: str
    kind: FieldKind = "text"
    choices: tuple[str, ...] = ()
    hint: str = ""


@dataclass(frozen=True)
class ActionKind:
    """A kind of action.

    Attributes:
        name: as it stands in the job. label: as people see it.
        roles: the units that it is done to; empty: to none in particular.
        fields: the values that it takes.
        act: does it; raises RefusedInput for values that make no sense.
        tip: what it is good for, in a sentence.
    """

    name: str
    label: str
    roles: tuple[UnitRole, ...]
    act: Callable[[Site, Unit, Values], ActionOutcome]
    fields: tuple[ActionField, ...] = ()
    tip: str = ""


PASSWORD_WORDS = {
    "own": "its own password",
    "site": "the site's password",
    DEFAULT_PASSWORD: "the default",
    "short": "four digits",
}
"""The stand-ins for passwords. Real ones are never typed into a rehearsal."""

WEB = ActionField("password", "Logging in with", "password")


def stand_in(text: str, unit: Unit) -> str:
    """A password's stand-in; a device's own is told apart from every other device's.

    Raises:
        RefusedInput: for anything that is none of the stand-ins.
    """
    if text not in PASSWORD_WORDS:
        raise RefusedInput(
            "password", f"{text!r} is none of {', '.join(PASSWORD_WORDS)}; a rehearsal takes stand-ins only"
        )
    return f"own:{unit.id}" if text == "own" else text


def number_of(text: str, what: str) -> int:
    """A typed address as a number.

    Raises:
        RefusedInput: when it is none.
    """
    try:
        return address_number(text.strip())
    except ValueError as error:
        raise RefusedInput(what, str(error)) from None


def with_prefix(text: str, what: str) -> tuple[int, int]:
    """A typed address with its subnet's size, as ``172.22.40.40/24``; without one, 24 is taken.

    Raises:
        RefusedInput: when it is none.
    """
    address, _, size = text.strip().partition("/")
    if size and not (size.isascii() and size.isdigit() and 8 <= int(size) <= 30):
        raise RefusedInput(what, f"/{size} is no size of a subnet; allowed is /8 to /30")
    return number_of(address, what), int(size or 24)


def answering(site: Site, unit: Unit) -> tuple[Unit | None, str]:
    """Who answers the laptop at a unit's address: mostly the unit; a twin on the same address; or nobody and why."""
    if not unit.is_lit:
        return None, f"{unit.name} is dark: {unit.feeding.why_dark or 'it has no power'}"
    if unit.phase == "broken":
        return None, f"{unit.name} does not start: its software is damaged"
    if not unit.runs:
        return None, f"{unit.name} is still starting, {unit.ready_s - site.now_s:.0f} s to go"
    side = unit.sides[0]
    if not side.address:
        return None, f"{unit.name} has no address yet (0.0.0.0)"
    found = reached(site, site.laptop, side.address)
    if found.unit is None:
        return None, found.why
    if found.unit is not unit:
        return found.unit, (
            f"{found.unit.name} (…{found.unit.last_four}) answered at {address_text(side.address)} instead of "
            f"{unit.name} (…{unit.last_four})"
        )
    return unit, ""


def entered(site: Site, unit: Unit, values: Values) -> tuple[Unit | None, str]:
    """Log in to what answers at a unit's address; it, or None and why not. The words tell a twin that answered."""
    other, words = answering(site, unit)
    if other is None:
        return None, words
    outcome = log_in(site, other, stand_in(values.get("password", "own"), unit))
    if outcome != "in":
        return None, f"{words + '; ' if words else ''}{other.name}: {WORDS[outcome]}"
    return other, words


def recorded(site: Site, unit: Unit, outcome: ActionOutcome, lesson: bool = False) -> ActionOutcome:
    """Write what came of an action on the event log."""
    site.tell(unit, outcome.words, "plain" if outcome.done and not lesson else "lesson")
    return outcome


def recorder_trouble(unit: Unit) -> str:
    """Why nothing can be set on a recorder now; empty when it can."""
    if not unit.runs:
        return f"{unit.name} does not run"
    if not unit.access.is_set_up:
        return f"{unit.name} is not set up yet"
    return ""
