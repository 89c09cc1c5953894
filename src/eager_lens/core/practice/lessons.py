"""The lessons: their topics, the faults of each level, and the rule to remember; and the codes that draw one."""

from __future__ import annotations

import json
from functools import cache
from importlib import resources
from typing import Literal, NamedTuple

from eager_lens.core.errors import RefusedInput
from eager_lens.core.validation import Plain, read_as

Level = Literal["1", "2", "3"]
LEVELS: dict[Level, str] = {"1": "one usual fault", "2": "one of several", "3": "two at once"}
LARGEST_SEED = 999_999


class Lesson(Plain):
    """A topic.

    Attributes:
        before: what is known before anybody rings. faults: by level, what may be drawn, each one fault or two.
        rule: what to remember.
    """

    id: str
    title: str
    before: str
    faults: dict[Level, tuple[tuple[str, ...], ...]]
    rule: str


class Lessons(Plain):
    """All of them, and how a customer says each symptom (``{camera}``)."""

    lessons: tuple[Lesson, ...]
    complaints: dict[str, str]


class PracticeCode(NamedTuple):
    """What draws a practice: a topic, a level and a seed. A trainer hands it out as ``night-2-4711``."""

    topic: str
    level: Level
    seed: int

    def __str__(self) -> str:
        return f"{self.topic}-{self.level}-{self.seed}"


@cache
def all_lessons() -> Lessons:
    """The lessons that ship with the program."""
    file = resources.files("eager_lens.core.reference").joinpath("practice_lessons.json")
    return read_as(Lessons, json.loads(file.read_text("utf-8")))


def lesson_of(topic: str) -> Lesson:
    """A lesson by its topic.

    Raises:
        RefusedInput: naming those that there are.
    """
    for lesson in all_lessons().lessons:
        if lesson.id == topic:
            return lesson
    known = ", ".join(lesson.id for lesson in all_lessons().lessons)
    raise RefusedInput("practice", f"{topic!r} is not a topic; the topics are {known}")


def code_from(text: str) -> PracticeCode:
    """A code as it is handed out.

    Raises:
        RefusedInput: saying what is wrong with it.
    """
    parts = text.strip().lower().split("-")
    if len(parts) != 3 or not (parts[2].isascii() and parts[2].isdigit()):
        raise RefusedInput(
            "practice",
            f"{text.strip()!r} is not a code; a code is topic, level 1 to 3 and number, such as night-2-4711",
        )
    lesson = lesson_of(parts[0])
    level: Level | None = next((one for one in LEVELS if one == parts[1]), None)
    if level is None:
        raise RefusedInput("practice", f"{parts[1]!r} is not a level; the levels are 1, 2 and 3")
    seed = int(parts[2][:9])
    if seed > LARGEST_SEED:
        raise RefusedInput("practice", f"{seed:,} is too large; the number may be up to {LARGEST_SEED:,}")
    return PracticeCode(lesson.id, level, seed)
