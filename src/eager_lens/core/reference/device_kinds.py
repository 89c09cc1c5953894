"""Generic kinds of network devices, from ``device_kinds.json``: what a device of a kind usually has."""

import json
from functools import cache
from pathlib import Path
from typing import NamedTuple


class DeviceKind(NamedTuple):
    """A kind: its words, its role, sockets in all and with power, their speed, and the power that it can give."""

    id: str
    label: str
    role: str
    ports: int
    powered_ports: int
    port_mbps: float
    budget_w: float


@cache
def device_kinds() -> dict[str, DeviceKind]:
    """All kinds by id, read once."""
    data = json.loads(Path(__file__).with_name("device_kinds.json").read_text("utf-8"))
    return {row["id"]: DeviceKind(**row) for row in data["kinds"]}
