"""What the tests of the fault finder show on the simulated site: answers by what is so there, not by the table.

Only what the simulation knows is answered; of the rest (lights of a flooded switch, water in a joint) nobody can say. A fault
is put by ``virtual_site/faults.py``; which causes of the table it stands for, ``CAUSES_OF`` says.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from eager_lens.core.addressing.ipv4 import address_number, subnet_around
from eager_lens.core.assess.limits import CLOCK_WITHIN_S
from eager_lens.core.bench.access import log_in, log_in_open
from eager_lens.core.bench.channels import look
from eager_lens.core.bench.clocks import shown_apart_s
from eager_lens.core.bench.parts import Entry, Unit
from eager_lens.core.bench.reach import Reached, reached, take_address
from eager_lens.core.bench.site import Site
from eager_lens.core.job.model import Camera
from eager_lens.core.virtual_site.commissioned import camera_cables

CAUSES_OF: dict[str, frozenset[str]] = {
    "twin": frozenset({"intruder"}),
    "out-of-box": frozenset({"out-of-box"}),
    "wrong-subnet": frozenset({"subnet"}),
    "wrong-password": frozenset({"password"}),
    "default-password": frozenset({"password"}),
    "protocol-off": frozenset({"protocol"}),
    "slow-start": frozenset({"starting"}),
    "frozen-lease": frozenset({"lease"}),
    "clock-hour": frozenset({"zone", "no-server", "clock-far"}),
    "clock-drift": frozenset({"no-server", "clock-far"}),
    "unplugged": frozenset({"cable"}),
    "slow-link": frozenset({"slow-pair"}),
}
"""By the name of a fault on the site, the causes of the table that it is. A clock an hour ahead that asks nobody is all three."""

HOUR_S, DAY_S = 3600.0, 86_400.0
WAIT_S = 300.0
OWN = "own:"
"""Before a unit's id, the password that was noted for it."""


@dataclass
class SiteAnswers:
    """Answers about one camera of a simulated site, by a laptop that is plugged in beside it.

    Attributes:
        site: with its fault. unit, camera: as it is there, as it is planned.
    """

    site: Site
    unit: Unit
    camera: Camera

    def __post_init__(self) -> None:
        """Plug the laptop in where the camera hangs, with an address of the planned subnet."""
        cables = camera_cables(self.site, self.unit)
        laptop = self.site.laptop
        if cables:
            laptop.host = cables[0].far_end(self.unit.id)[0]
            laptop.host_side = ""
        self.site.changed()
        self.site.settle()
        if self.planned:
            prefix = self.site.units[self.unit.id].sides[0].prefix or 24
            subnet = subnet_around(self.planned, prefix)
            free = next(
                number
                for number in range(subnet.last_host, subnet.first_host - 1, -1)
                if number != self.planned and not self.site.holding(number)
            )
            take_address(self.site, laptop, laptop.sides[0], free, prefix, 0)

    @property
    def planned(self) -> int:
        """The planned address, as a number; 0 where there is none."""
        return address_number(self.camera.address) if self.camera.address else 0

    def answer(self, test_id: str) -> str | None:
        """What a test shows, in the table's words; None where the simulation cannot say."""
        found = _TESTS.get(test_id)
        return found(self) if found is not None else None

    # ---- what is looked at ------------------------------------------------------------------------------------------

    def at_address(self) -> Reached:
        """Who answers at the planned address."""
        return reached(self.site, self.site.laptop, self.planned)

    def entry(self) -> tuple[Unit, Entry] | None:
        """The recorder's channel that is planned for the camera."""
        for place in self.camera.registered:
            recorder = self.site.units.get(place.recorder)
            if recorder is not None and place.channel in recorder.entries:
                return recorder, recorder.entries[place.channel]
        return None

    def seen_by_recorder(self) -> str:
        """The status of the channel now, in the table's words."""
        there = self.entry()
        if there is None:
            return "no entry, or no channel free"
        recorder, entry = there
        others = [one for one in recorder.entries.values() if one is not entry and one.shown == "receiving"]
        taken_mbps = sum(
            unit.stream.rate_mbps
            for one in others
            if (unit := self.site.units.get(one.from_unit)) is not None and unit.stream is not None
        )
        seen = look(self.site, recorder, entry, taken_mbps)
        if seen.status in ("receiving", "alternating"):
            return "receiving" if seen.unit_id == self.unit.id else "connected, no picture"
        return "password refused" if seen.status == "refused" else "no connection"

    def heard(self) -> int | None:
        """The address at which the camera answers a search; None where it does not."""
        laptop = self.site.laptop
        for unit, side in self.site.heard(laptop, laptop.sides[0]):
            if unit is self.unit and (unit.access.open_on or not unit.access.is_set_up):
                return side.address
        return None


def _ping(at: SiteAnswers) -> str:
    return "answers" if at.at_address().unit is not None else "no answer"


def _held(at: SiteAnswers) -> str:
    found = at.at_address()
    if found.unit is None:
        return "none"
    return "{mac}" if found.unit is at.unit and not found.twins else "another, or two in turn"


def _stranger(at: SiteAnswers) -> str:
    others = [unit for unit, _ in at.site.holding(at.planned) if unit is not at.unit and unit.runs]
    if not others:
        return "there is no other"
    return "a camera" if others[0].role == "camera" else "a telephone or another stranger"


def _search(at: SiteAnswers) -> str:
    address = at.heard()
    if address is None:
        return "not in the list"
    if any(unit is not at.unit for unit, _ in at.site.holding(address)):
        return "at an address that another has"
    return "at {address}" if address == at.planned else "at an address of no other"


def _login(at: SiteAnswers) -> str:
    found = at.at_address()
    if found.unit is None:
        return "nothing opens"
    if found.unit is not at.unit:
        return "another device's page" if found.unit.role != "phone" else "nothing opens"
    words = {"not set up": "wants first-use set-up", "in": "taken", "locked": "locked"}
    return words.get(log_in(at.site, at.unit, f"{OWN}{at.unit.id}"), "refused")


def _stream(at: SiteAnswers) -> str:
    found = at.at_address()
    if found.unit is None or found.unit.role != "camera":
        return "nothing"
    if found.twins:
        return "breaks or stutters"
    outcome = log_in_open(at.site, found.unit, f"{OWN}{at.unit.id}", at.site.laptop)
    if outcome in ("off", "no user", "not set up"):
        return "nothing"
    if outcome != "in":
        return "refused"
    stream = at.unit.stream
    too_slow = stream is not None and any(stream.peak_mbps > one.mbps for one in camera_cables(at.site, at.unit))
    return "breaks or stutters" if too_slow else "plays well"


def _protocol_set(at: SiteAnswers) -> str:
    if _login(at) not in ("taken",):
        return "the page cannot be reached"
    return "yes" if at.unit.access.open_on else "no"


def _entry_read(at: SiteAnswers) -> str:
    there = at.entry()
    if there is None:
        return "there is no entry"
    return "yes" if there[1].address == at.planned else "no"


def _retype(at: SiteAnswers) -> str:
    there = at.entry()
    if there is None:
        return "no"
    entry, before = there[1], there[1].password
    entry.password = f"{OWN}{at.unit.id}"
    status = at.seen_by_recorder()
    entry.password = before
    return "yes" if status == "receiving" else "no"


def _wait(at: SiteAnswers) -> str:
    at.site.run_to(at.site.now_s + WAIT_S)
    return "yes" if at.seen_by_recorder() == "receiving" and not at.at_address().twins else "no"


def _link(at: SiteAnswers) -> str:
    up = at.unit.is_lit and any(one.plugged for one in camera_cables(at.site, at.unit))
    return "on" if up else "off"


def _power(at: SiteAnswers) -> str:
    return "as planned, about {power_w}" if at.unit.feeding.source else "none"


def _lamp(at: SiteAnswers) -> str:
    return "yes" if at.unit.is_lit else "no"


def _others(at: SiteAnswers) -> str | None:
    host = at.site.laptop.host
    here = [
        cable.far_end(host)[0]
        for cable in at.site.cables.values()
        if host in (cable.a, cable.b) and cable.far_end(host)[0] != at.unit.id
    ]
    cameras = [at.site.units[one] for one in here if at.site.units[one].role == "camera"]
    running = sum(one.runs for one in cameras)
    if not cameras:
        return None
    return "all" if running == len(cameras) else "some are missing" if running else "none"


def _cable_test(at: SiteAnswers) -> str:
    cables = camera_cables(at.site, at.unit)
    bad = any(not one.plugged or (one.mbps <= 10 and not one.long_reach) for one in cables)
    return "a pair open or crossed" if bad else "every pair good"


def _speed(at: SiteAnswers) -> str:
    if _link(at) == "off":
        return "no link"
    slow = any(one.mbps <= 10 and not one.long_reach for one in camera_cables(at.site, at.unit))
    return "slower" if slow else "as planned, none"


def _clock_words(at: SiteAnswers, unit: Unit) -> str:
    off_s = abs(shown_apart_s(at.site, unit))
    if off_s <= CLOCK_WITHIN_S:
        return "right"
    if off_s >= DAY_S:
        return "off by days or years"
    from_hour_s = abs(off_s - HOUR_S * round(off_s / HOUR_S))
    return "off by whole hours" if off_s > HOUR_S / 2 and from_hour_s < 60 else "off by seconds or minutes"


def _clock(at: SiteAnswers) -> str | None:
    return _clock_words(at, at.unit) if at.unit.runs else None


def _recorder_clock(at: SiteAnswers) -> str | None:
    there = at.entry()
    if there is None:
        return None
    return "right" if _clock_words(at, there[0]) == "right" else "off"


def _time_server(at: SiteAnswers) -> str | None:
    if _login(at) != "taken":
        return None
    server = at.unit.clock.server
    return "as planned, answered" if server and reached(at.site, at.unit, server).unit else "none, or no answer"


_TESTS: dict[str, Callable[[SiteAnswers], str | None]] = {
    "status": SiteAnswers.seen_by_recorder,
    "ping": _ping,
    "held": _held,
    "stranger": _stranger,
    "search": _search,
    "login": _login,
    "stream": _stream,
    "protocol-set": _protocol_set,
    "entry-read": _entry_read,
    "retype": _retype,
    "wait": _wait,
    "link": _link,
    "power": _power,
    "lamp": _lamp,
    "others": _others,
    "cable-test": _cable_test,
    "speed": _speed,
    "clock": _clock,
    "recorder-clock": _recorder_clock,
    "time-server": _time_server,
}
"""The tests that the simulation can answer, by their ids in the table."""


def true_causes(at: SiteAnswers, fault: str) -> frozenset[str]:
    """The causes of the table that hold on the site after a fault: its own, and what it brought about."""
    found = CAUSES_OF[fault]
    return found | {"locked"} if at.unit.access.locked_until_s > at.site.now_s else found


def symptoms_of(at: SiteAnswers) -> list[str]:
    """What would be seen of the camera, the plainest first; empty where nobody would notice anything."""
    found = []
    status = at.seen_by_recorder()
    if at.at_address().twins:
        found.append("comes-and-goes")
    if status != "receiving":
        found += ["red" if status == "password refused" else "no-picture"]
    if at.heard() is None:
        found.append("not-found")
    if at.unit.stream is not None and _stream(at) == "breaks or stutters" and not found:
        found.append("stutters")
    if not found and (_clock(at) or "right") != "right":
        found.append("wrong-time")
    return found
