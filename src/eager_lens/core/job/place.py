"""Where a job is on the earth, and whether it was dark there."""

from __future__ import annotations

from datetime import datetime

from eager_lens.core.clock.daylight import is_dark, latitude_of_zone, longitude_of_zone
from eager_lens.core.clock.zones import zone_offset_s
from eager_lens.core.job.model import Job


def latitude_of(job: Job) -> float | None:
    """The latitude that the job gives, or else that of its time zone's town; None where the zone has none."""
    own = job.assumed.latitude_deg
    return latitude_of_zone(job.time_zone) if own is None else own


def was_dark(job: Job, moment: datetime) -> bool:
    """Whether it was dark at the job at a moment. Where the zone has no town, the sun is taken to be highest at noon by its
    clock, and where no latitude is known either, to rise at six.

    Args:
        moment: with its time zone.
    """
    longitude = longitude_of_zone(job.time_zone)
    if longitude is None:
        longitude = zone_offset_s(job.time_zone, moment) / 240
    return is_dark(latitude_of(job) or 0.0, longitude, moment)
