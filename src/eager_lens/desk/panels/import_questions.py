"""What an import of a list asks: how its decimals are written where it does not show that, and what becomes of cameras that the
job has."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtWidgets import QWidget

from eager_lens.core.incoming.camera_import import ImportResult, KnownRows, Mapping
from eager_lens.core.incoming.number_marks import Decimal, decimal_words
from eager_lens.core.job.model import Job
from eager_lens.core.units import count
from eager_lens.desk.theme import SPACE
from eager_lens.desk.widgets.basics import Choice, column, label, row

KNOWN_WORDS: dict[KnownRows, str] = {
    "update": "update them",
    "leave out": "keep them unchanged",
    "add": "add them again",
}
MOST_ASKED, MOST_CHANGES = 3, 5


class DecimalsAsked(QWidget):
    """A question for each column that can be read in two ways, and in words how the others write. ``said`` is called with the
    column and the mark."""

    def __init__(self, said: Callable[[int, Decimal], object]) -> None:
        super().__init__()
        self._said = said
        self._parts = row(None)
        self.setLayout(self._parts)

    def show_mapping(self, mapping: Mapping) -> None:
        """Ask for the columns of a list."""
        while (item := self._parts.takeAt(0)) is not None:
            if (widget := item.widget()) is not None:
                widget.hide()
                widget.deleteLater()
        for at in mapping.unsure[:MOST_ASKED]:
            marks, heading = mapping.columns[at].marks, mapping.columns[at].heading
            assert marks is not None
            box = Choice()
            box.setAccessibleName(f"Meaning of {marks.example or 'a comma'} in {heading}")
            for decimal, words in decimal_words(marks.example):
                box.addItem(words, decimal)
            box.setCurrentIndex(box.findData(marks.decimal))
            box.activated.connect(lambda _, at=at, box=box: self._said(at, box.currentData()))
            for part in (label(f"{heading}: {marks.example or 'point and comma'} is"), box):
                self._parts.addWidget(part)
        found = {one.marks.decimal for one in mapping.columns if one.marks is not None and one.marks.is_certain}
        if found:
            words = " and ".join({".": "points", ",": "commas"}[one] for one in sorted(found, reverse=True))
            self._parts.addWidget(label(f"The columns show that decimals are written with {words}.", "small"))
        self._parts.addStretch(1)
        self.setVisible(bool(mapping.unsure or found))


class KnownCameras(QWidget):
    """Rows about cameras of the job: what becomes of them, and what would be others then. ``chosen`` is called with the choice."""

    def __init__(self, chosen: Callable[[KnownRows], object]) -> None:
        super().__init__()
        self._many = label("")
        self._choice = Choice()
        for known, words in KNOWN_WORDS.items():
            self._choice.addItem(words, known)
        self._choice.setAccessibleName("Cameras already in the job")
        self._choice.activated.connect(lambda _: chosen(self._choice.currentData()))
        self._changes = label("", "small", wrap=True)
        self.setLayout(column(row(self._many, self._choice, None), self._changes, spacing=SPACE.HALF))

    def show_result(self, result: ImportResult, known_rows: KnownRows, job: Job) -> None:
        """Show what the updates would change, before and after, camera by camera."""
        self.setVisible(result.known > 0)
        self._choice.setCurrentIndex(self._choice.findData(known_rows))
        self._many.setText(f"{count(result.known, 'row describes', 'rows describe')} cameras already in the job:")
        names = {camera.id: camera.name for camera in job.cameras} if result.changed else {}
        lines = [
            f"{names[one.camera]} (recognised by {one.known_by}): {'; '.join(one.words)}"
            for one in result.changed[:MOST_CHANGES]
        ]
        if len(result.changed) > MOST_CHANGES:
            lines.append(f"and {len(result.changed) - MOST_CHANGES} more")
        if same := len(result.updates) - len(result.changed):
            lines.append(f"{count(same, 'camera does', 'cameras do')} not change.")
        self._changes.setText("\n".join(lines))
        self._changes.setVisible(bool(lines))
