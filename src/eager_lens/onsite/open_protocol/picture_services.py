"""The services about what a camera sees: imaging (by night), analytics (rules and detectors), events (motion)."""

from __future__ import annotations

from typing import NamedTuple
from xml.etree.ElementTree import Element

from eager_lens.core.site_check.told import NightMode, NightTold, RuleTold
from eager_lens.onsite.open_protocol.xml import anywhere, attribute, child, children, local, number, parts, text

MICROSECONDS_A_MS = 1000.0
_MODES: dict[str, NightMode] = {"on": "on", "off": "off", "auto": "auto"}
MOTION_WORDS = ("motion", "linecross", "fielddetector", "objectsinside")
STATES = ("ismotion", "state", "isinside", "iscrossing", "motion")


def night_of(answer: Element) -> NightTold:
    """What the dark picture depends on, out of an answer to GetImagingSettings."""
    settings = child(answer, "ImagingSettings")
    longest = number(settings, "Exposure", "MaxExposureTime")
    if longest is None and text(settings, "Exposure", "Mode").lower() == "manual":
        longest = number(settings, "Exposure", "ExposureTime")
    return NightTold(
        infrared_filter=_MODES.get(text(settings, "IrCutFilter").lower(), ""),
        longest_exposure_ms=None if longest is None else longest / MICROSECONDS_A_MS,
        wide_range=_MODES.get(text(settings, "WideDynamicRange", "Mode").lower(), ""),
    )


def rules_of(answer: Element, name: str) -> tuple[RuleTold, ...]:
    """Rules or detectors in an answer to GetRules (``Rule``) or GetAnalyticsModules (``AnalyticsModule``)."""
    found = []
    for one in children(answer, name)[:64]:
        parameters = child(one, "Parameters")
        settings = [
            f"{attribute(item, 'Name')} {attribute(item, 'Value')}" for item in children(parameters, "SimpleItem")
        ]
        for item in children(parameters, "ElementItem"):
            inside = next(iter(item), None)
            told = _attributes(inside) if inside is not None else ""
            settings.append(f"{attribute(item, 'Name')} {told}".strip())
        kind = attribute(one, "Type").rpartition(":")[2]
        found.append(
            RuleTold(name=attribute(one, "Name"), kind=kind, settings=tuple(text[:300] for text in settings[:32]))
        )
    return tuple(found)


def _attributes(inside: Element) -> str:
    """Its attributes, or, of a line, its points: ``x,y`` each."""
    points = [f"{attribute(one, 'x')},{attribute(one, 'y')}" for one in anywhere(inside, "Point")]
    return " ".join(points) or " ".join(f"{local(key)}={value}" for key, value in inside.attrib.items())


def kinds_of(answer: Element) -> tuple[str, ...]:
    """The kinds of rules that it takes, out of an answer to GetSupportedRules."""
    names = (attribute(one, "Name").rpartition(":")[2] for one in anywhere(answer, "RuleDescription"))
    return tuple(name for name in dict.fromkeys(names) if name)[:64]


def topics_of(answer: Element) -> tuple[str, ...]:
    """Events about motion that it offers, out of an answer to GetEventProperties, as ``RuleEngine/CellMotionDetector/Motion``."""
    found: list[str] = []
    waiting: list[tuple[Element, str]] = [(one, "") for one in parts(child(answer, "TopicSet"))]
    while waiting and len(found) < 32:
        one, above = waiting.pop(0)
        path = f"{above}/{local(one.tag)}".strip("/")
        if len(path) > 200:
            continue
        if attribute(one, "topic").lower() in ("true", "1") and is_about_motion(path):
            found.append(path)
        waiting += [(inner, path) for inner in one]
    return tuple(found)


def is_about_motion(topic: str) -> bool:
    """Whether a topic is about motion."""
    return any(word in topic.lower() for word in MOTION_WORDS)


class Message(NamedTuple):
    """An event: its topic without prefixes, and whether it says that something moves; None where it does not say."""

    topic: str
    in_motion: bool | None


def messages_of(answer: Element) -> list[Message]:
    """The events in an answer to PullMessages."""
    found = []
    for one in children(answer, "NotificationMessage")[:200]:
        topic = "/".join(part.rpartition(":")[2] for part in text(one, "Topic").split("/"))
        items = [item for data in anywhere(one, "Data") for item in children(data, "SimpleItem")]
        said = next((attribute(i, "Value").lower() for i in items if attribute(i, "Name").lower() in STATES), "")
        found.append(Message(topic, None if not said else said in ("true", "1")))
    return found


def subscription_address(answer: Element) -> str:
    """Where events are fetched, out of an answer to CreatePullPointSubscription."""
    return text(answer, "SubscriptionReference", "Address")
