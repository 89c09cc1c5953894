"""Recorders and drives that are enough: channels and incoming rate with something to spare, drives by the promise."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from itertools import pairwise
from typing import NamedTuple

from eager_lens.core.assess.assessment import Assessment, assess
from eager_lens.core.assess.figures.devices import CameraFigures, RecorderFigures, life_of, recorder_figures
from eager_lens.core.assess.limits import NEAR_SHARE, PROPOSED_REBUILD_SHARE
from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.edits import set_each
from eager_lens.core.job.model import Camera, Job, Recorder, changed
from eager_lens.core.sizing.disk import GB_PER_MBPS_HOUR
from eager_lens.core.sizing.drives import DRIVE_SIZES_TB, LEAST_DRIVES, RaidLevel, drive_array
from eager_lens.core.units import figure
from eager_lens.core.validation import at_least, at_most


class NoDrives(RefusedInput):
    """No drives that are sold keep the days."""


class RecorderSize(NamedTuple):
    """A size that recorders usually come in."""

    channels: int
    incoming_limit_mbps: float
    bays: int


RECORDER_SIZES = (
    RecorderSize(8, 80, 2),
    RecorderSize(16, 160, 2),
    RecorderSize(32, 256, 4),
    RecorderSize(64, 400, 8),
)
"""Generic sizes as they are sold everywhere; the figures of the recorder that is bought come first."""


def _fits(size: RecorderSize, streams: Sequence[CameraFigures]) -> bool:
    """Whether a recorder takes cameras and what they send, on busy days too."""
    got = recorder_figures(
        Recorder(id="rec-1", name="x"), streams, len(streams) * Camera(id="c", name="c").substream_mbps
    )
    limit = size.incoming_limit_mbps
    room = at_most(got.incoming_mbps, NEAR_SHARE * limit) and at_most(got.incoming_high_mbps, limit)
    return len(streams) <= size.channels and room


MOST_CHANNELS = RECORDER_SIZES[-1].channels


def larger_sizes(recorder: Recorder, streams: Sequence[CameraFigures]) -> list[RecorderSize]:
    """Sizes of more channels than a recorder has that take some cameras, the smallest first."""
    return [size for size in RECORDER_SIZES if size.channels > recorder.channels and _fits(size, streams)]


def _size_for(streams: Sequence[CameraFigures]) -> RecorderSize:
    return next((size for size in RECORDER_SIZES if _fits(size, streams)), RECORDER_SIZES[-1])


def recorder_for(recorder_id: str, name: str, place: str, streams: Sequence[CameraFigures]) -> Recorder:
    """The smallest recorder that takes some cameras, without drives for them yet."""
    size = _size_for(streams)
    return Recorder(
        id=recorder_id,
        name=name,
        place=place,
        channels=size.channels,
        incoming_limit_mbps=size.incoming_limit_mbps,
        bays=size.bays,
        ports=2,
    )


def shared_out(cameras: Sequence[Camera], figures: Mapping[str, CameraFigures], most: int) -> list[list[Camera]]:
    """Cameras in their order, at most so many on a recorder, on as few recorders as can be, and about as many on each."""
    largest = RECORDER_SIZES[-1]
    groups: list[list[Camera]] = []
    for camera in cameras:
        here = [*groups[-1], camera] if groups else []
        if here and len(here) <= most and _fits(largest, [figures[one.id] for one in here]):
            groups[-1] = here
        else:
            groups.append([camera])
    each, more = divmod(len(cameras), len(groups) or 1)
    ends = [at * each + min(at, more) for at in range(len(groups) + 1)]
    even = [list(cameras[first:last]) for first, last in pairwise(ends)]
    fit = all(len(one) <= most and _fits(largest, [figures[camera.id] for camera in one]) for one in even)
    return even if fit else groups


def _arrays(recorder: Recorder, redundancy: bool) -> Iterator[tuple[float, int, float, RaidLevel, int]]:
    """Every array for a number of bays: raw TB, drives, size, level, bays; larger recorders have more bays."""
    for bays in sorted({size.bays for size in RECORDER_SIZES if size.bays >= recorder.bays}):
        for drives in range(1, bays + 1):
            levels: tuple[RaidLevel, ...] = ("span",)
            if redundancy:
                levels = () if drives == 1 else ("mirror",) if drives == 2 else ("raid5", "raid6")
            for level in levels:
                if drives >= LEAST_DRIVES[level] and not (level == "raid5" and drives > MOST_IN_RAID_5):
                    for tb in DRIVE_SIZES_TB:
                        yield drives * float(tb), drives, float(tb), level, bays


MOST_IN_RAID_5 = 5
"""Of more drives two may fail."""


def _lasts(recorder: Recorder, figures: RecorderFigures) -> bool:
    """Whether drives are written no more than they are rated for, and a failed one can be made up for with good hope."""
    life = life_of(recorder, figures)
    if life is None:
        return True
    worn = not at_most(life.written_tb_per_year, recorder.drive_rated_tb_per_year)
    return not worn and at_most(life.unreadable_share or 0.0, PROPOSED_REBUILD_SHARE)


def drives_for(recorder: Recorder, need_tb: float, figures: RecorderFigures, redundancy: bool) -> Recorder:
    """The recorder with the drives that hold so much with the least raw space, in as few bays as can be, and are not written
    more than they are rated for.

    Raises:
        NoDrives: when none that are sold hold so much in its bays.
    """
    best: tuple[tuple[int, float, int], Recorder] | None = None
    for raw_tb, drives, tb, level, bays in _arrays(recorder, redundancy):
        rank = (bays, raw_tb, drives)
        if best is not None and rank >= best[0]:
            continue
        usable_tb = drive_array(drives, tb, level, 0, recorder.reserve_share).usable_tb
        if not at_least(usable_tb, need_tb):
            continue
        equipped = changed(recorder, drives=drives, drive_tb=tb, raid_level=level, bays=bays)
        if _lasts(equipped, figures):
            best = rank, equipped
    if best is None:
        raise NoDrives(
            "days",
            f"no available drives hold {figure(need_tb)} TB in {RECORDER_SIZES[-1].bays} bays; enter fewer days",
        )
    return best[1]


def _at_their_caps_gb(assessment: Assessment, recorder_id: str) -> float:
    """GB a day that a recorder's cameras store at their maximum bit rates; those without one at the upper end of their range, and
    at no less than the usual maximum, for nothing holds them below it."""
    gb = 0.0
    for camera in assessment.facts.cameras_on[recorder_id]:
        one = assessment.camera(camera.id)
        free_mbps = max(one.high_mbps, one.usual_cap_mbps or 0.0)
        mbps = max(one.rate_mbps, free_mbps if one.cap_mbps is None else one.cap_mbps)
        gb += mbps * GB_PER_MBPS_HOUR * one.stored_h_per_day
    return gb


def with_drives(job: Job, redundancy: bool) -> Job:
    """The job with drives in each recorder that keep what is asked: by the promise, and as practice plans, with every camera at its
    maximum for as long as it is expected to record.

    Raises:
        NoDrives: as ``drives_for``.
    """
    roomy = {
        one.id: {"drives": one.bays, "drive_tb": float(DRIVE_SIZES_TB[-1]), "raid_level": "span"}
        for one in job.recorders
    }
    provisional: Assessment = assess(set_each("", roomy).apply(job))
    recorders = []
    for recorder in job.recorders:
        keeping = provisional.facts.keeping[recorder.id]
        days = job.retention.least_days
        need_tb = 0.0 if keeping is None else keeping.space_gb_for(days) / 1000
        need_tb = max(need_tb, _at_their_caps_gb(provisional, recorder.id) * days / 1000)
        recorders.append(drives_for(recorder, need_tb, provisional.recorder(recorder.id), redundancy))
    return changed(job, recorders=tuple(recorders))
