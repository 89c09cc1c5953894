"""How a figure came about: formula, inputs with unit and origin, source. Made only when somebody asks.

A figure is named by a ``FigureRef`` (its kind and the id of what it belongs to), so that any view can ask for the
working of any figure without knowing how it is made.
"""

from collections.abc import Callable, Container
from dataclasses import dataclass
from typing import Any, Literal, NamedTuple

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.figures import Origin, assumed_rate_of, cable_temperature_c, scene_of
from eager_lens.core.assess.finding import names_listed
from eager_lens.core.assess.power import LOWEST_SHARE, UPS_SHARES, Supply, supply_volts, ups_figures
from eager_lens.core.assess.proof import CHECKS, progress
from eager_lens.core.assess.rules.feeding import SPARE_SHARE
from eager_lens.core.calculator import Calculator
from eager_lens.core.job.fields import MATERIAL_WORDS
from eager_lens.core.job.model import Camera
from eager_lens.core.power.dc import DC_RUN
from eager_lens.core.power.poe import POE_RUN, POWER_CLASSES
from eager_lens.core.power.ups import UPS_TIME
from eager_lens.core.recording.clips import EVENT_CLIPS
from eager_lens.core.recording.week import WEEK_HOURS
from eager_lens.core.reference.streams import stream_assumptions
from eager_lens.core.sizing.disk import DAYS_KEPT, DISK_SPACE
from eager_lens.core.sizing.drives import DRIVE_ARRAY, LEVEL_WORDS
from eager_lens.core.units import figure, unit_of

FigureKind = Literal[
    "days",
    "incoming",
    "rate",
    "gb-per-day",
    "volts",
    "power",
    "load",
    "stops",
    "unit",
    "channels",
    "addresses",
    "steps",
]


class FigureRef(NamedTuple):
    """A figure: its kind, and the id of the recorder or camera that it belongs to (empty for the whole job)."""

    kind: FigureKind
    subject: str = ""


class Line(NamedTuple):
    """One line of a working: what, how much with its unit, and where it came from."""

    label: str
    value: str
    origin: Origin


@dataclass(frozen=True)
class Working:
    """The whole working of one figure."""

    title: str
    value: str
    formula: str
    lines: tuple[Line, ...]
    source: str

    def as_text(self) -> str:
        """The working as plain lines, for the clipboard."""
        rows = [f"  {line.label}: {line.value} ({line.origin})" for line in self.lines]
        return "\n".join([f"{self.title}: {self.value}", f"  {self.formula}", *rows, f"  Source: {self.source}"])


def calculated(
    calculator: Calculator[Any, Any], inputs: dict[str, tuple[Any, Origin]]
) -> tuple[dict[str, Any], tuple[Line, ...]]:
    """Run a calculator on inputs that carry their origin; its output, and the inputs as lines of a working."""
    output = calculator.answer({key: value for key, (value, _) in inputs.items()})
    lines = tuple(Line(_label(key), with_unit(key, value), origin) for key, (value, origin) in inputs.items())
    return output, lines


VALUE_WORDS = {**LEVEL_WORDS, **MATERIAL_WORDS}


def with_unit(key: str, value: Any) -> str:
    """A value with the unit that its key names."""
    if isinstance(value, str):
        return VALUE_WORDS.get(value, value)
    if key.endswith("_share"):
        return f"{figure(100 * value)} %"
    return f"{figure(value)} {unit_of(key)}".strip()


def _label(key: str) -> str:
    words = key.split("_")
    unit_words = {"mm2", "wh", "mbps", "tb", "tib", "gb", "s", "h", "px", "days", "share", "w", "v", "c", "m"}
    while len(words) > 1 and words[-1] in unit_words:
        words.pop()
    return " ".join(words).replace(" h per day", " a day").replace(" per h", " an hour").replace(" per day", " a day")


def working_of(ref: FigureRef, assessment: Assessment) -> Working | None:
    """The working of a figure, or None when what it belongs to is no longer there."""
    if ref.subject and ref.subject not in _known(ref.kind, assessment):
        return None
    return _MAKERS[ref.kind](ref.subject, assessment)


def _known(kind: FigureKind, assessment: Assessment) -> Container[str]:
    """Ids of what has a figure of this kind."""
    facts = assessment.facts
    if kind in ("rate", "gb-per-day", "volts"):
        return facts.camera_figures
    if kind == "load":
        return facts.topology.loads
    if kind == "unit":
        return {unit.id for unit in facts.job.power}
    if kind in ("power", "stops"):
        return facts.by_device_id.keys() | {link.id for link in facts.job.links}
    return facts.recorder_figures


def _days(recorder_id: str, assessment: Assessment) -> Working:
    recorder, got = assessment.facts.recorders[recorder_id], assessment.recorder(recorder_id)
    title = f"Days kept, {recorder.name}"
    if got.trouble:
        return Working(title, "none", DRIVE_ARRAY.formula, (Line("drives", got.trouble, "plan"),), DRIVE_ARRAY.source)
    _, lines = calculated(
        DRIVE_ARRAY,
        {
            "drives": (recorder.drives, "plan"),
            "drive_tb": (recorder.drive_tb, "plan"),
            "level": (recorder.level, "plan"),
            "spares": (recorder.spares, "plan"),
            "reserve_share": (recorder.reserve_share, "assumed"),
        },
    )
    lines = (
        *lines,
        Line("usable", f"{figure(got.usable_tb)} TB", "worked out"),
        Line("drives that may fail", f"{got.drives_that_may_fail} ({LEVEL_WORDS[recorder.level]})", "worked out"),
        Line("stored", f"{figure(got.gb_per_day)} GB a day by {got.cameras} cameras", _rates_origin(assessment)),
    )
    if got.days is None or got.days_low is None or got.days_high is None:
        return Working(title, "no limit: nothing is written", DAYS_KEPT.formula, lines, DAYS_KEPT.source)
    span = f"{figure(got.days_low)} to {figure(got.days_high)} days"
    lines = (*lines, Line("if all scenes are busy, or quiet", span, _rates_origin(assessment)))
    source = f"{DAYS_KEPT.source}; {DRIVE_ARRAY.source}"
    return Working(title, f"{figure(got.days)} days", f"{DRIVE_ARRAY.formula}; {DAYS_KEPT.formula}", lines, source)


def _rates_origin(assessment: Assessment) -> Origin:
    return "assumed" if assessment.facts.with_trait["assumed rate"] else "measured"


def _incoming(recorder_id: str, assessment: Assessment) -> Working:
    recorder, got = assessment.facts.recorders[recorder_id], assessment.recorder(recorder_id)
    rates: dict[str, list[float]] = {}
    for camera in assessment.facts.cameras_on[recorder_id]:
        rates.setdefault(camera.place or "no place", []).append(assessment.camera(camera.id).rate_mbps)
    origin = _rates_origin(assessment)
    small_mbps = sum(camera.small_mbps for camera in assessment.facts.cameras_on[recorder_id])
    small = (Line("small streams", f"{figure(small_mbps)} Mb/s", "plan"),) if recorder.takes_small else ()
    lines = [
        Line(place, f"{figure(sum(all_rates))} Mb/s, {len(all_rates)} cameras", origin)
        for place, all_rates in sorted(rates.items(), key=lambda item: -sum(item[1]))
    ]
    return Working(
        f"Incoming, {recorder.name}",
        f"{figure(got.incoming_mbps)} Mb/s",
        "incoming = sum of the main streams of all cameras registered here, and of the small ones if it fetches them",
        (
            *lines,
            *small,
            Line("if all scenes are busy", f"{figure(got.incoming_high_mbps)} Mb/s", origin),
            Line("the recorder's limit", f"{figure(recorder.incoming_limit_mbps)} Mb/s", "plan"),
        ),
        "mean rates; a camera on two recorders sends, and counts, twice",
    )


def _rate(camera_id: str, assessment: Assessment) -> Working:
    camera = assessment.facts.find_camera(camera_id)
    got = assessment.camera(camera_id)
    title, value = f"Bit rate, {camera.name}", f"{figure(got.rate_mbps)} Mb/s"
    if got.rate_origin == "measured":
        line = Line("read from the camera", value, "measured")
        return Working(
            title, value, "the rate that was measured stands in place of the assumed one", (line,), "measured"
        )
    table, scene = stream_assumptions(), scene_of(camera)
    parts = assumed_rate_of(camera)
    lines = (
        Line("picture", f"{camera.width_px} × {camera.height_px} px", "plan"),
        Line("frame rate", f"{figure(camera.fps)} fps", "plan"),
        Line("key frame every", f"{figure(camera.key_frame_s)} s", "plan"),
        Line(f"scene: {scene.label}", f"{scene.key_bpp} and {scene.other_bpp} bits a pixel", "assumed"),
        Line(_codec_words(camera), f"× {table.codec_factor[camera.codec]}", "assumed"),
        Line(f"quality: {camera.quality}", f"× {table.quality_factor[camera.quality]}", "assumed"),
        Line("key frames", f"{figure(parts.key_part_mbps)} Mb/s", "worked out"),
        Line("other frames", f"{figure(parts.other_part_mbps)} Mb/s", "worked out"),
        Line("other scenes of this kind", f"{figure(got.low_mbps)} to {figure(got.high_mbps)} Mb/s", "assumed"),
    )
    formula = "rate = pixels × codec × quality × (key bits × key frames a second + other bits × other frames a second)"
    return Working(title, value, formula, lines, table.source)


def _codec_words(camera: Camera) -> str:
    table = stream_assumptions()
    return f"codec: {table.codec_label[camera.codec]} ({table.codec_why[camera.codec]})"


def _gb_per_day(camera_id: str, assessment: Assessment) -> Working:
    camera, got = assessment.facts.find_camera(camera_id), assessment.camera(camera_id)
    week = assessment.facts.weeks.get(camera.week)
    clips, clip_lines = (
        calculated(
            EVENT_CLIPS,
            {
                "events_per_h": (camera.events_per_h, "assumed"),
                "event_s": (camera.event_s, "assumed"),
                "pre_s": (camera.pre_s, "plan"),
                "post_s": (camera.post_s, "plan"),
                "hours_per_day": (got.movement_h_per_day, "plan"),
            },
        )
        if got.movement_h_per_day and got.movement_share < 1
        else ({}, ())
    )
    _, space_lines = calculated(
        DISK_SPACE,
        {
            "rate_mbps": (got.rate_mbps, got.rate_origin),
            "recorded_h_per_day": (min(24.0, got.recorded_h_per_day), "worked out"),
            "days": (1, "plan"),
        },
    )
    lines = [Line("week", week.name if week else "none", "plan"), Line("always", _hours(got.always_h_per_day), "plan")]
    lines += clip_lines
    if clips:
        lines.append(
            Line("recorded share of movement hours", f"{figure(100 * clips['recorded_share'])} %", "worked out")
        )
        lines.append(Line("clips a day", figure(clips["clips_per_day"]), "worked out"))
    return Working(
        f"Stored, {camera.name}",
        f"{figure(got.gb_per_day)} GB a day",
        f"recorded hours = always + movement × share + input × share; {DISK_SPACE.formula}; {EVENT_CLIPS.formula}",
        (*lines, *space_lines),
        f"{WEEK_HOURS.source}; {EVENT_CLIPS.source}; {DISK_SPACE.source}",
    )


def _hours(h_per_day: float) -> str:
    return f"{figure(h_per_day)} h a day"


def _volts(camera_id: str, assessment: Assessment) -> Working:
    camera = assessment.facts.find_camera(camera_id)
    title = f"Volts at {camera.name}"
    if camera.power_class is None or camera.cable_m is None:
        why = "not powered by its cable" if camera.power_class is None else "the length of its cable is not known"
        return Working(title, "–", POE_RUN.formula, (Line("run", why, "plan"),), POE_RUN.source)
    limits = POWER_CLASSES[camera.power_class]
    got, lines = calculated(
        POE_RUN,
        {
            "class": (camera.power_class, "plan"),
            "power_w": (camera.power_w, "assumed"),
            "length_m": (camera.cable_m, "plan"),
            "awg": (camera.awg, "plan"),
            "material": (camera.cable_material, "plan"),
            "temperature_c": (cable_temperature_c(camera), "assumed"),
            "supply_v": (limits.supply_least_v, "assumed"),
        },
    )
    value = "the run cannot carry it" if got["device_v"] is None else f"{figure(got['device_v'])} V"
    lines = (
        *lines,
        Line("loop", f"{figure(got['loop_ohm'])} Ω", "worked out"),
        Line("least it needs", f"{figure(limits.device_least_v)} V", "plan"),
        Line("set aside at the switch", f"{figure(limits.set_aside_w)} W", "plan"),
    )
    return Working(title, value, POE_RUN.formula, lines, POE_RUN.source)


def _power(device_id: str, assessment: Assessment) -> Working:
    facts = assessment.facts
    device = facts.by_device_id[device_id]
    supply = facts.topology.supplies.get(device_id, Supply(0, 0.0, 0.0))
    budget_w = getattr(device, "budget_w", 0.0)
    lines = (
        Line("powered cameras on it", str(supply.cameras), "plan"),
        Line("powered sockets", str(getattr(device, "powered_ports", 0)), "plan"),
        Line("set aside by class", f"{figure(supply.set_aside_w)} W", "worked out"),
        Line("budget", f"{figure(budget_w)} W", "plan"),
        Line("spare share wanted", f"{100 * SPARE_SHARE:g} %", "assumed"),
    )
    formula = "draw = sum of what its cameras draw at night; set aside = sum of their classes' watts at the switch"
    return Working(f"Power, {device.name}", f"{figure(supply.draw_w)} W at night", formula, lines, "IEEE 802.3 classes")


def _unit(unit_id: str, assessment: Assessment) -> Working:
    """What an injector, plug-in supply or battery supply feeds, and what that leaves."""
    facts = assessment.facts
    unit = next(unit for unit in facts.job.power if unit.id == unit_id)
    fed = Line("feeds", names_listed([facts.name(one) for one in unit.feeds], 4) or "nothing", "plan")
    if unit.kind == "ups":
        got = ups_figures(unit, facts.by_device_id, facts.topology.supplies)
        if got.minutes is None:
            return Working(unit.name, "carries nothing", UPS_TIME.formula, (fed,), UPS_TIME.source)
        _, lines = calculated(
            UPS_TIME,
            {
                "load_w": (got.load_w, "worked out"),
                "battery_wh": (unit.battery_wh, "plan"),
                "inverter_share": (UPS_SHARES["inverter_share"], "assumed"),
                "depth_share": (UPS_SHARES["depth_share"], "assumed"),
            },
        )
        return Working(unit.name, f"{figure(got.minutes)} minutes", UPS_TIME.formula, (fed, *lines), UPS_TIME.source)
    supply = facts.topology.supplies.get(unit_id, Supply(0, 0.0, 0.0))
    given = Line("gives", f"{figure(unit.budget_w)} W", "plan")
    if unit.kind == "injector":
        lines = (fed, Line("class", str(unit.power_class), "plan"), given)
        return Working(
            unit.name, f"{figure(supply.draw_w)} W at night", "what its device draws", lines, "IEEE 802.3 classes"
        )
    volts = supply_volts(unit)
    out, lines = calculated(
        DC_RUN,
        {
            "supply_v": (volts, "plan"),
            "power_w": (supply.draw_w, "worked out"),
            "length_m": (unit.length_m, "plan"),
            "area_mm2": (unit.area_mm2, "plan"),
            "lowest_share": (LOWEST_SHARE, "assumed"),
        },
    )
    value = "the wire cannot carry it" if out["device_v"] is None else f"{figure(out['device_v'])} V at the end"
    longest = "no limit" if out["longest_m"] is None else f"{figure(out['longest_m'])} m"
    lines = (fed, given, *lines, Line("longest run", longest, "worked out"))
    return Working(unit.name, value, DC_RUN.formula, lines, DC_RUN.source)


def _load(link_id: str, assessment: Assessment) -> Working:
    facts = assessment.facts
    link = next(link for link in facts.job.links if link.id == link_id)
    load, capacity = facts.topology.loads[link_id], facts.topology.wiring.capacity_mbps[link_id]
    origin: Origin = "plan" if link.capacity_mbps is not None or link.medium != "radio" else "assumed"
    lines = (
        Line(f"from {facts.name(link.a)}", f"{figure(load.forth_mbps)} Mb/s", _rates_origin(assessment)),
        Line(f"from {facts.name(link.b)}", f"{figure(load.back_mbps)} Mb/s", _rates_origin(assessment)),
        Line("it carries each way", f"{figure(capacity)} Mb/s", origin),
    )
    return Working(
        f"Load, {facts.link_name(link)}",
        f"{figure(load.worst_mbps)} Mb/s",
        "sum of the main streams whose shortest way to their recorder takes this link; the busier way counts",
        lines,
        "each way by itself (full duplex)",
    )


def _stops(part_id: str, assessment: Assessment) -> Working:
    """What stops recording when a device or link fails, by place."""
    facts = assessment.facts
    lost = facts.stops.get(part_id, set())
    link = next((link for link in facts.job.links if link.id == part_id), None)
    name = facts.link_name(link) if link else facts.name(part_id)
    places: dict[str, list[str]] = {}
    for camera in facts.job.cameras:
        if camera.id in lost:
            places.setdefault(camera.place or "no place", []).append(camera.name)
    lines = tuple(Line(place, names_listed(names, 4), "worked out") for place, names in places.items())
    if not lines:
        lines = (Line("recording", "goes on everywhere; at most remote viewing is lost", "worked out"),)
    value = f"{len(lost)} cameras stop recording" if lost else "no camera stops recording"
    formula = (
        "a camera stops when every way to a recorder of its passes what failed, or when that recorder itself fails"
    )
    return Working(f"If {name} fails", value, formula, lines, "ways through the wiring as planned")


def _channels(recorder_id: str, assessment: Assessment) -> Working:
    facts = assessment.facts
    recorders = [facts.recorders[recorder_id]] if recorder_id else list(facts.job.recorders)
    lines = [Line(r.name, f"{len(facts.cameras_on[r.id])} of {r.channels} channels", "plan") for r in recorders]
    without = len(facts.with_trait["no recorder"])
    lines.append(Line("cameras without a recorder", str(without), "plan"))
    value = f"{len(facts.job.cameras) - without} of {len(facts.job.cameras)} cameras"
    return Working("Registered", value, "cameras that have a recorder and a channel", tuple(lines), "the plan")


def _addresses(_: str, assessment: Assessment) -> Working:
    facts = assessment.facts
    without = sum(not device.address for device in facts.devices)
    lines = [
        Line("devices", str(len(facts.devices)), "plan"),
        Line("with an address", str(len(facts.devices) - without), "plan"),
        *(
            Line(finding.title, finding.severity.word, "worked out")
            for finding in assessment.of_stage("addresses")[:12]
        ),
    ]
    return Working(
        "Addresses",
        f"{len(facts.devices) - without} of {len(facts.devices)} given",
        "each address against its subnet, the leased pool, and every other device",
        tuple(lines),
        "network, broadcast and gateway are no device's; what the server leases is not planned",
    )


def _steps(_: str, assessment: Assessment) -> Working:
    done, total = progress(assessment.job)
    lines = tuple(
        Line(check.label, f"{sum(mark.check == check.id for mark in assessment.job.checks)} made", "measured")
        for check in CHECKS
    )
    return Working("Checks passed", f"{done} of {total}", "checks passed, of all checks on all cameras", lines, "Proof")


_MAKERS: dict[FigureKind, Callable[[str, Assessment], Working]] = {
    "days": _days,
    "incoming": _incoming,
    "rate": _rate,
    "gb-per-day": _gb_per_day,
    "volts": _volts,
    "power": _power,
    "load": _load,
    "stops": _stops,
    "unit": _unit,
    "channels": _channels,
    "addresses": _addresses,
    "steps": _steps,
}
