"""What of a site check becomes what is built: selected first, with what the plan becomes by it."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtWidgets import QCheckBox, QWidget

from eager_lens.core.assess.assessment import assess
from eager_lens.core.errors import EagerLensError
from eager_lens.core.job.edits import Edit
from eager_lens.core.options.remedies.choices import consequences
from eager_lens.core.site_check.readings import CheckRun
from eager_lens.core.site_check.take_over import Wanted, offered, take_over
from eager_lens.core.units import count, figure
from eager_lens.desk.background import Task, Work
from eager_lens.desk.session import Session
from eager_lens.desk.theme import SPACE
from eager_lens.desk.widgets.basics import Choice, button, column, label, row
from eager_lens.desk.widgets.busy import Busy

SET_THE_DEVICE, FOLLOW_THE_DEVICE = 0, 1
MOST_LINES = 8


class TakeOverQuestion(QWidget):
    """The question, until it is answered; ``taken`` is called with the edit that was agreed to."""

    def __init__(self, session: Session, taken: Callable[[Edit], object], closed: Callable[[], object]) -> None:
        super().__init__()
        self.session = session
        self._taken, self._closed = taken, closed
        self._run: CheckRun | None = None
        self._edit: Edit | None = None
        self.identity, self.proofs, self.rates = QCheckBox(), QCheckBox(), QCheckBox()
        self.settings = Choice()
        self.settings.setAccessibleName("If streams differ from the plan")
        self._settings_words = label("", "small")
        self._rates_words = label(
            "A short reading is only a sample; leave it out unless day and night were measured.", "small", wrap=True
        )
        self.effect = label("", "", wrap=True)
        self.apply = button("Apply", self._apply, "main")
        self.busy = Busy(session, self)
        for box in (self.identity, self.proofs, self.rates):
            box.toggled.connect(lambda _: self._work_out())
        self.settings.currentIndexChanged.connect(lambda _: self._work_out())
        layout = column(
            label("Take over as built", "heading"),
            self.identity,
            self.proofs,
            row(self._settings_words, self.settings, None),
            self.rates,
            self._rates_words,
            self.busy.line("Calculating the new plan"),
            self.effect,
            row(self.apply, button("Not now", self.drop, "quiet"), None),
            spacing=SPACE.TIGHT,
        )
        self.setLayout(layout)
        self.hide()

    def ask(self, run: CheckRun) -> bool:
        """Ask for a run; whether there is anything to ask."""
        there = offered(self.session.assessment, run, self.session.job.prepared_by)
        if not any(there):
            self.session.notice(
                "Nothing to take over: everything found is already in the job, or the identity of the device is not certain"
            )
            return False
        self._run = None
        read_s = max((read.main.read_s for read in run.read if read.main is not None), default=0.0)
        who = f"Addresses, MAC addresses, serials and firmware of {count(there.identity, 'device')}"
        proofs = f"{count(there.proofs, 'acceptance test')} (Stream, Clock)"
        rates = f"Plan with the measured bit rates of {count(there.rates, 'camera')}, read over {figure(read_s, 2)} s"
        self._rates_words.setVisible(bool(there.rates))
        for box, many, words, usual in (
            (self.identity, there.identity, who, True),
            (self.proofs, there.proofs, proofs, True),
            (self.rates, there.rates, rates, False),
        ):
            box.setText(words)
            box.setVisible(bool(many))
            box.setChecked(usual and bool(many))
        self._settings_words.setText(
            f"{count(there.settings, 'camera runs', 'cameras run')} at other settings than planned:"
        )
        self.settings.clear()
        self.settings.addItems(("keep the plan and correct the device", "change the plan to match the device"))
        for part in (self._settings_words, self.settings):
            part.setVisible(bool(there.settings))
        self._run = run
        self.show()
        self._work_out()
        self.apply.setFocus()
        return True

    def _wanted(self) -> Wanted:
        follows = self.settings.currentIndex() == FOLLOW_THE_DEVICE
        return Wanted(self.identity.isChecked(), self.proofs.isChecked(), follows, self.rates.isChecked())

    def _work_out(self) -> None:
        """Say what days, Mb/s and findings become, as choices do."""
        run = self._run
        if run is None:
            return
        before, wanted, by = self.session.assessment, self._wanted(), self.session.job.prepared_by
        self._edit = None
        self.apply.setEnabled(False)

        def work(task: Task) -> Work[tuple[Edit | None, list[str]]]:
            yield 0.1
            try:
                edit = take_over(before, run, by, wanted)
            except EagerLensError as error:
                return None, [str(error)]
            return edit, consequences(before, assess(edit.apply(before.job), before))

        self.busy.stop()
        self.busy.begin(work, self._show_effect)

    def _show_effect(self, found: tuple[Edit | None, list[str]]) -> None:
        self._edit, lines = found
        more = [f"and {len(lines) - MOST_LINES} more"] if len(lines) > MOST_LINES else []
        text = "; ".join([*lines[:MOST_LINES], *more])
        self.effect.setText(
            f"Then: {text}." if text and self._edit else text or "Days, Mb/s and findings do not change."
        )
        self.apply.setEnabled(self._edit is not None)

    def _apply(self) -> None:
        edit = self._edit
        if edit is not None:
            self.drop()
            self._taken(edit)

    def drop(self) -> None:
        """Ask no more."""
        self.busy.stop()
        self._run = self._edit = None
        self.hide()
        self._closed()
