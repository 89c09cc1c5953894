"""The finding rules, one small function each, in the file of their family.

A rule takes the facts and yields findings. All that belongs to a finding stands in that file: its kind (code, stage, way out, the
figure that it colours), its limits, and the traits of single cameras or the fields (``@reads``) that it goes by. ``RULES`` at a
file's end are in the order in which they are told.
"""

from __future__ import annotations

from eager_lens.core.assess.finding import FindingKind
from eager_lens.core.assess.incremental.kept import Rule
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

FAMILIES = (
    inventory,
    runs,
    links,
    radio,
    feeding,
    sizing,
    drives,
    addressing,
    labels,
    clocks,
    sides,
    registering,
    schedule,
    motion,
    handover,
)
"""In the order in which findings of one severity are told."""

RULES: tuple[Rule, ...] = tuple(rule for family in FAMILIES for rule in family.RULES)

KINDS: tuple[FindingKind, ...] = tuple(
    one for family in FAMILIES for one in vars(family).values() if isinstance(one, FindingKind)
)
"""All kinds of findings that there are."""
