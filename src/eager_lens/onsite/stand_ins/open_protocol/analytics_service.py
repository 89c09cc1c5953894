"""The analytics service of a stand-in: its cell detector with the rules that it takes, to be read and set."""

from __future__ import annotations

from xml.etree.ElementTree import Element

from eager_lens.core.planned_settings.cells import cells_in, cells_text
from eager_lens.core.planned_settings.detector import COLUMNS, ROWS, DetectorSet
from eager_lens.onsite.open_protocol.names import PREFIXES
from eager_lens.onsite.open_protocol.xml import anywhere, as_number, attribute, child, children
from eager_lens.onsite.stand_ins.open_protocol.state import Answering, Served
from eager_lens.onsite.stand_ins.open_protocol.writing import Refusal, tag, words

BLIND_SENSITIVITY = 1
KIND, LINE_KIND, DETECTOR = "tt:CellMotionDetector", "tt:LineDetector", "tt:CellMotionEngine"
RULE, LINE_RULE, MODULE = "motion", "line", "cells"
TOPIC = "tns1:RuleEngine/CellMotionDetector/Motion"
"""The event that the rule sends."""
LINE_TOPIC = "tns1:RuleEngine/LineDetector/Crossed"

XSD_TYPES = 'xmlns:xs="http://www.w3.org/2001/XMLSchema"'
_TYPES = f'xmlns:tt="{PREFIXES["tt"]}"'
MOST_DELAY_MS = 30_000


def _detector(served: Served) -> DetectorSet | None:
    """What it detects with; None where its rule is off."""
    one = served.stand_in
    if one.rule == "off" or one.detector is None:
        return None
    return one.detector._replace(sensitivity=BLIND_SENSITIVITY) if one.rule == "blind" else one.detector


def rules(served: Served, asked: Element) -> str:
    found = _detector(served)
    if found is None:
        return ""
    items = {
        "MinCount": found.least_cells,
        "AlarmOnDelay": found.on_ms,
        "AlarmOffDelay": found.off_ms,
        "ActiveCells": cells_text(found.cells),
    }
    simple = "".join(tag("tt:SimpleItem", Name=name, Value=value) for name, value in items.items())
    written = f'<tan:Rule Name="{RULE}" Type="{KIND}" {_TYPES}>{tag("tt:Parameters", simple)}</tan:Rule>'
    if found.line is None:
        return written
    points = "".join(tag("tt:Point", x=f"{x * 2 - 1:.4f}", y=f"{1 - y * 2:.4f}") for x, y in found.line)
    simple = tag("tt:SimpleItem", Name="Direction", Value=found.line_direction)
    element = tag("tt:ElementItem", tag("tt:Polyline", points), Name="Segments")
    line = tag("tt:Parameters", simple, element)
    return f'{written}<tan:Rule Name="{LINE_RULE}" Type="{LINE_KIND}" {_TYPES}>{line}</tan:Rule>'


def modules(served: Served, asked: Element) -> str:
    found = _detector(served)
    if found is None:
        return ""
    layout = tag("tt:CellLayout", _transformation(), Columns=COLUMNS, Rows=ROWS)
    simple = tag("tt:SimpleItem", Name="Sensitivity", Value=round(found.sensitivity))
    parameters = tag("tt:Parameters", simple, tag("tt:ElementItem", layout, Name="Layout"))
    return f'<tan:AnalyticsModule Name="{MODULE}" Type="{DETECTOR}" {_TYPES}>{parameters}</tan:AnalyticsModule>'


def _transformation() -> str:
    scale = tag("tt:Scale", x=round(2 / COLUMNS, 6), y=round(2 / ROWS, 6))
    return tag("tt:Transformation", tag("tt:Translate", x="-1.0", y="-1.0"), scale)


def supported_rules(served: Served, asked: Element) -> str:
    names = ("MinCount", "AlarmOnDelay", "AlarmOffDelay", "ActiveCells")
    kinds = ("xs:integer", "xs:integer", "xs:integer", "xs:base64Binary")
    simple = "".join(
        tag("tt:SimpleItemDescription", Name=name, Type=kind) for name, kind in zip(names, kinds, strict=True)
    )
    line = tag("tt:SimpleItemDescription", Name="Direction", Type="tt:Direction")
    line += tag("tt:ElementItemDescription", Name="Segments", Type="tt:Polyline")
    cell_rule = _described(KIND, simple, "IsMotion", "xs:boolean", TOPIC, is_state=True)
    return tag("tan:SupportedRules", cell_rule + _described(LINE_KIND, line, "ObjectId", "xs:integer", LINE_TOPIC))


def _described(kind: str, parameters: str, item: str, item_type: str, topic: str, is_state: bool = False) -> str:
    data = tag("tt:Data", tag("tt:SimpleItemDescription", Name=item, Type=item_type))
    messages = tag("tt:Messages", data, words("tt:ParentTopic", topic), IsProperty=str(is_state).lower())
    inside = tag("tt:Parameters", parameters) + messages
    return f'<tt:RuleDescription Name="{kind}" {XSD_TYPES} {_TYPES}>{inside}</tt:RuleDescription>'


# ---- what others set ------------------------------------------------------------------------------------------------


def set_rules(served: Served, asked: Element) -> str:
    """Take rules; whoever sets one wants it on."""
    found = served.stand_in.detector
    assert found is not None  # only cameras have this service
    for one in children(asked, "Rule"):
        kind = attribute(one, "Type").rpartition(":")[2]
        items = _items(one)
        if kind == KIND.rpartition(":")[2]:
            found = _with_cells(found, items)
        elif kind == LINE_KIND.rpartition(":")[2]:
            found = _with_line(found, items, one)
        else:
            raise Refusal(f"no such rule: {kind}", "InvalidArgVal", "RuleNotExistent")
    served.change(detector=found, rule="on")
    return ""


def _items(one: Element) -> dict[str, str]:
    return {
        attribute(item, "Name"): item.attrib.get("Value", "")
        for item in children(child(one, "Parameters"), "SimpleItem")
    }


def _with_cells(found: DetectorSet, items: dict[str, str]) -> DetectorSet:
    looked_at = cells_in(items.get("ActiveCells", ""), COLUMNS, ROWS) if "ActiveCells" in items else found.cells
    if not looked_at:
        raise Refusal("no cells that it has", "InvalidArgVal", "InvalidRule")
    return found._replace(
        cells=looked_at,
        least_cells=_number(items, "MinCount", found.least_cells, COLUMNS * ROWS),
        on_ms=_number(items, "AlarmOnDelay", found.on_ms, MOST_DELAY_MS),
        off_ms=_number(items, "AlarmOffDelay", found.off_ms, MOST_DELAY_MS),
    )


def _with_line(found: DetectorSet, items: dict[str, str], one: Element) -> DetectorSet:
    points = [(as_number_of(point, "x"), as_number_of(point, "y")) for point in anywhere(one, "Point")]
    if len(points) != 2:
        raise Refusal("it takes lines of two points", "InvalidArgVal", "InvalidRule")
    first, second = (((x + 1) / 2, (1 - y) / 2) for x, y in points)
    return found._replace(line=(first, second), line_direction=items.get("Direction", "Any"))


def as_number_of(point: Element, name: str) -> float:
    """A coordinate from -1 to 1."""
    try:
        return max(-1.0, min(1.0, float(attribute(point, name))))
    except ValueError as error:
        raise Refusal("no point", "InvalidArgVal", "InvalidRule") from error


def _number(items: dict[str, str], name: str, before: int, most: int) -> int:
    if name not in items:
        return before
    value = as_number(items[name])
    if value is None or value > most:
        raise Refusal(f"no such {name}", "InvalidArgVal", "InvalidRule")
    return round(value)


def set_modules(served: Served, asked: Element) -> str:
    found = served.stand_in.detector
    assert found is not None
    for one in children(asked, "AnalyticsModule"):
        if attribute(one, "Name") != MODULE:
            raise Refusal("there is no such module", "InvalidArgVal", "NameNotExistent")
        found = found._replace(sensitivity=_number(_items(one), "Sensitivity", round(found.sensitivity), 100))
    served.change(detector=found)
    return ""


def delete_rules(served: Served, asked: Element) -> str:
    found = served.stand_in.detector
    assert found is not None
    for one in children(asked, "RuleName"):
        if (one.text or "").strip() == LINE_RULE:
            served.change(detector=found._replace(line=None))
        elif (one.text or "").strip() == RULE:
            served.change(rule="off")
        else:
            raise Refusal("there is no such rule", "InvalidArgVal", "RuleNotExistent")
    return ""


ANSWERS: dict[str, Answering] = {
    "GetRules": rules,
    "GetAnalyticsModules": modules,
    "GetSupportedRules": supported_rules,
    "CreateRules": set_rules,
    "ModifyRules": set_rules,
    "DeleteRules": delete_rules,
    "ModifyAnalyticsModules": set_modules,
}
