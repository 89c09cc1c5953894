"""Clips and stills read in a process of their own: a hostile one ends that process, not the window.

Nothing here loads the library that reads them; the child does (``core/subprocess_reader``).
"""

from __future__ import annotations

from collections.abc import Generator
from pathlib import Path
from typing import TYPE_CHECKING

from eager_lens.core.reference.streams import Quality
from eager_lens.core.subprocess_reader import Limits, running_in_subprocess

if TYPE_CHECKING:
    from eager_lens.core.clip.container import ClipRate
    from eager_lens.core.clip.measure import Measured
    from eager_lens.core.clip.reencoding import Reencoding, Settings
    from eager_lens.core.clip.still import Still

UNTIL_STOPPED = Limits(time_s=None)
"""A day of video takes its time; somebody watches and may stop it."""


def measuring(path: Path, planned_fps: float | None) -> Generator[float, None, Measured]:
    """Measure a clip; yields how far it is.

    Raises:
        RefusedInput, FileTrouble: with one sentence that says what is wrong with it.
    """
    return running_in_subprocess(
        "eager_lens.core.clip.measure:measured", path, planned_fps, limits=UNTIL_STOPPED, what=path.name
    )


def seeing(path: Path) -> Generator[float, None, Still]:
    """Measure a still; yields how far it is. Raises as ``measuring``."""
    return running_in_subprocess("eager_lens.core.clip.still:measured_still", path, what=path.name)


def trying(path: Path, clip: ClipRate, quality: Quality, wanted: Settings) -> Generator[float, None, Reencoding]:
    """Encode a clip at other settings; yields how far it is. Raises as ``measuring``."""
    return running_in_subprocess(
        "eager_lens.core.clip.reencoding:tried", path, clip, quality, wanted, limits=UNTIL_STOPPED, what=path.name
    )
