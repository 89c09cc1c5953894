"""Motion rules that nobody can meet."""

from __future__ import annotations

from functools import lru_cache

from eager_lens.core.assess.limits import SEES_SHARE
from eager_lens.core.motion.raster import is_looked_at, looked_at_share, rows_looked_at
from eager_lens.core.values.motion_rule import CrossingLine, MotionRule


@lru_cache(maxsize=2000)
def why_blind(rule: MotionRule) -> str:
    """Why nobody can meet a rule; empty when somebody can."""
    if rule.sensitivity <= 0:
        return "its sensitivity is 0"
    if not rule.zones:
        return ""
    rows = rows_looked_at(rule)
    if looked_at_share(rows) < SEES_SHARE:
        return (
            "its exclusion zones cover the picture"
            if any(z.leave_out for z in rule.zones)
            else "its zones are too small"
        )
    if rule.line is not None and not _crosses_any(rule.line, rows):
        return "its line lies outside the part that it watches"
    return ""


def _crosses_any(line: CrossingLine, rows: list[int]) -> bool:
    """Whether some of a line lies where the rule looks."""
    (x1, y1), (x2, y2) = line.begins, line.ends
    points = ((x1 + (x2 - x1) * at / 40, y1 + (y2 - y1) * at / 40) for at in range(41))
    return any(is_looked_at(rows, x, y) for x, y in points)
