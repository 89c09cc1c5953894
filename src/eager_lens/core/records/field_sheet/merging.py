"""What came back on field sheets, held against the job: what is new, what agrees, and what two people say differently.

Three states are compared, where the first is known to be what was handed out: the one that the sheet was made from, the job
now, and the sheet. What only the sheet changed is taken; what only the job changed stays; where both did, and differently,
somebody decides. Results of tests are never lost by that: both stand on record, and the question is only which one counts.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import datetime, timedelta
from typing import Any, Literal, NamedTuple

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.edits import Edit
from eager_lens.core.job.model import Job, by_id
from eager_lens.core.job.proof import Check, Snag
from eager_lens.core.job.proving import latest_checks, put_snags, record_before, record_checks, tick_mounting
from eager_lens.core.job.rehearsal import Tick
from eager_lens.core.records.acceptance.recording import result_words
from eager_lens.core.records.field_sheet.handed_out import base_digest
from eager_lens.core.records.field_sheet.saved import Base, BaseCheck, FieldCheck, FieldFile, FieldSnag, FieldTick
from eager_lens.core.reference.acceptance import SITE, acceptance_test
from eager_lens.core.units import count

Side = Literal["job", "sheet"]
CLOCK_GRACE = timedelta(minutes=5)
SNAG_FIELDS = ("text", "owner", "due", "state", "outcome")


class Conflict(NamedTuple):
    """Something that two say differently.

    Attributes:
        key: its own. device: what it is about. what: in words. in_job, on_sheet: what each says, with who and when.
    """

    key: str
    device: str
    what: str
    in_job: str
    on_sheet: str


class Merging(NamedTuple):
    """What a sheet brings.

    Attributes:
        file: the sheet. checks, ticks, snags: what is new in it and differs from nothing. conflicts: what somebody has to
            decide. known: how many are in the job already. strangers: devices that the job no longer has.
    """

    file: FieldFile
    checks: tuple[FieldCheck, ...]
    ticks: tuple[FieldTick, ...]
    snags: tuple[FieldSnag, ...]
    conflicts: tuple[Conflict, ...]
    known: int
    strangers: tuple[str, ...]

    @property
    def words(self) -> str:
        """In a sentence."""
        parts = [
            count(len(self.checks), "test"),
            count(len(self.ticks), "mounting step"),
            count(len(self.snags), "snag"),
        ]
        photos = count(len(self.file.photos), "photo")
        summary = f"{self.file.by or 'The sheet'}: {', '.join(parts)} and {photos}"
        more = [f"{self.known} are already in the job"] if self.known else []
        if self.strangers:
            more.append(f"{count(len(self.strangers), 'device is', 'devices are')} no longer in the job and left out")
        return "; ".join([summary, *more]) + "."


NOTHING_KNOWN = Base(checks={}, ticks={}, snags={})


def merging(assessment: Assessment, file: FieldFile, handed_out: str) -> Merging:
    """Hold a saved sheet against a job.

    Args:
        assessment, file: the job, and the sheet as it was saved.
        handed_out: the hash of the state that this sheet was handed out with (``base_handed_out``). Where the file says
            another, or none is known, its state is not believed, and every difference is a question.

    Raises:
        RefusedInput: when the sheet was made for another job, or holds times that cannot be.
    """
    job = assessment.job
    _require_possible(file)
    if not handed_out and file.job != job.name:
        raise RefusedInput(
            "job",
            f"the sheet was made for “{file.job}”, and this job is “{job.name}”; the log of this job does not mention the sheet",
        )
    if base_digest(file.base) != handed_out:
        file = file.model_copy(update={"base": NOTHING_KNOWN})
    here = {SITE, *assessment.facts.by_device_id}
    named = {one.device for one in file.checks} | {one.device for one in file.snags}
    named |= {tick.step.partition("/")[0] for tick in file.ticks}
    if named - {SITE} and not named & (here - {SITE}):
        raise RefusedInput("job", f"the sheet was made for “{file.job}”; none of its devices is in this job")
    conflicts: list[Conflict] = []
    known = 0
    checks, held = _checks(job, file, here, assessment, conflicts)
    known += held
    ticks, held = _ticks(job, file, here, assessment, conflicts)
    known += held
    snags, held = _snags(job, file, here, assessment, conflicts)
    known += held
    strangers = tuple(sorted(named - here))
    return Merging(file, tuple(checks), tuple(ticks), tuple(snags), tuple(conflicts), known, strangers)


def _require_possible(file: FieldFile) -> None:
    """That nothing on a sheet was done after it was saved, by its own clock."""
    saved = datetime.fromisoformat(file.saved_at) + CLOCK_GRACE
    moments = [(f"checks[{at}]", one.at) for at, one in enumerate(file.checks)]
    moments += [(f"ticks[{at}]", one.at) for at, one in enumerate(file.ticks)]
    for name, moment in moments:
        if datetime.fromisoformat(moment) > saved:
            raise RefusedInput(
                f"{name}.at",
                f"the time {moment} is later than the saving of the sheet ({file.saved_at}); nothing was read",
            )


def _checks(
    job: Job, file: FieldFile, here: set[str], assessment: Assessment, conflicts: list[Conflict]
) -> tuple[list[FieldCheck], int]:
    on_record = {(one.device, one.check, one.at, one.by) for one in job.checks}
    latest = latest_checks(job)
    new = [
        one for one in file.checks if one.device in here and (one.device, one.check, one.at, one.by) not in on_record
    ]
    last_of = {(one.device, one.check): one for one in new}
    for pair, one in last_of.items():
        mine = latest.get(pair)
        base = file.base.checks.get("/".join(pair))
        unchanged = base is not None and mine is not None and _same(mine, base)
        # A result that is older than the one on record takes its place only where somebody says so.
        if mine is None or (unchanged and one.at >= mine.at):
            continue
        if (mine.outcome, mine.measured) != (one.outcome, one.measured):
            test = acceptance_test(one.check)
            what = f"{test.label if test else one.check}: {_name(one.device, assessment)}"
            conflicts.append(
                Conflict(
                    f"check/{one.device}/{one.check}",
                    one.device,
                    what,
                    _side_words(mine.outcome, result_words(test, mine), mine.by, mine.at),
                    _side_words(one.outcome, result_words(test, _check(one, {})), one.by, one.at),
                )
            )
    return new, sum(one.device in here for one in file.checks) - len(new)


def _same(mine: Check, base: BaseCheck) -> bool:
    return (mine.at, mine.by, mine.outcome) == (base.at, base.by, base.outcome)


def _ticks(
    job: Job, file: FieldFile, here: set[str], assessment: Assessment, conflicts: list[Conflict]
) -> tuple[list[FieldTick], int]:
    ticked = {tick.step: tick for tick in job.mounting}
    new, known = [], 0
    for one in file.ticks:
        device, _, step = one.step.partition("/")
        if device not in here:
            continue
        mine, base = ticked.get(one.step), file.base.ticks.get(one.step)
        if mine is not None and mine.outcome == one.outcome:
            known += 1
        elif mine is None or (base is not None and (mine.outcome, mine.at) == (base.outcome, base.at)):
            new.append(one)
        else:
            conflicts.append(
                Conflict(
                    f"tick/{one.step}",
                    device,
                    f"Mounting, {step}: {_name(device, assessment)}",
                    _side_words(_said(mine.outcome), "", mine.by, mine.at),
                    _side_words(_said(one.outcome), "", one.by, one.at),
                )
            )
    return new, known


def _said(outcome: str) -> str:
    return "left out" if outcome == "skipped" else outcome


def _snags(
    job: Job, file: FieldFile, here: set[str], assessment: Assessment, conflicts: list[Conflict]
) -> tuple[list[FieldSnag], int]:
    mine_by_id = by_id(job.snags)
    new, known = [], 0
    for one in file.snags:
        if one.device not in here:
            continue
        mine, base = mine_by_id.get(one.id), file.base.snags.get(one.id)
        if mine is None:
            new.append(one)
            continue
        theirs = {name: getattr(one, name) for name in SNAG_FIELDS}
        ours = {name: getattr(mine, name) for name in SNAG_FIELDS}
        if theirs == ours:
            known += 1
        elif base is not None and ours == {name: getattr(base, name) for name in SNAG_FIELDS}:
            new.append(one)
        else:
            differing = [name for name in SNAG_FIELDS if theirs[name] != ours[name]]
            conflicts.append(
                Conflict(
                    f"snag/{one.id}",
                    one.device,
                    f"Snag “{mine.text[:60]}”: {_name(one.device, assessment)}",
                    _fields(ours, differing),
                    _fields(theirs, differing),
                )
            )
    return new, known


def _fields(values: Mapping[str, Any], names: Sequence[str]) -> str:
    return "; ".join(f"{name} {values[name] if values[name] not in (None, '') else 'empty'}" for name in names)


def _name(device_id: str, assessment: Assessment) -> str:
    return "whole site" if device_id == SITE else assessment.facts.name(device_id)


def _side_words(outcome: str, seen: str, by: str, at: str) -> str:
    return " · ".join(part for part in (outcome, seen, by, at.replace("T", " ")[:16]) if part)


def merged_edit(found: Merging, decided: Mapping[str, Side], photos: Mapping[str, str]) -> Edit:
    """The one step that takes a sheet in.

    Args:
        found: what it brings. decided: by the key of each conflict, whose word counts. photos: by the sheet's ids, the hashes
            under which its photos are kept.

    Raises:
        RefusedInput: when a conflict is not decided, or when there is nothing to take in.
    """
    open_ones = [one.what for one in found.conflicts if one.key not in decided]
    if open_ones:
        raise RefusedInput(
            "", f"{count(len(open_ones), 'difference is', 'differences are')} not decided yet: {open_ones[0]}"
        )
    ticks = [*found.ticks, *(t for t in found.file.ticks if decided.get(f"tick/{t.step}") == "sheet")]
    snags = [*found.snags, *(s for s in found.file.snags if decided.get(f"snag/{s.id}") == "sheet")]
    if not (found.checks or ticks or snags):
        raise RefusedInput("", "this sheet contains nothing new")

    def apply(job: Job) -> Job:
        counts = latest_checks(job)
        behind = [one for one in found.checks if _stays(counts.get((one.device, one.check)), one, decided)]
        if behind:
            # What counts stays last, and what it says of snags stands: the sheet's result stays on record before it.
            job = record_before([_check(one, photos) for one in behind]).apply(job)
        ahead = [one for one in found.checks if one not in behind]
        if ahead:
            job = record_checks([_check(one, photos) for one in ahead]).apply(job)
        if ticks:
            job = tick_mounting([Tick(step=t.step, outcome=t.outcome, by=t.by, at=t.at) for t in ticks]).apply(job)
        if snags:
            job = put_snags([_snag(one, photos) for one in snags]).apply(job)
        return job

    return Edit(f"Read in the field sheet{' of ' + found.file.by if found.file.by else ''}", apply)


def _stays(mine: Check | None, one: FieldCheck, decided: Mapping[str, Side]) -> bool:
    """Whether the job's result of a test goes on to count beside the sheet's: where somebody decided so, and where it is the later
    of two with one outcome."""
    if mine is None:
        return False
    word = decided.get(f"check/{one.device}/{one.check}")
    return word == "job" or (
        word is None and (mine.outcome, mine.measured) == (one.outcome, one.measured) and mine.at > one.at
    )


def _check(one: FieldCheck, photos: Mapping[str, str]) -> Check:
    return Check(
        device=one.device,
        check=one.check,
        outcome=one.outcome,
        by=one.by,
        at=one.at,
        value=one.value,
        measured=one.measured,
        how="field sheet",
        photos=tuple(photos[photo] for photo in one.photos if photo in photos),
    )


def _snag(one: FieldSnag, photos: Mapping[str, str]) -> Snag:
    kept = tuple(photos[photo] for photo in one.photos if photo in photos)
    return Snag(**{**one.__dict__, "photos": kept})
