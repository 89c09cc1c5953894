"""Two runs of the same site: what changed from the earlier to the later."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import NamedTuple

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.site_check.consequences import KeptDays
from eager_lens.core.site_check.readings import CheckRun, DeviceRead
from eager_lens.core.site_check.stream_texts import duration_words
from eager_lens.core.site_check.verdicts import Row, rows_of
from eager_lens.core.units import figure

RATE_CHANGED_SHARE = 0.2
CLOCK_CHANGED_S = 2.0


class SiteChange(NamedTuple):
    """What changed at a device or stranger; ``better``: what was wrong is right now (None: neither)."""

    row_id: str
    name: str
    words: str
    better: bool | None


def changes(
    assessment: Assessment, earlier: CheckRun, later: CheckRun, days: Sequence[KeptDays] | None = None
) -> list[SiteChange]:
    """What changed between two runs, what got worse first. ``days``: of the later one, where they are worked out already."""
    before, after = _by_who(rows_of(assessment, earlier)), _by_who(rows_of(assessment, later, days))
    found: list[SiteChange] = []
    for who in {**before, **after}:
        found += _changes(who, before.get(who), after.get(who), earlier, later)
    return sorted(found, key=lambda one: (one.better is True, one.better is None, one.name.lower()))


def _by_who(rows: list[Row]) -> dict[str, Row]:
    """Rows by what they are about: a device, or a stranger by its MAC address or address."""
    found: dict[str, Row] = {}
    for row in rows:
        who = row.device.id if row.device is not None else f"stranger {row.found}"
        found.setdefault(who, row)
    return found


def _changes(
    who: str, before: Row | None, after: Row | None, earlier: CheckRun, later: CheckRun
) -> Iterator[SiteChange]:
    if before is None and after is not None:
        yield SiteChange(after.id, after.name, f"New here: {after.found}.", None if after.device is None else False)
        return
    if after is None:
        assert before is not None
        yield SiteChange(before.id, before.name, f"No longer heard: {before.found}.", None)
        return
    assert before is not None
    old, new = ({line.code: line for line in row.lines} for row in (before, after))
    for code in new.keys() - old.keys():
        yield SiteChange(after.id, after.name, f"New: {new[code].words}", False)
    for code in old.keys() - new.keys():
        if after.asked or before.asked == after.asked:
            yield SiteChange(after.id, after.name, f"Gone: {old[code].words}", True)
    one, other = earlier.of_device(who), later.of_device(who)
    if one is not None and other is not None:
        yield from (SiteChange(after.id, after.name, words, None) for words in _figures(one, other))


def _figures(one: DeviceRead, other: DeviceRead) -> Iterator[str]:
    if one.address != other.address:
        yield f"It moved from {one.address} to {other.address}."
    a, b = one.main, other.main
    if a is not None and b is not None and a.outcome == b.outcome == "opened":
        if a.mean_mbps > 0 and abs(b.mean_mbps / a.mean_mbps - 1) > RATE_CHANGED_SHARE:
            yield f"It sends {figure(b.mean_mbps)} Mb/s, {figure(a.mean_mbps)} before."
        if abs(a.fps - b.fps) > 0.5:
            yield f"It sends {figure(b.fps)} fps, {figure(a.fps)} before."
    if one.clock_off_s is not None and other.clock_off_s is not None:
        drift_s = other.clock_off_s - one.clock_off_s
        if abs(drift_s) > CLOCK_CHANGED_S:
            way = "gained" if drift_s > 0 else "lost"
            yield f"Its clock {way} {duration_words(abs(drift_s))}."
