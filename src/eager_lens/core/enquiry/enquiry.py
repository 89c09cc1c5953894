"""What a customer says on the telephone, as questions with answers."""

from __future__ import annotations

import datetime
import json
from functools import cache
from pathlib import Path
from typing import Annotated, Literal

from pydantic import Field

from eager_lens.core.assess.limits import FIXED_CABLE_M
from eager_lens.core.job.model import Attachment, Retention
from eager_lens.core.optics.lens import Purpose
from eager_lens.core.recording.week import DAYS, MINUTES_A_DAY, Day
from eager_lens.core.validation import Count, Number, Plain, Positive, Whole, at_most, read_as
from eager_lens.core.values.kinds import Kind

Record = Literal["continuous", "by hours", "motion"]
RECORD_WORDS: dict[Record, str] = {
    "continuous": "continuously",
    "by hours": "continuously during opening hours, otherwise on motion",
    "motion": "on motion only",
}

WORK_DAYS: tuple[Day, ...] = DAYS[:5]
MOST_VIEWS = 200
"""Of one kind at one place."""

MOST_CAMERAS = 1000
"""In all. A larger site is more than a telephone call."""


RUN_M = {False: 25.0, True: 40.0}
"""Assumed run within a place, indoors and outdoors, from the switch to a camera."""


class ViewKind(Plain):
    """A kind of view: what it is for, how such a camera usually hangs, and what goes on there."""

    id: str
    label: str
    one: str
    outdoors: bool
    scene: str
    purpose: Purpose
    target_m: Positive
    mount_height_m: Positive
    width_px: Count
    height_px: Count
    fps: Positive
    events_per_h: Number
    kinds: tuple[Kind, ...]


@cache
def view_kinds() -> dict[str, ViewKind]:
    """All kinds of view by id, read once."""
    data = json.loads(Path(__file__).with_name("views.json").read_text("utf-8"))
    return {row["id"]: read_as(ViewKind, row) for row in data["views"]}


class PlaceWanted(Plain):
    """A place of the site.

    Attributes:
        distance_m: the way of a cable from the recorder to it; 0: the recorder stands there.
        other_building: it is another building, so that fibre goes there.
        views: how many views of each kind, by the kind's id.
    """

    name: Annotated[str, Field(min_length=1, max_length=100)]
    distance_m: Annotated[Number, Field(le=20_000)] = 0
    other_building: bool = False
    views: dict[str, Annotated[Whole, Field(le=MOST_VIEWS)]] = Field(default_factory=dict)

    @property
    def cameras(self) -> int:
        """How many views there are in all."""
        return sum(self.views.values())


def has_own_switch(place: PlaceWanted) -> bool:
    """Whether a place wants a switch of its own: another building, or too far for runs from the recorder's place."""
    longest = max(RUN_M[view_kinds()[kind].outdoors] for kind, many in place.views.items() if many)
    return place.other_building or not at_most(place.distance_m + longest, FIXED_CABLE_M)


class Enquiry(Plain):
    """All answers. Hours are minutes since midnight; ``closed`` are dates that come every year. ``capped``: each camera is held to
    the usual maximum bit rate. ``erase``: pictures are erased after ``most_days``, where none are given after the days that were
    asked; else they stay until the drives are full."""

    name: Annotated[str, Field(min_length=1, max_length=200)] = "New job"
    customer: Annotated[str, Field(max_length=200)] = ""
    site: Annotated[str, Field(max_length=200)] = ""
    places: Annotated[tuple[PlaceWanted, ...], Field(max_length=100)] = ()
    least_days: Annotated[Number, Field(gt=0, le=3650)] = Retention().least_days
    most_days: Annotated[Number, Field(gt=0, le=36_500)] | None = None
    erase: bool = True
    record: Record = "by hours"
    opens_min: Annotated[Whole, Field(lt=MINUTES_A_DAY)] = 8 * 60
    closes_min: Annotated[Whole, Field(le=MINUTES_A_DAY)] = 18 * 60
    open_days: tuple[Day, ...] = WORK_DAYS
    closed: tuple[datetime.date, ...] = ()
    capped: bool = True
    redundancy: bool = True
    internet: bool = True
    upload_mbps: Annotated[Positive, Field(le=100_000)] = 20
    attachment: Attachment = "LAN"

    @property
    def erase_after_days(self) -> float | None:
        """After how many days a recorder erases; None: when it is full."""
        return (self.most_days or self.least_days) if self.erase else None

    @property
    def cameras(self) -> int:
        """How many views are wanted in all."""
        return sum(place.cameras for place in self.places)
