"""Edits of what is proved: tests made and made again, walks, readings, snags, steps of the mounting.

Nothing that was recorded is ever taken away: that is what the customer relies on. A failed test opens a snag, and the snag closes
when the test passes; a wrong entry is withdrawn, with who, when and why, and stays on record.
"""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping, Sequence
from typing import Any

from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.edits import Edit, with_parts
from eager_lens.core.job.model import Job, by_id, changed, fresh_ids
from eager_lens.core.job.proof import Check, FillReading, MountingStep, Snag, Walk
from eager_lens.core.job.rehearsal import Tick
from eager_lens.core.reference.acceptance import acceptance_test
from eager_lens.core.units import count


def latest_checks(job: Job) -> dict[tuple[str, str], Check]:
    """By device and test, the result that counts: the last one that was not withdrawn."""
    return {(check.device, check.check): check for check in job.checks if check.counts}


def record_checks(checks: Sequence[Check], label: str | None = None) -> Edit:
    """Put results of tests on record. A failed one opens a snag where none is open for it; a passed one closes it."""
    words = label or f"Record {count(len(checks), 'test')}"

    def apply(job: Job) -> Job:
        snags = list(job.snags)
        opened = {(snag.device, snag.check): at for at, snag in enumerate(snags) if snag.state == "open" and snag.check}
        for check in checks:
            at = opened.get((check.device, check.check))
            if check.outcome == "failed" and at is None:
                (new_id,) = fresh_ids("snag", (snag.id for snag in snags), 1)
                opened[(check.device, check.check)] = len(snags)
                snags.append(_snag_of(check, new_id))
            elif check.outcome == "passed" and at is not None:
                del opened[(check.device, check.check)]
                snags[at] = _closed_by(snags[at], check)
        return with_parts(job, checks=(*job.checks, *checks), snags=tuple(snags))

    return Edit(words, apply)


def record_before(checks: Sequence[Check]) -> Edit:
    """Put results on record behind which others go on to count: each before the one that counts now, so that snags stay."""

    def apply(job: Job) -> Job:
        kept = list(job.checks)
        for check in checks:
            pair = (check.device, check.check)
            last = max((at for at, one in enumerate(kept) if (one.device, one.check) == pair and one.counts), default=0)
            kept.insert(last, check)
        return with_parts(job, checks=tuple(kept))

    return Edit(f"Record {count(len(checks), 'test')}", apply)


def snags_following(job: Job, pairs: Iterable[tuple[str, str]]) -> Job:
    """The job with the snags of some tests as the results that count have them: one open where a failure counts, none where a pass
    does. One that was accepted stays as it is."""
    counts, snags = latest_checks(job), list(job.snags)
    for pair in sorted(pairs):
        check = counts.get(pair)
        own = [at for at, snag in enumerate(snags) if (snag.device, snag.check) == pair]
        still_open = [at for at in own if snags[at].state == "open"]
        if check is None:
            continue
        if check.outcome == "passed":
            for at in still_open:
                snags[at] = _closed_by(snags[at], check)
        elif not still_open and not any(snags[at].state == "accepted" for at in own):
            (new_id,) = fresh_ids("snag", (snag.id for snag in snags), 1)
            snags.append(_snag_of(check, new_id))
    return with_parts(job, snags=tuple(snags))


def _test_label(check: str) -> str:
    test = acceptance_test(check)
    return test.label if test else check


def _snag_of(check: Check, snag_id: str) -> Snag:
    seen = f": {check.value}" if check.value else ""
    return Snag(
        id=snag_id,
        device=check.device,
        check=check.check,
        text=f"{_test_label(check.check)} failed{seen}",
        opened_at=check.at,
        opened_by=check.by,
        photos=check.photos,
    )


def _closed_by(snag: Snag, check: Check) -> Snag:
    done = f"{_test_label(check.check)} passed{': ' + check.value if check.value else ''}"
    return changed(
        snag,
        state="put right",
        closed_at=check.at,
        closed_by=check.by,
        outcome=f"{snag.outcome}; {done}" if snag.outcome else done,
    )


def withdraw_checks(pairs: Iterable[tuple[str, str]], why: str, by: str, at: str) -> Edit:
    """Withdraw the last result of tests: a wrong entry. It stays on record; the result before it counts again, and so does the
    snag that goes with that.

    Args:
        pairs: device and test of each. why: for those who read the record later. by, at: who withdraws, and when.

    The edit is refused without a reason, or where there is nothing to withdraw.
    """
    wanted = list(dict.fromkeys(pairs))

    def apply(job: Job) -> Job:
        latest = latest_checks(job)
        gone = {id(latest[pair]): pair for pair in wanted if pair in latest}
        label = _test_label(wanted[0][1]) if wanted else ""
        if not gone:
            raise RefusedInput(label, "there is no result to withdraw")
        if not why.strip():
            raise RefusedInput(label, "enter the reason for the withdrawal; it stays on record")
        said = {"withdrawn_at": at, "withdrawn_by": by[:200], "withdrawn_why": why.strip()[:200]}
        after = with_parts(job, checks=tuple(changed(one, **said) if id(one) in gone else one for one in job.checks))
        counts = latest_checks(after)
        snags = tuple(_snag_without(snag, gone.values(), counts, said) for snag in after.snags)
        return with_parts(after, snags=snags)

    return Edit(f"Withdraw {count(len(wanted), 'test result')}", apply)


def _snag_without(
    snag: Snag, gone: Collection[tuple[str, str]], counts: Mapping[tuple[str, str], Check], said: Mapping[str, str]
) -> Snag:
    """A snag after the last result of its test was withdrawn: open where a failure counts again, closed where none does."""
    pair = (snag.device, snag.check)
    if not snag.check or pair not in gone:
        return snag
    fails = pair in counts and counts[pair].outcome == "failed"
    if fails and snag.state == "put right":
        return changed(snag, state="open", closed_at="", closed_by="")
    if not fails and snag.state == "open":
        outcome = f"the result was withdrawn: {said['withdrawn_why']}"
        return changed(
            snag, state="put right", closed_at=said["withdrawn_at"], closed_by=said["withdrawn_by"], outcome=outcome
        )
    return snag


def attach_photo(check: Check, digest: str) -> Edit:
    """Have a result name a photo that is kept beside the job."""

    def apply(job: Job) -> Job:
        more = changed(check, photos=(*check.photos, digest))
        return with_parts(job, checks=tuple(more if one == check else one for one in job.checks))

    return Edit(f"Attach a photo to {_test_label(check.check)}", apply)


# ---- snags -------------------------------------------------------------------------------------------------------


def open_snag(device: str, text: str, by: str, at: str, **fields: Any) -> Edit:
    """Note something that is still to be put right."""

    def apply(job: Job) -> Job:
        (new_id,) = fresh_ids("snag", (snag.id for snag in job.snags), 1)
        blank = Snag(id=new_id, device=device, text="to be described", opened_by=by[:200], opened_at=at)
        return with_parts(job, snags=(*job.snags, changed(blank, text=text, **fields)))

    return Edit("Add a snag", apply)


def set_snags(ids: Iterable[str], label: str, **fields: Any) -> Edit:
    """Change fields of snags, but for their state (``close_snags``, ``reopen_snags``)."""
    wanted = frozenset(ids)
    return Edit(label, lambda job: _with_snags(job, wanted, lambda snag: changed(snag, **fields)))


def put_snags(snags: Sequence[Snag]) -> Edit:
    """Put snags as they stand elsewhere into the job: new ones are added, those that it has are replaced, their photos kept."""

    def apply(job: Job) -> Job:
        known = by_id(job.snags)
        put = {}
        for snag in snags:
            mine = known.get(snag.id)
            photos = tuple(dict.fromkeys((*(mine.photos if mine else ()), *snag.photos)))
            put[snag.id] = changed(snag, photos=photos)
        kept = tuple(put.pop(snag.id, snag) for snag in job.snags)
        return with_parts(job, snags=(*kept, *put.values()))

    return Edit(f"Edit {count(len(snags), 'snag')}", apply)


def close_snags(ids: Iterable[str], state: str, outcome: str, by: str, at: str) -> Edit:
    """Close snags: put right, or accepted as they are.

    The edit is refused for one whose test still stands as failed (it closes when that passes), and for one that is accepted
    with no reason given.
    """
    wanted = frozenset(ids)

    def close(job: Job, snag: Snag) -> Snag:
        if state == "accepted" and not outcome.strip():
            raise RefusedInput("outcome", "enter why it is accepted as it is, and by whom on the customer's side")
        last = latest_checks(job).get((snag.device, snag.check))
        if state == "put right" and last is not None and last.outcome == "failed":
            raise RefusedInput(
                "state",
                f"{_test_label(snag.check)} has still failed; repeat the test, and a pass closes the snag",
            )
        said = outcome.strip() or snag.outcome
        return changed(snag, state=state, closed_by=by[:200], closed_at=at, outcome=said)

    words = "Close" if state == "put right" else "Accept"
    return Edit(
        f"{words} {count(len(wanted), 'snag')}", lambda job: _with_snags(job, wanted, lambda snag: close(job, snag))
    )


def reopen_snags(ids: Iterable[str]) -> Edit:
    """Open closed snags again."""
    wanted = frozenset(ids)
    return Edit(
        f"Reopen {count(len(wanted), 'snag')}",
        lambda job: _with_snags(job, wanted, lambda snag: changed(snag, state="open", closed_by="", closed_at="")),
    )


def remove_snags(ids: Iterable[str]) -> Edit:
    """Take snags out that somebody typed; one that a failed test opened stays."""
    wanted = frozenset(ids)

    def apply(job: Job) -> Job:
        kept = by_id(job.snags)
        for snag_id in wanted & kept.keys():
            if kept[snag_id].check:
                raise RefusedInput(
                    "snags", "one of them comes from a failed test; close it by a pass, or accept it with a reason"
                )
        return with_parts(job, snags=tuple(snag for snag in job.snags if snag.id not in wanted))

    return Edit(f"Remove {count(len(wanted), 'snag')}", apply)


def _with_snags(job: Job, wanted: frozenset[str], change: Any) -> Job:
    return with_parts(job, snags=tuple(change(snag) if snag.id in wanted else snag for snag in job.snags))


# ---- walks, readings, mounting -----------------------------------------------------------------------------------


def add_walks(walks: Sequence[Walk]) -> Edit:
    """Put walks on record."""
    return Edit(f"Record {count(len(walks), 'walk')}", lambda job: with_parts(job, walks=(*job.walks, *walks)))


def add_fill_reading(reading: FillReading) -> Edit:
    """Note how full a recorder's drives are; a reading of the same moment is replaced."""

    def apply(job: Job) -> Job:
        kept = (one for one in job.fill_readings if (one.recorder, one.at) != (reading.recorder, reading.at))
        return with_parts(job, fill_readings=(*kept, reading))

    return Edit("Note a reading of the drives", apply)


def remove_fill_reading(recorder: str, at: str) -> Edit:
    """Take a reading out that was mistyped."""
    return Edit(
        "Remove a reading of the drives",
        lambda job: with_parts(
            job, fill_readings=tuple(one for one in job.fill_readings if (one.recorder, one.at) != (recorder, at))
        ),
    )


def tick_mounting(ticks: Sequence[Tick]) -> Edit:
    """Note steps of the mounting as done or left out; they take the place of earlier notes."""
    new = {tick.step for tick in ticks}
    return Edit(
        f"Tick {count(len(ticks), 'mounting step')}",
        lambda job: with_parts(job, mounting=(*(old for old in job.mounting if old.step not in new), *ticks)),
    )


def untick_mounting(keys: Iterable[str]) -> Edit:
    """Take notes on steps of the mounting back."""
    gone = frozenset(keys)
    return Edit(
        f"Untick {count(len(gone), 'mounting step')}",
        lambda job: with_parts(job, mounting=tuple(old for old in job.mounting if old.step not in gone)),
    )


def set_mounting_list(steps: Sequence[MountingStep]) -> Edit:
    """Replace the job's list of mounting steps; an empty one stands for the program's own."""
    return Edit("Replace the mounting list", lambda job: with_parts(job, mounting_list=tuple(steps)))
