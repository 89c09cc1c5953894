"""Streams, as planned, as set and as sent, in words; and lengths of time."""

from __future__ import annotations

from eager_lens.core.assess.figures.stream_words import cap_words_of
from eager_lens.core.job.model import Camera
from eager_lens.core.reference.streams import stream_assumptions
from eager_lens.core.site_check.readings import StreamRead
from eager_lens.core.site_check.told import ProfileTold
from eager_lens.core.units import figure

HOUR_S = 3600.0


def planned_words(camera: Camera) -> str:
    """A camera's main stream as it is planned."""
    size = f"{camera.width_px} × {camera.height_px}"
    cap = cap_words_of(camera)
    words = f"{codec_words(camera.codec)} {size}, {figure(camera.fps)} fps, key-frame interval {figure(camera.key_frame_s)} s"
    return f"{words}, {cap}" if cap else words


def profile_words(profile: ProfileTold) -> str:
    """A stream as it is set."""
    key = "" if profile.key_frame_s is None else f", key-frame interval {figure(profile.key_frame_s, 2)} s"
    kind = "constant" if profile.is_constant else "at most"
    cap = f"{kind} {figure(profile.cap_mbps)} Mb/s" if profile.cap_mbps is not None else "no maximum bit rate"
    size = f"{profile.width_px} × {profile.height_px}"
    return f"{codec_words(profile.codec)} {size}, {figure(profile.fps)} fps{key}, {cap}"


def settings_words(stream: StreamRead) -> str:
    """A stream's settings as it shows them."""
    key = "" if stream.key_frame_s is None else f", key-frame interval {figure(stream.key_frame_s, 2)} s"
    size = f"{stream.width_px} × {stream.height_px}"
    return f"{codec_words(stream.codec)} {size}, {figure(stream.fps)} fps{key}"


def stream_read_words(stream: StreamRead) -> str:
    """A stream as it is sent."""
    return f"{settings_words(stream)}, {figure(stream.mean_mbps)} Mb/s"


def codec_words(codec: str) -> str:
    """A codec by its usual name."""
    return {str(key): label for key, label in stream_assumptions().codec_label.items()}.get(codec, codec)


def duration_words(seconds: float) -> str:
    """A length of time, in the unit that reads best."""
    if seconds < 120:
        return f"{seconds:.1f} s" if seconds < 10 else f"{seconds:.0f} s"
    if seconds < 2 * HOUR_S:
        return f"{seconds / 60:.0f} min"
    if seconds < 48 * HOUR_S:
        return f"{seconds / HOUR_S:.1f} h"
    return f"{seconds / HOUR_S / 24:.0f} days"


def signed_duration(seconds: float) -> str:
    """By how much a clock is ahead (+) or behind (-)."""
    return f"{'+' if seconds >= 0 else '-'}{duration_words(abs(seconds))}"
