"""Motion rules that nobody can meet."""

from __future__ import annotations

from functools import lru_cache
from typing import TYPE_CHECKING

from eager_lens.core.assess.limits import SEES_SHARE
from eager_lens.core.motion.rule import CrossingLine, MotionRule

if TYPE_CHECKING:
    from eager_lens.core.motion.detector import Mask


@lru_cache(maxsize=2000)
def why_blind(rule: MotionRule) -> str:
    """Why nobody can meet a rule; empty when somebody can."""
    if rule.sensitivity <= 0:
        return "its sensitivity is 0"
    if not rule.zones:
        return ""
    from eager_lens.core.motion.detector import zone_mask  # NumPy and SciPy: only where zones are drawn

    looked_at = zone_mask(rule)
    if looked_at.mean() < SEES_SHARE:
        return (
            "its exclusion zones cover the picture"
            if any(z.leave_out for z in rule.zones)
            else "its zones are too small"
        )
    if rule.line is not None and not _crosses_any(rule.line, looked_at):
        return "its line lies where it does not look"
    return ""


def _crosses_any(line: CrossingLine, looked_at: Mask) -> bool:
    """Whether some of a line lies where the rule looks."""
    high, wide = looked_at.shape
    (x1, y1), (x2, y2) = line.begins, line.ends
    points = ((x1 + (x2 - x1) * at / 40, y1 + (y2 - y1) * at / 40) for at in range(41))
    return any(looked_at[min(high - 1, int(y * high)), min(wide - 1, int(x * wide))] for x, y in points)
