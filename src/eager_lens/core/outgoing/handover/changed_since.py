"""What differs between two states of a job, in words, and what each difference costs by itself.

Differences are those of the whole job (``job/differences``); devices with one change stand together. A change is worked out by
making it alone on the earlier state and assessing that.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable
from datetime import date
from typing import NamedTuple

from eager_lens.core.assess.assessment import Assessment, assess
from eager_lens.core.assess.figures.devices import days_words
from eager_lens.core.assess.finding import Severity
from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.differences import RECORDS, WHOLE, Difference, Key, differences, with_differences
from eager_lens.core.job.model import Job
from eager_lens.core.outgoing.formats.difference_words import DifferenceWords

MOST_ALONE = 24
"""So many changes are worked out by themselves, those of most parts first."""

MOST_NEW_FINDINGS = 2


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
    said = DifferenceWords(before.job, now.job)
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


def _by_part(found: Iterable[Difference]) -> Iterable[tuple[tuple[str, Key], list[Difference]]]:
    parts: dict[tuple[str, Key], list[Difference]] = {}
    for one in found:
        parts.setdefault((one.list, one.key), []).append(one)
    return parts.items()


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
    # Of one code on other devices, too: a camera that misses its purpose now is new, though another did before.
    had = {one.key for one in before.findings}
    new = [one for one in after.findings if one.severity in (Severity.FAULT, Severity.WARNING) and one.key not in had]
    words = tuple(f"{one.severity.word}: {one.title}" for one in new[:MOST_NEW_FINDINGS])
    return row._replace(days=worst, findings=words, worked_out=True)
