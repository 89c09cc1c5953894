"""Devices that are fed over their cable, and feed others in turn: what each draws, and what arrives at it and behind it.

An extender is a load and a supply at once: through its input comes its own draw, that of all it feeds and what their cables
lose, and what it passes on is what arrived. Two halves of a run with an extender between are one run with one more load.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import NamedTuple

from eager_lens.core.assess.figures.power_sources import power_sources, unit_of_device
from eager_lens.core.job.model import Camera, Job, Link, NetworkDevice
from eager_lens.core.power.load import settled
from eager_lens.core.power.poe import POE_CLASSES, PoeClass, cable_temperature_c, loop_ohm
from eager_lens.core.validation import at_least, at_most

ROUNDS, CLOSE_V = 100, 1e-6
"""Draw and voltage hang on each other along a chain: they are worked out in turn until they stand still."""


class FedRun(NamedTuple):
    """A device that is fed over its cable.

    Attributes:
        source: the id of what feeds it: a device, or an injector.
        draw_w: what it takes in: its own watts, and what it passes on.
        at_port_w: what it takes out of the port that feeds it: what its cable loses besides.
        input_v: what arrives at it; None where the run cannot carry it at all. It passes on as much.
        least_v, class_w: what its class wants to arrive at least, and gives at most.
        length_m: of its cable; None where it is not known, which counts as none.
    """

    source: str
    draw_w: float
    at_port_w: float
    input_v: float | None
    least_v: float
    class_w: float
    length_m: float | None

    @property
    def within_class(self) -> bool:
        """Whether it takes in no more than its class gives."""
        return at_most(self.draw_w, self.class_w)

    @property
    def voltage_ok(self) -> bool:
        """Whether enough arrives at it."""
        return self.input_v is not None and at_least(self.input_v, self.least_v)


def fed_runs(job: Job, feeding: Mapping[str, str]) -> dict[str, FedRun]:
    """By id, every network device that is fed over its cable, from the mains outward. ``feeding`` tells by camera id the
    device on its copper cable.

    The supply is the least that the class of a device guarantees; what is fed passes on the voltage that arrives (extenders
    do; a switch that raises it again does better).
    """
    sources = power_sources(job)
    if not sources:
        return {}
    devices = {device.id: device for device in job.network if device.id in sources}
    links = {frozenset((link.a, link.b)): link for link in job.links if link.medium == "copper"}
    cables = {one: links.get(frozenset((one, source))) for one, source in sources.items()}
    units = unit_of_device(job)
    cameras: dict[str, list[Camera]] = {one: [] for one in devices}
    for camera in job.cameras:
        hangs_on = feeding.get(camera.id)
        if hangs_on in cameras and camera.poe_class is not None and camera.id not in units:
            cameras[hangs_on].append(camera)
    behind: dict[str, list[str]] = {one: [] for one in devices}
    for one, source in sources.items():
        if source in behind:
            behind[source].append(one)

    arrives: dict[str, float | None] = {one: _class_of(device).supply_least_v for one, device in devices.items()}
    draw_w: dict[str, float] = {}

    def supply_v(one: str) -> float | None:
        return arrives[sources[one]] if sources[one] in arrives else _class_of(devices[one]).supply_least_v

    def taken_w(volts: float | None, ohm: float, watts: float) -> float:
        end = None if volts is None else settled(volts, ohm, watts)
        return watts if end is None else end.supply_w

    for _ in range(ROUNDS):
        for one in reversed(sources):
            own = [taken_w(arrives[one], _camera_ohm(camera), camera.power_w) for camera in cameras[one]]
            passed = [
                taken_w(arrives[one], _ohm(devices[other], cables[other]), draw_w[other]) for other in behind[one]
            ]
            draw_w[one] = devices[one].power_w + sum(own) + sum(passed)
        before = dict(arrives)
        for one in sources:
            volts = supply_v(one)
            end = None if volts is None else settled(volts, _ohm(devices[one], cables[one]), draw_w[one])
            arrives[one] = None if end is None else end.device_v
        if all(_is_close(arrives[one], before[one]) for one in sources):
            break
    found = {}
    for one, source in sources.items():
        limits, link = _class_of(devices[one]), cables[one]
        at_port_w = taken_w(supply_v(one), _ohm(devices[one], link), draw_w[one])
        length_m = None if link is None else link.length_m
        found[one] = FedRun(
            source, draw_w[one], at_port_w, arrives[one], limits.device_least_v, limits.device_w, length_m
        )
    return found


def _class_of(device: NetworkDevice) -> PoeClass:
    assert device.poe_class is not None
    return POE_CLASSES[device.poe_class]


def _ohm(device: NetworkDevice, link: Link | None) -> float:
    if link is None or not link.length_m:
        return 0.0
    temperature_c = cable_temperature_c(link.outdoor)
    return loop_ohm(link.length_m, link.awg, link.cable_material, temperature_c, _class_of(device).pairs)


def _camera_ohm(camera: Camera) -> float:
    assert camera.poe_class is not None
    temperature_c = cable_temperature_c(camera.outdoor)
    pairs = POE_CLASSES[camera.poe_class].pairs
    return loop_ohm(camera.cable_m or 0.0, camera.awg, camera.cable_material, temperature_c, pairs)


def _is_close(one: float | None, other: float | None) -> bool:
    if one is None or other is None:
        return one is other
    return abs(one - other) < CLOSE_V
