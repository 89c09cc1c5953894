"""The site: units, cables, the clock, and the tape of what happened and why."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from datetime import UTC, datetime, timedelta
from random import Random
from typing import Literal, NamedTuple, TypeVar

from eager_lens.core.bench.clockwork import Clockwork
from eager_lens.core.bench.parts import Cable, Server, Side, Unit
from eager_lens.core.bench.segments import Feet, segments
from eager_lens.core.clock.zones import zone_named
from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.model import Job
from eager_lens.core.job.rehearsal import Rehearsal

MOST_ON_TAPE = 5000

ROUND_S = 20.0
"""A recorder sees a change on its channels so long after it (assumed); a refresh looks at once."""

Weight = Literal["quiet", "plain", "lesson"]
"""How much a line of the tape matters: of interest to who looks for it, plain news, or a consequence that teaches."""


class Line(NamedTuple):
    """A line of the tape."""

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
        servers: address servers, by the id of the unit that is one.
        version: goes up at each change of power, wiring or addresses; what is worked out from those is kept until then.
        contested: by address and segment, the id of the unit that answers just now where several hold the address.
    """

    def __init__(
        self, job: Job, rehearsal: Rehearsal, handlers: Mapping[str, Handler], settlers: Iterable[Settler]
    ) -> None:
        self.job = job
        self.rehearsal = rehearsal
        self.clockwork = Clockwork()
        self.units: dict[str, Unit] = OnSite()
        self.cables: dict[str, Cable] = OnSite()
        self.servers: dict[str, Server] = OnSite()
        self.tape: list[Line] = []
        self.version = 0
        self.contested: dict[int, dict[Feet, str]] = {}
        self._round_due: set[str] = set()
        self.chance = Random(f"{rehearsal.seed}:site")
        self._handlers, self._settlers = handlers, tuple(settlers)
        self._segments: tuple[int, dict[tuple[str, str], Feet]] = (-1, {})
        self._cables_at: dict[str, list[Cable]] = {}
        self._holding: tuple[int, dict[int, list[tuple[Unit, Side]]]] = (-1, {})
        local = datetime.fromisoformat(rehearsal.begins).replace(tzinfo=zone_named(job.time_zone))
        self.begins_utc = local.astimezone(UTC)

    # ---- time ----------------------------------------------------------------------------------------------------

    @property
    def now_s(self) -> float:
        """Seconds since the start."""
        return self.clockwork.now_s

    def utc(self, at_s: float | None = None) -> datetime:
        """The true time, now or at a moment."""
        return self.begins_utc + timedelta(seconds=self.now_s if at_s is None else at_s)

    def local(self, at_s: float | None = None) -> datetime:
        """The true time in the job's own zone."""
        return self.utc(at_s).astimezone(zone_named(self.job.time_zone))

    def run_to(self, until_s: float) -> None:
        """Let everything happen that is due up to a moment."""
        while self.step(until_s):
            pass

    def step(self, until_s: float) -> bool:
        """Let the next things happen that are due up to a moment, all of one moment together; whether there were any."""
        due = self.clockwork.take(until_s)
        if due is None:
            return False
        before = self.version
        while due is not None:
            unit = self.units.get(due.unit_id)
            if unit is not None:
                self._handlers[due.what](self, unit, due.mark)
            # What is due at this very moment too comes before what follows from it, so that a switch that wakes hundreds of
            # cameras is settled once.
            due = self.clockwork.take(self.now_s) if self.clockwork.next_s == self.now_s else None
        if self.version != before:
            self.settle()
        return True

    # ---- change --------------------------------------------------------------------------------------------------

    def changed(self) -> None:
        """Say that power, wiring or an address changed."""
        self.version += 1

    def settle(self) -> None:
        """Let all that follows from a change follow, until nothing changes any more."""
        for _ in range(50):
            before = self.version
            for settler in self._settlers:
                settler(self)
            if self.version == before:
                return

    def want_round(self, recorder: Unit, delay_s: float = ROUND_S) -> None:
        """Have a recorder look at its channels soon, once."""
        if recorder.id not in self._round_due:
            self._round_due.add(recorder.id)
            self.clockwork.after(delay_s, recorder.id, "round")

    def round_begins(self, recorder: Unit) -> None:
        """A recorder looks at its channels now."""
        self._round_due.discard(recorder.id)

    def tell(self, unit: Unit | None, words: str, weight: Weight = "plain") -> None:
        """Write a line on the tape."""
        self.tape.append(Line(self.now_s, unit.id if unit else "", words, weight))
        if len(self.tape) > MOST_ON_TAPE:
            del self.tape[: MOST_ON_TAPE // 10]

    # ---- looking -------------------------------------------------------------------------------------------------

    @property
    def laptop(self) -> Unit:
        """The laptop on the bench."""
        return self.units["laptop"]

    def recorders(self) -> Iterable[Unit]:
        """The recorders."""
        return (unit for unit in self.units.values() if unit.role == "recorder")

    def segment(self, unit: Unit, side: Side) -> Feet:
        """Units (and which side of them) that hear a broadcast of a unit's side, itself among them."""
        if self._segments[0] != self.version:
            self._segments = (self.version, segments(self.units, self.cables.values()))
        return self._segments[1].get((unit.id, side.name), frozenset({(unit.id, side.name)}))

    def holding(self, number: int) -> list[tuple[Unit, Side]]:
        """The running units that have an address, wherever they are."""
        if self._holding[0] != self.version:
            found: dict[int, list[tuple[Unit, Side]]] = {}
            for unit in self.units.values():
                if unit.runs:
                    for side in unit.sides:
                        if side.address:
                            found.setdefault(side.address, []).append((unit, side))
            self._holding = (self.version, found)
        return self._holding[1].get(number, [])

    def heard(self, unit: Unit, side: Side) -> Iterable[tuple[Unit, Side]]:
        """The running others in a segment, in the order of the site."""
        members = self.segment(unit, side)
        for other in self.units.values():
            for foot in other.sides:
                if (other.id, foot.name) in members and other.runs and (other is not unit or foot is not side):
                    yield other, foot

    def cables_of(self, unit: Unit) -> list[Cable]:
        """The cables at a unit, plugged in or not; their ends never change."""
        if len(self._cables_at) == 0:
            for cable in self.cables.values():
                for end in (cable.a, cable.b):
                    self._cables_at.setdefault(end, []).append(cable)
        return self._cables_at.get(unit.id, [])
