"""The analytics service of a stand-in: its motion rule, as the job plans it or as a fault makes it."""

from __future__ import annotations

import base64
from xml.etree.ElementTree import Element

from eager_lens.core.values.motion_rule import MotionRule
from eager_lens.onsite.open_protocol.names import PREFIXES
from eager_lens.onsite.stand_ins.open_protocol.state import Answering, Served
from eager_lens.onsite.stand_ins.open_protocol.writing import tag, words

COLUMNS, ROWS = 22, 18
"""Cells of the picture that a detector may look at, as the standard's example has them."""

BLIND_SENSITIVITY = 1
KIND, DETECTOR = "tt:CellMotionDetector", "tt:CellMotionEngine"
TOPIC = "tns1:RuleEngine/CellMotionDetector/Motion"
"""The event that the rule sends."""

XSD_TYPES = 'xmlns:xs="http://www.w3.org/2001/XMLSchema"'
_TYPES = f'xmlns:tt="{PREFIXES["tt"]}"'


def _rule(served: Served) -> MotionRule | None:
    """What it detects with; None where its rule is off."""
    one = served.stand_in
    if one.rule == "off":
        return None
    planned = one.motion_rule or MotionRule()
    return planned.model_copy(update={"sensitivity": BLIND_SENSITIVITY}) if one.rule == "blind" else planned


def rules(served: Served, asked: Element) -> str:
    rule = _rule(served)
    if rule is None:
        return ""
    items = {
        "MinCount": 5,
        "AlarmOnDelay": round(rule.shortest_s * 1000),
        "AlarmOffDelay": 1000,
        "ActiveCells": all_cells(),
    }
    simple = "".join(tag("tt:SimpleItem", Name=name, Value=value) for name, value in items.items())
    return f'<tan:Rule Name="motion" Type="{KIND}" {_TYPES}>{tag("tt:Parameters", simple)}</tan:Rule>'


def modules(served: Served, asked: Element) -> str:
    rule = _rule(served)
    if rule is None:
        return ""
    layout = tag("tt:CellLayout", _transformation(), Columns=COLUMNS, Rows=ROWS)
    simple = tag("tt:SimpleItem", Name="Sensitivity", Value=round(rule.sensitivity))
    parameters = tag("tt:Parameters", simple, tag("tt:ElementItem", layout, Name="Layout"))
    return f'<tan:AnalyticsModule Name="cells" Type="{DETECTOR}" {_TYPES}>{parameters}</tan:AnalyticsModule>'


def _transformation() -> str:
    scale = tag("tt:Scale", x=round(2 / COLUMNS, 6), y=round(2 / ROWS, 6))
    return tag("tt:Transformation", tag("tt:Translate", x="-1.0", y="-1.0"), scale)


def all_cells() -> str:
    """All cells active: packed bits (ISO TIFF 6.0) in base64."""
    left, packed = COLUMNS * ROWS // 8 + (COLUMNS * ROWS % 8 > 0), b""
    while left:
        run = min(128, left)
        packed += bytes([(257 - run) & 0xFF, 0xFF]) if run > 1 else b"\x00\xff"
        left -= run
    return base64.b64encode(packed).decode("ascii")


def supported_rules(served: Served, asked: Element) -> str:
    names = ("MinCount", "AlarmOnDelay", "AlarmOffDelay", "ActiveCells")
    kinds = ("xs:integer", "xs:integer", "xs:integer", "xs:base64Binary")
    simple = "".join(
        tag("tt:SimpleItemDescription", Name=name, Type=kind) for name, kind in zip(names, kinds, strict=True)
    )
    data = tag("tt:Data", tag("tt:SimpleItemDescription", Name="IsMotion", Type="xs:boolean"))
    messages = tag("tt:Messages", data, words("tt:ParentTopic", TOPIC), IsProperty="true")
    described = tag("tt:Parameters", simple) + messages
    inside = f'<tt:RuleDescription Name="{KIND}" {XSD_TYPES} {_TYPES}>{described}</tt:RuleDescription>'
    return tag("tan:SupportedRules", inside)


ANSWERS: dict[str, Answering] = {
    "GetRules": rules,
    "GetAnalyticsModules": modules,
    "GetSupportedRules": supported_rules,
}
