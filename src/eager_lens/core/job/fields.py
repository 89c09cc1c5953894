"""The fields of a device as people see and type them: heading, unit, text out, text in.

One description serves the tables of the window, pasting, import and export, so a column means the same everywhere.
Text typed by a person may carry its unit and a decimal comma; it becomes the value that the job keeps, or a
``RefusedInput`` says what is wrong with it.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, field, replace
from functools import lru_cache
from typing import Any, Literal, NamedTuple, get_args

from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.model import (
    MEASURED_WHEN,
    AddressAssignment,
    Attachment,
    Camera,
    FixedTo,
    Housing,
    Job,
    NetworkDevice,
    PowerInput,
    Registration,
    Thin,
    WantedPurpose,
)
from eager_lens.core.job.wiring import types_of
from eager_lens.core.reference.device_types import RadioEnd
from eager_lens.core.reference.resolutions import of_megapixels
from eager_lens.core.reference.roles import ROLES
from eager_lens.core.reference.streams import CODECS, QUALITIES, stream_assumptions
from eager_lens.core.sizing.control import RATE_CONTROLS
from eager_lens.core.sizing.drives import LEVEL_WORDS
from eager_lens.core.units import count, feet_in_m, figure

Align = Literal["left", "right"]


@dataclass(frozen=True)
class DeviceField:
    """One column.

    Attributes:
        id: its name in code; ``heading`` and ``unit`` as shown.
        show: the text of a device's value.
        parse: the job's field values for a text typed by a person; the old device is given for values in two parts.
        choices: the texts to select from, where there is a list.
        aliases: other headings under which it is found in people's lists, in lower case.
        units: other units a list may use, as factors to ``unit``.
    """

    id: str
    heading: str
    show: Callable[[Any, Job], str]
    parse: Callable[[str, Any, Job], dict[str, Any]]
    unit: str = ""
    align: Align = "left"
    choices: Callable[[Job], Sequence[str]] | None = None
    aliases: tuple[str, ...] = ()
    units: dict[str, float] = field(default_factory=dict)

    @property
    def heading_with_unit(self) -> str:
        """The heading as written to files: ``Rate, measured (Mb/s)``."""
        return f"{self.heading} ({self.unit})" if self.unit else self.heading


# Bounded digits: a cell with a million digits must fail fast instead of occupying int() or float().
_PLAIN_NUMBER = re.compile(r"\d{1,15}(\.\d{1,15})?", re.ASCII)
_NUMBER = re.compile(r"([+-]?)(\d[\d\s\u2009\u00a0']*)?(?:([.,])(\d*))?(?:[eE]([+-]?\d{1,3}))?", re.ASCII)


def number_from(text: str, unit: str = "") -> float:
    """A number as people write it: ``12``, ``0,5``, ``1 296.5``, ``1.299,00``, with or without its unit behind it; of metres also
    in feet and inches, as ``30'6"``.

    Raises:
        ValueError: when it is no number, or when a comma could set apart thousands as well as decimals.
    """
    bare = text.strip()
    if _PLAIN_NUMBER.fullmatch(bare):  # nearly every cell of a long list
        return float(bare)
    if unit == "m" and (length_m := feet_in_m(bare)) is not None:
        return length_m
    if unit and bare.lower().endswith(unit.lower()):
        bare = bare[: -len(unit)].strip()
    bare = _without_groups(bare)
    match = _NUMBER.fullmatch(bare)
    if not match or not (match[2] or match[4]):
        raise ValueError(f"{text.strip()!r} is not a number")
    sign, whole, mark, decimals, exponent = match.groups()
    # "4,096" is 4.096 in one country and 4096 in another; "0,096" can only be a decimal.
    if mark == "," and whole and len(decimals or "") == 3 and whole.lstrip("0"):
        raise ValueError(f"{text.strip()!r} is ambiguous; write it without a comma, or with a point")
    digits = re.sub(r"[^\d]", "", whole or "0")
    return float(f"{sign}{digits}.{decimals or 0}e{exponent or 0}")


def _without_groups(text: str) -> str:
    """A number with marks of both kinds, or with one of them twice, without those that set thousands apart."""
    points, commas = text.count("."), text.count(",")
    if not (points and commas) and points < 2 and commas < 2:
        return text
    # Of two different marks the last one is the decimal mark.
    thousands = "," if text.rfind(".") > text.rfind(",") else "."
    if points + commas > 1 and not (points and commas):
        thousands = "." if points else ","
    groups = text.split(thousands)
    # Groups of three only: "1.2.3" is no number with thousands, and stays as it is to be refused.
    grouped = all(len(group.partition("." if thousands == "," else ",")[0]) == 3 for group in groups[1:])
    return "".join(groups).replace(",", ".") if grouped else text


def _show_text(name: str) -> Callable[[Any, Job], str]:
    return lambda device, job: str(getattr(device, name))


def _show_number(name: str) -> Callable[[Any, Job], str]:
    def show(device: Any, job: Job) -> str:
        value = getattr(device, name)
        return "" if value is None else figure(value, 6)

    return show


def _text(id: str, heading: str, **more: Any) -> DeviceField:
    return DeviceField(id, heading, _show_text(id), lambda text, device, job: {id: text.strip()}, **more)


def _number(id: str, heading: str, unit: str, empty: Any = ..., **more: Any) -> DeviceField:
    def parse(text: str, device: Any, job: Job) -> dict[str, Any]:
        if not text.strip() and empty is not ...:
            return {id: empty}
        try:
            value = number_from(text, unit)
        except ValueError as error:
            raise RefusedInput(heading, f"{error}; enter a number in {unit}" if unit else str(error)) from None
        return {id: value}

    return DeviceField(id, heading, _show_number(id), parse, unit=unit, align="right", **more)


def _choice(id: str, heading: str, labels: Callable[[Job], dict[str, str]], **more: Any) -> DeviceField:
    """A field that holds a key and shows a label; both, and a label's beginning, are understood when typed."""
    extra: dict[str, str] = more.pop("spellings", {})

    def show(device: Any, job: Job) -> str:
        value = getattr(device, id)
        return _told(labels(job), value)

    def parse(text: str, device: Any, job: Job) -> dict[str, Any]:
        return {id: _selected(text, labels(job), extra, heading)}

    return DeviceField(id, heading, show, parse, choices=lambda job: list(labels(job).values()), **more)


class _Index(NamedTuple):
    """Labels and keys of a choice by how they are written: exactly but for their case, and without marks and spaces."""

    exact: dict[str, tuple[str, ...]]
    exact_keys: dict[str, str]
    plain: dict[str, tuple[str, ...]]
    plain_keys: dict[str, str]


@lru_cache(maxsize=256)
def _index(labels: tuple[tuple[str, str], ...]) -> _Index:
    exact: dict[str, tuple[str, ...]] = {}
    plain: dict[str, tuple[str, ...]] = {}
    for key, label in labels:
        exact[label.casefold()] = (*exact.get(label.casefold(), ()), key)
        plain[_plain(label)] = (*plain.get(_plain(label), ()), key)
    return _Index(exact, {key.casefold(): key for key, _ in labels}, plain, {_plain(key): key for key, _ in labels})


def _told(labels: dict[str, str], key: str) -> str:
    """The label of a key; where others have it too, with the key behind it, so that what is read again is the same one."""
    label = labels.get(key)
    if label is None:
        return f"{key} (missing)" if key else ""
    index, plain = _index(tuple(labels.items())), _plain(label)
    alike = len(index.plain[plain]) > 1 or index.plain_keys.get(plain, key) != key
    return f"{label} [{key}]" if key and (alike or _KEY_BEHIND.search(label)) else label


# "Yard [rec-2]": the key behind a name tells two recorders of one name apart, when shown and when read back.
_KEY_BEHIND = re.compile(r"\[([^\[\]]+)\]$")


def _selected(text: str, labels: dict[str, str], spellings: dict[str, str], heading: str) -> str:
    wanted = _plain(text)
    if not wanted and "" in labels:
        return ""
    bare = text.strip()
    behind = _KEY_BEHIND.search(bare)
    if behind is not None and behind[1] in labels:
        return behind[1]
    index = _index(tuple(labels.items()))
    # Exact spelling first: labels that differ only in blanks or case must still be told apart.
    for names, keys, told in (
        (index.exact, index.exact_keys, bare.casefold()),
        (index.plain, index.plain_keys, wanted),
    ):
        named = names.get(told, ())
        if len(named) > 1:
            which = ", ".join(_told(labels, key) for key in named[:6])
            raise RefusedInput(heading, f"several have the name {bare!r}; write which one: {which}")
        if named or told in keys:
            return named[0] if named else keys[told]
    if wanted in spellings:
        return spellings[wanted]
    # A unique beginning is enough when typed ("cont" for "continuous"); an ambiguous one is refused.
    begins = [key for key, label in labels.items() if wanted and _plain(label).startswith(wanted)]
    if len(begins) == 1:
        return begins[0]
    known = ", ".join(label for label in list(labels.values())[:12] if label) or "none yet"
    raise RefusedInput(heading, f"{text.strip()!r} is not in the list; allowed are {known}")


@lru_cache(maxsize=4096)
def _plain(text: str) -> str:
    return re.sub(r"[\s.\-_]", "", text).casefold()


_PICTURE = re.compile(r"(\d{2,5}) *(?:[x×*]|by) *(\d{2,5}) *(?:px)?", re.ASCII | re.IGNORECASE)
_MEGAPIXELS = re.compile(r"(\d{1,3}(?:[.,]\d{1,2})?) *(?:mp|mpx|megapixels?)", re.ASCII)
_BY_HEIGHT = {"720p": (1280, 720), "1080p": (1920, 1080), "1440p": (2560, 1440), "2160p": (3840, 2160)}


def _parse_picture(text: str, device: Any, job: Job) -> dict[str, Any]:
    short = text.strip().lower()
    if short in _BY_HEIGHT:
        width, height = _BY_HEIGHT[short]
    elif match := _PICTURE.fullmatch(text.strip()):
        width, height = int(match[1]), int(match[2])
    elif (match := _MEGAPIXELS.fullmatch(short)) and float(match[1].replace(",", ".")):
        size = of_megapixels(float(match[1].replace(",", ".")))
        if size is None:
            raise RefusedInput("Picture", f"no usual resolution has {match[1]} MP; write width × height in px")
        width, height = size
    else:
        raise RefusedInput(
            "Picture",
            f"{text.strip()!r} is not a resolution; write width × height in px, such as 1920×1080, or megapixels, such as 4 MP",
        )
    return {"width_px": width, "height_px": height}


PICTURES = ("640×360", "1280×720", "1920×1080", "2304×1296", "2560×1440", "2688×1520", "3072×2048", "3840×2160")


def _schedules(job: Job) -> dict[str, str]:
    return {"": "", **{schedule.id: schedule.name for schedule in job.schedules}}


def _subnets(job: Job) -> dict[str, str]:
    return {"": "", **{subnet.id: subnet.name for subnet in job.subnets}}


def _show_recorder(camera: Camera, job: Job) -> str:
    names = {recorder.id: recorder.name for recorder in job.recorders}
    told = (_told(names, place.recorder) for place in camera.registered)
    return ", ".join(
        f"{one} [{place.recorder}]" if "," in one and not _KEY_BEHIND.search(one) else one
        for one, place in zip(told, camera.registered, strict=True)
    )


def _show_channel(camera: Camera, job: Job) -> str:
    return ", ".join(str(place.channel) for place in camera.registered)


def _apart(text: str, labels: dict[str, str]) -> list[str]:
    """Names apart by commas, of which each may have commas of its own: cut so that every part is known, into as many as may be;
    at each comma where that cannot be."""
    known = {told.casefold() for key, label in labels.items() for told in (key, label, f"{label} [{key}]")}
    # The bound keeps the search below small: it tries every way to join pieces that contain commas.
    pieces = text.split(",")[:MOST_NAMES]

    def cut(at: int) -> list[str] | None:
        if at == len(pieces):
            return []
        for end in range(at + 1, len(pieces) + 1):
            part = ",".join(pieces[at:end]).strip()
            if part.casefold() in known and (rest := cut(end)) is not None:
                return [part, *rest]
        return None

    found = cut(0)
    return [piece.strip() for piece in pieces if piece.strip()] if found is None else found


MOST_NAMES = 16
"""A camera is on no more recorders than this; a longer text is no list of names."""


def _parse_recorder(text: str, camera: Camera, job: Job) -> dict[str, Any]:
    """Recorders by name, apart by commas; channels are kept where there were some, else left to be numbered."""
    labels = {recorder.id: recorder.name for recorder in job.recorders}
    old = {place.recorder: place.channel for place in camera.registered}
    ids = [_selected(part, labels, {}, "Recorder") for part in _apart(text, labels)]
    held = {place.channel for cam in job.cameras for place in cam.registered if place.recorder in ids}
    free = next(number for number in range(1, len(held) + 2) if number not in held)
    return {"registered": tuple(Registration(recorder=i, channel=old.get(i, free)) for i in ids)}


def _parse_channel(text: str, camera: Camera, job: Job) -> dict[str, Any]:
    parts = [part.strip() for part in text.split(",") if part.strip()]
    if len(parts) != len(camera.registered):
        raise RefusedInput(
            "Channel", f"enter {count(len(camera.registered), 'channel')}, one for each recorder of the camera"
        )
    try:
        numbers = [int(part) for part in parts]
    except ValueError:
        raise RefusedInput("Channel", f"{text.strip()!r} is not a channel number") from None
    return {
        "registered": tuple(
            place.model_copy(update={"channel": _in_range(number)})
            for place, number in zip(camera.registered, numbers, strict=True)
        )
    }


def _in_range(channel: int) -> int:
    if not 1 <= channel <= 1024:
        raise RefusedInput("Channel", f"{channel} was given; allowed is 1 to 1024")
    return channel


_CONTROL_SPELLINGS = {
    "constantquality": "VBR",
    "qualitycapped": "capped VBR",
    "maxvbr": "capped VBR",
    "constantrate": "CBR",
    "saveswhenquiet": "smart codec",
}

_CODEC_SPELLINGS = {"avc": "h264", "hevc": "h265", "264": "h264", "265": "h265", "motionjpeg": "mjpeg"}

_ASSIGNMENT_SPELLINGS = {
    "plannedbyhand": "static",
    "leasedthenfrozen": "static from a lease",
    "reservedintherouter": "DHCP reservation",
    "therecorder": "by the recorder",
    "reserved": "DHCP reservation",
    "none": "unmanaged",
    "noaddress": "unmanaged",
}

ADDRESS_ASSIGNMENTS: dict[str, str] = {assignment: assignment for assignment in get_args(AddressAssignment)}

IDENTITY: tuple[DeviceField, ...] = (
    _text("name", "Name", aliases=("camera", "camera name", "title", "label", "device", "device name", "description")),
    _text("place", "Place", aliases=("location", "room", "area", "zone", "building", "group")),
    _text("make", "Make", aliases=("manufacturer", "brand", "vendor", "maker", "model")),
    _choice("subnet", "Subnet", _subnets, aliases=("network", "lan", "vlan")),
    _text("address", "Address", aliases=("ip", "ip address", "ipv4", "ip addr", "ip-address")),
    _choice(
        "address_assignment",
        "Assignment",
        lambda job: ADDRESS_ASSIGNMENTS,
        aliases=("address type", "ip assignment", "dhcp", "given by"),
        spellings=_ASSIGNMENT_SPELLINGS,
    ),
    _text("mac_address", "MAC address", aliases=("mac", "mac-address", "hw address", "MAC address")),
    _text("serial", "Serial", aliases=("serial number", "serial no", "s/n", "sn")),
    _text("firmware", "Firmware", aliases=("firmware version", "software version", "fw")),
    _text("certificate_sha256", "Certificate", aliases=("certificate sha-256", "tls certificate", "fingerprint")),
    _text("note", "Note", aliases=("notes", "remark", "remarks", "comment", "comments")),
)

_TYPED_RATE = _number(
    "measured_mbps",
    "Bit rate, measured",
    "Mb/s",
    empty=None,
    aliases=("rate", "bit rate", "rate, measured", "bitrate", "measured rate", "mbps", "bandwidth"),
    units={"kb/s": 0.001, "kbps": 0.001, "kbit/s": 0.001, "mb/s": 1, "mbps": 1, "mbit/s": 1},
)


def _parse_measured(text: str, device: Any, job: Job) -> dict[str, Any]:
    """A rate typed in is no longer that of a clip, so the clip's range and name go."""
    own = {"measured_low_mbps": None, "measured_high_mbps": None, "measured_from": ""}
    return {**own, **_TYPED_RATE.parse(text, device, job)}


_MEASURED = replace(_TYPED_RATE, parse=_parse_measured)

_WHEN = _choice(
    "measured_when",
    "Measured when",
    lambda job: dict(MEASURED_WHEN.items()),
    aliases=("measured at", "read by", "bit rate read"),
    spellings={"both": "day and night", "24h": "day and night"},
)
_MEASURED_WHEN = replace(
    _WHEN, show=lambda camera, job: "" if camera.measured_mbps is None else _WHEN.show(camera, job)
)
"""Of a camera without a rate that was read there is nothing to say."""

_FOR = _number(
    "measured_min",
    "Measured for",
    "min",
    empty=None,
    aliases=("measured over", "read for", "minutes measured", "reading time"),
    units={"min": 1, "minutes": 1, "s": 1 / 60, "h": 60, "hours": 60},
)
_MEASURED_FOR = replace(_FOR, show=lambda camera, job: "" if camera.measured_mbps is None else _FOR.show(camera, job))

STREAM: tuple[DeviceField, ...] = (
    DeviceField(
        "picture",
        "Resolution",
        lambda camera, job: f"{camera.width_px}×{camera.height_px}",
        _parse_picture,
        unit="px",
        choices=lambda job: PICTURES,
        aliases=("picture", "picture size", "image size", "size"),
    ),
    _number(
        "fps", "Frame rate", "fps", aliases=("frames", "framerate", "frames per second", "fps", "images per second")
    ),
    _choice(
        "codec",
        "Codec",
        lambda job: stream_assumptions().codec_label,
        aliases=("compression", "encoding", "video codec", "format"),
        spellings=_CODEC_SPELLINGS,
    ),
    _number(
        "key_frame_s",
        "Key-frame interval",
        "s",
        aliases=(
            "key frame",
            "key-frame interval",
            "key frame interval",
            "keyframe",
            "keyframe interval",
            "gop",
            "i-frame interval",
        ),
        units={"ms": 0.001, "s": 1, "sec": 1, "seconds": 1},
    ),
    _choice(
        "quality", "Quality", lambda job: {quality: quality for quality in QUALITIES}, aliases=("picture quality",)
    ),
    _choice(
        "rate_control",
        "Rate control",
        lambda job: {control: control for control in RATE_CONTROLS},
        aliases=("bitrate mode", "rate mode"),
        spellings=_CONTROL_SPELLINGS,
    ),
    _number(
        "cap_mbps", "Bit rate cap", "Mb/s", empty=None, aliases=("cap", "max bit rate", "maximum bit rate", "rate cap")
    ),
    _choice(
        "scene",
        "Scene",
        lambda job: {scene.id: scene.label for scene in stream_assumptions().scenes.values()},
        aliases=("view", "scene type"),
    ),
    _MEASURED,
    _MEASURED_WHEN,
    _MEASURED_FOR,
    _number("card_gb", "Memory card", "GB", aliases=("card", "sd card", "card size")),
    _number("card_written_tb", "Card endurance", "TB", aliases=("card may be written", "tbw")),
    _number("substream_mbps", "Substream", "Mb/s", aliases=("sub stream", "substream", "second stream")),
)

THIN_WORDS: dict[str, str] = {thin: thin for thin in get_args(Thin)}
_THIN_SPELLINGS = {"smallstream": "substream"}

_SECONDS = {"s": 1.0, "sec": 1.0, "seconds": 1.0, "min": 60.0, "minutes": 60.0}


def _typed_events(field: DeviceField) -> DeviceField:
    """Events typed in are no longer those that were measured."""

    def parse(text: str, camera: Any, job: Job) -> dict[str, Any]:
        fields = field.parse(text, camera, job)
        is_same = all(getattr(camera, name) == value for name, value in fields.items())
        return fields if is_same else {"events_from": "", **fields}

    return replace(field, parse=parse)


RECORDING: tuple[DeviceField, ...] = (
    _choice("schedule", "Schedule", _schedules, aliases=("week", "recording schedule", "recording")),
    _typed_events(
        _number(
            "events_per_h",
            "Events an hour",
            "an hour",
            aliases=("events", "events per hour", "motion events per hour", "motion events per hour", "events/h"),
            units={"an hour": 1, "per hour": 1, "/h": 1, "per day": 1 / 24, "a day": 1 / 24, "/day": 1 / 24},
        )
    ),
    _typed_events(
        _number("event_s", "Event lasts", "s", aliases=("event length", "event duration", "duration"), units=_SECONDS)
    ),
    _number(
        "pre_recording_s",
        "Pre-recording",
        "s",
        aliases=("before", "pre", "pre-event", "seconds before", "pre record"),
        units=_SECONDS,
    ),
    _number(
        "post_recording_s",
        "Post-recording",
        "s",
        aliases=("after", "post", "post-event", "post-recording", "post record"),
        units=_SECONDS,
    ),
    _number(
        "inputs_per_h",
        "Alarm inputs an hour",
        "an hour",
        aliases=("inputs", "inputs an hour", "input events", "inputs per hour"),
        units={"an hour": 1, "per hour": 1, "/h": 1, "per day": 1 / 24, "a day": 1 / 24},
    ),
    _number(
        "input_pre_recording_s",
        "Alarm pre-recording",
        "s",
        empty=None,
        aliases=("before an input", "input before"),
        units=_SECONDS,
    ),
    _number(
        "input_post_recording_s",
        "Alarm post-recording",
        "s",
        empty=None,
        aliases=("after an input", "input after"),
        units=_SECONDS,
    ),
    _choice(
        "kept_between_events",
        "Between events",
        lambda job: THIN_WORDS,
        aliases=("between", "idle rate"),
        spellings=_THIN_SPELLINGS,
    ),
    _choice(
        "kept_when_off",
        "While off",
        lambda job: THIN_WORDS,
        aliases=("while off", "idle hours"),
        spellings=_THIN_SPELLINGS,
    ),
)


def _parse_cable(text: str, camera: Camera, job: Job) -> dict[str, Any]:
    """A length in metres, or in feet where the text says so."""
    if not text.strip():
        return {"cable_m": None}
    try:
        return {"cable_m": number_from(text, "m")}
    except ValueError as error:
        raise RefusedInput("Cable", f"{error}; enter a length in m, or in feet such as 30 ft or 30'6\"") from None


CABLE = DeviceField(
    "cable_m",
    "Cable",
    _show_number("cable_m"),
    _parse_cable,
    unit="m",
    align="right",
    aliases=("cable length", "cable run", "run", "length", "distance"),
    units={"m": 1, "metres": 1, "meters": 1, "ft": 0.3048, "feet": 0.3048},
)

MATERIAL_WORDS: dict[str, str] = {"copper": "solid copper", "cca": "CCA"}
_MATERIAL_SPELLINGS = {
    "copper-cladaluminium": "cca",
    "copperclad": "cca",
    "copperwaluminium": "cca",
    "coppercladaluminium": "cca",
}


def _outputs(job: Job) -> dict[str, str]:
    return {output: output for output in get_args(PowerInput)}


def _parse_class(text: str, camera: Camera, job: Job) -> dict[str, Any]:
    bare = text.strip().lower()
    if bare in ("", "-", "–", "none", "no"):
        return {"poe_class": None}
    try:
        return {"poe_class": number_from(bare.removeprefix("class").strip())}
    except ValueError as error:
        raise RefusedInput("PoE class", f"{error}; enter 0 to 8, or none for a camera without PoE") from None


_YES_SPELLINGS = {
    "y": "yes",
    "true": "yes",
    "1": "yes",
    "x": "yes",
    "outdoor": "yes",
    "n": "no",
    "false": "no",
    "0": "no",
}


def _yes_no(id: str, heading: str, **more: Any) -> DeviceField:
    def parse(text: str, device: Any, job: Job) -> dict[str, Any]:
        return {id: _selected(text or "no", {"yes": "yes", "no": "no"}, _YES_SPELLINGS, heading) == "yes"}

    def show(device: Any, job: Job) -> str:
        return "yes" if getattr(device, id) else "no"

    return DeviceField(id, heading, show, parse, choices=lambda job: ("yes", "no"), **more)


def _poe_class(**more: Any) -> DeviceField:
    def show(device: Any, job: Job) -> str:
        return "none" if device.poe_class is None else str(device.poe_class)

    return DeviceField("poe_class", "PoE class", show, _parse_class, align="right", **more)


RUN: tuple[DeviceField, ...] = (
    CABLE,
    _number("awg", "Gauge", "AWG", aliases=("awg", "wire gauge", "cable gauge")),
    _choice(
        "cable_material",
        "Conductor",
        lambda job: MATERIAL_WORDS,
        aliases=("wire", "cable material", "material"),
        spellings=_MATERIAL_SPELLINGS,
    ),
    _yes_no("outdoor", "Outdoors", aliases=("outdoor", "outside")),
    _yes_no(
        "surge_protected",
        "Surge protection",
        aliases=("surge", "surge part", "surge protection", "surge arrester", "earthed"),
    ),
    _poe_class(aliases=("class", "power class")),
    _number("power_w", "Power draw", "W", aliases=("draws", "power", "draw", "watts", "consumption", "power draw")),
    _choice("power_input", "Power input", _outputs, aliases=("lead takes", "voltage", "supply voltage", "lead")),
)

REGISTERED: tuple[DeviceField, ...] = (
    DeviceField(
        "recorder",
        "Recorder",
        _show_recorder,
        _parse_recorder,
        choices=lambda job: [recorder.name for recorder in job.recorders],
        aliases=("nvr", "recorded by", "server"),
    ),
    DeviceField("channel", "Channel", _show_channel, _parse_channel, align="right", aliases=("ch", "channel no")),
    _yes_no("motion_rule_on", "Motion rule on", aliases=("rule on", "motion detection", "motion detection", "motion")),
    _text("event_target", "Event server", aliases=("events go to", "event target", "alarm server", "notify")),
    _number("event_tcp_port", "Event TCP port", "", aliases=("events' port",)),
)

VIEW: tuple[DeviceField, ...] = (
    _number("sensor_width_mm", "Sensor width", "mm", aliases=("sensor", "imager width")),
    _number("focal_mm", "Focal length", "mm", aliases=("lens", "focal", "lens mm")),
    _number("mount_height_m", "Mounting height", "m", aliases=("mounted at", "height", "mounting height")),
    _choice(
        "housing", "Housing", lambda job: {one: one for one in get_args(Housing)}, aliases=("shape", "form factor")
    ),
    _choice(
        "fixed_to",
        "Fixed to",
        lambda job: {one: one for one in get_args(FixedTo)},
        aliases=("mounted on", "mounting surface"),
    ),
    _number(
        "target_m", "Target distance", "m", empty=None, aliases=("target at", "target distance", "subject distance")
    ),
    _number("importance", "Importance", "", aliases=("priority", "weight")),
    _number("least_fps", "Minimum frame rate", "fps", aliases=("least frame rate", "minimum fps", "min fps")),
    _choice(
        "purpose", "Purpose", lambda job: {purpose: purpose for purpose in get_args(WantedPurpose)}, aliases=("wanted",)
    ),
)

CAMERA_FIELDS: tuple[DeviceField, ...] = (*IDENTITY, *RUN, *STREAM, *VIEW, *RECORDING, *REGISTERED)

PORTS: tuple[DeviceField, ...] = (
    _number("ports", "Ports", ""),
    _number("poe_ports", "PoE ports", ""),
    _number("port_mbps", "Link speed", "Mb/s"),
    _number("budget_w", "PoE budget", "W"),
    _number("poe_port_class", "Port PoE class", ""),
    _number("own_w", "Own power", "W"),
)

RECORDER_FIELDS: tuple[DeviceField, ...] = (
    *IDENTITY,
    *PORTS,
    _number("channels", "Channels", ""),
    _choice("attachment", "Cameras on", lambda job: {one: one for one in get_args(Attachment)}),
    _choice("camera_interface_subnet", "Camera subnet", _subnets),
    _text("camera_interface_address", "Camera interface address"),
    _yes_no("takes_events", "Accepts events"),
    _number("pre_recording_memory_mb", "Pre-recording memory", "MB", empty=None),
    _number("event_tcp_port", "Event TCP port", "", aliases=("events' port",)),
    _number("incoming_limit_mbps", "Incoming limit", "Mb/s"),
    _number("outgoing_limit_mbps", "Outgoing limit", "Mb/s"),
    _yes_no("fetches_substreams", "Fetches substreams"),
    _number("largest_megapixels", "Highest resolution", "megapixels"),
    DeviceField(
        "codecs",
        "Codecs",
        lambda recorder, job: ", ".join(stream_assumptions().codec_label[codec] for codec in recorder.codecs),
        lambda text, recorder, job: {
            "codecs": tuple(
                codec
                for codec in CODECS
                if codec
                in {
                    _selected(part, stream_assumptions().codec_label, _CODEC_SPELLINGS, "Codecs")
                    for part in text.split(",")
                    if part.strip()
                }
            )
        },
    ),
    _number("bays", "Bays", ""),
    _number("largest_drive_tb", "Largest drive", "TB", None),
    _number("drives", "Drives", ""),
    _number("drive_tb", "Drive size", "TB"),
    _choice("raid_level", "RAID level", lambda job: LEVEL_WORDS),
    _number("hot_spares", "Hot spares", ""),
    DeviceField(
        "reserve_share",
        "Reserve",
        lambda recorder, job: figure(100 * recorder.reserve_share),
        lambda text, recorder, job: {"reserve_share": _percent(text)},
        unit="%",
        align="right",
    ),
    _number("erase_after_days", "Erased after", "days", None),
    _number("drive_rated_tb_per_year", "Drive workload", "TB a year", aliases=("workload rating",)),
    _number("rebuild_mb_per_s", "Rebuild speed", "MB/s"),
    _number("drive_failures_per_year", "Drive failures", "a year"),
)


def _type_labels(job: Job) -> dict[str, str]:
    return {"": "", **{kind.id: kind.label for kind in types_of(job).values()}}


def _parse_type(text: str, device: NetworkDevice, job: Job) -> dict[str, Any]:
    """A type brings its role, ports and power; they can be typed over afterwards."""
    found = types_of(job).get(_selected(text, _type_labels(job), {}, "Type"))
    return {"device_type": ""} if found is None else found.fits()


NETWORK_FIELDS: tuple[DeviceField, ...] = (
    *IDENTITY,
    DeviceField(
        "device_type",
        "Type",
        lambda device, job: _type_labels(job).get(device.device_type, f"{device.device_type} (unknown)"),
        _parse_type,
        choices=lambda job: list(_type_labels(job).values()),
    ),
    *PORTS,
    _choice("role", "Role", lambda job: {role: role for role in ROLES if role not in ("recorder", "camera")}),
    _choice("radio_end", "Wireless bridge", lambda job: {end: end for end in get_args(RadioEnd)}),
    _poe_class(),
    _number("power_w", "Power draw", "W"),
    _number("wan_port", "WAN port", ""),
    _number("upload_mbps", "Internet upload", "Mb/s", empty=None),
    _number("viewed_streams", "Views", "streams"),
    _yes_no("views_main_streams", "Views main streams"),
    _yes_no("spanning_tree", "Spanning tree"),
)


def _percent(text: str) -> float:
    try:
        return number_from(text, "%") / 100
    except ValueError as error:
        raise RefusedInput("Reserve", f"{error}; enter a number in %") from None


def field_named(fields: Iterable[DeviceField], field_id: str) -> DeviceField:
    """The field of this id.

    Raises:
        KeyError: when there is none.
    """
    for candidate in fields:
        if candidate.id == field_id:
            return candidate
    raise KeyError(field_id)
