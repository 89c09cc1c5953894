"""The columns of the Wiring page's tables: cameras with their runs, what feeds them, and the links between."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from functools import partial
from typing import Any, NamedTuple, get_args

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.figures.power import leads_outdoors, supply_run, ups_figures
from eager_lens.core.assess.finding import Severity
from eager_lens.core.assess.rules.sizing import has_estimated_rate
from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.edits import Edit
from eager_lens.core.job.fields import (
    CAMERA_FIELDS,
    MATERIAL_WORDS,
    NETWORK_FIELDS,
    RECORDER_FIELDS,
    field_named,
    number_from,
)
from eager_lens.core.job.model import (
    Camera,
    Device,
    Job,
    Link,
    NetworkDevice,
    PowerInput,
    PowerUnit,
    Recorder,
    role_of,
)
from eager_lens.core.job.wiring import (
    UNIT_WORDS,
    UnitKind,
    make_fibre,
    put_on,
    set_kind,
    set_link,
    set_unit,
    unplug_cameras,
    unplug_devices,
)
from eager_lens.core.plain_text import inside
from eager_lens.core.present.parts import Part
from eager_lens.core.present.working import FigureRef
from eager_lens.core.reference.device_types import DeviceType
from eager_lens.core.units import figure, fixed
from eager_lens.desk.widgets.columns import device_column
from eager_lens.desk.widgets.record_model import Mark, TableColumn

WIDTHS = {
    "name": 150,
    "place": 96,
    "cable_m": 64,
    "awg": 78,
    "cable_material": 96,
    "outdoor": 66,
    "surge_protected": 76,
    "power_input": 84,
    "substream_mbps": 118,
    "attachment": 112,
    "poe_class": 48,
    "power_w": 70,
    "make": 104,
    "mac_address": 134,
    "serial": 90,
    "role": 64,
    "kind": 250,
    "ports": 64,
    "poe_ports": 66,
    "budget_w": 78,
}


def suppliers(job: Job) -> tuple[NetworkDevice | Recorder, ...]:
    """What devices can be plugged into."""
    return (*job.network, *job.recorders)


# ---- cameras -----------------------------------------------------------------------------------------------------


def _volts(camera: Camera, assessment: Assessment) -> str:
    run = assessment.facts.run_of(camera)
    return "–" if run is None else "none" if run.device_v is None else fixed(run.device_v, 1)


def _volts_mark(camera: Camera, assessment: Assessment) -> Mark:
    run = assessment.facts.run_of(camera)
    return None if run is None or run.voltage_ok else Severity.FAULT


VOLTS = TableColumn(
    "volts",
    "Voltage",
    _volts,
    unit="V",
    align="right",
    width=92,
    assumed=lambda camera, assessment: assessment.facts.run_of(camera) is not None,
    working=lambda camera: FigureRef("volts", camera.id),
    mark=_volts_mark,
)
"""What is left at the camera, from the least that its class guarantees at the switch."""


def _hangs_on(camera: Camera, assessment: Assessment) -> str:
    link = assessment.facts.topology.wiring.feeders.get(camera.id)
    if link is None:
        return ""
    other, port = link.far_end(camera.id)
    return assessment.facts.name(other) + (f", {port}" if port else "")


def _hang(parts: Sequence[Device], text: str, job: Job) -> Edit:
    """Plug cameras or devices into what was named; an empty text unplugs them from it."""
    wanted = text.rpartition(",")[0].strip() if text.rpartition(",")[2].strip().isdigit() else text.strip()
    ids = [part.id for part in parts]
    if not wanted:
        # An emptied cell unplugs.
        return unplug_cameras(ids) if isinstance(parts[0], Camera) else unplug_devices(job, ids)
    for device in suppliers(job):
        if device.name.casefold() == wanted.casefold():
            return put_on(job, ids, device.id)
    names = ", ".join(device.name for device in suppliers(job)) or "none yet"
    raise RefusedInput("On", f"{wanted!r} is not a switch, bridge or recorder of this job; there are {names}")


def _choices(part: Device, job: Job) -> Sequence[str]:
    return [device.name for device in suppliers(job) if device.id != part.id]


def _joined_with(device: Device, assessment: Assessment) -> str:
    """What a device is plugged into besides cameras, with the port there."""
    ends = (link.far_end(device.id) for link in assessment.facts.between.get(device.id, ()))
    return "; ".join(assessment.facts.name(other) + (f", {port}" if port else "") for other, port in ends)


JOINED = TableColumn("on", "Connected to, port", _joined_with, _hang, _choices, width=170)
"""Of a recorder or network device: the devices that it has a link to. Typing a name plugs it in there."""

ON = TableColumn("on", "Connected to, port", _hangs_on, _hang, _choices, width=130)


def camera_columns() -> list[TableColumn]:
    """Name, place, what it hangs on, its run, its power, its label."""
    first, run = ("name", "place"), ("cable_m", "poe_class", "power_w")
    # What is judged stands before what is seldom changed, so that it is seen without scrolling.
    rest = [
        "awg",
        "cable_material",
        "outdoor",
        "surge_protected",
        "power_input",
        "substream_mbps",
        "make",
        "mac_address",
        "serial",
        "note",
    ]
    return [
        *_fields(CAMERA_FIELDS, first),
        ON,
        *_fields(CAMERA_FIELDS, run),
        VOLTS,
        *_fields(CAMERA_FIELDS, rest),
    ]


def _fields(fields: Sequence[object], names: Sequence[str]) -> list[TableColumn]:
    return [
        device_column(field_named(fields, name), WIDTHS.get(name, 110), stretch=name == "note")  # type: ignore[arg-type]
        for name in names
    ]


# ---- what feeds them ---------------------------------------------------------------------------------------------


def _draw(device: Device, assessment: Assessment) -> str:
    supply = assessment.facts.topology.supplies.get(device.id)
    return "–" if supply is None else fixed(supply.draw_w, 0)


DRAW = TableColumn(
    "draw",
    "At night",
    _draw,
    unit="W",
    align="right",
    width=80,
    assumed=lambda device, assessment: device.id in assessment.facts.topology.supplies,
    working=lambda device: FigureRef("power", device.id),
)


def _stopped(part: Device | Link, assessment: Assessment) -> str:
    if not assessment.job.links:
        return "–"
    stopped = len(assessment.facts.stops.get(part.id, ()))
    if stopped:
        return str(stopped)
    # "0" alone would look harmless where cameras hang on a part but none of them is recorded.
    unrecorded = sum(device == part.id for device in assessment.facts.topology.wiring.hangs_on.values())
    return f"0 of {unrecorded}, none recorded" if unrecorded else "0"


STOPS = TableColumn(
    "stops",
    "If it fails",
    _stopped,
    unit="cameras stop",
    align="right",
    width=144,
    working=lambda part: FigureRef("stops", part.id),
)


def network_columns() -> list[TableColumn]:
    """Name, ports and power, what it hangs on, what it draws, what stops with it, then what is seldom changed."""
    first = "name ports poe_ports budget_w"
    rest = "device_type role place poe_port_class own_w radio_end poe_class power_w wan_port upload_mbps"
    rest += " spanning_tree viewed_streams views_main_streams serial note"
    return [*_fields(NETWORK_FIELDS, first.split()), JOINED, DRAW, STOPS, *_fields(NETWORK_FIELDS, rest.split())]


def recorder_columns() -> list[TableColumn]:
    """Name, ports and power, what stops with it, how cameras are attached, label."""
    first = "name place ports poe_ports budget_w"
    rest = "attachment camera_interface_subnet camera_interface_address takes_events event_tcp_port"
    rest += " pre_recording_memory_mb fetches_substreams outgoing_limit_mbps"
    rest += " poe_port_class own_w make mac_address serial note"
    return [*_fields(RECORDER_FIELDS, first.split()), JOINED, DRAW, STOPS, *_fields(RECORDER_FIELDS, rest.split())]


def spare_columns() -> list[TableColumn]:
    """What a spare device is and where it lies; it is installed first, then edited."""
    texts = (
        ("make", "Make", 120),
        ("serial", "Serial number", 110),
        ("mac_address", "MAC address", 140),
        ("place", "Place", 110),
        ("note", "Note", 110),
    )
    return [
        TableColumn("name", "Name", partial(_text_of, "name"), width=150),
        TableColumn("role", "Kind", lambda device, _: role_of(device), width=80),
        *(TableColumn(name, words, partial(_text_of, name), width=wide) for name, words, wide in texts),
    ]


def _text_of(name: str, device: Device, _: Assessment) -> str:
    return str(getattr(device, name))


# ---- links -------------------------------------------------------------------------------------------------------

MEDIA = ("copper", "fibre", "radio")


def _end(name: str, heading: str) -> TableColumn:
    return TableColumn(name, heading, lambda link, a: a.facts.name(getattr(link, name)), width=150)


def _number(name: str, heading: str, unit: str, width: int, empty: object) -> TableColumn:
    def show(link: Link, assessment: Assessment) -> str:
        value = getattr(link, name)
        return "" if value in (None, 0) else figure(value, 6)

    def edit(links: Sequence[Link], text: str, job: Job) -> Edit:
        try:
            value = number_from(text, unit) if text.strip() else empty
        except ValueError as error:
            raise RefusedInput(heading, str(error)) from None
        shown = f"{text.strip() or 'nothing'}"
        return set_link([link.id for link in links], f"Set {inside(heading)} {shown} on a link", **{name: value})

    return TableColumn(name, heading, show, edit, unit=unit, align="right", width=width)


def _set_medium(links: Sequence[Link], text: str, job: Job) -> Edit:
    medium = next((medium for medium in MEDIA if text.strip() and medium.startswith(text.strip().lower())), None)
    if medium is None:
        raise RefusedInput("Medium", f"{text.strip()!r} was given; allowed are {', '.join(MEDIA)}")
    # One link can also be moved to a fibre port; several might compete for the same one.
    if medium == "fibre" and len(links) == 1:
        return make_fibre(links[0], "Make a link fibre")
    return set_link([link.id for link in links], f"Make a link {medium}", medium=medium)


def _load(link: Link, assessment: Assessment) -> str:
    load = assessment.facts.topology.loads.get(link.id)
    return "–" if load is None else fixed(load.worst_mbps, 1)


def _load_share(link: Link, assessment: Assessment) -> float:
    topology = assessment.facts.topology
    load = topology.loads.get(link.id)
    return 0.0 if load is None else load.worst_mbps / topology.wiring.capacity_mbps[link.id]


def _carries(link: Link, assessment: Assessment) -> str:
    capacity = assessment.facts.topology.wiring.capacity_mbps.get(link.id)
    return "" if capacity is None else figure(capacity)


def link_columns() -> list[TableColumn]:
    """Both ends with their ports, medium and length, what it carries and what is on it, what stops with it."""
    capacity = _number("capacity_mbps", "Carries", "Mb/s", 96, None)
    load = TableColumn(
        "load",
        "Load",
        _load,
        unit="Mb/s",
        align="right",
        width=110,
        assumed=lambda link, a: link.id in a.facts.topology.loads and bool(a.facts.having(has_estimated_rate)),
        bar=_load_share,
        working=lambda link: FigureRef("load", link.id),
    )
    return [
        _end("a", "From"),
        _number("a_port", "Port", "", 60, 0),
        _end("b", "To"),
        _number("b_port", "Port", "", 60, 0),
        load,
        STOPS,
        TableColumn("medium", "Medium", lambda link, a: link.medium, _set_medium, lambda link, job: MEDIA, width=76),
        TableColumn("capacity_mbps", "Carries", _carries, capacity.edit, unit="Mb/s", align="right", width=96),
        _number("length_m", "Length", "m", 76, None),
        _number("awg", "Gauge", "AWG", 84, 24),
        _link_choice("cable_material", "Wire", MATERIAL_WORDS, 110),
        _link_choice("long_reach", "Long reach", YES_NO, 84),
        _link_choice("aggregated", "Aggregated", YES_NO, 96),
        _link_choice("outdoor", "Outdoors", YES_NO, 76),
        _link_choice("surge_protected", "Surge part", YES_NO, 90),
    ]


YES_NO: dict[Any, str] = {True: "yes", False: "no"}


def _picked(text: str, words: Mapping[Any, str], heading: str) -> Any:
    """The value whose words a text is, or begins."""
    wanted = text.strip().casefold()
    fits = [value for value, said in words.items() if wanted and said.casefold().startswith(wanted)]
    exact = [value for value in fits if words[value].casefold() == wanted]
    if len(exact or fits) != 1:
        raise RefusedInput(heading, f"{text.strip()!r} was given; allowed are {', '.join(words.values())}")
    return (exact or fits)[0]


def _link_choice(name: str, heading: str, words: Mapping[Any, str], width: int) -> TableColumn:
    def edit(links: Sequence[Link], text: str, job: Job) -> Edit:
        value = _picked(text, words, heading)
        return set_link([link.id for link in links], f"Set {inside(heading)} {words[value]} on a link", **{name: value})

    return TableColumn(
        name,
        heading,
        lambda link, a: words[getattr(link, name)],
        edit,
        lambda link, job: list(words.values()),
        width=width,
    )


# ---- port by port ------------------------------------------------------------------------------------------------


def _of(value: float | None, limit: float | None, digits: int = 1) -> str:
    if value is None:
        return ""
    return fixed(value, digits) + ("" if limit is None else f" of {figure(limit)}")


def port_columns() -> list[TableColumn]:
    """A device's ports: number, what is plugged in, its cable, load of capacity, watts of class, volts at the end."""
    return [
        TableColumn("port", "Port", lambda row, a: str(row.port) if row.port else "–", width=64),
        TableColumn("what", "What", lambda row, a: row.what, width=160, mark=lambda row, a: row.severity),
        TableColumn("cable", "Cable", lambda row, a: row.cable, width=150),
        TableColumn(
            "load",
            "Load",
            lambda row, a: _of(row.load_mbps, row.capacity_mbps),
            unit="Mb/s of capacity",
            align="right",
            width=120,
            working=lambda row: FigureRef("load", row.link_id) if row.load_mbps is not None else None,
        ),
        TableColumn(
            "power",
            "Gives",
            lambda row, a: _of(row.draw_w, row.allocated_w),
            unit="W of allocated",
            align="right",
            width=110,
        ),
        TableColumn(
            "volts",
            "Voltage",
            lambda row, a: _of(row.device_v, None),
            unit="V",
            align="right",
            width=96,
            assumed=lambda row, a: row.device_v is not None,
            working=lambda row: FigureRef("volts", row.device_id) if row.device_v is not None else None,
            stretch=True,
        ),
    ]


# ---- what fails --------------------------------------------------------------------------------------------------


class FailingPart(NamedTuple):
    """A row of the list of single failures. ``is_own_run``: a link that only one camera hangs on."""

    id: str
    name: str
    kind: str
    stopped: int
    unseen: int
    places: str
    is_own_run: bool


def failing_columns() -> list[TableColumn]:
    """What fails, what it is, how many cameras stop or are only not seen from outside, and where."""
    return [
        TableColumn("name", "If this fails", lambda row, a: row.name, width=230),
        TableColumn("kind", "Kind", lambda row, a: row.kind, width=80),
        TableColumn(
            "stopped",
            "Stop",
            lambda row, a: str(row.stopped) if row.stopped else "–",
            unit="cameras",
            align="right",
            width=120,
            working=lambda row: FigureRef("stops", row.id),
        ),
        TableColumn(
            "unseen",
            "Viewing only",
            lambda row, a: str(row.unseen) if row.unseen else "–",
            unit="cameras",
            align="right",
            width=130,
        ),
        TableColumn("places", "Places", lambda row, a: row.places, width=200, stretch=True),
    ]


# ---- power units -------------------------------------------------------------------------------------------------


OF_KIND: dict[str, UnitKind] = {
    "output": "supply",
    "length_m": "supply",
    "area_mm2": "supply",
    "poe_class": "injector",
    "battery_wh": "ups",
}
"""Fields that only one kind of power unit has."""


def _if_its_own(name: str, show: Callable[[PowerUnit], str]) -> Callable[[PowerUnit, Assessment], str]:
    """A dash where a unit of this kind has no such thing."""
    return lambda unit, a: show(unit) if OF_KIND.get(name, unit.kind) == unit.kind else "–"


def _unit_number(name: str, heading: str, unit: str, width: int) -> TableColumn:
    def edit(units: Sequence[PowerUnit], text: str, job: Job) -> Edit:
        try:
            value = number_from(text, unit)
        except ValueError as error:
            raise RefusedInput(heading, str(error)) from None
        whom = units[0].name if len(units) == 1 else f"{len(units)} power units"
        return set_unit([one.id for one in units], f"Set {inside(heading)} {text.strip()} on {whom}", **{name: value})

    show = _if_its_own(name, lambda one: figure(getattr(one, name), 6))
    return TableColumn(name, heading, show, edit, unit=unit, align="right", width=width)


def _unit_choice(name: str, heading: str, words: Mapping[Any, str], width: int) -> TableColumn:
    def edit(units: Sequence[PowerUnit], text: str, job: Job) -> Edit:
        value = _picked(text, words, heading)
        return set_unit([one.id for one in units], f"Set {inside(heading)} {words[value]}", **{name: value})

    show = _if_its_own(name, lambda one: words[getattr(one, name)])
    return TableColumn(name, heading, show, edit, lambda one, job: list(words.values()), width=width)


def _unit_text(name: str, heading: str, width: int) -> TableColumn:
    def edit(units: Sequence[PowerUnit], text: str, job: Job) -> Edit:
        return set_unit([one.id for one in units], f"Set {inside(heading)}", **{name: text.strip()})

    return TableColumn(name, heading, lambda one, a: getattr(one, name), edit, width=width, one_by_one=name == "name")


def _feeds(unit: PowerUnit, assessment: Assessment) -> str:
    return ", ".join(assessment.facts.name(device_id) for device_id in unit.feeds)


def _set_feeds(units: Sequence[PowerUnit], text: str, job: Job) -> Edit:
    """Devices by name, apart by commas."""
    by_name = {device.name.casefold(): device.id for device in job.devices()}
    ids = []
    for name in (part.strip() for part in text.split(",")):
        if name and name.casefold() not in by_name:
            raise RefusedInput("Feeds", f"{name!r} is not a device of this job; write exact names, separated by commas")
        if name:
            ids.append(by_name[name.casefold()])
    return set_unit([one.id for one in units], f"Set the devices of {units[0].name}", feeds=tuple(dict.fromkeys(ids)))


def _unit_load(unit: PowerUnit, assessment: Assessment) -> str:
    facts = assessment.facts
    if unit.kind == "ups":
        return fixed(ups_figures(unit, facts.by_device_id, facts.topology.supplies).load_w, 0)
    supply = facts.topology.supplies.get(unit.id)
    return "–" if supply is None else fixed(supply.draw_w, 0)


def _unit_left(unit: PowerUnit, assessment: Assessment) -> str:
    """Minutes of a battery, volts at the end of a supply's wires."""
    facts = assessment.facts
    if unit.kind == "ups":
        minutes = ups_figures(unit, facts.by_device_id, facts.topology.supplies).minutes
        return "–" if minutes is None else f"{figure(minutes)} min"
    supply = facts.topology.supplies.get(unit.id)
    if unit.kind == "injector" or supply is None:
        return "–"
    run = supply_run(unit, supply.draw_w, leads_outdoors(unit, facts.by_device_id))
    return "none" if run.settled is None else f"{fixed(run.settled.device_v, 1)} V"


def unit_columns() -> list[TableColumn]:
    """Injectors, power supplies and batteries: what they feed, what that takes, what is left of it."""
    return [
        _unit_text("name", "Name", 150),
        _unit_choice("kind", "Kind", UNIT_WORDS, 110),
        TableColumn("feeds", "Feeds", _feeds, _set_feeds, width=190),
        TableColumn(
            "load",
            "Takes",
            _unit_load,
            unit="W",
            align="right",
            width=70,
            working=lambda unit: FigureRef("unit", unit.id),
        ),
        _unit_number("budget_w", "Gives", "W", 70),
        TableColumn(
            "left",
            "Runtime or voltage",
            _unit_left,
            align="right",
            width=104,
            working=lambda unit: FigureRef("unit", unit.id),
        ),
        _unit_choice("output", "Output", {output: output for output in get_args(PowerInput)}, 80),
        _unit_number("poe_class", "PoE class", "", 52),
        _unit_number("battery_wh", "Battery", "Wh", 84),
        _unit_number("length_m", "Wire", "m", 64),
        _unit_number("area_mm2", "Wire", "mm²", 78),
        _unit_text("place", "Place", 96),
        _unit_text("note", "Note", 110),
    ]


# ---- kinds and parts ---------------------------------------------------------------------------------------------


def _kind_number(name: str, heading: str, unit: str, width: int) -> TableColumn:
    def edit(kinds: Sequence[DeviceType], text: str, job: Job) -> Edit:
        try:
            value = number_from(text, unit)
        except ValueError as error:
            raise RefusedInput(heading, str(error)) from None
        return set_kind(job, kinds[0].id, f"Set {inside(heading)} {text.strip()} of a type", {name: value})

    return TableColumn(
        name,
        heading,
        lambda kind, a: figure(getattr(kind, name), 6),
        edit,
        unit=unit,
        align="right",
        width=width,
        one_by_one=True,
    )


def _set_label(kinds: Sequence[DeviceType], text: str, job: Job) -> Edit:
    return set_kind(job, kinds[0].id, f"Name a type {text.strip()[:30]}", {"label": text.strip()})


def _is_own(kind: DeviceType, assessment: Assessment) -> str:
    return "this job" if kind.id in {own.id for own in assessment.job.device_types} else "program's"


def kind_columns() -> list[TableColumn]:
    """Device kinds: what a device of the kind has. Editing one makes it this job's own."""
    return [
        TableColumn("label", "Device type", lambda kind, a: kind.label, _set_label, width=300, one_by_one=True),
        TableColumn("own", "Whose", _is_own, width=84),
        TableColumn("role", "Is a", lambda kind, a: kind.role, width=64),
        _kind_number("ports", "Ports", "", 64),
        _kind_number("poe_ports", "Powered", "", 70),
        _kind_number("port_mbps", "Speed", "Mb/s", 90),
        _kind_number("budget_w", "Budget", "W", 82),
        _kind_number("poe_port_class", "Port PoE class", "", 86),
        _kind_number("own_w", "Own power", "W", 104),
    ]


class ListedPart(NamedTuple):
    """A line of the parts list as a row of a table."""

    id: str
    part: Part

    @property
    def group(self) -> str:
        """The group under which it stands."""
        return self.part.group


def part_columns() -> list[TableColumn]:
    """What, how much, of which unit, and a note."""
    return [
        TableColumn("what", "What", lambda row, a: row.part.what, width=400),
        TableColumn("quantity", "Quantity", lambda row, a: figure(row.part.quantity, 9), align="right", width=84),
        TableColumn("unit", "Unit", lambda row, a: row.part.unit, width=64),
        TableColumn("note", "Note", lambda row, a: row.part.note, width=260, stretch=True),
    ]
