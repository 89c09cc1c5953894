"""The encoders of a stand-in: which profiles it has, and what each takes."""

from __future__ import annotations

from typing import NamedTuple

from eager_lens.core.virtual_site.stand_in import StreamSent
from eager_lens.onsite.stand_ins.open_protocol.state import Served
from eager_lens.onsite.stand_ins.open_protocol.writing import Refusal

SIZES = ((3840, 2160), (2688, 1520), (2560, 1440), (1920, 1080), (1280, 720), (640, 360))
FPS_MOST, KEY_FRAMES_MOST = 30, 400
CAP_KBPS = (32, 32_768)
UNLIMITED = 0
SOURCE, ANALYTICS_TOKEN = "picture", "analytics"


class Encoder(NamedTuple):
    """A profile of a stand-in: its token and place, the stream that it sends, its cap in kb/s (0: none), whether it holds its
    rate, and its picture quality (1 to 10)."""

    token: str
    at: int
    stream: StreamSent
    cap_kbps: int
    is_constant: bool
    quality: float

    @property
    def key_frames(self) -> int:
        """Frames from one key frame to the next."""
        return max(1, round(self.stream.key_frame_s * self.stream.fps))


def encoders(served: Served) -> list[Encoder]:
    """The profiles of a stand-in, its main stream first."""
    one = served.stand_in
    found = []
    for at, stream in enumerate(one.streams):
        sub_mbps = stream.rate_mbps if one.sub_cap_mbps is None else one.sub_cap_mbps
        cap_mbps = (one.cap_mbps or UNLIMITED) if at == 0 else sub_mbps
        holds = one.holds_rate if at == 0 else one.sub_holds_rate
        quality = one.qualities[at] if at < len(one.qualities) else 5.0
        found.append(Encoder(f"profile{at + 1}", at, stream, round(cap_mbps * 1000), holds, quality))
    return found


def encoder_named(served: Served, token: str) -> Encoder:
    """A profile by its own token or that of its encoder.

    Raises:
        Refusal: when there is none.
    """
    wanted = token.replace("encoder", "profile")
    found = next((one for one in encoders(served) if one.token == wanted), None)
    if found is None:
        raise Refusal("there is no such profile", "InvalidArgVal", "NoProfile")
    return found


def sizes_of(served: Served, one: Encoder) -> list[tuple[int, int]]:
    """The picture sizes that it takes, its present one first; of a camera of the job also the planned one."""
    camera = served.stand_in.camera
    planned = ((camera.width_px, camera.height_px),) if camera is not None and one.at == 0 else ()
    return list(dict.fromkeys(((one.stream.width_px, one.stream.height_px), *planned, *SIZES)))
