"""Which switch is enough for some cameras: ports, PoE class and budget, with the usual part of it left spare."""

from __future__ import annotations

from collections.abc import Sequence

from eager_lens.core.job.model import Camera
from eager_lens.core.power.poe import POE_CLASSES
from eager_lens.core.reference.device_types import DeviceType, device_types
from eager_lens.core.validation import at_most

SPARE_SHARE = 0.2
"""Share of a PoE budget that is usually left spare."""

LOSS_FACTOR = 1.05
"""What is lost in the cables of cameras, assumed until their lengths are known."""


FIBRE_SWITCHES = ("fibre-8", "fibre-24")
"""Of the reference table, the smallest first: no plug of copper goes into most of their ports."""


def feeds(budget_w: float, cameras: Sequence[Camera]) -> bool:
    """Whether a budget is enough for cameras: for what they draw with some of it left spare, and for what their classes
    allocate."""
    draw_w = sum(camera.power_w for camera in cameras) * LOSS_FACTOR
    allocated_w = sum(
        POE_CLASSES[camera.poe_class or 0].allocated_w for camera in cameras if camera.poe_class is not None
    )
    return at_most(draw_w, (1 - SPARE_SHARE) * budget_w) and at_most(allocated_w, budget_w)


def switch_for(cameras: Sequence[Camera], others: int) -> DeviceType | None:
    """The smallest switch of the reference table for cameras and other devices; None if there is none."""
    highest = max((camera.poe_class or 0 for camera in cameras), default=0)
    fed = [camera for camera in cameras if camera.poe_class is not None]

    def fits(kind: DeviceType) -> bool:
        has_ports = kind.poe_ports >= len(fed) and kind.ports >= len(cameras) + others
        return has_ports and (not fed or kind.poe_port_class >= highest) and feeds(kind.budget_w, fed)

    kinds = [
        kind
        for kind in device_types().values()
        if kind.role == "switch" and kind.id not in FIBRE_SWITCHES and fits(kind)
    ]
    return min(kinds, key=lambda kind: (kind.ports, kind.budget_w), default=None)
