"""Generic kinds of network devices, from ``device_types.json``: what a device of a kind usually has."""

import json
from functools import cache
from pathlib import Path
from typing import Annotated, Any, Literal

from pydantic import Field

from eager_lens.core.validation import Number, Plain, Positive, Whole, read_as

PoeClass = Annotated[Whole, Field(le=8)]
RadioEnd = Literal["", "access point", "client"]
"""Which end of a radio link a device is; the access point stands at the recorder's side, every far end is a client."""


class DeviceType(Plain):
    """A kind: its words, its role, and what devices of this kind have, as the fields of a network device.

    ``fits`` gives those fields; a kind that a job brings along has the same shape.
    """

    id: Annotated[str, Field(strict=True, min_length=1, max_length=80)]
    label: Annotated[str, Field(strict=True, min_length=1, max_length=200)]
    role: Literal["router", "switch", "bridge", "other"] = "switch"
    ports: Annotated[Whole, Field(le=1024)] = 8
    poe_ports: Annotated[Whole, Field(le=1024)] = 0
    port_mbps: Annotated[Positive, Field(le=1_000_000)] = 1000
    budget_w: Annotated[Number, Field(le=100_000)] = 0
    poe_port_class: PoeClass = 4
    own_w: Annotated[Number, Field(le=100_000)] = 10
    wan_port: Annotated[Whole, Field(le=1024)] = 0
    radio_end: RadioEnd = ""
    poe_class: PoeClass | None = None
    power_w: Annotated[Number, Field(le=100_000)] = 0
    viewed_streams: Annotated[Whole, Field(le=1024)] = 0

    def fits(self) -> dict[str, Any]:
        """The fields of a network device of this kind; what is watched there stays unless the kind is made to watch."""
        left_out = ("id", "label") if self.viewed_streams else ("id", "label", "viewed_streams")
        return {
            "device_type": self.id,
            **{name: value for name, value in self.__dict__.items() if name not in left_out},
        }


@cache
def device_types() -> dict[str, DeviceType]:
    """All objects by id, read once."""
    data = json.loads(Path(__file__).with_name("device_types.json").read_text("utf-8"))
    return {row["id"]: read_as(DeviceType, row) for row in data["types"]}
