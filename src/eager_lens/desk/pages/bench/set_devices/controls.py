"""Which network devices are set on, with which password, which of them, and stand-ins out of the box to try it with."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QCheckBox, QWidget

from eager_lens.core.commission.plan import Wishes
from eager_lens.core.job.model import Job
from eager_lens.core.units import count
from eager_lens.desk.pages.bench.network_choice import NetworkChoice
from eager_lens.desk.pages.bench.site_check.site_here import SiteHereProcess
from eager_lens.desk.session import Session
from eager_lens.desk.theme import SPACE
from eager_lens.desk.widgets.basics import Elided, button, column, label, row
from eager_lens.desk.widgets.flow import flow
from eager_lens.desk.widgets.plain_words import set_tip


class SetControls(QWidget):
    """Two rows: which network, passphrase and wishes; and the stand-ins."""

    changed = Signal()
    """What would be set is other than before."""

    def __init__(self, session: Session, here: SiteHereProcess) -> None:
        super().__init__()
        self._session, self.here = session, here
        here.changed.connect(self._here_changed)
        self.network = NetworkChoice(here)
        self.network.changed.connect(self._network_changed)
        self.where, self.passphrase = self.network.where, self.network.passphrase
        self.target, self.taken_passphrase = self.network.target, self.network.taken_passphrase
        self.selected = QCheckBox("Only the selected devices")
        self.nearest = QCheckBox("The nearest that a device takes")
        set_tip(
            self.nearest,
            "Where a device does not take what is planned, it is set to the nearest; the plan still says otherwise",
        )
        self.asks = QCheckBox("Tell devices on one address apart")
        set_tip(
            self.asks,
            "New devices of one make share an address. With a permission that this computer asks for in a dialog, they are set "
            "one by one without pulling a lead. Without it, plug them in one at a time.",
        )
        self.start_here = button(
            "Start stand-ins out of the box",
            self._start_here,
            tip="The devices of the job as they were delivered, inside this computer only",
        )
        self.here_words = Elided()
        self.here_words.setProperty("role", "small")
        for box in (self.selected, self.nearest):
            box.toggled.connect(lambda _: self.changed.emit())
        tried = row(label("Try it:", "small"), self.start_here, self.here_words)
        tried.setStretch(2, 1)
        choices = flow(self.where, self.passphrase, self.selected, self.nearest, self.asks)
        self.setLayout(column(choices, tried, spacing=SPACE.TIGHT))
        self._here_changed()

    def show_job(self, job: Job, sealed: Path | None) -> None:
        """Follow the job, whether it has sealed passwords, and what is selected."""
        self.network.show_sealed(sealed)
        devices = {device.id for device in (*job.recorders, *job.cameras)}
        chosen = [one for one in self._session.selected if one in devices]
        self.selected.setText(
            f"Only the {count(len(chosen), 'selected device')}" if chosen else "Only the selected devices"
        )
        self.selected.setEnabled(bool(chosen))
        if not chosen:
            self.selected.setChecked(False)

    def wishes(self) -> Wishes:
        """What is wanted of a run."""
        only = self._session.selected if self.selected.isChecked() else ()
        return Wishes(tuple(only), self.nearest.isChecked())

    # ---- the stand-ins ----------------------------------------------------------------------------------------------

    def _start_here(self) -> None:
        if self.here.site is not None or self.here.is_starting:
            self.here.stop()
        else:
            self.here.start(self._session.job, [], out_of_box=True)

    def _here_changed(self) -> None:
        site = self.here.site
        going = site is not None or self.here.is_starting
        self.start_here.setText("Stop the stand-ins" if going else "Start stand-ins out of the box")
        self.start_here.setEnabled(site is not None or not going)
        words = "The stand-ins are starting." if self.here.is_starting else ""
        if site is not None:
            dark = f", {count(len(site.left_out), 'device')} without power or address" if site.left_out else ""
            words = f"Running{dark}: all that is set goes to them, and nothing leaves this computer."
        self.here_words.setText(words)
        self.network.follow_stand_ins()

    def _network_changed(self) -> None:
        self.asks.setVisible(self.network.is_real)
        self.changed.emit()
