"""Resets and updates on the simulated site."""

from __future__ import annotations

from eager_lens.core.addressing.ipv4 import address_number
from eager_lens.core.simulation.parts import Access, Antenna, DeviceClock, Side, Unit
from eager_lens.core.simulation.site import Site

DELIVERED_OFF_DAYS = 200.0
"""Most days that a clock is behind out of the box (drawn): it stood still in the store."""


def as_delivered(unit: Unit) -> None:
    """Give a unit the settings that it has out of the box; firmware and stored video stay."""
    unit.access = Access(open_on=unit.profile.open_protocol_on)
    unit.entries = {}
    unit.given_name = ""
    unit.event_target = 0
    if unit.antenna is not None:
        unit.antenna = Antenna(plan=unit.antenna.plan, spare_db=unit.antenna.spare_db)
    behind_s = -unit.chance.uniform(1.0, DELIVERED_OFF_DAYS) * 86_400
    drift_ppm = unit.chance.uniform(-1.0, 1.0) * unit.profile.drift_ppm
    unit.clock = DeviceClock(offset_s=behind_s, drift_ppm=drift_ppm, polled=unit.clock.polled + 1)
    if unit.role == "recorder":
        unit.sides = [Side(side.name) for side in unit.sides]
    if unit.role in ("camera", "bridge") or (unit.role == "other" and not unit.is_station):
        first = address_number(unit.profile.first_address) if unit.profile.first_address else 0
        side = unit.sides[0]
        lease = unit.profile.takes_lease or not first
        unit.sides[0] = Side(
            side.name, 0 if lease else first, unit.profile.first_prefix, 0, "lease" if lease else "fixed"
        )


def reset(site: Site, unit: Unit, full: bool) -> None:
    """Put a unit back. A soft reset keeps software and stored video; a full one loses both."""
    offset_s, set_at_s, drift_ppm = unit.clock.offset_s, unit.clock.set_at_s, unit.clock.drift_ppm
    as_delivered(unit)
    if not full:
        unit.clock.offset_s, unit.clock.set_at_s, unit.clock.drift_ppm = offset_s, set_at_s, drift_ppm
    lost = len(unit.clips)
    if full:
        unit.firmware = unit.profile.firmware_first
        unit.clips.clear()
    unit.boots += 1
    unit.phase = "starting"
    unit.ready_s = site.now_s + unit.profile.start_s
    site.event_queue.after(unit.profile.start_s, unit.id, "started", unit.boots)
    kept = (
        f"its software as delivered, {lost} stored clips lost" if full else f"its software and {lost} stored clips kept"
    )
    site.tell(unit, f"{unit.name} is reset: address, users and settings as out of the box; {kept}", "lesson")
    site.changed(unit, wiring=unit.role != "camera")


def update(site: Site, unit: Unit) -> None:
    """Begin an update; the unit is away until it has restarted, and must not lose its power meanwhile."""
    unit.boots += 1
    unit.phase = "updating"
    unit.ready_s = site.now_s + unit.profile.update_s
    site.event_queue.after(unit.profile.update_s, unit.id, "updated", unit.boots)
    site.tell(
        unit,
        f"{unit.name} updates itself to {unit.profile.firmware_now}: about {unit.profile.update_s:.0f} s, keep its power on",
    )
    site.changed(unit, wiring=unit.role != "camera")


def updated(site: Site, unit: Unit, mark: int) -> None:
    """An update is through; the unit restarts."""
    if mark != unit.boots or unit.phase != "updating":
        return
    unit.firmware = unit.profile.firmware_now
    unit.boots += 1
    unit.phase = "starting"
    unit.ready_s = site.now_s + unit.profile.start_s
    site.event_queue.after(unit.profile.start_s, unit.id, "started", unit.boots)
    site.changed(unit, wiring=unit.role != "camera")
