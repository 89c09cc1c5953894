"""What Ctrl+K finds: devices, findings, stages, views and commands, by any of their words or what else they are called."""

from __future__ import annotations

from collections.abc import Iterable
from typing import NamedTuple

from eager_lens.core.assess.finding import Stage
from eager_lens.core.job.model import role_of
from eager_lens.core.present.stages import RECORDS, STAGE_WORDS
from eager_lens.desk.actions import ACTIONS, VIEWS
from eager_lens.desk.session import Session

MOST_RESULTS = 12

BY_NAME, BY_SYNONYM = 1, 3
"""How good a match is, the lowest best; a device whose name begins so is 0, a finding 4."""


class Hit(NamedTuple):
    """A search result: what it is, where it leads, and how good a match it is (lower is better)."""

    words: str
    kind: str
    stage: Stage | None
    subject: str
    action: str
    rank: int
    view: str = ""


def search(text: str, session: Session) -> list[Hit]:
    """Devices by name, address, serial, MAC address or place; findings; stages, their views and commands. Best first."""
    wanted = text.strip().casefold()
    if not wanted:
        return []
    hits = [
        *_places(wanted, session),
        *_commands(wanted, session),
        *_devices(wanted, session),
        *_findings(wanted, session),
    ]
    return sorted(hits, key=lambda hit: hit.rank)[:MOST_RESULTS]


def _matched(wanted: str, words: str, synonyms: str) -> int | None:
    """How well what is typed fits: each of its words must begin one of the words, or of the synonyms."""
    parts = wanted.split()
    if _begin(parts, words.casefold().split()):
        return BY_NAME
    return BY_SYNONYM if _begin(parts, f"{words} {synonyms}".casefold().split()) else None


def _begin(parts: Iterable[str], among: list[str]) -> bool:
    return all(any(word.startswith(part) for word in among) for part in parts)


def _places(wanted: str, session: Session) -> Iterable[Hit]:
    """Stages and their views."""
    if not session.is_open:
        return
    for record in RECORDS:
        rank = _matched(wanted, record.words, f"{record.purpose} {record.synonyms}")
        if rank is not None:
            yield Hit(record.words, "page", record.id, "", "", rank - 1)
    for view in VIEWS:
        rank = _matched(wanted, view.words, view.synonyms)
        if rank is not None:
            yield Hit(f"{STAGE_WORDS[view.stage]}: {view.words}", "view", view.stage, "", "", rank, view.words)


def _commands(wanted: str, session: Session) -> Iterable[Hit]:
    for action in ACTIONS:
        rank = _matched(wanted, action.words.rstrip("…"), action.synonyms)
        if rank is not None and (session.is_open or not action.wants_job):
            yield Hit(action.words, "command", None, "", action.id, rank)


def _devices(wanted: str, session: Session) -> Iterable[Hit]:
    for device in session.assessment.facts.devices:
        rank = _rank(wanted, (device.name, device.address, device.serial, device.mac_address, device.place))
        if rank is not None:
            details = " · ".join(part for part in (device.name, device.address, device.place) if part)
            yield Hit(details, role_of(device), None, device.id, "", rank)


def _findings(wanted: str, session: Session) -> Iterable[Hit]:
    for finding in session.assessment.findings:
        if wanted in finding.title.casefold():
            subject = finding.subjects[0] if finding.subjects else ""
            yield Hit(finding.title, finding.severity.word, finding.stage, subject, "", 4)


def _rank(wanted: str, texts: tuple[str, ...]) -> int | None:
    best = None
    for at, text in enumerate(texts):
        place = text.casefold().find(wanted)
        if place >= 0:
            rank = (0 if place == 0 else 2) + (at == len(texts) - 1)
            best = rank if best is None else min(best, rank)
    return best
