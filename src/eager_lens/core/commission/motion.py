"""Motion rules as a job plans them beside what a device's analytics told."""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple

from eager_lens.core.commission.act import Act, ByHand, SettingRow
from eager_lens.core.job.model import Camera
from eager_lens.core.planned_settings.cells import cells_in, cells_text
from eager_lens.core.planned_settings.detector import COLUMNS, ROWS, DetectorSet, approximated, detector_of
from eager_lens.core.site_check.told import MotionTold, RuleTold, Told

CELL_RULE, LINE_RULE = "CellMotionDetector", "LineDetector"
SENSITIVITY = "Sensitivity"
LINE_NAME, CELLS_NAME = "Eager Lens line", "Eager Lens motion"
MS_A_S = 1000


class _Found(NamedTuple):
    """A rule as it is told, and its values by name."""

    rule: RuleTold
    values: dict[str, str]


def _values(rule: RuleTold) -> dict[str, str]:
    return dict(text.partition(" ")[::2] for text in rule.settings)


def _of_kind(rules: tuple[RuleTold, ...], kind: str) -> _Found | None:
    rule = next((one for one in rules if one.kind == kind), None)
    return None if rule is None else _Found(rule, _values(rule))


def motion_acts(camera: Camera, told: Told) -> Iterator[Act | ByHand]:
    """What is set of a camera's motion rule, and what stays by hand."""
    if not camera.motion_rule_on:
        return
    motion = told.motion
    if motion is None or not motion.token:
        yield ByHand(
            kind="motion cells", what="Motion rule", why="its analytics are not to be set by the open protocol"
        )
        return
    engine = next((one for one in motion.detectors if SENSITIVITY in _values(one)), None)
    columns, rows = _layout(motion)
    planned = detector_of(camera, columns, rows)
    if engine is not None:
        yield from _sensitivity(planned, engine, motion)
    if CELL_RULE in motion.kinds:
        yield from _cells(camera, planned, motion, (columns, rows))
    else:
        yield ByHand(
            kind="motion cells",
            what="Motion rule: zones, least size and delays",
            why="it takes no rule on cells of the picture",
        )
    if planned.line is not None:
        if LINE_RULE in motion.kinds:
            yield from _line(planned, motion)
        else:
            yield ByHand(kind="crossing line", what="Line to cross", why="it takes no such rule")


def _layout(motion: MotionTold) -> tuple[int, int]:
    """Columns and rows of its cells."""
    for one in motion.detectors:
        words = dict(part.partition("=")[::2] for part in _values(one).get("Layout", "").split())
        columns, rows = words.get("Columns", ""), words.get("Rows", "")
        if columns.isdigit() and rows.isdigit() and 1 <= int(columns) <= 200 and 1 <= int(rows) <= 200:
            return int(columns), int(rows)
    return COLUMNS, ROWS


def _sensitivity(planned: DetectorSet, engine: RuleTold, motion: MotionTold) -> Iterator[Act]:
    now = _values(engine)[SENSITIVITY]
    if _number(now) == planned.sensitivity:
        return
    row = SettingRow(what="motion: sensitivity", now=now or "not told", will_be=f"{planned.sensitivity:g} of 100")
    values = {"analytics": motion.token, "name": engine.name, "sensitivity": round(planned.sensitivity)}
    before = {**values, "sensitivity": round(_number(now) or 0)}
    yield Act(kind="sensitivity", settings=(row,), values=values, before=before if _number(now) is not None else {})


def _cells(camera: Camera, planned: DetectorSet, motion: MotionTold, size: tuple[int, int]) -> Iterator[Act]:
    found = _of_kind(motion.rules, CELL_RULE)
    now = found.values if found is not None else {}
    wanted = {"MinCount": planned.least_cells, "AlarmOnDelay": planned.on_ms, "AlarmOffDelay": planned.off_ms}
    names = {"MinCount": "least cells", "AlarmOnDelay": "delay", "AlarmOffDelay": "end after"}
    cells = cells_text(planned.cells)
    rows = []
    for name, value in wanted.items():
        if _number(now.get(name, "")) != value:
            unit = " cells" if name == "MinCount" else " ms"
            shown = f"{now[name]}{unit}" if name in now else "none"
            rows.append(SettingRow(what=f"motion: {names[name]}", now=shown, will_be=f"{value}{unit}"))
    if found is None or cells_in(now.get("ActiveCells", ""), *size) != planned.cells:
        active = sum(map(sum, planned.cells))
        all_of = size[0] * size[1]
        rows.append(
            SettingRow(
                what="motion: where it looks",
                now="other cells" if found else "no rule",
                will_be=f"{active} of {all_of} cells",
            )
        )
    if not rows:
        return
    rows[0] = rows[0].model_copy(update={"note": f"takes {'; '.join(approximated(camera))}"[:400]})
    values = {"analytics": motion.token, "rule": found.rule.name if found else "", **wanted, "ActiveCells": cells}
    before = {**values, **{name: now[name] for name in (*wanted, "ActiveCells") if name in now}} if found else {}
    yield Act(kind="motion cells", settings=tuple(rows), values=values, before=before)


def _line(planned: DetectorSet, motion: MotionTold) -> Iterator[Act]:
    assert planned.line is not None
    points = " ".join(f"{x * 2 - 1:.4f},{1 - y * 2:.4f}" for x, y in planned.line)
    found = _of_kind(motion.rules, LINE_RULE)
    now = found.values if found is not None else {}
    if now.get("Segments") == points and now.get("Direction") == planned.line_direction:
        return
    row = SettingRow(
        what="line to cross",
        now=f"{now.get('Segments', 'none')} {now.get('Direction', '')}".strip(),
        will_be=f"{points} {planned.line_direction}",
    )
    values = {
        "analytics": motion.token,
        "rule": found.rule.name if found else "",
        "points": points,
        "direction": planned.line_direction,
    }
    before = {**values, "points": now.get("Segments", ""), "direction": now.get("Direction", "")} if found else {}
    yield Act(kind="crossing line", settings=(row,), values=values, before=before)


def _number(written: str) -> float | None:
    try:
        return float(written)
    except ValueError:
        return None
