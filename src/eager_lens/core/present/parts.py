"""The parts list: what is to be bought for the wiring as planned, with a waste share on cable."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Iterable
from typing import NamedTuple

from eager_lens.core.assess.figures.facts import Facts
from eager_lens.core.job.fields import MATERIAL_WORDS
from eager_lens.core.job.model import Camera, Link, NetworkDevice, Recorder
from eager_lens.core.job.wiring import UNIT_WORDS
from eager_lens.core.plain_text import sentence_case
from eager_lens.core.units import count, figure

GROUPS = ("Cable", "Plugs and protection", "Switches and network", "Power", "Recorders and drives", "Cameras")

PLUGS_A_RUN = 2
SURGE_PARTS_A_RUN = 2
"""One at each end of a run that leaves the building."""


class Part(NamedTuple):
    """One line of the list. ``quantity`` is in ``unit`` (m, or pieces)."""

    group: str
    what: str
    quantity: float
    unit: str
    note: str = ""

    def quantity_words(self) -> str:
        """``1 piece``, ``176 m``."""
        unit = self.unit[:-1] if self.quantity == 1 and self.unit.endswith("s") else self.unit
        return f"{figure(self.quantity, 9)} {unit}"


class _Run(NamedTuple):
    """A run of cable: its type in words, its length in m (None: not known), and whether it leaves the building."""

    kind: str
    length_m: float | None
    outdoor: bool
    copper: bool


def parts_list(facts: Facts) -> list[Part]:
    """All parts, group by group. Kinds of device are told by their words, others by their ports."""
    runs = list(_runs(facts))
    installed = [*_network(facts), *_power(facts), *_recorders(facts), *_cameras(facts)]
    return [*_cable(runs, facts), *_ends(runs), *sorted([*installed, *_spares(facts)], key=_place)]


def _place(part: Part) -> int:
    return GROUPS.index(part.group)


def copper_words(awg: int, material: str, outdoor: bool) -> str:
    """A type of copper cable in words."""
    return f"Network cable, {awg} AWG {MATERIAL_WORDS[material]}, {'outdoors' if outdoor else 'indoors'}"


def _runs(facts: Facts) -> Iterable[_Run]:
    feeders = facts.topology.wiring.feeders
    for camera in facts.job.cameras:
        link = feeders.get(camera.id)
        if link is None or link.medium != "radio":
            yield _camera_run(camera, link)
    for link in facts.job.links:
        if link.id not in facts.on_link and link.medium != "radio":
            if link.medium == "fibre":
                yield _Run(_fibre(link.outdoor), link.length_m, link.outdoor, False)
            else:
                kind = copper_words(link.awg, link.cable_material, link.outdoor)
                yield _Run(kind, link.length_m, link.outdoor, True)


def _camera_run(camera: Camera, link: Link | None) -> _Run:
    if link is not None and link.medium == "fibre":
        return _Run(_fibre(camera.outdoor), camera.cable_m, camera.outdoor, False)
    kind = copper_words(camera.awg, camera.cable_material, camera.outdoor)
    return _Run(kind, camera.cable_m, camera.outdoor, True)


def _fibre(outdoor: bool) -> str:
    return f"Fibre, {'outdoors' if outdoor else 'indoors'}"


def _cable(runs: list[_Run], facts: Facts) -> list[Part]:
    waste_share = facts.job.cable_waste_share
    lengths: dict[str, list[float]] = {}
    for run in runs:
        if run.length_m is not None:
            lengths.setdefault(run.kind, []).append(run.length_m)
    found = []
    for kind, metres in sorted(lengths.items()):
        bought = math.ceil(sum(metres) * (1 + waste_share) - 1e-9)
        note = f"{count(len(metres), 'run')}, {figure(sum(metres), 5)} m and {figure(100 * waste_share)} % waste"
        found.append(Part("Cable", kind, bought, "m", note))
    wires: dict[float, float] = {}
    for unit in facts.job.power_units:
        if unit.kind == "supply" and unit.length_m:
            wires[unit.area_mm2] = wires.get(unit.area_mm2, 0.0) + unit.length_m
    for area_mm2, metres_m in sorted(wires.items()):
        bought = math.ceil(metres_m * (1 + waste_share) - 1e-9)
        found.append(Part("Cable", f"Supply wire, pair of {figure(area_mm2)} mm²", bought, "m"))
    unknown = sum(run.length_m is None for run in runs)
    if unknown:
        found.append(Part("Cable", "Runs without a length", unknown, "runs", "not counted above; measure them"))
    return found


def _ends(runs: list[_Run]) -> list[Part]:
    copper, fibre = sum(run.copper for run in runs), sum(not run.copper for run in runs)
    outdoor = sum(run.copper and run.outdoor for run in runs)
    found = [
        Part("Plugs and protection", "Network plug, crimped", PLUGS_A_RUN * copper, "pieces", "two per run"),
        Part("Plugs and protection", "SFP module and fibre patch lead", 2 * fibre, "pieces", "two per run"),
        Part(
            "Plugs and protection",
            "Surge protector, network",
            SURGE_PARTS_A_RUN * outdoor,
            "pieces",
            "one at each end of an outdoor run; fitted and earthed by a licensed electrician",
        ),
    ]
    return [part for part in found if part.quantity]


def _network(facts: Facts) -> list[Part]:
    words = Counter(_device_words(device, facts) for device in facts.job.network)
    return [Part("Switches and network", what, number, "pieces") for what, number in words.items()]


_SOLD_BY = ("ports", "poe_ports", "budget_w", "poe_port_class")
"""What a device of a kind is sold by: one for which other figures were typed is another device."""


def _device_words(device: NetworkDevice, facts: Facts) -> str:
    kind = facts.device_types.get(device.device_type)
    if kind is not None and all(getattr(device, name) == kind.fits()[name] for name in _SOLD_BY):
        return kind.label
    powered = f", {count(device.poe_ports, 'PoE port')} to class {device.poe_port_class}, {figure(device.budget_w)} W"
    powered = powered if device.poe_ports else ""
    return f"{device.role.capitalize()}, {count(device.ports, 'port')}{powered}"


def _power(facts: Facts) -> list[Part]:
    words: Counter[str] = Counter()
    for unit in facts.job.power_units:
        what = sentence_case(UNIT_WORDS[unit.kind])
        if unit.kind == "injector":
            words[f"{what}, PoE class {unit.poe_class}"] += 1
        elif unit.kind == "supply":
            words[f"{what}, {unit.output}, {figure(unit.budget_w)} W"] += 1
        else:
            words[f"{what}, {figure(unit.budget_w)} W, {figure(unit.battery_wh)} Wh"] += 1
    return [Part("Power", what, number, "pieces") for what, number in words.items()]


def _recorders(facts: Facts) -> list[Part]:
    recorders = Counter(_recorder_words(recorder) for recorder in facts.job.recorders)
    drives: Counter[str] = Counter()
    for recorder in facts.job.recorders:
        drives[f"Drive, {figure(recorder.drive_tb)} TB"] += recorder.drives
    found = [Part("Recorders and drives", what, number, "pieces") for what, number in recorders.items()]
    return found + [Part("Recorders and drives", what, number, "pieces") for what, number in drives.items() if number]


def _recorder_words(recorder: Recorder) -> str:
    powered = f", {count(recorder.poe_ports, 'PoE port')}" if recorder.poe_ports else ""
    lan = f", {count(recorder.ports - recorder.poe_ports, 'uplink port')}"
    return f"Recorder, {count(recorder.channels, 'channel')}, {count(recorder.bays, 'bay')}{powered}{lan}"


def _cameras(facts: Facts) -> list[Part]:
    words = Counter(map(_camera_words, facts.job.cameras))
    return [Part("Cameras", what, number, "pieces") for what, number in words.items()]


def _camera_words(camera: Camera) -> str:
    return f"{camera.make or 'Camera'}, {camera.width_px} × {camera.height_px} px"


def _spares(facts: Facts) -> list[Part]:
    """Devices that are bought and not installed, on lines of their own."""
    job = facts.job
    words = Counter(("Switches and network", _device_words(device, facts)) for device in job.spare_network)
    words += Counter(("Recorders and drives", _recorder_words(recorder)) for recorder in job.spare_recorders)
    words += Counter(("Cameras", _camera_words(camera)) for camera in job.spare_cameras)
    return [Part(group, f"{what}, spare", number, "pieces", "not installed") for (group, what), number in words.items()]


def more_than(parts: list[Part], before: list[Part]) -> list[Part]:
    """What one list has beyond another: lines that are new, and lines with more of the same."""
    had = {(part.group, part.what): part.quantity for part in before}
    found = []
    for part in parts:
        extra = part.quantity - had.get((part.group, part.what), 0)
        if extra > 0:
            found.append(part._replace(quantity=extra, note=""))
    return found
