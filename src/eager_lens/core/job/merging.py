"""Two people's copies of a job made one, over the last version that both had.

What one side alone changed is taken; what both changed, and differently, is a question. Results of tests all stay on record, and
the question is only which counts: where both sides made a test since, with different results. Of two alike the later counts.
Without a common version every difference is a question.
"""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping, Sequence
from typing import Any, Literal, NamedTuple

from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.differences import ORDER, RECORDS, WHOLE, Difference, Key, differences, with_differences
from eager_lens.core.job.edits import Edit, with_parts
from eager_lens.core.job.model import JOB_LISTS, Job, fresh_ids
from eager_lens.core.job.proof import Check
from eager_lens.core.job.proving import latest_checks, snags_following
from eager_lens.core.units import count
from eager_lens.core.validation import Plain, read_as

Side = Literal["here", "there"]
Pair = tuple[str, str]
"""A device and a test."""

NEW_ONLY = frozenset({"checks", "walks", "fill_readings", "commissioning", "mounting", "handed_over"})
"""Records of which the other side only ever adds; one that it lacks was not taken away there."""


class Question(NamedTuple):
    """Something that two say differently.

    Attributes:
        key: its own. before: as both had it; None where that is not known. here, there: what each says: differences from before
            on each side, or the results of a test (``pair``).
    """

    key: str
    before: Any
    here: tuple[Difference, ...] | Check
    there: tuple[Difference, ...] | Check
    pair: Pair | None = None


class JobMerging(NamedTuple):
    """What another copy brings.

    Attributes:
        taken: differences that only the other side has. checks: results of tests that are new here. questions: what is to be
            decided.
        renamed: by id there, the id that a new part gets here, since both sides gave one id to different parts.
    """

    taken: tuple[Difference, ...]
    checks: tuple[Check, ...]
    questions: tuple[Question, ...]
    renamed: dict[str, str]

    @property
    def words(self) -> str:
        """In a sentence."""
        parts = [count(len(self.taken), "change"), count(len(self.checks), "test result")]
        return f"{' and '.join(parts)} to merge; {count(len(self.questions), 'question')} to decide."


def merging(base: Job | None, mine: Job, theirs: Job) -> JobMerging:
    """Hold another copy of a job against this one.

    Args:
        base: the last version that both had; None where there is none. mine, theirs: the two copies.
    """
    theirs, renamed = _with_own_ids(base, mine, theirs)
    if base is None:
        return _without_base(mine, theirs, renamed)
    ours = {one.place: one for one in differences(base, mine)}
    by_part: dict[tuple[str, Key], list[Difference]] = {}
    for one in ours.values():
        by_part.setdefault((one.list, one.key), []).append(one)
    taken: list[Difference] = []
    questions: list[Question] = []
    checks: list[Check] = []
    for one in differences(base, theirs):
        if one.list == "checks":
            checks += [one.now] if one.field == WHOLE and isinstance(one.now, Check) else []
            if one.field != WHOLE and one.place not in ours:
                taken.append(one)  # withdrawn there, or with a photo more
            continue
        if one.list in NEW_ONLY and one.field == WHOLE and one.now is None:
            continue
        against = _against(one, ours, by_part)
        if not against:
            taken.append(one)
        elif [each.now for each in against] != [one.now]:
            questions.append(Question("/".join(map(str, (one.list, *one.key, one.field))), one.before, against, (one,)))
    of_tests, new = _tests(mine, checks, {(one.device, one.check) for one in _new_checks(base, mine)})
    return JobMerging(tuple(taken), tuple(new), (*of_tests, *questions), renamed)


def _against(
    one: Difference, ours: Mapping[Any, Difference], by_part: Mapping[tuple[str, Key], list[Difference]]
) -> tuple[Difference, ...]:
    """What this side changed that the other's difference would undo."""
    same = ours.get(one.place)
    if same is not None:
        return (same,)
    if one.field == WHOLE and one.key:
        return tuple(by_part.get((one.list, one.key), ()))
    whole = ours.get((one.list, one.key, WHOLE))
    return (whole,) if whole is not None and one.key else ()


def _without_base(mine: Job, theirs: Job, renamed: dict[str, str]) -> JobMerging:
    taken, questions, checks = [], [], []
    for one in differences(mine, theirs):
        if one.field == WHOLE and one.now is None and one.key:
            continue  # only here: nothing says that it was removed there
        if one.list == "checks" and one.field == WHOLE:
            checks.append(one.now)
        elif one.list in RECORDS and one.field == WHOLE and one.key:
            taken.append(one)
        elif one.field != ORDER:
            key = "/".join(map(str, (one.list, *one.key, one.field)))
            here = one._replace(now=one.before, before=None)
            questions.append(Question(key, None, (here,), (one._replace(before=None),)))
    of_tests, new = _tests(mine, checks, set(latest_checks(mine)))
    return JobMerging(tuple(taken), tuple(new), (*of_tests, *questions), renamed)


def _new_checks(base: Job, job: Job) -> list[Check]:
    known = {(one.device, one.check, one.at, one.by) for one in base.checks}
    return [one for one in job.checks if (one.device, one.check, one.at, one.by) not in known]


def _tests(mine: Job, checks: Iterable[Check], made_here: set[Pair]) -> tuple[list[Question], list[Check]]:
    """Questions about tests that both sides made, with different results; and all results that are new."""
    on_record = {(one.device, one.check, one.at, one.by, one.outcome) for one in mine.checks}
    new = [one for one in checks if (one.device, one.check, one.at, one.by, one.outcome) not in on_record]
    latest = latest_checks(mine)
    last_there = {(one.device, one.check): one for one in sorted(new, key=lambda one: one.at) if one.counts}
    questions = [
        Question(f"check/{pair[0]}/{pair[1]}", None, latest[pair], there, pair)
        for pair, there in last_there.items()
        if pair in made_here
        and pair in latest
        and (latest[pair].outcome, latest[pair].measured) != (there.outcome, there.measured)
    ]
    return questions, new


def merged_edit(found: JobMerging, decided: Mapping[str, Side]) -> Edit:
    """The one step that takes another copy in.

    Raises:
        RefusedInput: when a question is not decided, or there is nothing to take.
    """
    open_ones = [one.key for one in found.questions if one.key not in decided]
    if open_ones:
        raise RefusedInput(
            "", f"{count(len(open_ones), 'question is', 'questions are')} not decided yet: {open_ones[0]}"
        )
    there = [one for one in found.questions if decided[one.key] == "there"]
    fields = [each for one in there if not isinstance(one.there, Check) for each in one.there]
    if not (found.taken or found.checks or fields):
        raise RefusedInput("", "that copy contains nothing new")
    kept_here = {one.pair for one in found.questions if one.pair is not None and decided[one.key] == "here"}
    counts_there = {one.pair for one in there if one.pair is not None}

    def apply(job: Job) -> Job:
        # Snags of a test whose result here counts are this side's; the other side's closed them by a result that does not count.
        dropped = {one.key for one in found.taken if one.list == "snags" and _pair_of_snag(one, job) in kept_here}
        taken = [one for one in found.taken if not (one.list == "snags" and one.key in dropped)]
        job = with_differences(job, [*taken, *fields])
        pairs = {(one.device, one.check) for one in found.checks}
        job = with_parts(job, checks=tuple(_in_order(job, found.checks, kept_here, counts_there)))
        return snags_following(job, pairs - kept_here)

    return Edit("Merge another copy of the job", apply)


def _pair_of_snag(one: Difference, job: Job) -> Pair | None:
    part = one.now if one.field == WHOLE else next((each for each in job.snags if (each.id,) == one.key), None)
    return None if part is None else (part.device, part.check)


def _in_order(
    job: Job, new: Sequence[Check], kept_here: Collection[Pair], counts_there: Collection[Pair]
) -> list[Check]:
    """The results on record with new ones among them, so that of each test the one that counts stands last."""
    checks = list(job.checks)
    for one in sorted(new, key=lambda each: each.at):
        pair = (one.device, one.check)
        last = max(
            (at for at, mine in enumerate(checks) if (mine.device, mine.check) == pair and mine.counts), default=None
        )
        stays = last is not None and pair not in counts_there and (pair in kept_here or checks[last].at > one.at)
        checks.insert(last if stays and last is not None else len(checks), one)
    return checks


# ---- ids that both sides gave --------------------------------------------------------------------------------------


def _with_own_ids(base: Job | None, mine: Job, theirs: Job) -> tuple[Job, dict[str, str]]:
    """The other copy with new ids for its new parts whose ids are new here too, for other parts: two people who each add a camera
    give both the next number."""
    known = {} if base is None else _ids(base)
    own, others = _ids(mine), _ids(theirs)
    renamed: dict[str, str] = {}
    taken = {*own, *others}
    for part_id, (name, part) in others.items():
        if part_id in known or part_id not in own:
            continue
        if base is None or own[part_id][1] == part:
            continue
        prefix = part_id.rpartition("-")[0] or name.rstrip("s")
        (new,) = fresh_ids(prefix, taken, 1)
        taken.add(new)
        renamed[part_id] = new
    return (_renamed(theirs, renamed), renamed) if renamed else (theirs, {})


def _ids(job: Job) -> dict[str, tuple[str, Plain]]:
    return {part.id: (name, part) for name in JOB_LISTS for part in getattr(job, name) if hasattr(part, "id")}


def _renamed(job: Job, renamed: Mapping[str, str]) -> Job:
    """The job with ids replaced wherever they stand, also at the beginning of a step's (``cam-1/fix``)."""

    def other(value: Any) -> Any:
        if isinstance(value, str):
            head, slash, rest = value.partition("/")
            return renamed.get(head, head) + slash + rest
        if isinstance(value, list):
            return [other(one) for one in value]
        if isinstance(value, dict):
            return {key: other(one) for key, one in value.items()}
        return value

    document = job.model_dump(mode="json")
    return read_as(Job, {key: other(value) if key in JOB_LISTS else value for key, value in document.items()})
