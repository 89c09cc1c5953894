"""The event service of a stand-in: a pull point that tells when its motion rule sees something move."""

from __future__ import annotations

import asyncio
import itertools
import time
from datetime import UTC, datetime
from typing import NamedTuple
from xml.etree.ElementTree import Element

from eager_lens.onsite.open_protocol.names import (
    CONCRETE_DIALECT,
    CONCRETE_TOPIC,
    EVENTS,
    ITEM_FILTER,
    SCHEMA,
)
from eager_lens.onsite.open_protocol.xml import text
from eager_lens.onsite.stand_ins.open_protocol.analytics_service import TOPIC, XSD_TYPES
from eager_lens.onsite.stand_ins.open_protocol.encoders import ANALYTICS_TOKEN, SOURCE
from eager_lens.onsite.stand_ins.open_protocol.state import Answering, Served
from eager_lens.onsite.stand_ins.open_protocol.writing import Refusal, tag, words

MOST_POINTS = 8
POINT_S = 60.0
LOOK_EVERY_S = 0.1
LONGEST_WAIT_S = 5.0


class PullPoint:
    """A subscription: what was told last, and until when it is kept."""

    def __init__(self) -> None:
        self.told: bool | None = None
        self.until_s = time.monotonic() + POINT_S


class Points(NamedTuple):
    """The subscriptions of a stand-in by number."""

    each: dict[int, PullPoint]
    numbers: itertools.count[int]


def new_points() -> Points:
    """None yet."""
    return Points({}, itertools.count(1))


def properties(served: Served, asked: Element) -> str:
    data = tag("tt:Data", tag("tt:SimpleItemDescription", Name="IsMotion", Type="xs:boolean"))
    sources = ("VideoSourceConfigurationToken", "VideoAnalyticsConfigurationToken", "Rule")
    named = "".join(tag("tt:SimpleItemDescription", Name=name, Type="tt:ReferenceToken") for name in sources)
    message = tag("tt:MessageDescription", tag("tt:Source", named), data, IsProperty="true")
    motion = f'<Motion wstop:topic="true">{message}</Motion>' if served.stand_in.role == "camera" else ""
    topics = f"<tns1:RuleEngine><CellMotionDetector>{motion}</CellMotionDetector></tns1:RuleEngine>" if motion else ""
    return (
        words("tev:TopicNamespaceLocation", SCHEMA)
        + words("wsnt:FixedTopicSet", True)
        + f"<wstop:TopicSet {XSD_TYPES}>{topics}</wstop:TopicSet>"
        + words("wsnt:TopicExpressionDialect", CONCRETE_TOPIC)
        + words("wsnt:TopicExpressionDialect", CONCRETE_DIALECT)
        + words("tev:MessageContentFilterDialect", ITEM_FILTER)
        + words("tev:MessageContentSchemaLocation", SCHEMA)
    )


def service_capabilities(served: Served, asked: Element) -> str:
    return tag("tev:Capabilities", WSPullPointSupport="true", MaxPullPoints=MOST_POINTS)


def subscribe(served: Served, points: Points) -> str:
    now_s = time.monotonic()
    for number in [number for number, one in points.each.items() if one.until_s < now_s]:
        del points.each[number]
    if len(points.each) >= MOST_POINTS:
        raise Refusal("no more subscriptions", "OperationProhibited", "TooManyPullPoints", code="Receiver")
    number = next(points.numbers)
    points.each[number] = PullPoint()
    address = tag("wsa:Address", f"{served.told_url(EVENTS)}/{number}")
    return tag("tev:SubscriptionReference", address) + _times("wsnt", served, POINT_S)


def _times(prefix: str, served: Served, for_s: float) -> str:
    now_s = served.clock.now_s()
    return words(f"{prefix}:CurrentTime", _moment(now_s)) + words(f"{prefix}:TerminationTime", _moment(now_s + for_s))


def _moment(at_s: float) -> str:
    return datetime.fromtimestamp(at_s, UTC).strftime("%Y-%m-%dT%H:%M:%SZ")


async def pull(served: Served, point: PullPoint, asked: Element) -> str:
    """Wait until something is to be told, for so long as is asked."""
    point.until_s = time.monotonic() + POINT_S
    until_s = time.monotonic() + min(LONGEST_WAIT_S, _seconds(text(asked, "Timeout")))
    while True:
        now_s = served.clock.now_s()
        moves = served.stand_in.role == "camera" and served.moves_at(now_s)
        if moves is not point.told and served.stand_in.role == "camera":
            word, point.told = "Initialized" if point.told is None else "Changed", moves
            return _times("tev", served, POINT_S) + _message(now_s, word, moves)
        if time.monotonic() >= until_s:
            return _times("tev", served, POINT_S)
        await asyncio.sleep(LOOK_EVERY_S)


def _seconds(written: str) -> float:
    """A duration as ``PT1.5S`` or ``PT1M``; a second for any other."""
    unit = {"S": 1.0, "M": 60.0}.get(written[-1:], 0.0)
    try:
        return float(written.removeprefix("PT")[:-1]) * unit if unit else 1.0
    except ValueError:
        return 1.0


def _message(now_s: float, operation: str, moves: bool) -> str:
    sources = {
        "VideoSourceConfigurationToken": SOURCE,
        "VideoAnalyticsConfigurationToken": ANALYTICS_TOKEN,
        "Rule": "motion",
    }
    source = tag("tt:Source", *(tag("tt:SimpleItem", Name=name, Value=value) for name, value in sources.items()))
    data = tag("tt:Data", tag("tt:SimpleItem", Name="IsMotion", Value=str(moves).lower()))
    message = tag("tt:Message", source, data, UtcTime=_moment(now_s), PropertyOperation=operation)
    topic = tag("wsnt:Topic", TOPIC, Dialect=CONCRETE_TOPIC)
    return tag("wsnt:NotificationMessage", topic, tag("wsnt:Message", message))


def renewed(served: Served, point: PullPoint) -> str:
    point.until_s = time.monotonic() + POINT_S
    now_s = served.clock.now_s()
    return words("wsnt:TerminationTime", _moment(now_s + POINT_S)) + words("wsnt:CurrentTime", _moment(now_s))


ANSWERS: dict[str, Answering] = {"GetEventProperties": properties, "GetServiceCapabilities": service_capabilities}
