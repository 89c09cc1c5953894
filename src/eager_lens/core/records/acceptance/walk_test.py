"""A walk test under way: which walk is called next, when, and what came of each."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal

from eager_lens.core.units import count

READY_S = 5.0
"""From the start to the first call: time to walk to the place."""

ROUTES = ("from left to right", "from right to left", "towards the camera", "away from the camera")
"""Walks of a usual test: across the view a rule catches best, towards it worst."""

Answer = Literal["caught", "missed", "not walked"]
Phase = Literal["waiting", "called", "over"]


@dataclass
class WalkTest:
    """Calls walks one after another.

    Attributes:
        routes: gone through in turn. walks: how many. pause_s: from an answer to the next call, so that the rule comes to rest
            and each walk is an event of its own. answers: so far.
    """

    routes: tuple[str, ...]
    walks: int
    pause_s: float
    answers: list[Answer] = field(default_factory=list)
    left_s: float = READY_S
    phase: Phase = "waiting"

    @property
    def route(self) -> str:
        """The walk that is called, or called next."""
        return self.routes[len(self.answers) % len(self.routes)]

    @property
    def number(self) -> int:
        """Its number, from 1."""
        return len(self.answers) + 1

    def pass_time(self, seconds: float) -> bool:
        """Let time pass; True when a walk is called by it."""
        if self.phase != "waiting":
            return False
        self.left_s -= seconds
        if self.left_s > 1e-9:
            return False
        self.left_s, self.phase = 0.0, "called"
        return True

    def answer(self, answer: Answer) -> bool:
        """Take what came of the walk that was called; False when none is called."""
        if self.phase != "called":
            return False
        self.answers.append(answer)
        self.left_s = self.pause_s
        self.phase = "over" if len(self.answers) >= self.walks else "waiting"
        return True

    def end(self) -> None:
        """End it before its time."""
        self.phase = "over"

    @property
    def walked(self) -> int:
        """Walks that were walked."""
        return sum(answer != "not walked" for answer in self.answers)

    @property
    def caught(self) -> int:
        """Those of them that were caught."""
        return self.answers.count("caught")

    @property
    def call(self) -> str:
        """What to say now."""
        if self.phase == "over":
            return f"{self.caught} of {count(self.walked, 'walk')} caught"
        if self.phase == "called":
            return f"Walk {self.number} of {self.walks}: {self.route}, now"
        return f"Walk {self.number} of {self.walks}: {self.route}, in {max(1, round(self.left_s))} s"
