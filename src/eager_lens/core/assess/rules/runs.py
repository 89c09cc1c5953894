"""Findings about cable runs: length, what arrives at the far end, and what cable does to power."""

from __future__ import annotations

from collections.abc import Iterator

from eager_lens.core.assess.facts import Facts
from eager_lens.core.assess.figures import run_figures
from eager_lens.core.assess.finding import Finding, Severity, names_listed
from eager_lens.core.assess.traits import CHANNEL_M, FIXED_CABLE_M
from eager_lens.core.job.edits import Edit, set_fields
from eager_lens.core.job.fields import MATERIAL_WORDS
from eager_lens.core.job.model import Camera, changed
from eager_lens.core.power.poe import CCA_FACTOR, POWER_CLASSES
from eager_lens.core.units import count, figure
from eager_lens.core.validation import at_most


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


def weak_run(facts: Facts) -> Iterator[Finding]:
    """Too few volts at the far end: the camera restarts when its infrared comes on."""
    for camera in facts.with_trait["weak run"]:
        run = run_figures(camera)
        if run is None:
            continue
        arrives = "nothing steady" if run.device_v is None else f"{figure(run.device_v)} V"
        cable = f"{figure(camera.cable_m or 0.0)} m of {camera.awg} AWG {MATERIAL_WORDS[camera.cable_material]}"
        fix, remedy = _copper_instead(camera)
        yield Finding(
            "weak-run",
            Severity.FAULT,
            "wiring",
            f"{camera.name}: {arrives} of the {figure(run.least_v)} V it needs",
            f"{cable} carries {figure(camera.power_w)} W from the least that class {camera.power_class} guarantees. "
            "Such a camera restarts at night, when infrared and heater come on.",
            remedy or "Thicker wire, a shorter run, a nearer switch, or a camera that draws less.",
            (camera.id,),
            fix,
        )


def _copper_instead(camera: Camera) -> tuple[Edit | None, str]:
    """Solid copper of the same gauge, where that is enough, with what it would leave."""
    if camera.cable_material == "copper":
        return None, ""
    run = run_figures(changed(camera, cable_material="copper"))
    if run is None or run.device_v is None or not run.voltage_ok:
        return None, ""
    fix = set_fields([camera.id], f"Change {camera.name} to solid copper", cable_material="copper")
    return fix, f"Solid copper would leave {figure(run.device_v)} V."


def over_class(facts: Facts) -> Iterator[Finding]:
    """A camera that draws more than its class gives is switched off by the port."""
    for camera in facts.with_trait["over class"]:
        gives_w = POWER_CLASSES[camera.power_class or 0].device_w
        yield Finding(
            "over-class",
            Severity.FAULT,
            "wiring",
            f"{camera.name} draws {figure(camera.power_w)} W; class {camera.power_class} gives {figure(gives_w)} W",
            "A powered port switches off what draws more than its class.",
            "Look at the label for class and draw, or plan a port of a higher class.",
            (camera.id,),
        )


def clad_cable(facts: Facts) -> Iterator[Finding]:
    """Copper-clad aluminium under power."""
    clad = facts.with_trait["clad cable"]
    if clad:
        ids = tuple(camera.id for camera in clad)
        yield Finding(
            "clad-cable",
            Severity.DOUBT,
            "wiring",
            f"Copper-clad cable carries power to {names_listed([camera.name for camera in clad])}",
            f"It loses {CCA_FACTOR:g} times as much as copper, warms in bundles and breaks at the plug: "
            "a fault waiting in a long run.",
            "Use solid copper of category 5e or better.",
            ids,
            set_fields(ids, f"Change {count(len(ids), 'run')} to solid copper", cable_material="copper"),
        )


def outdoor_runs(facts: Facts) -> Iterator[Finding]:
    """A caution: what leaves the building wants earthing and surge parts, by licensed people."""
    outdoor = facts.with_trait["outdoor run"]
    if outdoor:
        yield Finding(
            "outdoor-runs",
            Severity.NOTE,
            "wiring",
            f"{count(len(outdoor), 'run leaves', 'runs leave')} the building: earthing and surge parts",
            "Lightning far off is enough to end a camera, the switch behind it and the recorder.",
            "Earthing, surge and mains work belong to a licensed electrician; local codes come first.",
            tuple(camera.id for camera in outdoor),
        )


RULES = (weak_run, over_class, long_cable, clad_cable, outdoor_runs)
