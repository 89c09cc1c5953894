"""Why the best picture is what it is, in a few lines: what changes on how many cameras, and what that costs or brings."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from eager_lens.core.assess.figures.cap_cost import cap_cost, worst_of
from eager_lens.core.assess.figures.rates import at_cap_of, cap_of
from eager_lens.core.job.model import Camera, Job
from eager_lens.core.options.best.settings import Given, Setting
from eager_lens.core.plain_text import sentence_case
from eager_lens.core.reference.streams import QUALITIES
from eager_lens.core.sizing.control import CAPPED
from eager_lens.core.units import count

Pair = tuple[Camera, Setting]


def reasons_of(pairs: Sequence[Pair], given: Given, job: Job) -> tuple[str, ...]:
    """The reasons, what loses nothing first.

    Args:
        pairs: cameras with their new settings. given: what cameras give up. job: whose assumptions hold.
    """
    saved = [
        *_line("maximum bit rate", _cap_cost(pairs, job), filter(_is_capped, pairs)),
        *_line("H.265", "no loss", (p for p in pairs if p[1].codec != p[0].codec)),
        *_line(
            "longer key-frame interval",
            "searching is slower, and clips start up to that much earlier",
            filter(_rarer, pairs),
        ),
        *_line("smart codec", "fewer key frames while nothing moves", filter(_smarter, pairs)),
        *_line("lower frame rate", "8 to 12 fps show nearly everything", (p for p in pairs if p[1].fps < p[0].fps)),
        *_line("lower resolution", "still enough for its purpose", filter(_smaller, pairs)),
        *_line("lower quality", "never low where people must be recognised", (p for p in pairs if _steps(p) < 0)),
    ]
    better = [
        *_line("higher frame rate", "space is left for it", (p for p in pairs if p[1].fps > p[0].fps)),
        *_line("higher quality", "space is left for it", (p for p in pairs if _steps(p) > 0)),
    ]
    if given != "nothing":
        first = (
            f"Caps alone do not keep the days, so {GIVEN_UP[given]} reduced, as little as possible and least on important "
            "cameras."
        )
    elif better:
        first = "No camera gets worse, and the space left improves some."
    else:
        first = "No camera gets worse."
    return (first, *saved, *better)


GIVEN_UP: dict[Given, str] = {
    "nothing": "nothing is",
    "quality": "quality is",
    "frames": "quality and frame rate are",
    "resolution": "quality, frame rate and resolution are",
}


def _is_capped(pair: Pair) -> bool:
    return pair[1].rate_control in CAPPED and pair[1].cap_mbps is not None and pair[1].cap_mbps != cap_of(pair[0])


def _cap_cost(pairs: Sequence[Pair], job: Job) -> str:
    """What the new caps take from the picture that they take most from."""
    assumed = job.assumed.as_assumed()
    costs = (at_cap_of(setting.on(camera), assumed) for camera, setting in filter(_is_capped, pairs))
    worst = worst_of(cost for cost in costs if cost is not None)
    return "" if worst is None else f"the softest picture is {cap_cost(worst)}"


def _smaller(pair: Pair) -> bool:
    return pair[1].width_px < pair[0].width_px


def _rarer(pair: Pair) -> bool:
    return pair[1].key_frame_s > pair[0].key_frame_s


def _smarter(pair: Pair) -> bool:
    return pair[1].rate_control == "smart codec" != pair[0].rate_control


def _steps(pair: Pair) -> int:
    return QUALITIES.index(pair[1].quality) - QUALITIES.index(pair[0].quality)


def _line(what: str, why: str, pairs: Iterable[Pair]) -> list[str]:
    found = [camera.name for camera, _ in pairs]
    if not found:
        return []
    whose = " and ".join(found) if len(found) <= 2 else count(len(found), "camera")
    return [f"{sentence_case(what)} on {whose}: {why}."]
