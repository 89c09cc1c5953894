"""Clocks on the simulated site: drift, zones, time servers, and what a clock shows."""

from __future__ import annotations

from datetime import datetime, timedelta

from eager_lens.core.clock.drift import drifted_s
from eager_lens.core.clock.zones import zone_offset_s
from eager_lens.core.simulation.parts import GOT_NO_TIME, Unit
from eager_lens.core.simulation.reach import reached
from eager_lens.core.simulation.site import Site


def error_s(site: Site, unit: Unit, at_s: float | None = None) -> float:
    """Seconds by which a unit's idea of world time is ahead of the true one; the laptop's and phones' are right."""
    clock = unit.clock
    now_s = site.now_s if at_s is None else at_s
    return drifted_s(clock.offset_s, clock.drift_ppm, now_s - clock.set_at_s)


def apart_s(site: Site, one: Unit, other: Unit) -> float:
    """Seconds by which the first clock's world time is ahead of the second's."""
    return error_s(site, one) - error_s(site, other)


def shown(site: Site, unit: Unit, at_s: float | None = None) -> datetime:
    """What a unit's clock shows, now or at a moment (without a zone)."""
    believed = site.utc(at_s) + timedelta(seconds=error_s(site, unit, at_s))
    zone = unit.clock.zone
    offset_s = float(zone) * 60 if zone[:1] in "+-" else zone_offset_s(zone, believed)
    return (believed + timedelta(seconds=offset_s)).replace(tzinfo=None)


def shown_apart_s(site: Site, unit: Unit) -> float:
    """Seconds by which what a clock shows is ahead of the true local time: its error and its zone together."""
    return (shown(site, unit) - site.local().replace(tzinfo=None)).total_seconds()


def set_clock(site: Site, unit: Unit, ahead_s: float) -> None:
    """Set a clock ahead of UTC by a number of seconds."""
    unit.clock.offset_s, unit.clock.set_at_s = ahead_s, site.now_s


def serves_time(unit: Unit) -> bool:
    """Whether a unit answers as a time server: recorders and routers do."""
    return unit.role in ("recorder", "router")


def poll_clock(site: Site, unit: Unit, mark: int) -> None:
    """A unit asks its time server, and takes over that one's error."""
    clock = unit.clock
    if mark != clock.polled or not clock.server:
        return
    if unit.runs:
        found = reached(site, unit, clock.server)
        if found.unit is not None and found.unit is not unit and serves_time(found.unit):
            if clock.last_ok_s < 0:
                site.tell(unit, f"{unit.name} took the time from {found.unit.name}", "quiet")
                for recorder in site.listeners(side.address for side in unit.sides):
                    site.want_round(recorder)
            set_clock(site, unit, error_s(site, found.unit))
            clock.last_ok_s = site.now_s
        elif clock.last_ok_s != GOT_NO_TIME and clock.last_ok_s < 0:
            clock.last_ok_s = GOT_NO_TIME
            site.tell(
                unit, f"{unit.name} gets no time: {found.why or 'what answers there is no time server'}", "lesson"
            )
        site.event_queue.after(clock.poll_s, unit.id, "poll clock", mark)
