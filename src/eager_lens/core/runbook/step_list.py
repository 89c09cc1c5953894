"""The steps of a commissioning as they are made, and what cannot come up; how long a practised hand takes for each."""

from __future__ import annotations

from collections.abc import Callable

from eager_lens.core.runbook.ground import Ground
from eager_lens.core.runbook.steps import Blocked, Step

# Seconds that a practised hand takes (assumed).
LEAD_S = 15.0
PLUG_S = 25.0
RECORDER_S = 180.0
"""A recorder's first set-up."""
LAPTOP_S = 60.0
"""The laptop moved and addressed."""
SET_UP_S = 90.0
"""A device's first set-up, with its new address."""
SETTINGS_S = 60.0
REGISTER_S = 40.0
"""One channel."""
UPDATE_S = 20.0
"""An update begun."""
RESERVE_S = 25.0
"""A line in the router."""

ROUTER_S, SWITCH_S = 240.0, 120.0
"""The set-up of a router, and of a switch with an address."""
STORAGE_S = 120.0
"""Drives put together to an array, and erasing after so many days."""
USERS_S = 60.0
SCHEDULES_S, SCHEDULE_S = 60.0, 10.0
"""A recorder's recording schedules, and besides each camera's."""
RULE_S = 90.0
"""A motion rule with its zones, on a camera's page."""
BACKUP_S = 45.0
"""The settings of a device saved to a file."""

PROGRAM_SET_UP_S, PROGRAM_SETTINGS_S, PROGRAM_RULE_S, PROGRAM_REGISTER_S = 3.0, 5.0, 2.0, 2.0
"""What the program takes for them over the network, without the restart (measured on stand-ins: ``perf --site``)."""

SETTLES_S = 30.0
"""So long a recorder may take to show a new channel."""


class StepList:
    """Steps in an order in which they can be done. A step waits only for steps that are in the list."""

    def __init__(self, ground: Ground, step: Callable[[float], None]) -> None:
        self.steps: list[Step] = []
        self.blocked: list[Blocked] = []
        self.bridge_keys: list[str] = []
        """Of bridges so far: what waits for the way through the air waits for these."""
        self._keys: set[str] = set()
        self._on_progress = step
        self._expected = 6 * len(ground.units) + 1

    def add(self, step: Step) -> str:
        """Put a step at the end; its key."""
        after = tuple(dict.fromkeys(one for one in step.after if one in self._keys))
        self.steps.append(step._replace(after=after))
        self._keys.add(step.key)
        if step.phase == "bridge":
            self.bridge_keys.append(step.key)
        if len(self.steps) % 20 == 0:
            self._on_progress(min(1.0, len(self.steps) / self._expected))
        return step.key
