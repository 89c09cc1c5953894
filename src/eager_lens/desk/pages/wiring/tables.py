"""The columns of the Wiring page's tables: cameras with their runs, what feeds them, and the links between."""

from __future__ import annotations

from collections.abc import Sequence

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.figures import run_figures
from eager_lens.core.assess.finding import Severity
from eager_lens.core.assess.working import FigureRef
from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.edits import Edit
from eager_lens.core.job.fields import CAMERA_FIELDS, NETWORK_FIELDS, RECORDER_FIELDS, field_named, number_from
from eager_lens.core.job.model import Camera, Device, Job, Link, NetworkDevice, Recorder
from eager_lens.core.job.wiring import put_on, set_link, unplug_cameras
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
    "power_class": 48,
    "power_w": 70,
    "make": 104,
    "hardware_address": 134,
    "serial": 90,
    "role": 64,
    "kind": 250,
    "ports": 64,
    "powered_ports": 66,
    "budget_w": 78,
}


def suppliers(job: Job) -> tuple[NetworkDevice | Recorder, ...]:
    """What devices can be plugged into."""
    return (*job.network, *job.recorders)


# ---- cameras -----------------------------------------------------------------------------------------------------


def _volts(camera: Camera, assessment: Assessment) -> str:
    run = run_figures(camera)
    return "–" if run is None else "none" if run.device_v is None else fixed(run.device_v, 1)


def _volts_mark(camera: Camera, assessment: Assessment) -> Mark:
    run = run_figures(camera)
    return None if run is None or run.voltage_ok else Severity.FAULT


VOLTS = TableColumn(
    "volts",
    "At the end",
    _volts,
    unit="V",
    align="right",
    width=92,
    assumed=lambda camera, assessment: run_figures(camera) is not None,
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


def _hang(cameras: Sequence[Camera], text: str, job: Job) -> Edit:
    """Plug cameras into what was named; an empty text unplugs them."""
    wanted = text.rpartition(",")[0].strip() if text.rpartition(",")[2].strip().isdigit() else text.strip()
    if not wanted:
        return unplug_cameras(camera.id for camera in cameras)
    for device in suppliers(job):
        if device.name.casefold() == wanted.casefold():
            return put_on(job, [camera.id for camera in cameras], device.id)
    names = ", ".join(device.name for device in suppliers(job)) or "none yet"
    raise RefusedInput("On", f"{wanted!r} is no switch, bridge or recorder of this job; there are {names}")


def _choices(camera: Camera, job: Job) -> Sequence[str]:
    return [device.name for device in suppliers(job)]


ON = TableColumn("on", "On, socket", _hangs_on, _hang, _choices, width=130)


def camera_columns() -> list[TableColumn]:
    """Name, place, what it hangs on, its run, its power, its label."""
    first, run = ("name", "place"), ("cable_m", "power_class", "power_w")
    # What is judged stands before what is seldom changed, so that it is seen without scrolling.
    rest = ("awg", "cable_material", "outdoor", "make", "hardware_address", "serial", "note")
    return [*_fields(CAMERA_FIELDS, first), ON, *_fields(CAMERA_FIELDS, run), VOLTS, *_fields(CAMERA_FIELDS, rest)]


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
    return str(len(assessment.facts.stops.get(part.id, ())))


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
    """Name, sockets and power, what it draws, what stops with it, size and label."""
    first, label = ("name", "role", "ports", "powered_ports", "budget_w"), ("kind", "place", "serial", "note")
    return [*_fields(NETWORK_FIELDS, first), DRAW, STOPS, *_fields(NETWORK_FIELDS, label)]


def recorder_columns() -> list[TableColumn]:
    """Name, sockets and power, what stops with it, label."""
    first, label = (
        ("name", "place", "ports", "powered_ports", "budget_w"),
        ("make", "hardware_address", "serial", "note"),
    )
    return [*_fields(RECORDER_FIELDS, first), DRAW, STOPS, *_fields(RECORDER_FIELDS, label)]


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
        return set_link([link.id for link in links], f"Set {heading.lower()} {shown} on a link", **{name: value})

    return TableColumn(name, heading, show, edit, unit=unit, align="right", width=width)


def _set_medium(links: Sequence[Link], text: str, job: Job) -> Edit:
    medium = next((medium for medium in MEDIA if text.strip() and medium.startswith(text.strip().lower())), None)
    if medium is None:
        raise RefusedInput("Medium", f"{text.strip()!r} was given; allowed are {', '.join(MEDIA)}")
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
    """Both ends with their sockets, medium and length, what it carries and what is on it, what stops with it."""
    capacity = _number("capacity_mbps", "Carries", "Mb/s", 96, None)
    load = TableColumn(
        "load",
        "Load",
        _load,
        unit="Mb/s",
        align="right",
        width=110,
        assumed=lambda link, a: link.id in a.facts.topology.loads and bool(a.facts.with_trait["assumed rate"]),
        bar=_load_share,
        working=lambda link: FigureRef("load", link.id),
    )
    return [
        _end("a", "From"),
        _number("a_port", "Socket", "", 60, 0),
        _end("b", "To"),
        _number("b_port", "Socket", "", 60, 0),
        load,
        STOPS,
        TableColumn("medium", "Medium", lambda link, a: link.medium, _set_medium, lambda link, job: MEDIA, width=76),
        TableColumn("capacity_mbps", "Carries", _carries, capacity.edit, unit="Mb/s", align="right", width=96),
        _number("length_m", "Length", "m", 76, None),
    ]
