"""Findings about the list of devices itself."""

from __future__ import annotations

from collections.abc import Iterator

from eager_lens.core.assess.facts import Facts
from eager_lens.core.assess.finding import Finding, Severity, names_listed
from eager_lens.core.assess.traits import CHANNEL_M, FIXED_CABLE_M
from eager_lens.core.units import count, figure
from eager_lens.core.validation import at_most


def same_name(facts: Facts) -> Iterator[Finding]:
    """Two devices of one name cannot be told apart in a search, on a label or in a report."""
    names = [device.name for device in facts.devices]
    if len({name.strip().casefold() for name in names}) == len(names):
        return
    by_name: dict[str, list[str]] = {}
    for device in facts.devices:
        by_name.setdefault(device.name.strip().casefold(), []).append(device.id)
    twins = [ids for ids in by_name.values() if len(ids) > 1]
    if twins:
        shared = [facts.name(ids[0]) for ids in twins[:4]]
        yield Finding(
            "same-name",
            Severity.DOUBT,
            "wiring",
            f"{count(len(twins), 'name')} used more than once",
            f"{names_listed(shared)}: on a label, in a search or in a clip's name they cannot be told apart.",
            "Name each by its place, as in “Kiosk till”.",
            tuple(device_id for ids in twins for device_id in ids),
        )


def no_place(facts: Facts) -> Iterator[Finding]:
    """A camera without a place is not found on site."""
    lost = facts.with_trait["no place"]
    if lost:
        yield Finding(
            "no-place",
            Severity.NOTE,
            "wiring",
            f"{count(len(lost), 'camera')} without a place",
            "Lists and sheets are grouped by place; who comes in a year will look for it.",
            "Give each the room or corner it hangs in.",
            tuple(camera.id for camera in lost),
        )


def long_cable(facts: Facts) -> Iterator[Finding]:
    """Copper Ethernet is specified for 100 m in all."""
    for camera in facts.with_trait["long cable"]:
        length_m = camera.cable_m or 0.0
        over = not at_most(length_m, CHANNEL_M)
        yield Finding(
            "long-cable",
            Severity.FAULT if over else Severity.DOUBT,
            "wiring",
            f"{camera.name}: {figure(length_m)} m of cable",
            f"Copper Ethernet is made for {CHANNEL_M:g} m in all, {FIXED_CABLE_M:g} m of it fixed; beyond that a link "
            "drops, and the power that arrives falls with every metre.",
            "Place a switch half-way, or plan an extender or fibre.",
            (camera.id,),
        )


RULES = (same_name, no_place, long_cable)
