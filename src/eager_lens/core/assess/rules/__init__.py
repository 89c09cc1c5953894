"""The finding rules, one small function each, in the file of their family.

A rule takes the facts and yields findings. Rules of one file stand in the order in which they are told.
"""

from __future__ import annotations

from eager_lens.core.assess.rules import (
    addressing,
    clocks,
    drives,
    feeding,
    handover,
    inventory,
    labels,
    links,
    motion,
    radio,
    registering,
    runs,
    schedule,
    sides,
    sizing,
)
from eager_lens.core.assess.rules.kept import Rule

RULES: tuple[Rule, ...] = (
    *inventory.RULES,
    *runs.RULES,
    *links.RULES,
    *radio.RULES,
    *feeding.RULES,
    *sizing.RULES,
    *drives.RULES,
    *addressing.RULES,
    *labels.RULES,
    *clocks.RULES,
    *sides.RULES,
    *registering.RULES,
    *schedule.RULES,
    *motion.RULES,
    *handover.RULES,
)
