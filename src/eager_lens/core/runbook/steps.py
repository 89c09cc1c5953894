"""A step of the commissioning: what to do, what to see, how long it takes, and what it does on the simulated site."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Literal, NamedTuple

from eager_lens.core.simulation.parts import Unit
from eager_lens.core.simulation.site import NotOnSite, Site

Phase = Literal["network", "recorder", "laptop", "bridge", "camera", "end"]

Doer = Literal["hand", "program", "nobody"]
"""Who does a step: a person; the program over the network; nobody, since it only takes its time."""

Check = Callable[[Site], str]
"""What is still wrong on a site for a step to count as done; empty when nothing is."""


Wait = Callable[[Site], float]
"""How many seconds a site still takes by itself."""


def no_wait(site: Site) -> float:
    """For a step after which nothing takes time by itself."""
    return 0.0


def place_of(unit: Unit) -> str:
    """Where a unit of the job is; empty where nobody said."""
    return unit.device.place if unit.device is not None else ""


class StepAction(NamedTuple):
    """An action of a step: its name, the device, and its values."""

    do: str
    device: str
    values: Mapping[str, str] = {}


class Step(NamedTuple):
    """A step.

    Attributes:
        key: stays the same when the job grows, so that ticks stay with their steps.
        phase, device_id: what it belongs to.
        title, type_in, see: what to do, what to type, what is to be seen then.
        caution: said at the step itself.
        hands_s: for so long a person is busy; wait_s: then it takes so long by itself.
        after: keys of steps that must be through before.
        tools: what of the bench it takes besides a person: the laptop, a recorder's monitor.
        takes, frees: an address out of the box that only one device at a time may have: taken when the step begins,
            free again when a later one is through.
        actions: what it does on the simulated site. check: when it counts as done there.
        under_way: seconds that it still takes there by itself, once its actions are done; 0 before and afterwards.
        program_s: so long the program takes for it over the network in place of a hand; 0: it stays by hand.
        by: who does it. place: where; a person who comes from another place is on the way first. Empty: wherever the person is.
    """

    key: str
    phase: Phase
    device_id: str
    title: str
    see: str
    hands_s: float
    wait_s: float
    actions: tuple[StepAction, ...]
    check: Check
    after: tuple[str, ...] = ()
    type_in: str = ""
    caution: str = ""
    tools: tuple[str, ...] = ()
    takes: str = ""
    frees: str = ""
    under_way: Wait = no_wait
    program_s: float = 0.0
    by: Doer = "hand"
    place: str = ""

    @property
    def shows_on_site(self) -> bool:
        """Whether the simulated site has anything that would show it; else it counts as done once what comes before it is."""
        return bool(self.actions)

    def still_wrong(self, site: Site) -> str:
        """What is still wrong on a site for the step to count as done; empty when nothing is."""
        try:
            return self.check(site)
        except NotOnSite as error:
            return str(error)

    def left_s(self, site: Site) -> float:
        """Seconds that it still takes on a site by itself."""
        try:
            return self.under_way(site)
        except NotOnSite:
            return 0.0


class Blocked(NamedTuple):
    """A device that cannot come up as planned, or one of its registrations, why, and the stage on which it is put right."""

    device_id: str
    why: str
    stage: Literal["wiring", "addresses", "bench"]


class Commissioning(NamedTuple):
    """The commissioning of a job: its steps in an order in which they can be done, and what cannot come up as planned."""

    steps: tuple[Step, ...]
    blocked: tuple[Blocked, ...]
