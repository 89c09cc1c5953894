"""What a camera stand-in sends once somebody set it otherwise, and how cameras are set as they come out of the box."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from eager_lens.core.addressing.ipv4 import address_number
from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.figures.rates import sent_by
from eager_lens.core.job.model import Camera, changed
from eager_lens.core.job.rehearsal import Rehearsal
from eager_lens.core.reference.streams import Codec
from eager_lens.core.runbook.looked_at import power_up
from eager_lens.core.simulation.build import site_of
from eager_lens.core.simulation.site import Site
from eager_lens.core.virtual_site.commissioned import join_radio, set_up
from eager_lens.core.virtual_site.stand_in import StandIn, StreamSent

BOXED_NAME = "Device"
BOXED_CODEC: Codec = "h264"
BOXED_FPS, BOXED_KEY_FRAME_S = 25.0, 2.0
"""How cameras are delivered (made up): many pictures, and no maximum."""


def stream_as_set(one: StandIn, at: int, wanted: StreamSent, cap_mbps: float | None, is_constant: bool) -> StreamSent:
    """A stream of a camera with other settings, and what it then sends: by the model, times what the camera needs of it by the
    plan. Of a substream nothing is planned but its rate, which goes with pixels and pictures.

    Args:
        at: 0 for the main stream. cap_mbps: its maximum; None: none.
    """
    before = one.streams[at]
    if at == 0 and one.camera is not None and one.planned_mbps:
        shape = {name: getattr(wanted, name) for name in ("codec", "width_px", "height_px", "fps", "key_frame_s")}
        if cap_mbps == one.camera.cap_mbps and all(getattr(one.camera, name) == value for name, value in shape.items()):
            return wanted._replace(rate_mbps=one.planned_mbps)
        rate_mbps = _freely_mbps(one.camera, one.planned_mbps, shape)
    else:
        pixels = wanted.width_px * wanted.height_px / (before.width_px * before.height_px)
        rate_mbps = before.rate_mbps * pixels * wanted.fps / before.fps
    if cap_mbps is not None:
        rate_mbps = cap_mbps if is_constant else min(rate_mbps, cap_mbps)
    return wanted._replace(rate_mbps=round(rate_mbps, 4))


def _freely_mbps(camera: Camera, planned_mbps: float, shape: Mapping[str, Any]) -> float:
    """What a camera sends with other settings and no maximum: by the model, times what it sends by the plan over what the
    model says of that."""
    free = changed(camera, cap_mbps=None, rate_control="VBR", measured_mbps=None, **shape)
    return sent_by(free).mean_mbps * planned_mbps / sent_by(camera).mean_mbps


def out_of_the_box(assessment: Assessment) -> Site:
    """A site of the job on which everything is plugged in and has started, the network is set up, and every recorder and camera
    is as it was delivered."""
    site = site_of(assessment, Rehearsal())
    join_radio(site)
    power_up(site)
    for unit in site.units.values():
        if unit.device is not None and unit.role not in ("camera", "recorder"):
            set_up(site, unit, unit.device)
        if unit.role == "recorder" and unit.profile.first_address and not unit.sides[0].address:
            # The rehearsal has recorders set up at their own monitor; over the network they are found where they come to.
            unit.sides[0].address = address_number(unit.profile.first_address)
            unit.sides[0].prefix = unit.profile.first_prefix
        if unit.role in ("camera", "recorder") and unit.device is not None:
            unit.given_name = unit.device.make or BOXED_NAME
        stream, camera = unit.stream, unit.device
        if stream is None or not isinstance(camera, Camera):
            continue
        shape = {"codec": BOXED_CODEC, "fps": BOXED_FPS, "key_frame_s": BOXED_KEY_FRAME_S}
        stream.rate_mbps = round(_freely_mbps(camera, stream.planned_mbps, shape), 4)
        stream.peak_mbps = max(stream.peak_mbps, stream.rate_mbps)
        stream.codec, stream.fps, stream.key_frame_s = BOXED_CODEC, BOXED_FPS, BOXED_KEY_FRAME_S
        stream.cap_mbps = None
    return site
