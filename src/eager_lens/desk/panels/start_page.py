"""The start page: begin, go on, or take up what was left."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication, QLabel, QScrollArea, QVBoxLayout, QWidget

from eager_lens.core.job.file import ENDING
from eager_lens.core.present.stages import RECORDS
from eager_lens.desk.autosave import LeftWork
from eager_lens.desk.theme import SPACE, look
from eager_lens.desk.widgets.basics import button, column, emptied, label, row, rule
from eager_lens.desk.widgets.plain_words import as_label

MOST_TEMPLATES = 8


class StartPage(QScrollArea):
    """What can be begun, recent files, and work that a window left behind."""

    def __init__(
        self,
        act: Callable[[str], object],
        open_path: Callable[[Path], object],
        take_up: Callable[[LeftWork], object],
        give_up: Callable[[LeftWork], object],
        from_template: Callable[[Path, bool], object],
    ) -> None:
        super().__init__()
        self.setWidgetResizable(True)
        self._act, self._open_path, self._take_up, self._give_up = act, open_path, take_up, give_up
        self._from_template = from_template
        inner = QWidget()
        self._layout = QVBoxLayout(inner)
        self._layout.setContentsMargins(64, 48, 64, 32)
        self._layout.setSpacing(SPACE.FULL)
        self.setWidget(inner)
        self._shown: Callable[[], None] = lambda: None
        look.changed.connect(self._redraw)

    def _redraw(self) -> None:
        if self.isHidden():
            return  # it is built anew whenever it comes into sight
        had_focus = self.isAncestorOf(QApplication.focusWidget() or self.window())
        self._shown()
        if had_focus:
            self.setFocus()

    def show_choices(self, recent: tuple[str, ...], left: list[LeftWork], templates: Sequence[Path] = ()) -> None:
        """Build the page anew. ``templates`` are files to begin from."""
        # Its pictures are drawn in the look of now, and again in another one.
        self._shown = partial(self.show_choices, recent, left, templates)
        emptied(self._layout)
        mark = QLabel()
        mark.setPixmap(look.pixmap("mark", look.px(44)))
        words = column(
            label("Eager Lens", "verdict"),
            label(
                "Plan, commission, test and hand over cameras and recorders.",
                "muted",
                wrap=True,
            ),
            spacing=2,
        )
        head = row(mark, words, spacing=SPACE.FULL)
        head.setStretch(1, 1)
        self._layout.addLayout(head)
        if left:
            self._layout.addWidget(rule())
            self._layout.addLayout(self._left(left))
        self._layout.addWidget(rule())
        columns = row(self._begin(templates), self._recent(recent), spacing=64)
        columns.setStretch(0, 2)
        columns.setStretch(1, 3)
        self._layout.addLayout(columns)
        self._layout.addStretch(1)
        caution = (
            "Local codes, the makers' instructions and licensed practice come first. The program needs no network and sends "
            "nothing by itself."
        )
        self._layout.addWidget(label(caution, "caution", wrap=True))

    def _begin(self, templates: Sequence[Path]) -> QVBoxLayout:
        choices = (
            ("demo", "Open the demo job", "A tramway with 36 cameras and a few deliberate faults.", "main"),
            (
                "enquiry",
                "New job from questions…",
                "From places, views and days to a complete job with an offer.",
                "plain",
            ),
            ("new", "New job", "Start with an empty job.", "plain"),
            ("import", "Import a camera list…", "CSV or XLSX; you confirm the columns.", "plain"),
            ("open", "Open a job…", "A file that ends in .lens.json.", "plain"),
            ("practise", "Practise finding faults…", "Find hidden faults on simulated devices.", "plain"),
        )
        layout = column(label("Begin", "heading"), spacing=SPACE.HALF)
        for action, text, hint, kind in choices:
            made = button(text, lambda action=action: self._act(action), kind)  # type: ignore[arg-type, misc]
            made.setMinimumWidth(look.px(200))
            if action == "demo":
                self.setFocusProxy(made)
            layout.addWidget(made, 0, Qt.AlignmentFlag.AlignLeft)
            layout.addWidget(label(hint, "small", wrap=True))
            layout.addSpacing(SPACE.TIGHT)
        if templates:
            layout.addWidget(label("From a template", "heading"))
        for path in templates[:MOST_TEMPLATES]:
            name = path.name.removesuffix(ENDING)
            begin = button(as_label(name), lambda path=path: self._from_template(path, True), "quiet", tip=str(path))  # type: ignore[misc]
            remove = button("Remove", lambda path=path: self._from_template(path, False), "quiet")  # type: ignore[misc]
            remove.setAccessibleName(f"Remove the template {name}")
            layout.addLayout(row(begin, remove, None))
        layout.addStretch(1)
        return layout

    def _recent(self, recent: tuple[str, ...]) -> QVBoxLayout:
        layout = column(label("Recent", "heading"), spacing=SPACE.TIGHT)
        if not recent:
            layout.addWidget(label("Jobs that you save or open are listed here.", "muted", wrap=True))
        for text in recent:
            path = Path(text)
            made = button(as_label(path.name), lambda path=path: self._open_path(path), "quiet", tip=text)  # type: ignore[misc]
            made.setEnabled(path.exists())
            there = str(path.parent) if path.exists() else f"{path.parent} (no longer there)"
            layout.addWidget(made, 0, Qt.AlignmentFlag.AlignLeft)
            where = label(there, "small", wrap=True)
            where.setContentsMargins(SPACE.HALF, 0, 0, SPACE.TIGHT)
            layout.addWidget(where)
        layout.addSpacing(SPACE.WIDE)
        layout.addWidget(label("Order of work", "heading"))
        for stage in RECORDS:
            icon = QLabel()
            icon.setPixmap(look.pixmap(stage.id, look.px(18), "accent"))
            name = label(stage.words)
            look.fix_width(name, 86)
            line = row(icon, name, label(stage.purpose, "muted", wrap=True))
            line.setStretch(2, 1)
            layout.addLayout(line)
        layout.addStretch(1)
        return layout

    def _left(self, left: list[LeftWork]) -> QVBoxLayout:
        layout = column(
            label("Unsaved work from an earlier session", "heading"),
            spacing=SPACE.HALF,
        )
        for work in left[:5]:
            where = work.job_path or "not saved yet"
            line = row(
                label(f"{work.job_name}, kept {work.kept_words()} ({where})", wrap=True),
                button("Recover", lambda work=work: self._take_up(work), "main"),  # type: ignore[misc]
                button("Discard", lambda work=work: self._give_up(work), "quiet"),  # type: ignore[misc]
            )
            line.setStretch(0, 1)
            layout.addLayout(line)
        return layout
