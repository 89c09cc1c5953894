"""Findings about cable runs: length, what arrives at the far end, and what cable does to power."""

from __future__ import annotations

from collections.abc import Iterator

from eager_lens.core.assess.figures.devices import CameraFigures, run_figures
from eager_lens.core.assess.figures.facts import Facts
from eager_lens.core.assess.figures.topology import LONG_REACH_M
from eager_lens.core.assess.finding import Finding, FindingKind, Severity, names_listed
from eager_lens.core.assess.incremental.traits import trait
from eager_lens.core.assess.limits import CHANNEL_M, fixed_m
from eager_lens.core.job.edits import Edit, set_fields
from eager_lens.core.job.fields import MATERIAL_WORDS
from eager_lens.core.job.model import Camera, Link, changed
from eager_lens.core.job.wiring import set_link
from eager_lens.core.power.poe import CCA_FACTOR, POE_CLASSES
from eager_lens.core.units import count, figure
from eager_lens.core.validation import at_most


@trait
def has_long_cable(camera: Camera, _: CameraFigures) -> bool:
    """Whether its run is longer than a fixed run of its gauge may be."""
    return camera.cable_m is not None and not at_most(camera.cable_m, fixed_m(camera.awg))


def long_cable(facts: Facts) -> Iterator[Finding]:
    """Copper Ethernet is specified for 100 m in all."""
    feeders = facts.topology.wiring.feeders
    for camera in facts.having(has_long_cable):
        link = feeders.get(camera.id)
        if link is None or link.medium == "copper":
            yield from too_long(
                camera.name, camera.cable_m or 0.0, camera.awg, link is not None and link.long_reach, (camera.id,)
            )


LONG_CABLE = FindingKind("long-cable", "wiring", way_out="another run")


def too_long(name: str, length_m: float, awg: int, long_reach: bool, subjects: tuple[str, ...]) -> Iterator[Finding]:
    """A run of copper that is longer than it may be, or than it is in fixed cable."""
    most_m, longest_m = (LONG_REACH_M, LONG_REACH_M) if long_reach else (CHANNEL_M, fixed_m(awg))
    if at_most(length_m, longest_m):
        return
    yield Finding(
        LONG_CABLE,
        Severity.WARNING if at_most(length_m, most_m) else Severity.FAULT,
        f"{name}: {figure(length_m)} m of cable",
        f"Long-reach mode works up to about {LONG_REACH_M:g} m."
        if long_reach
        else f"Copper Ethernet is specified for {CHANNEL_M:g} m in all, {longest_m:g} m of it fixed. Beyond that links drop, "
        "and the voltage at the camera falls with every metre.",
        "Plan fibre, or a switch half-way."
        if long_reach
        else "Place a switch half-way, use an extender or fibre, or a long-reach port if 10 Mb/s are enough.",
        subjects,
    )


ZERO_CABLE = FindingKind("zero-cable", "wiring")


@trait
def has_zero_cable(camera: Camera, _: CameraFigures) -> bool:
    """Whether its run is of no length."""
    return camera.cable_m == 0


def zero_cable(facts: Facts) -> Iterator[Finding]:
    """A run that is written down as no metres at all."""
    cameras = facts.having(has_zero_cable)
    links = [link for link in facts.job.links if link.length_m == 0]
    if cameras or links:
        names = [camera.name for camera in cameras] + [facts.link_name(link) for link in links]
        yield Finding(
            ZERO_CABLE,
            Severity.WARNING,
            f"{count(len(names), 'run has', 'runs have')} a length of 0 m",
            f"{names_listed(names)}: voltage drop, reach and the parts list count it as nothing.",
            "Measure the run, or leave the length empty until it is known.",
            tuple(camera.id for camera in cameras) + tuple(link.a for link in links),
        )


def long_links(facts: Facts) -> Iterator[Finding]:
    """Copper between devices: the same reach holds for uplinks."""
    for link in _copper_between(facts):
        if link.length_m:
            yield from too_long(facts.link_name(link), link.length_m, link.awg, link.long_reach, (link.a, link.b))


WEAK_RUN = FindingKind("weak-run", "wiring", way_out="another run")


@trait
def has_weak_run(camera: Camera, _: CameraFigures) -> bool:
    """Whether too little voltage arrives over its run."""
    run = run_figures(camera)
    return run is not None and not run.voltage_ok


def weak_run(facts: Facts) -> Iterator[Finding]:
    """Too few volts at the far end: the camera restarts when its infrared comes on."""
    weak = facts.having(has_weak_run)
    told = {camera.id for camera in weak}
    for camera in [*weak, *(one for one in _behind_fed(facts) if one.id not in told)]:
        run, passed_on_v = facts.run_of(camera), facts.passed_on_v(camera)
        if run is None or run.voltage_ok:
            continue
        arrives = "no stable voltage" if run.device_v is None else f"{figure(run.device_v)} V"
        cable = f"{figure(camera.cable_m or 0.0)} m of {camera.awg} AWG {MATERIAL_WORDS[camera.cable_material]}"
        supply = (
            f"the lowest voltage that PoE class {camera.poe_class} guarantees"
            if passed_on_v is None
            else f"the {figure(passed_on_v)} V that {facts.name(facts.topology.wiring.feeding[camera.id])} passes on"
        )
        fix, remedy = _copper_instead(camera, passed_on_v)
        yield Finding(
            WEAK_RUN,
            Severity.FAULT,
            f"{camera.name}: {arrives} of the {figure(run.least_v)} V it needs",
            f"{cable} carry {figure(camera.power_w)} W from {supply}. The camera will restart at night, when infrared and "
            "heater come on.",
            remedy or "Use thicker wire, a shorter run, a nearer switch, or a camera that draws less.",
            (camera.id,),
            fix,
        )


def _behind_fed(facts: Facts) -> list[Camera]:
    """The cameras on devices that are fed over their own cable."""
    hanging = {one: facts.topology.hanging.get(one, {}) for one in facts.topology.fed_runs}
    return [facts.find_camera(one) for places in hanging.values() for ids in places.values() for one in ids]


OVER_CLASS = FindingKind("draw-over-class", "wiring")


def weak_devices(facts: Facts) -> Iterator[Finding]:
    """Devices that are fed over their cable: they must get enough for themselves and for all that they pass on."""
    for device_id, run in facts.topology.fed_runs.items():
        name, poe_class = facts.name(device_id), getattr(facts.by_device_id[device_id], "poe_class", 0)
        if not run.within_class:
            yield Finding(
                OVER_CLASS,
                Severity.FAULT,
                f"{name} draws {figure(run.draw_w)} W; PoE class {poe_class} gives {figure(run.class_w)} W",
                "The power that it passes on, and the losses in the cables behind it, come through its own input, so the port "
                "switches off.",
                "Use a device of a higher PoE class, a camera that draws less, or a switch with a mains lead.",
                (device_id,),
            )
        elif not run.voltage_ok:
            arrives = "no stable voltage" if run.input_v is None else f"{figure(run.input_v)} V"
            yield Finding(
                WEAK_RUN,
                Severity.FAULT,
                f"{name}: {arrives} of the {figure(run.least_v)} V it needs",
                f"{figure(run.length_m or 0.0)} m of cable carry {figure(run.draw_w)} W: its own draw and the power that it "
                "passes on.",
                "Use thicker wire, a shorter run, fewer devices behind it, or a switch with a mains lead.",
                (device_id,),
            )


def _copper_instead(camera: Camera, supply_v: float | None) -> tuple[Edit | None, str]:
    """Solid copper of the same gauge, where that is enough, with what it would leave."""
    if camera.cable_material == "copper":
        return None, ""
    run = run_figures(changed(camera, cable_material="copper"), supply_v)
    if run is None or run.device_v is None or not run.voltage_ok:
        return None, ""
    fix = set_fields([camera.id], "Use solid copper", cable_material="copper")
    return fix, f"With solid copper {figure(run.device_v)} V arrive."


@trait
def is_over_class(camera: Camera, _: CameraFigures) -> bool:
    """Whether it takes more than its PoE class has."""
    return camera.poe_class is not None and not at_most(camera.power_w, POE_CLASSES[camera.poe_class].device_w)


def over_class(facts: Facts) -> Iterator[Finding]:
    """A camera that draws more than its class gives is switched off by the port."""
    for camera in facts.having(is_over_class):
        gives_w = POE_CLASSES[camera.poe_class or 0].device_w
        yield Finding(
            OVER_CLASS,
            Severity.FAULT,
            f"{camera.name} draws {figure(camera.power_w)} W; PoE class {camera.poe_class} gives {figure(gives_w)} W",
            "A PoE port switches off a device that draws more than its class allows.",
            "Check the PoE class and the power draw on the label, or plan a port of a higher class.",
            (camera.id,),
        )


CCA_CABLE = FindingKind("cca-cable", "wiring")


@trait
def has_cca_cable(camera: Camera, _: CameraFigures) -> bool:
    """Whether its power comes over copper-clad aluminium."""
    return camera.cable_material == "cca" and camera.poe_class is not None


def cca_cable(facts: Facts) -> Iterator[Finding]:
    """CCA under power."""
    clad = facts.having(has_cca_cable)
    links = [link for link in _copper_between(facts) if link.cable_material == "cca"]
    if links:
        link_ids = tuple(link.id for link in links)
        yield Finding(
            CCA_CABLE,
            Severity.WARNING,
            f"{names_listed([facts.link_name(link) for link in links])}: CCA cable",
            "No cable standard allows CCA. It breaks at the plug, and every device behind the link stops.",
            "Use solid copper of category 5e or better.",
            tuple(dict.fromkeys(end for link in links for end in (link.a, link.b))),
            set_link(link_ids, "Use solid copper", cable_material="copper"),
        )
    if clad:
        ids = tuple(camera.id for camera in clad)
        yield Finding(
            CCA_CABLE,
            Severity.WARNING,
            f"{names_listed([camera.name for camera in clad])}: power over CCA cable",
            f"CCA loses {CCA_FACTOR:g} times as much power as copper, gets warm in bundles and breaks at the plug.",
            "Use solid copper of category 5e or better.",
            ids,
            set_fields(ids, "Use solid copper", cable_material="copper"),
        )


THIN_CABLE = FindingKind("thin-cable", "wiring")


THIN_AWG, LEAD_M = 28, 10.0
"""Wire of this gauge and thinner is made for patch leads, which are no longer than this (ISO/IEC 11801 derates it)."""


@trait
def has_thin_cable(camera: Camera, _: CameraFigures) -> bool:
    """Whether its run is of wire that is made for patch leads."""
    return camera.awg >= THIN_AWG and not at_most(camera.cable_m or 0.0, LEAD_M)


def thin_cable(facts: Facts) -> Iterator[Finding]:
    """Wire of patch leads as a fixed run."""
    thin = facts.having(has_thin_cable)
    if thin:
        ids = tuple(camera.id for camera in thin)
        yield Finding(
            THIN_CABLE,
            Severity.WARNING,
            f"{names_listed([camera.name for camera in thin])}: run of {THIN_AWG} AWG",
            f"Such thin wire is meant for patch leads of up to {figure(LEAD_M)} m. It loses more signal and voltage, and gets "
            "warm under PoE.",
            "Use 24 AWG or thicker for fixed runs.",
            ids,
            set_fields(ids, "Use 24 AWG", awg=24),
        )


OUTDOOR_RUNS = FindingKind("outdoor-runs", "wiring")


@trait
def is_unprotected_outdoors(camera: Camera, _: CameraFigures) -> bool:
    """Whether it hangs outdoors without surge protection."""
    return camera.outdoor and not camera.surge_protected


def outdoor_runs(facts: Facts) -> Iterator[Finding]:
    """What leaves the building wants earthing and surge parts, by licensed people, and a note that it has."""
    cameras = facts.having(is_unprotected_outdoors)
    links = [link for link in _copper_between(facts) if link.outdoor and not link.surge_protected]
    outdoor = [camera.id for camera in cameras] + [end for link in links for end in (link.a, link.b)]
    many = len(cameras) + len(links)
    if outdoor:
        yield Finding(
            OUTDOOR_RUNS,
            Severity.WARNING,
            f"{count(many, 'run leaves', 'runs leave')} the building without surge protection",
            "Even distant lightning can destroy a camera, its switch and the recorder.",
            "Earthing, surge protection and mains work belong to a licensed electrician, and local codes come first. Fill in "
            "the column “Surge part” when it is settled.",
            tuple(dict.fromkeys(outdoor)),
        )


def _copper_between(facts: Facts) -> list[Link]:
    """The copper links between devices; the run to a camera is the camera's own."""
    cameras = facts.camera_figures
    return [
        link for link in facts.job.links if link.medium == "copper" and link.a not in cameras and link.b not in cameras
    ]


RULES = (weak_run, weak_devices, over_class, long_cable, long_links, zero_cable, cca_cable, thin_cable, outdoor_runs)
