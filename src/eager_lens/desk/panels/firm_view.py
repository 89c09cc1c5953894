"""The firm's lists against a job's or a colleague's: each entry with what it is here and there, a choice, then one step."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from eager_lens.core.firm.entries import LIST_WORDS, Fate, FirmEntry, allowed
from eager_lens.core.units import count
from eager_lens.desk.session import Session
from eager_lens.desk.widgets.basics import button
from eager_lens.desk.widgets.choice_table import ChoicePage, ChoiceTable, no_edit
from eager_lens.desk.widgets.record_model import Mark, TableColumn

FATE_WORDS: dict[Fate, str] = {"take": "take", "leave": "keep", "remove": "remove"}
STATE_WORDS = {"new": "new", "another": "differs", "the same": "the same", "only here": "only here"}


class FirmView(ChoicePage):
    """Entries until they are taken or given up. ``done`` is called with what was chosen, ``left`` when the view is left."""

    def __init__(self, session: Session, left: Callable[[], object]) -> None:
        self.session = session
        self._left = left
        self._found: list[FirmEntry] = []
        self._done: Callable[[dict[str, Fate]], bool] = lambda fates: False
        self.fates: dict[str, Fate] = {}
        self._apply = button("", self._take, "main")
        table = ChoiceTable(session, self._columns(), self._choose)
        table.empty_words = "Both sides are empty."
        super().__init__(
            table,
            button("Use all", lambda: self._all("take")),
            button("Keep all", lambda: self._all("leave"), "quiet"),
            None,
            button("Cancel", left),
            self._apply,
        )

    def _columns(self) -> tuple[TableColumn, ...]:
        return (
            TableColumn("list", "List", lambda one, a: LIST_WORDS[one.list], width=100),
            TableColumn("name", "FirmEntry", lambda one, a: one.name, width=150),
            TableColumn("state", "State", lambda one, a: STATE_WORDS[one.state], width=76),
            TableColumn("here", "Here now", lambda one, a: one.here_words or "–", width=166),
            TableColumn("there", "Would become", lambda one, a: one.there_words or "–", width=166),
            TableColumn(
                "fate",
                "Action",
                lambda one, a: FATE_WORDS[self.fates[one.id]],
                no_edit,
                lambda one, job: [FATE_WORDS[fate] for fate in allowed(one)],
                width=112,
                mark=lambda one, a: self._mark(one),
                stretch=True,
            ),
        )

    def show_entries(
        self, title: str, found: list[FirmEntry], fates: dict[str, Fate], done: Callable[[dict[str, Fate]], bool]
    ) -> None:
        """Show entries with what is proposed for each."""
        self.title.setText(title)
        self._found, self.fates, self._done = found, fates, done
        self._show()
        self.table.setFocus()

    def _show(self) -> None:
        self.table.show_parts(self._found, self.session.assessment)
        new, other, gone = (
            sum(self._fate_of(one) == fate and one.state in states for one in self._found)
            for fate, states in (("take", ("new",)), ("take", ("another",)), ("remove", ("only here",)))
        )
        left = sum(one.state == "another" and self._fate_of(one) == "leave" for one in self._found)
        self.words.setText(
            f"{new} will be added, {other} changed, {gone} removed; {left} that differ stay unchanged. Select the action in "
            "the last column; with several rows selected, one choice applies to all."
        )
        acts = new + other + gone
        self._apply.setText(f"Apply {count(acts, 'entry', 'entries')}" if acts else "Nothing to apply")
        self._apply.setEnabled(acts > 0)

    def _fate_of(self, one: FirmEntry) -> Fate:
        return self.fates.get(one.id, "leave")

    def _mark(self, one: FirmEntry) -> Mark:
        return None if self._fate_of(one) == "leave" else "done"

    def _choose(self, ones: Sequence[FirmEntry], text: str) -> bool:
        fate = (
            next(fate for fate, words in FATE_WORDS.items() if words == text) if text in FATE_WORDS.values() else None
        )
        fitting = [one for one in ones if fate is not None and fate in allowed(one)]
        for one in fitting:
            self.fates[one.id] = fate  # type: ignore[assignment]
        self._show()
        return bool(fitting)

    def _all(self, fate: Fate) -> None:
        for one in self._found:
            if fate in allowed(one):
                self.fates[one.id] = fate
        self._show()

    def _take(self) -> None:
        if self._done(self.fates):
            self._left()
