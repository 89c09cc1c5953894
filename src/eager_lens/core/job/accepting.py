"""Saying of a finding that it is meant so, and taking that back."""

from __future__ import annotations

from collections.abc import Sequence

from eager_lens.core.job.edits import Edit, with_parts
from eager_lens.core.job.model import Accepted, Job


def accept(code: str, subjects: Sequence[str], title: str, why: str) -> Edit:
    """Accept a finding with a reason, in the name of the person who prepares the job."""

    def apply(job: Job) -> Job:
        mine = Accepted(code=code, subjects=tuple(subjects), why=why.strip()[:200], by=job.prepared_by)
        return with_parts(job, accepted=(*_without(job, code, subjects), mine))

    return Edit(f"Accept “{title[:60]}”", apply)


def take_back(code: str, subjects: Sequence[str], title: str) -> Edit:
    """Show a finding again that was accepted."""
    return Edit(f"Show “{title[:60]}” again", lambda job: with_parts(job, accepted=_without(job, code, subjects)))


def _without(job: Job, code: str, subjects: Sequence[str]) -> tuple[Accepted, ...]:
    return tuple(one for one in job.accepted if (one.code, one.subjects) != (code, tuple(subjects)))
