"""What the plan expects of an acceptance test: its value, between which bounds a measured one passes, and why."""

from __future__ import annotations

from typing import NamedTuple

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.figures.devices import placing_of
from eager_lens.core.assess.figures.facts import Facts
from eager_lens.core.assess.figures.power import camera_at_port_w, leads_outdoors, supply_run, supply_volts
from eager_lens.core.assess.figures.radio import radio_figures
from eager_lens.core.assess.figures.stream_words import stream_words
from eager_lens.core.assess.limits import (
    CLOCK_WITHIN_S,
    LEAST_CAUGHT_SHARE,
    LOWEST_SHARE,
    MORE_POWER_SHARE,
    RSSI_WITHIN_DB,
)
from eager_lens.core.job.model import Camera, NetworkDevice, Recorder
from eager_lens.core.optics.placing import PX_PER_M
from eager_lens.core.reference.acceptance import AcceptanceTest
from eager_lens.core.units import days_figure, figure
from eager_lens.core.validation import at_least, at_most


class Planned(NamedTuple):
    """What is expected of a measured value.

    Attributes:
        words: the plan and the bound, for people. low, high: a measured value passes between them, in the test's unit;
            None: no bound on that side. value: what the plan gives, None where it gives none.
    """

    words: str
    low: float | None = None
    high: float | None = None
    value: float | None = None

    def holds(self, measured: float) -> bool:
        """Whether a measured value passes."""
        return (self.low is None or at_least(measured, self.low)) and (
            self.high is None or at_most(measured, self.high)
        )


NOTHING = Planned("")
"""Of tests for which the plan has no value: the person judges."""


def planned(test: AcceptanceTest, device_id: str, assessment: Assessment) -> Planned:
    """What is expected of a test on a device. Where the plan has no value for it, any measured value passes and is judged by
    the person."""
    facts = assessment.facts
    device = facts.by_device_id.get(device_id)
    if test.id == "clock":
        return Planned(f"within {CLOCK_WITHIN_S:g} s", -CLOCK_WITHIN_S, CLOCK_WITHIN_S, 0.0)
    if test.id == "label" and device is not None:
        return Planned(" · ".join(part for part in (device.address, device.mac_address) if part))
    if isinstance(device, Camera):
        return _of_camera(test.id, device, facts)
    if isinstance(device, Recorder) and test.id == "days":
        return _days(device, facts)
    if isinstance(device, NetworkDevice) and test.id == "rssi":
        return _rssi(device, facts)
    return NOTHING


def _of_camera(test_id: str, camera: Camera, facts: Facts) -> Planned:
    match test_id:
        case "stream":
            return Planned(stream_words(camera))
        case "density":
            return _density(camera)
        case "motion":
            least = 100 * LEAST_CAUGHT_SHARE
            return Planned(f"{least:g} % or more", least)
        case "power":
            return _power(camera)
        case "voltage":
            return _voltage(camera, facts)
        case "link":
            return _link_speed(camera, facts)
    return NOTHING


def _density(camera: Camera) -> Planned:
    if not camera.purpose:
        return Planned("no purpose given")
    least, seen = PX_PER_M[camera.purpose], placing_of(camera)
    plan = f"plan {figure(seen.px_per_m, 3)}, " if seen else ""
    return Planned(f"{plan}{least:g} or more to {camera.purpose}", least, None, seen.px_per_m if seen else None)


def _power(camera: Camera) -> Planned:
    watts = camera_at_port_w(camera) if camera.poe_class is not None else camera.power_w
    where = "at the port" if camera.poe_class is not None else "at the lead"
    most = watts * (1 + MORE_POWER_SHARE)
    return Planned(f"up to {figure(most, 3)} {where} (plan {figure(watts, 3)})", None, most, watts)


def _voltage(camera: Camera, facts: Facts) -> Planned:
    unit = facts.fed_by_unit.get(camera.id)
    if unit is None or unit.kind != "supply":
        return Planned("no power supply planned")
    volts, supply = supply_volts(unit), facts.topology.supplies.get(unit.id)
    arriving = None
    if supply is not None:
        run = supply_run(unit, supply.draw_w, leads_outdoors(unit, facts.by_device_id))
        arriving = run.settled.device_v if run.settled else None
    low, high = volts * LOWEST_SHARE, volts * (2 - LOWEST_SHARE)
    plan = f" (plan {figure(arriving, 3)})" if arriving is not None else ""
    return Planned(f"{figure(low, 3)} to {figure(high, 3)}{plan}", low, high, arriving)


def _link_speed(camera: Camera, facts: Facts) -> Planned:
    link = facts.topology.wiring.feeders.get(camera.id)
    if link is None:
        return Planned("not wired yet")
    mbps = facts.topology.wiring.capacity_mbps[link.id]
    return Planned(f"{figure(mbps, 4)} or more", mbps, None, mbps)


def _rssi(device: NetworkDevice, facts: Facts) -> Planned:
    for link in facts.topology.wiring.links_at.get(device.id, ()):
        figures = radio_figures(link) if link.medium == "radio" else None
        if figures is not None:
            dbm = figures.budget.rx_dbm
            return Planned(
                f"{figure(dbm - RSSI_WITHIN_DB, 3)} or more (plan {figure(dbm, 3)})", dbm - RSSI_WITHIN_DB, None, dbm
            )
    return Planned("radio link not planned yet")


def _days(recorder: Recorder, facts: Facts) -> Planned:
    asked = facts.job.retention
    promised = facts.recorder_figures[recorder.id].promised_days
    plan = f" (plan {days_figure(promised)})" if promised is not None else ""
    most = f", at most {asked.most_days:g}" if asked.most_days is not None else ""
    return Planned(f"{asked.least_days:g} or more{most}{plan}", asked.least_days, asked.most_days, promised)
