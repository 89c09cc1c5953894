"""A firm's own lists: make profiles, the mounting list, prices and rates, label stock, templates. They stand outside jobs, and go
from colleague to colleague as one file."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Annotated

from pydantic import Field

from eager_lens.core.errors import FileTrouble, advice_for
from eager_lens.core.files import read_whole, write_whole
from eager_lens.core.firm.label_stock import LabelStock
from eager_lens.core.job.fault_figures import FaultFigure
from eager_lens.core.job.make_profiles import MakeProfile
from eager_lens.core.job.model import DriveOffer, Job, changed
from eager_lens.core.job.prices import Charges, PartPrice
from eager_lens.core.job.proof import MountingStep
from eager_lens.core.units import count
from eager_lens.core.validation import Plain, read_document_of

FORMAT, VERSION = "eager-lens-firm", 1
ENDING = ".firm.json"
LARGEST_BYTES = 64 * 2**20
FIRM_LISTS = "firm-lists.json"
"""The file of this computer, in the folder of preferences."""

IN_JOBS = ("make_profiles", "mounting_list", "prices", "drive_offers", "charges", "fault_figures")
"""Those that a job goes by; the others stand outside it."""


class FirmLists(Plain):
    """The lists. What is empty says nothing: a job keeps its own then."""

    format: str = FORMAT
    version: int = VERSION
    make_profiles: Annotated[tuple[MakeProfile, ...], Field(max_length=200)] = ()
    mounting_list: Annotated[tuple[MountingStep, ...], Field(max_length=500)] = ()
    prices: Annotated[tuple[PartPrice, ...], Field(max_length=5000)] = ()
    drive_offers: Annotated[tuple[DriveOffer, ...], Field(max_length=1000)] = ()
    charges: Charges = Charges()
    fault_figures: Annotated[tuple[FaultFigure, ...], Field(max_length=5000)] = ()
    label_stocks: Annotated[tuple[LabelStock, ...], Field(max_length=100)] = ()
    templates: Annotated[tuple[Job, ...], Field(max_length=50)] = ()

    @property
    def words(self) -> str:
        """What is in them."""
        parts = (
            (len(self.make_profiles), "make profile"),
            (len(self.mounting_list), "mounting step"),
            (len(self.prices), "price"),
            (len(self.drive_offers), "drive"),
            (len(self.label_stocks), "label stock"),
            (len(self.templates), "template"),
            (len(self.fault_figures), "fault figure"),
        )
        parts_counted = [count(many, what) for many, what in parts if many]
        if self.charges != Charges():
            parts_counted.append("rates")
        return ", ".join(parts_counted) or "nothing"


def lists_of(job: Job) -> FirmLists:
    """The lists that a job goes by; each price in its currency, which outside the job nothing else says."""
    own = job.charges.currency
    prices = (one if one.currency or not own else changed(one, currency=own) for one in job.prices)
    return FirmLists(
        make_profiles=job.make_profiles,
        mounting_list=job.mounting_list,
        prices=tuple(prices),
        drive_offers=job.drive_offers,
        charges=job.charges,
        fault_figures=job.fault_figures,
    )


def firm_text(firm: FirmLists) -> str:
    """The lists as a file."""
    return json.dumps(firm.model_dump(mode="json"), ensure_ascii=False, indent=1) + "\n"


def firm_from_text(text: str) -> FirmLists:
    """Lists out of a file.

    Raises:
        RefusedInput: naming what is wrong with it.
    """
    what = f"file of a firm's lists; select a file that ends in {ENDING}"
    return read_document_of(text, FirmLists, FORMAT, VERSION, what)


def read_firm(path: Path) -> FirmLists:
    """The lists in a file; empty ones where there is none.

    Raises:
        FileTrouble, RefusedInput: when it cannot be read.
    """
    if not path.exists():
        return FirmLists()
    return firm_from_text(read_whole(path, LARGEST_BYTES, "file of a firm's lists").decode("utf-8", "replace"))


def write_firm(path: Path, firm: FirmLists) -> None:
    """Keep lists.

    Raises:
        FileTrouble: when they cannot be written; what was there stays.
    """
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        write_whole(path, firm_text(firm).encode())
    except OSError as error:
        raise FileTrouble(advice_for(error, path, "Writing")) from error
