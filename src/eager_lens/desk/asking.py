"""Asking the person for a file or a decision, behind one seam: the window answers with dialogs, a test with answers."""

from collections.abc import Sequence
from pathlib import Path
from typing import NamedTuple, Protocol

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFileDialog, QMessageBox, QWidget

from eager_lens.desk.theme import look


class FileKind(NamedTuple):
    """A kind of file: what it is called, and its endings."""

    words: str
    endings: tuple[str, ...]

    @property
    def filter(self) -> str:
        """As file dialogs want it."""
        return f"{self.words} ({' '.join('*' + ending for ending in self.endings)})"


JOB_FILE = FileKind("Eager Lens jobs", (".lens.json",))
PDF = FileKind("PDF", (".pdf",))
LIST_FILE = FileKind("Camera lists", (".csv", ".tsv", ".txt", ".xlsx"))
SCAN_FILE = FileKind("Scan lists", (".csv", ".tsv", ".txt", ".xlsx", ".json", ".xml"))

CLIP_FILE = FileKind(
    "Clips and stills",
    (".mp4", ".mkv", ".ts", ".avi", ".mov", ".h264", ".264", ".h265", ".265", ".hevc", ".jpg", ".jpeg", ".png"),
)


class Asker(Protocol):
    """Where questions go."""

    def open_file(self, title: str, kinds: Sequence[FileKind], start: Path | None = None) -> Path | None:
        """A file to read, or None when the person gives up."""
        ...

    def save_file(self, title: str, kind: FileKind, proposed: Path) -> Path | None:
        """A file to write, as it was typed; None when the person gives up. Ask by ``file_to_write``."""
        ...

    def ask(self, title: str, text: str, answers: Sequence[str], safe: int) -> int:
        """One of several answers, each named by its act; ``safe`` is the one that loses nothing."""
        ...


def file_to_write(asker: Asker, title: str, kind: FileKind, proposed: Path) -> Path | None:
    """A file to write, with one of the kind's endings; None when the person gives up.

    One that is there already, also under the ending that is added here, is written over only after a question.
    """
    while (path := asker.save_file(title, kind, proposed)) is not None:
        if not path.name.lower().endswith(kind.endings):
            path = path.with_name(path.name + kind.endings[0])
        if not path.exists():
            return path
        answers = ("Replace", "Select another name…", "Cancel")
        answer = asker.ask("File exists", f"{path.name} already exists in {path.parent}.", answers, 2)
        if answer != 1:
            return path if answer == 0 else None
        proposed = path
    return None


class DialogAsker:
    """Asks with the toolkit's dialogs, over a window."""

    def __init__(self, window: QWidget) -> None:
        self._window = window

    def open_file(self, title: str, kinds: Sequence[FileKind], start: Path | None = None) -> Path | None:
        """A file to read."""
        filters = ";;".join([*(kind.filter for kind in kinds), "All files (*)"])
        name, _ = QFileDialog.getOpenFileName(self._window, title, str(start or ""), filters)
        return Path(name) if name else None

    def save_file(self, title: str, kind: FileKind, proposed: Path) -> Path | None:
        """A file to write."""
        # Whether it may be written over is asked once the whole name is known.
        how = QFileDialog.Option.DontConfirmOverwrite
        name, _ = QFileDialog.getSaveFileName(self._window, title, str(proposed), kind.filter, options=how)
        return Path(name) if name else None

    def ask(self, title: str, text: str, answers: Sequence[str], safe: int) -> int:
        """One of several answers."""
        box = QMessageBox(self._window)
        look.apply_style(box)
        box.setWindowTitle(title)
        box.setTextFormat(Qt.TextFormat.PlainText)
        box.setText(text)
        buttons = [box.addButton(answer, QMessageBox.ButtonRole.AcceptRole) for answer in answers]
        box.setDefaultButton(buttons[safe])
        box.setEscapeButton(buttons[safe])
        box.exec()
        box.deleteLater()  # the window would keep it for as long as it is open itself
        return buttons.index(box.clickedButton()) if box.clickedButton() in buttons else safe  # type: ignore[arg-type]
