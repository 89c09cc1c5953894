"""What differs between two states of a job, in words, and what each difference costs by itself.

Differences are those of the whole job (``job/differences``); devices with one change stand together. A change is worked out by
making it alone on the earlier state and assessing that.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator
from datetime import date
from typing import Any, NamedTuple

from eager_lens.core.assess.assessment import Assessment, assess
from eager_lens.core.assess.figures import days_words
from eager_lens.core.assess.finding import Severity
from eager_lens.core.errors import RefusedInput
from eager_lens.core.exchange.texts import t
from eager_lens.core.job.changes import DEVICE_MODELS
from eager_lens.core.job.differences import KEYS, ORDER, RECORDS, WHOLE, Difference, Key, differences, with_differences
from eager_lens.core.job.fields import CAMERA_FIELDS, NETWORK_FIELDS, RECORDER_FIELDS, DeviceField
from eager_lens.core.job.model import Job, Link, Registration
from eager_lens.core.plain_text import sentence_case
from eager_lens.core.recording.week import MODES, WeekPlan, schedule_hours
from eager_lens.core.units import figure
from eager_lens.core.validation import Plain

MOST_ALONE = 24
"""So many changes are worked out by themselves, those of most parts first."""

MOST_NEW_FINDINGS = 2

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
    "dbi": "dBi", "deg": "°", "px": "px", "ppm": "ppm",
}  # fmt: skip
"""Units by the end of a field's name."""


HEADINGS = {
    "least_days": t("visit.minimum_retention"),
    "most_days": t("visit.maximum_retention"),
    "plan": t("visit.week"),
    "alarms": t("visit.alarm_hours"),
    "registered": t("visit.registered_on"),
    "cidr": t("visit.subnet"),
    "instead_of": t("visit.instead_of"),
}
"""Headings of fields that are not called what people call them."""


class Since(NamedTuple):
    """A difference, of one part or of several alike.

    Attributes:
        list: the job's field. what: the field's heading, or that parts came or went. before, now: in words, empty where they say
            nothing. parts: what it is about, by name. ids: the same by id. found: the differences themselves.
        days: promised of the recorder that it costs most, before and with this alone; None where it changes none. findings: new
            faults and warnings that it alone brings. worked_out: whether that was asked. since: the date, from the event log.
    """

    list: str
    what: str
    before: str
    now: str
    parts: tuple[str, ...]
    ids: tuple[str, ...]
    found: tuple[Difference, ...]
    days: tuple[float, float] | None = None
    findings: tuple[str, ...] = ()
    worked_out: bool = False
    since: date | None = None


def changed_since(before: Assessment, now: Assessment) -> list[Since]:
    """How the plan differs, the costliest first. What was done and found on the job is told by ``recorded_since``."""
    said = _Said(before.job, now.job)
    groups: dict[tuple[str, str, str, str], list[tuple[str, str, tuple[Difference, ...]]]] = {}
    for key, found in _by_part(one for one in differences(before.job, now.job) if one.list not in RECORDS):
        for what, was, is_now, ones in said.rows(found):
            groups.setdefault((key[0], what, was, is_now), []).append((said.part(*key), _id(key[1]), ones))
    rows = [
        Since(name, what, was, is_now, tuple(part for part, _, _ in parts), tuple(one for _, one, _ in parts), tuple(
            one for _, _, ones in parts for one in ones))
        for (name, what, was, is_now), parts in groups.items()
    ]  # fmt: skip
    rows.sort(key=lambda one: -len(one.parts))
    rows = [_worked_out(before, one) if at < MOST_ALONE else one for at, one in enumerate(rows)]
    rows.sort(key=lambda one: (_loss(one), -len(one.findings), -len(one.parts)))
    return rows


def recorded_since(before: Job, now: Job) -> dict[str, tuple[int, int]]:
    """By list of what was done and found: how many entries are new or other, and how many are gone."""
    new, gone = Counter[str](), Counter[str]()
    for (name, _), found in _by_part(one for one in differences(before, now) if one.list in RECORDS):
        is_gone = found[0].field == WHOLE and found[0].now is None
        (gone if is_gone else new)[name] += 1
    return {name: (new[name], gone[name]) for name in (*new, *gone)}


def _loss(one: Since) -> float:
    return one.days[1] - one.days[0] if one.days else 0.0


def _id(key: Key) -> str:
    return str(key[0]) if key else ""


def _by_part(found: Iterable[Difference]) -> Iterator[tuple[tuple[str, Key], list[Difference]]]:
    parts: dict[tuple[str, Key], list[Difference]] = {}
    for one in found:
        parts.setdefault((one.list, one.key), []).append(one)
    yield from parts.items()


def _worked_out(before: Assessment, row: Since) -> Since:
    """What a change alone makes of the earlier state."""
    try:
        after = assess(with_differences(before.job, row.found), before)
    except RefusedInput:
        return row  # alone it cannot be, as one end of a link without the other
    worst: tuple[float, float] | None = None
    for recorder in before.job.recorders:
        was, now = before.facts.recorder_figures[recorder.id], after.facts.recorder_figures.get(recorder.id)
        if now is None or was.promised_days is None or now.promised_days is None:
            continue
        pair = (was.promised_days, now.promised_days)
        differs = days_words(pair[0], was.keeps) != days_words(pair[1], now.keeps)
        if differs and (worst is None or pair[1] - pair[0] < worst[1] - worst[0]):
            worst = pair
    had = Counter(one.code for one in before.findings)
    new = [
        one
        for one in after.findings
        if one.severity in (Severity.FAULT, Severity.WARNING)
        and one.code not in had
    ]  # fmt: skip
    words = tuple(f"{one.severity.word}: {one.title}" for one in new[:MOST_NEW_FINDINGS])
    return row._replace(days=worst, findings=words, worked_out=True)


class _Said:
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
            yield "", "", t("visit.new") if one.before is None else t("visit.gone"), (one,)
            return
        if one.list in DEVICE_MODELS:
            yield from self._device_rows(one.list, one.key, left)
        for field, difference in left.items():
            was, is_now = self._values(difference.before, difference.now, field)
            yield self._heading(difference), was, is_now, (difference,)

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
            words = [f"{text}{unit}" if text else t("visit.none") for text in (was, is_now)]
            yield column.heading, words[0], words[1], tuple(left.pop(field) for field in fields)

    def _heading(self, one: Difference) -> str:
        if one.field == ORDER:
            return t("visit.order")
        name = one.field or one.list
        return HEADINGS.get(name) or sentence_case(_spaced(name))

    def _values(self, was: Any, is_now: Any, field: str) -> tuple[str, str]:
        """Two values in words; of parts within parts only what differs."""
        if isinstance(was, WeekPlan) or isinstance(is_now, WeekPlan):
            words = (_hours(was), _hours(is_now))
            return words if words[0] != words[1] else (words[0], t("visit.other_hours"))
        if isinstance(was, Plain) and isinstance(is_now, Plain):
            names = [name for name in type(is_now).model_fields if getattr(was, name, None) != getattr(is_now, name)]
            return tuple(
                ", ".join(f"{_spaced(name)} {self._value(getattr(one, name, None), name)}" for name in names)
                for one in (was, is_now)
            )  # type: ignore[return-value]
        words = (self._value(was, field), self._value(is_now, field))
        return words if words[0] != words[1] else (words[0], t("visit.another"))

    def _value(self, value: Any, field: str) -> str:
        if value is None or value in ("", ()):
            return t("visit.none")
        if isinstance(value, bool):
            return t("visit.yes") if value else t("visit.no")
        if isinstance(value, int | float):
            if field.endswith("_share"):
                return f"{figure(100 * value)} %"
            unit = UNITS.get(field.rpartition("_")[2], "") if "_" in field else ""
            return f"{figure(value, 6)} {unit}".rstrip()
        if isinstance(value, str):
            return self._names.get(value, value)[:80]
        if isinstance(value, Registration):
            return f"{self._names.get(value.recorder, value.recorder)}, {t('visit.channel', channel=value.channel)}"
        if isinstance(value, Plain):
            return t("visit.given")
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
