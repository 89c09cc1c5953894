"""What is set on a camera's main stream, in words: for the commissioning plan, the sheets and what a site check compares."""

from __future__ import annotations

from eager_lens.core.assess.figures.rates import cap_of
from eager_lens.core.job.model import Camera
from eager_lens.core.reference.streams import stream_assumptions
from eager_lens.core.units import figure


def stream_words(camera: Camera) -> str:
    """As ``H.265, 2688 × 1520, 12 fps, capped VBR of at most 4 Mb/s``."""
    codec = stream_assumptions().codec_label[camera.codec]
    parts = [codec, f"{camera.width_px} × {camera.height_px}", f"{figure(camera.fps)} fps"]
    return ", ".join((*parts, *([cap] if (cap := cap_words_of(camera)) else [])))


def cap_words_of(camera: Camera) -> str:
    """The maximum that is set; empty where there is none."""
    cap_mbps = cap_of(camera)
    if cap_mbps is None:
        return ""
    return f"CBR of {figure(cap_mbps)} Mb/s" if camera.rate_control == "CBR" else f"at most {figure(cap_mbps)} Mb/s"
