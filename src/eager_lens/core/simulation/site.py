"""The site: units, cables, the clock, and the event log of what happened and why."""

from __future__ import annotations

from bisect import bisect_left, bisect_right, insort
from collections.abc import Callable, Iterable, Mapping
from datetime import UTC, datetime, timedelta
from random import Random
from typing import Literal, NamedTuple, TypeVar

from eager_lens.core.clock.zones import zone_named
from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.model import Job
from eager_lens.core.job.rehearsal import Rehearsal
from eager_lens.core.pauses import pause, with_pauses
from eager_lens.core.simulation.event_queue import EventQueue
from eager_lens.core.simulation.parts import Cable, Outside, Server, Side, Unit
from eager_lens.core.simulation.segments import Segment, Segments, is_up

MOST_LOG_LINES = 5000

ROUND_S = 20.0
"""A recorder sees a change on its channels so long after it (assumed); a refresh looks at once."""

DAY_H = (7, 19)
"""It is light from the one hour to the other, local time (assumed, for all seasons)."""

Weight = Literal["quiet", "plain", "lesson"]
"""How much a line of the event log matters: of interest to who looks for it, plain news, or a consequence that teaches."""


class LogLine(NamedTuple):
    """A line of the event log."""

    at_s: float
    unit_id: str
    words: str
    weight: Weight


class NotOnSite(RefusedInput):
    """A device that the site does not have: the job has changed since it was built."""


T = TypeVar("T")


class OnSite(dict[str, T]):
    """Parts of a site by id; one that is not there is told in a sentence."""

    def __missing__(self, part_id: str) -> T:
        raise NotOnSite("", f"{part_id} is not on the simulated site; the job has changed since it was built")


Handler = Callable[["Site", Unit, int], None]

Settler = Callable[["Site"], None]


class Site:
    """A simulated site. ``handlers`` say what happens when something is due, ``settlers`` what follows from any change.

    Attributes:
        units, cables: by id.
        servers: DHCP server, by the id of the unit that is one.
        version: goes up at each change of power, wiring or addresses; what is worked out from those is kept until then.
        contested: by address and segment, the id of the unit that answers just now where several hold the address.
        outside: how it is seen from outside. rains: whether it does now. covered: cameras with a hand over the light sensor.
        is_disturbed: a path may lose what it carries (see ``disturbance.py``), so that recorders look at whole paths.
    """

    def __init__(
        self, job: Job, rehearsal: Rehearsal, handlers: Mapping[str, Handler], settlers: Iterable[Settler]
    ) -> None:
        self.job = job
        self.rehearsal = rehearsal
        self.event_queue = EventQueue()
        self.units: dict[str, Unit] = OnSite()
        self.cables: dict[str, Cable] = OnSite()
        self.servers: dict[str, Server] = OnSite()
        self.log_lines: list[LogLine] = []
        self.version = 0
        self.contested: dict[int, dict[Segment, str]] = {}
        self._round_due: set[str] = set()
        self.chance = Random(f"{rehearsal.seed}:site")
        self._handlers, self._settlers = handlers, tuple(settlers)
        self._segments: Segments | None = None
        self._cables_at: dict[str, list[Cable]] = {}
        # What changed since power, and since recorders, were settled last; None: anything may have.
        self._touched: dict[str, None] | None = None
        self._stirred: dict[str, None] | None = None
        self._stirred_numbers: set[int] = set()
        # Who holds which address, kept up to date unit by unit; None: to be worked out anew.
        self._holders: dict[int, list[tuple[Unit, Side]]] | None = None
        self._held_by: dict[str, tuple[int, ...]] = {}
        self._shared: set[int] = set()
        self._place: dict[str, int] = {}
        self._listeners: dict[int, dict[str, None]] = {}
        self._remembering: dict[int, dict[tuple[str, str], Side]] = {}
        self.power_groups: dict[str, tuple[Unit, ...]] | None = None
        self._has_guests = False
        self.outside = Outside()
        self.covered: set[str] = set()
        self.rains = False
        self.is_disturbed = False
        local = datetime.fromisoformat(rehearsal.begins).replace(tzinfo=zone_named(job.time_zone))
        self.begins_utc = local.astimezone(UTC)

    # ---- time ----------------------------------------------------------------------------------------------------

    @property
    def now_s(self) -> float:
        """Seconds since the start."""
        return self.event_queue.now_s

    def utc(self, at_s: float | None = None) -> datetime:
        """The true time, now or at a moment."""
        return self.begins_utc + timedelta(seconds=self.now_s if at_s is None else at_s)

    def local(self, at_s: float | None = None) -> datetime:
        """The true time in the job's own zone."""
        return self.utc(at_s).astimezone(zone_named(self.job.time_zone))

    @property
    def is_dark(self) -> bool:
        """Whether it is night."""
        return not DAY_H[0] <= self.local().hour < DAY_H[1]

    def is_dark_for(self, unit: Unit) -> bool:
        """Whether a camera takes it for night."""
        return unit.id in self.covered or self.is_dark

    def until_dusk_or_dawn_s(self) -> float:
        """Seconds until it has got dark or light next."""
        local = self.local()
        hours = local.hour + local.minute / 60 + local.second / 3600
        return min((hour - hours) % 24 for hour in DAY_H) * 3600 + 1

    def run_to(self, until_s: float) -> None:
        """Let everything happen that is due up to a moment."""
        while self.step(until_s):
            pause()

    def step(self, until_s: float) -> bool:
        """Let the next things happen that are due up to a moment, all of one moment together; whether there were any."""
        due = self.event_queue.take(until_s)
        if due is None:
            return False
        before = self.version
        while due is not None:
            unit = self.units.get(due.unit_id)
            if unit is not None:
                self._handlers[due.what](self, unit, due.mark)
            # What is due at this very moment too comes before what follows from it, so that a switch that wakes hundreds of
            # cameras is settled once.
            due = self.event_queue.take(self.now_s) if self.event_queue.next_s == self.now_s else None
        if self.version != before:
            self.settle()
        return True

    # ---- change --------------------------------------------------------------------------------------------------

    def changed(self, unit: Unit | None = None, wiring: bool = True) -> None:
        """Say that power, wiring or an address changed: of one unit, or of any (None).

        ``wiring`` says that what hears what may have come apart, or come together in another way than ``joined`` tells.
        """
        self.version += 1
        if wiring:
            self._segments = None
        if unit is None:
            self._touched, self._stirred, self._holders = None, None, None
            return
        if self._touched is not None:
            self._touched[unit.id] = None
        if self._stirred is not None:
            self._stirred[unit.id] = None
            self._stirred_numbers.update(self._held_by.get(unit.id, ()))
            self._stirred_numbers.update(side.address for side in unit.sides)
        self._hold(unit)

    def touch(self, unit: Unit) -> None:
        """Say that the power of a unit, and of what it feeds, may be another now."""
        if self._touched is not None:
            self._touched[unit.id] = None

    def stir(self, number: int) -> None:
        """Let devices that use an address look it up again."""
        self._stirred_numbers.add(number)

    def joined(self, unit: Unit) -> None:
        """Cables of a unit may carry something now that did not; nothing else changed in what hears what."""
        cables = self.cables_of(unit)
        hosted = any(
            other.host == unit.id for other in (*self._guests(), self.units.get("laptop")) if other is not None
        )
        if self._segments is None or hosted or any(cable.medium == "radio" for cable in cables):
            self._segments = None
            return
        for cable in cables:
            if is_up(cable, self.units):
                self._segments.join_cable(cable, self.units)

    def guest_came(self) -> None:
        """A device came that is not in the job."""
        self._has_guests = True

    def _guests(self) -> list[Unit]:
        return [unit for unit in self.units.values() if unit.role == "phone"] if self._has_guests else []

    def take_touched(self) -> list[Unit] | None:
        """Units that changed since this was asked for last, and that is forgotten; None for all."""
        touched, self._touched = self._touched, {}
        return None if touched is None else [self.units[one] for one in touched if one in self.units]

    def take_stirred(self) -> tuple[list[Unit], set[int]] | None:
        """As ``take_touched``, for those who look at others' addresses; with the addresses that the units had and have."""
        stirred, numbers = self._stirred, self._stirred_numbers
        self._stirred, self._stirred_numbers = {}, set()
        return None if stirred is None else ([self.units[one] for one in stirred if one in self.units], numbers)

    def settle(self) -> None:
        """Let all that follows from a change follow, until nothing changes any more."""
        for _ in range(50):
            before = self.version
            for settler in with_pauses(self._settlers, 1):
                settler(self)
            if self.version == before:
                return

    def want_round(self, recorder: Unit, delay_s: float = ROUND_S) -> None:
        """Have a recorder look at its channels soon, once."""
        if recorder.id not in self._round_due:
            self._round_due.add(recorder.id)
            self.event_queue.after(delay_s, recorder.id, "round")

    def round_begins(self, recorder: Unit) -> None:
        """A recorder looks at its channels now."""
        self._round_due.discard(recorder.id)

    def tell(self, unit: Unit | None, words: str, weight: Weight = "plain") -> None:
        """Write a line on the event log."""
        self.log_lines.append(LogLine(self.now_s, unit.id if unit else "", words, weight))
        if len(self.log_lines) > MOST_LOG_LINES:
            del self.log_lines[: MOST_LOG_LINES // 10]

    # ---- looking -------------------------------------------------------------------------------------------------

    @property
    def laptop(self) -> Unit:
        """The laptop on the bench."""
        return self.units["laptop"]

    def recorders(self) -> Iterable[Unit]:
        """The recorders."""
        return (unit for unit in self.units.values() if unit.role == "recorder")

    def segment(self, unit: Unit, side: Side) -> Segment:
        """Units (and which side of them) that hear a broadcast of a unit's side, itself among them."""
        if self._segments is None:
            self._segments = Segments(self.units, self.cables.values())
        found = self._segments.of.get((unit.id, side.name))
        return Segment({(unit.id, side.name)}) if found is None else found

    def holding(self, number: int) -> list[tuple[Unit, Side]]:
        """The running units that have an address, wherever they are, in the order of the site."""
        return self._held().get(number, [])

    def shared(self) -> list[int]:
        """Addresses that are held more than once, in the order of the site."""
        held = self._held()
        return sorted(self._shared, key=lambda number: (self._order(held[number][0][0].id), number))

    def _held(self) -> dict[int, list[tuple[Unit, Side]]]:
        if self._holders is None:
            self._holders, self._held_by, self._shared = {}, {}, set()
            for unit in list(self.units.values()):
                self._hold(unit)
        return self._holders

    def _hold(self, unit: Unit) -> None:
        """Keep note of a unit's addresses, in place of those that it had."""
        held = self._holders
        if held is None:
            return
        for number in self._held_by.pop(unit.id, ()):
            # By its place: where thousands still have one address, to look at all of them for each takes minutes.
            pairs, place = held[number], self._order(unit.id)
            del pairs[bisect_left(pairs, place, key=self._place_of) : bisect_right(pairs, place, key=self._place_of)]
            self._note_shared(number)
        numbers = [side.address for side in unit.sides if side.address] if unit.runs else []
        for side in unit.sides if numbers else ():
            if side.address:
                insort(held.setdefault(side.address, []), (unit, side), key=self._place_of)
        for number in numbers:
            self._note_shared(number)
        if numbers:
            self._held_by[unit.id] = tuple(numbers)

    def _note_shared(self, number: int) -> None:
        if self._holders is not None and len(self._holders.get(number, ())) > 1:
            self._shared.add(number)
        else:
            self._shared.discard(number)

    def _place_of(self, pair: tuple[Unit, Side]) -> int:
        return self._order(pair[0].id)

    def _order(self, unit_id: str) -> int:
        if len(self._place) != len(self.units):
            self._place = {one: at for at, one in enumerate(self.units)}
        return self._place[unit_id]

    def heard(self, unit: Unit, side: Side) -> Iterable[tuple[Unit, Side]]:
        """The running others in a segment, in the order of the site."""
        members = self.segment(unit, side)
        there = {unit_id for unit_id, _ in members if unit_id in self.units}
        for other_id in sorted(there, key=self._order):
            other = self.units[other_id]
            for far_side in other.sides:
                if (other.id, far_side.name) in members and other.runs and (other is not unit or far_side is not side):
                    yield other, far_side

    def listens(self, recorder: Unit, number: int) -> None:
        """Say that a recorder has a channel for an address."""
        self._listeners.setdefault(number, {})[recorder.id] = None

    def listeners(self, numbers: Iterable[int]) -> list[Unit]:
        """The recorders that have, or had, a channel for any of some addresses."""
        found = {one: None for number in numbers for one in self._listeners.get(number, ())}
        return [self.units[one] for one in found if one in self.units]

    def remembers(self, unit: Unit, side: Side, number: int) -> None:
        """Say that a unit remembers who has an address."""
        self._remembering.setdefault(number, {})[(unit.id, side.name)] = side

    def forget(self, members: Segment, number: int) -> None:
        """Let all devices of a segment resolve an address again."""
        for interface, side in list(self._remembering.get(number, {}).items()):
            if interface in members:
                side.neighbours.pop(number, None)
                del self._remembering[number][interface]

    def forget_cables(self) -> None:
        """A cable was put in that the job does not have."""
        self._cables_at.clear()

    def cables_of(self, unit: Unit) -> list[Cable]:
        """The cables at a unit, plugged in or not; their ends never change."""
        if len(self._cables_at) == 0:
            for cable in self.cables.values():
                for end in (cable.a, cable.b):
                    self._cables_at.setdefault(end, []).append(cable)
        return self._cables_at.get(unit.id, [])
