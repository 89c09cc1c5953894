"""What things cost, as the firm typed or read it: prices of parts, the rate of an hour, the tax. Nothing is ever assumed."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from eager_lens.core.job.texts import Text
from eager_lens.core.validation import Number, Plain, Share

Price = Annotated[Number, Field(le=1e9)]


class PartPrice(Plain):
    """The price of one piece (or metre) of a part; ``what`` is its line in the parts list, or how that line begins. ``currency``
    is that of the list it comes from; empty: the job's."""

    what: Annotated[Text, Field(min_length=1)]
    price: Price
    currency: Annotated[str, Field(max_length=20)] = ""


class Charges(Plain):
    """What is charged besides parts: an hour's rate (None: no hours are offered), and the tax, as the firm types them."""

    currency: Annotated[str, Field(max_length=20)] = ""
    rate_per_h: Price | None = None
    tax_name: Text = ""
    tax_share: Share = 0
