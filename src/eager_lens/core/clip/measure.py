"""A clip measured as a whole: what it was sent as, and what is in its pictures."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import NamedTuple

from eager_lens.core.clip.container import ClipRate, measured_rate
from eager_lens.core.clip.content import Content, content_of
from eager_lens.core.errors import RefusedInput


class Measured(NamedTuple):
    """A clip that was read: its file, what it was sent as, and what is in it, or why that cannot be told."""

    path: Path
    rate: ClipRate
    content: Content | None
    trouble: str


def measured(path: Path, planned_fps: float | None, step: Callable[[float], None] = lambda share: None) -> Measured:
    """Measure a clip. ``planned_fps`` is for a bare stream that carries no times; ``step`` may raise to stop.

    Raises:
        RefusedInput, FileTrouble: with one sentence that says what is wrong with it.
    """
    rate = measured_rate(path, lambda share: step(0.5 * share), planned_fps)
    try:
        return Measured(path, rate, content_of(path, rate, lambda share: step(0.5 + 0.5 * share)), "")
    except RefusedInput as trouble:
        return Measured(path, rate, None, str(trouble))
