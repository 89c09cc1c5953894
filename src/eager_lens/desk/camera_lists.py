"""Camera lists on their way into the job: asked for, read, pasted, and shown for confirmation."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QObject
from PySide6.QtWidgets import QWidget

from eager_lens.core.errors import EagerLensError
from eager_lens.core.incoming.table_in import RawTable, read_table, table_from_text
from eager_lens.core.plain_text import sentence_case
from eager_lens.core.scan.recognising import is_scan
from eager_lens.desk.asking import LIST_FILE, Asker
from eager_lens.desk.session import Session
from eager_lens.desk.widgets.busy import Busy


class CameraLists(QObject):
    """Brings lists in. ``show`` puts the view of a list into sight, ``left`` is called when it is done with; ``compare`` takes the
    list of a search tool."""

    def __init__(
        self,
        session: Session,
        asker: Asker,
        window: QWidget,
        show: Callable[[QWidget], None],
        left: Callable[[], None],
        compare: Callable[[RawTable], object],
    ) -> None:
        super().__init__(window)
        self._session, self._asker, self._show, self._left = session, asker, show, left
        self._compare = compare
        self._view: QWidget | None = None
        self.reading = Busy(session, window)
        self.line = self.reading.line("Reading the list")

    def ask(self) -> None:
        """Ask for a camera list."""
        path = self._asker.open_file("Import a camera list", (LIST_FILE,), self._session.path)
        if path is not None:
            self.read(path)

    def read(self, path: Path) -> None:
        """Show a camera list for confirmation."""
        self.reading.read(path, read_table, lambda table: self._confirm(table, path.name))

    def paste(self, text: str) -> None:
        """Show a pasted list for confirmation."""
        try:
            table = table_from_text(text)
        except EagerLensError:
            self._session.notice("The clipboard has no list; copy rows from a spreadsheet first", needs=True)
            return
        self._confirm(table, "the pasted list")

    def drop(self) -> None:
        """A list that was not taken is given up: when it is left, and when somebody goes elsewhere or shows another."""
        view, self._view = self._view, None
        if view is not None:
            view.hide()
            view.setParent(None)
            view.deleteLater()

    def _confirm(self, table: RawTable, name: str) -> None:
        if is_scan(table, self._session.job):
            text = f"{sentence_case(name)} looks like a scan list: addresses that answered, not cameras to add."
            answer = self._asker.ask(
                "A scan list", text, ("Compare it with the plan", "Import as cameras", "Cancel"), 2
            )
            if answer == 0:
                self._compare(table)
            if answer != 1:
                return
        from eager_lens.desk.panels.import_view import ImportView  # only those who import need it

        view = ImportView(self._session, self._leave)
        self.hold(view, self._show)
        view.show_table(table, name)

    def hold(self, view: QWidget, show: Callable[[QWidget], None]) -> None:
        """Put a view in the page's place, instead of the one that may be there; it goes when somebody goes elsewhere."""
        self.drop()
        show(view)
        self._view = view

    def _leave(self) -> None:
        self.drop()
        self._left()
