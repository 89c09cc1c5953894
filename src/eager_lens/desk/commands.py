"""The window's commands as Qt has them: actions with their keys, menus, and what carries each out."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from functools import partial

from PySide6.QtCore import QObject
from PySide6.QtGui import QAction, QKeySequence
from PySide6.QtWidgets import QLineEdit, QMenu, QPlainTextEdit, QWidget

from eager_lens.core.job.edits import add_recorder
from eager_lens.core.job.spares import mark_as_spare
from eager_lens.core.job.wiring import add_of_kind, types_of
from eager_lens.core.planning.addressing import plan_all
from eager_lens.core.planning.registering import fill_the_channels
from eager_lens.core.units import count
from eager_lens.desk.actions import ACTIONS, TOGGLES
from eager_lens.desk.session import Session
from eager_lens.desk.widgets.basics import button
from eager_lens.desk.widgets.record_table import RecordTable


def edit_handlers(session: Session) -> dict[str, Callable[[], object]]:
    """The commands that edit the job and need nothing else."""
    return {
        "add-recorder": lambda: session.apply(add_recorder()),
        "add-switch": lambda: session.apply(add_of_kind(types_of(session.job)["powered-8"])),
        "add-router": lambda: session.apply(add_of_kind(types_of(session.job)["router-4"])),
        "fill-channels": lambda: session.apply(fill_the_channels()),
        "plan-addresses": lambda: session.attempt(lambda: plan_all(session.job)),
        "mark-spare": lambda: _mark_as_spare(session),
    }


def _mark_as_spare(session: Session) -> None:
    """Keep the selected devices as spare ones."""
    known = {device.id for device in session.job.devices()}
    selected = [one for one in session.selected if one in known]
    if not selected:
        session.notice("Select the spare devices first", needs=True)
    elif session.apply(mark_as_spare(selected)):
        session.tell_step(
            f"{count(len(selected), 'device')} marked as spare; to install them later, open Wiring, Devices, Spare devices"
        )


class Commands(QObject):
    """All commands of a window, which brings the handlers of those that it carries out itself."""

    def __init__(self, session: Session, window: QWidget, handlers: Mapping[str, Callable[[], object]]) -> None:
        super().__init__(window)
        self._session, self._window = session, window
        self.handlers: dict[str, Callable[[], object]] = {
            "undo": self._undo,
            "redo": self._redo,
            **edit_handlers(session),
            **handlers,
        }
        self._actions: dict[str, QAction] = {}
        for action in ACTIONS:
            made = QAction(action.words, window)
            made.setShortcut(QKeySequence(action.keys))
            made.setCheckable(action.id in TOGGLES)
            made.triggered.connect(partial(self._triggered, action.id))
            window.addAction(made)
            self._actions[action.id] = made
        session.state_changed.connect(self._show_state)

    def _triggered(self, action_id: str, _: bool = False) -> None:
        self.run(action_id)

    def run(self, action_id: str) -> None:
        """Carry out a command by its id."""
        action = next(action for action in ACTIONS if action.id == action_id)
        if action.wants_job and not self._session.is_open:
            self._session.notice("Open or create a job first", needs=True)
            return
        if action.menu == "Job":
            self.finish_typing()
        self.handlers[action_id]()

    def menu(self, name: str) -> QWidget:
        """A button with the menu of a name."""
        made = button(f"&{name} ▾", kind="quiet")
        menu = QMenu(made)
        for action in ACTIONS:
            if action.menu == name:
                menu.addAction(self._actions[action.id])
        made.setMenu(menu)
        return made

    def check(self, action_id: str, on: bool) -> None:
        """Show whether something is switched on."""
        self._actions[action_id].setChecked(on)

    def finish_typing(self) -> None:
        """What is being typed counts before the job is saved or left."""
        focus = self._window.focusWidget()
        table = focus.parent() if focus is not None else None
        while table is not None and not isinstance(table, RecordTable):
            table = table.parent()
        if isinstance(table, RecordTable):
            table.setFocus()
        elif focus is not None:
            focus.clearFocus()
            focus.setFocus()

    def _show_state(self) -> None:
        session = self._session
        for action in ACTIONS:
            self._actions[action.id].setEnabled(session.is_open or not action.wants_job)
        for name, words in (("undo", session.undo_label), ("redo", session.redo_label)):
            self._actions[name].setEnabled(bool(words))
            self._actions[name].setText(f"{name.capitalize()} “{words}”" if words else name.capitalize())

    def _undo(self) -> None:
        """A text that is being typed keeps its own undo."""
        focus = self._window.focusWidget()
        if (isinstance(focus, QLineEdit) and focus.isUndoAvailable() and focus.hasFocus()) or (
            isinstance(focus, QPlainTextEdit) and focus.document().isUndoAvailable() and focus.hasFocus()
        ):
            focus.undo()
        else:
            self._session.undo()

    def _redo(self) -> None:
        focus = self._window.focusWidget()
        if isinstance(focus, QLineEdit) and focus.isRedoAvailable() and focus.hasFocus():
            focus.redo()
        else:
            self._session.redo()
