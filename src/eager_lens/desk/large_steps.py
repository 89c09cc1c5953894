"""Steps after which so much is calculated again that a progress line is shown: an import of thousands
of cameras, a field set on all of them, an assumption of a large job."""

from __future__ import annotations

from eager_lens.core.job.model import Job

MANY_NEW, MANY = 500, 2_000
"""So many new cameras, or so many at all where something changes that the figures of each go by, take half a second or more
on a slow machine."""

FOR_ALL = ("assumed", "schedules", "exceptions", "rules", "make_profiles")


def is_large(before: Job, after: Job) -> bool:
    """Whether a step changes more than the few parts that a hand changes at once."""
    if len(after.cameras) > MANY and any(getattr(before, name) != getattr(after, name) for name in FOR_ALL):
        return True
    if after.cameras is before.cameras:
        return False
    known = set(map(id, before.cameras))  # parts never change in place
    return sum(id(camera) not in known for camera in after.cameras) > MANY_NEW
