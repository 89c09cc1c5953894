"""Where a practice begins: a topic and a level, or the code that a trainer handed out."""

from __future__ import annotations

from collections.abc import Callable
from random import SystemRandom

from PySide6.QtWidgets import QLineEdit, QWidget

from eager_lens.core.errors import EagerLensError
from eager_lens.core.practice.drill import drill_of
from eager_lens.core.practice.lessons import LARGEST_SEED, LEVELS, Lesson, PracticeCode, all_lessons
from eager_lens.desk.session import Session
from eager_lens.desk.theme import SPACE, look
from eager_lens.desk.widgets.basics import Choice, button, column, label, row
from eager_lens.desk.widgets.flow import flow


class PracticeDoor(QWidget):
    """Takes the place of the page until a practice is begun or given up."""

    def __init__(self, session: Session, begun: Callable[[str], object], leave: Callable[[], object]) -> None:
        super().__init__()
        self._session, self._begun = session, begun
        self.level = Choice()
        self.level.setAccessibleName("Level")
        for level, words in LEVELS.items():
            self.level.addItem(f"Level {level}: {words}", level)
        self.code = QLineEdit()
        self.code.setAccessibleName("Code of a practice")
        self.code.setPlaceholderText("night-2-4711")
        look.limit_width(self.code, 200)
        self.code.returnPressed.connect(self._by_code)
        head = label("Practise finding faults", "verdict")
        introduction = label(
            "A small invented job with a hidden fault, on simulated devices. The customer complains; you check, test and "
            "repair, and every step takes its time. At the end you see the quickest way.",
            wrap=True,
        )
        lessons = column(spacing=SPACE.HALF)
        self.lessons: dict[str, QWidget] = {}
        for lesson in all_lessons().lessons:
            made = button(lesson.title, lambda lesson=lesson: self._draw(lesson), "answer")  # type: ignore[misc]
            made.setMinimumWidth(look.px(240))
            self.lessons[lesson.id] = made
            line = row(made, label(lesson.before, "small", wrap=True), spacing=SPACE.FULL)
            line.setStretch(1, 1)
            lessons.addLayout(line)
        by_code = flow(
            label("Or enter the code of a trainer:", "small"),
            self.code,
            button("Begin", self._by_code),
            button("Not now", leave, "quiet"),
        )
        note = label(
            "The same code gives the same practice on every computer. To use your own network tools: eager-lens site "
            "--practice CODE.",
            "small",
            wrap=True,
        )
        body = column(head, introduction, row(label("Level", "small"), self.level, None), lessons, by_code, note, None)
        body.setContentsMargins(*[SPACE.WIDE] * 4)
        body.setSpacing(SPACE.FULL)
        self.setLayout(body)
        self.setFocusProxy(self.lessons["twins"])

    def _draw(self, lesson: Lesson) -> None:
        seed = SystemRandom().randint(1, LARGEST_SEED)
        level = next(one for one in LEVELS if one == self.level.currentData())
        self._begin(str(PracticeCode(lesson.id, level, seed)))

    def _by_code(self) -> None:
        self._begin(self.code.text())

    def _begin(self, text: str) -> None:
        try:
            drill = drill_of(text)
        except EagerLensError as error:
            self._session.notice(str(error), needs=True)
            return
        self._session.start_job(drill.job)
        self._begun(str(drill.code))
