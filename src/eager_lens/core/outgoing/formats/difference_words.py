"""Differences between two states of a job in words: whose, of what, from what to what."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from eager_lens.core.job.changes import DEVICE_MODELS
from eager_lens.core.job.differences import KEYS, ORDER, WHOLE, Difference, Key
from eager_lens.core.job.fields import CAMERA_FIELDS, NETWORK_FIELDS, RECORDER_FIELDS, DeviceField
from eager_lens.core.job.model import Job, Link, Registration
from eager_lens.core.plain_text import sentence_case
from eager_lens.core.recording.week import MODES, WeekPlan, schedule_hours
from eager_lens.core.units import figure
from eager_lens.core.validation import Plain

FIELDS_OF: dict[str, tuple[DeviceField, ...]] = {
    "cameras": CAMERA_FIELDS,
    "recorders": RECORDER_FIELDS,
    "network": NETWORK_FIELDS,
}

MADE_OF = {"picture": ("width_px", "height_px")}
"""Columns that show more than one field of a device."""

SHOWN_WHOLE = frozenset({"recorder", "channel"})
"""Columns of one field of a device, which is told as one."""

UNITS = {
    "mbps": "Mb/s", "tb": "TB", "gb": "GB", "mb": "MB", "m": "m", "mm": "mm", "mm2": "mm²", "w": "W", "wh": "Wh", "v": "V",
    "s": "s", "min": "min", "h": "h", "days": "days", "months": "months", "ghz": "GHz", "mhz": "MHz", "db": "dB", "dbm": "dBm",
    "dbi": "dBi", "deg": "°", "px": "px", "ppm": "ppm", "fps": "fps",
}  # fmt: skip
"""Units by the end of a field's name."""


HEADINGS = {
    "least_days": "Minimum retention",
    "most_days": "Maximum retention",
    "plan": "Week",
    "alarms": "Alarm hours",
    "registered": "Registered on",
    "cidr": "Subnet",
    "instead_of": "Instead of",
}
"""Headings of fields that are not called what people call them."""


class DifferenceWords:
    """Names and values of two states in words."""

    def __init__(self, before: Job, now: Job) -> None:
        self.before, self.now = before, now
        self._names: dict[str, str] = {}
        for job in (before, now):
            for name in (
                "network",
                "recorders",
                "cameras",
                "power_units",
                "schedules",
                "subnets",
                "exceptions",
                "rules",
            ):
                self._names.update((part.id, part.name) for part in getattr(job, name))
            self._names.update((one.id, self._link(one)) for one in job.links)
            self._names.update((one.id, one.text[:60]) for one in job.snags)

    def _link(self, link: Link) -> str:
        return f"{self._names.get(link.a, link.a)} – {self._names.get(link.b, link.b)}"

    def part(self, name: str, key: Key) -> str:
        """What a difference is about."""
        if not key:
            return _spaced(name)
        if name in KEYS:
            return " ".join(str(one) for one in key if one)
        return self._names.get(key[0], str(key[0]))

    def rows(self, found: list[Difference]) -> Iterator[tuple[str, str, str, tuple[Difference, ...]]]:
        """Heading, words before, words now, and the differences behind it, for the differences of one part."""
        left = {one.field: one for one in found}
        one = found[0]
        if one.field == WHOLE and one.key:
            yield "", "", "new" if one.before is None else "gone", (one,)
            return
        if one.list in DEVICE_MODELS:
            yield from self._device_rows(one.list, one.key, left)
        for field, difference in left.items():
            was, is_now = self.values(difference.before, difference.now, field)
            yield self.heading(difference), was, is_now, (difference,)

    def _device_rows(
        self, name: str, key: Key, left: dict[str, Difference]
    ) -> Iterator[tuple[str, str, str, tuple[Difference, ...]]]:
        """What the columns of a device show of it; what they do not show stays in ``left``."""
        before, now = (next(one for one in getattr(job, name) if one.id == key[0]) for job in (self.before, self.now))
        for column in FIELDS_OF[name]:
            fields = [field for field in MADE_OF.get(column.id, (column.id,)) if field in left]
            if column.id in SHOWN_WHOLE or not fields:
                continue
            was, is_now = column.show(before, self.before), column.show(now, self.now)
            if was == is_now:
                continue
            unit = f" {column.unit}" if column.unit else ""
            words = [f"{text}{unit}" if text else "none" for text in (was, is_now)]
            yield column.heading, words[0], words[1], tuple(left.pop(field) for field in fields)

    def heading(self, one: Difference) -> str:
        """What of a part differs; empty where it is the part itself."""
        if one.field == ORDER:
            return "Order"
        column = next((each for each in FIELDS_OF.get(one.list, ()) if each.id == one.field), None)
        if column is not None:
            return column.heading
        name = one.field or one.list
        return HEADINGS.get(name) or sentence_case(_spaced(name))

    def values(self, was: Any, is_now: Any, field: str) -> tuple[str, str]:
        """Two values in words; of parts within parts only what differs."""
        if isinstance(was, WeekPlan) or isinstance(is_now, WeekPlan):
            words = (_hours(was), _hours(is_now))
            return words if words[0] != words[1] else (words[0], "at other hours")
        if isinstance(was, Plain) and isinstance(is_now, Plain):
            names = [name for name in type(is_now).model_fields if getattr(was, name, None) != getattr(is_now, name)]
            return tuple(
                ", ".join(f"{_spaced(name)} {self._value(getattr(one, name, None), name)}" for name in names)
                for one in (was, is_now)
            )  # type: ignore[return-value]
        words = (self._value(was, field), self._value(is_now, field))
        return words if words[0] != words[1] else (words[0], "another")

    def _value(self, value: Any, field: str) -> str:
        if value is None or value in ("", ()):
            return "none"
        if isinstance(value, bool):
            return "yes" if value else "no"
        if isinstance(value, int | float):
            if field.endswith("_share"):
                return f"{figure(100 * value)} %"
            unit = UNITS.get(field.rpartition("_")[2], "")
            return f"{figure(value, 6)} {unit}".rstrip()
        if isinstance(value, str):
            return self._names.get(value, value)[:80]
        if isinstance(value, Registration):
            return f"{self._names.get(value.recorder, value.recorder)}, channel {value.channel}"
        if isinstance(value, Plain):
            return "given"
        if isinstance(value, tuple):
            parts = [self._value(one, field) for one in value[:4]]
            return ", ".join(parts) + (f" +{len(value) - 4}" if len(value) > 4 else "")
        return str(value)


def _hours(plan: WeekPlan | None) -> str:
    hours = schedule_hours(plan or WeekPlan())
    return ", ".join(f"{mode} {figure(hours[mode])} h" for mode in MODES if hours[mode])


def _spaced(name: str) -> str:
    """A field's name as words, its unit left to the value."""
    words = name.split("_")
    if len(words) > 1 and (words[-1] in UNITS or words[-1] == "share"):
        words.pop()
    return " ".join(words)
