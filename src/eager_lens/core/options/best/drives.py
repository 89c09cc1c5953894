"""The cheapest drives for a need, out of a price list: every offer, level and number that fits the bays is tried."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import NamedTuple

from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.edits import Edit, set_fields
from eager_lens.core.job.model import DriveOffer, Recorder
from eager_lens.core.sizing.drives import LEVEL_WORDS, RaidLevel, drive_array
from eager_lens.core.units import count, figure
from eager_lens.core.validation import at_least, at_most

LEVELS: tuple[RaidLevel, ...] = ("span", "mirror", "raid5", "raid6", "raid10")


class Purchase(NamedTuple):
    """Drives to buy: what, how many, put together how; what they hold, what they cost, how many may fail. ``id`` is its own."""

    id: str
    offer: DriveOffer
    drives: int
    level: RaidLevel
    usable_tb: float
    price: float
    may_fail: int

    @property
    def words(self) -> str:
        """As ``4 x Name, RAID 5``."""
        return f"{self.drives} × {self.offer.name}, {LEVEL_WORDS[self.level]}"

    def edit(self, recorder: Recorder) -> Edit:
        """Put them into a recorder."""
        label = f"Fit {count(self.drives, f'{figure(self.offer.tb)} TB drive')} in {recorder.name}"
        return set_fields([recorder.id], label, drives=self.drives, drive_tb=self.offer.tb, raid_level=self.level)


def purchases(
    need_tb: float, offers: Iterable[DriveOffer], recorder: Recorder, levels: Sequence[RaidLevel] = LEVELS
) -> list[Purchase]:
    """What serves the need, cheapest first; of one price, what may lose more drives, then what holds more. Offers in several
    currencies stand apart, those of the first offer's currency first.

    The fewest drives of an offer at a level are taken; more would only cost more. Bays, spares and reserve are the
    recorder's.
    """
    found = []
    offers = list(offers)
    currencies = list(dict.fromkeys(offer.currency for offer in offers))
    for number, offer in enumerate(offers):
        if recorder.largest_drive_tb is not None and not at_most(offer.tb, recorder.largest_drive_tb):
            continue
        for level in levels:
            for drives in range(1, recorder.bays + 1):
                try:
                    array = drive_array(drives, offer.tb, level, recorder.hot_spares, recorder.reserve_share)
                except RefusedInput:
                    continue
                if at_least(array.usable_tb, need_tb):
                    found.append(
                        Purchase(
                            f"{number}-{level}",
                            offer,
                            drives,
                            level,
                            array.usable_tb,
                            drives * offer.price,
                            array.drives_that_may_fail,
                        )
                    )
                    break
    return sorted(
        found, key=lambda one: (currencies.index(one.offer.currency), one.price, -one.may_fail, -one.usable_tb)
    )
