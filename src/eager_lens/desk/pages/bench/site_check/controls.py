"""Which network a site check looks at, what it does there, and the stand-ins to rehearse it with."""

from __future__ import annotations

import os
from pathlib import Path

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QCheckBox, QWidget

from eager_lens.core.job.model import Job
from eager_lens.core.site_check.readings import Switches
from eager_lens.core.virtual_site.faults import NETWORK_SHOWS
from eager_lens.desk.pages.bench.network_choice import NetworkChoice
from eager_lens.desk.pages.bench.site_check.site_here import SiteHereProcess
from eager_lens.desk.session import Session
from eager_lens.desk.theme import SPACE
from eager_lens.desk.widgets.basics import Choice, Elided, button, column, held, label, row
from eager_lens.desk.widgets.flow import flow
from eager_lens.desk.widgets.number_field import NumberField
from eager_lens.desk.widgets.plain_words import set_tip
from eager_lens.onsite.here import SiteHere

CAUTION = "Only check networks that you have been asked to work on. Nothing is sent before you confirm."
LEAST_S, MOST_S = 2.0, 600.0

PARTS: tuple[tuple[str, str, str], ...] = (
    ("search", "Search for cameras", "By multicast (WS-Discovery); also finds devices that are not planned"),
    ("sweep", "All addresses", "Tries the whole subnet, not only the planned addresses"),
    ("log_in", "Log in", "One log-in at each device, with its noted password; never a second after a refusal"),
    ("default_passwords", "Default passwords", "The default password of the make, once, if no password is noted"),
    ("stream", "Main streams", "Opens each and measures it"),
    ("substream", "Substreams", "Opens each and measures it, for 3 s at most"),
    ("clock", "Clocks", "Difference between each clock and this computer's"),
    ("channels", "Recordings", "Which cameras each recorder records, and how far back"),
    (
        "events",
        "Event ports",
        "Whether each recorder accepts connections at its event port, and cameras offer motion events",
    ),
)


class SiteCheckControls(QWidget):
    """Three rows: which network and for how long, what it does, and the rehearsal."""

    changed = Signal()
    """What a check would do is other than before."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.here = SiteHereProcess(self)
        self.here.changed.connect(self._here_changed)
        self.here.failed.connect(lambda text: session.notice(text, needs=True))
        self._names: list[str] = []
        self.network = NetworkChoice(self.here)
        self.network.changed.connect(self.changed)
        self.where, self.passphrase = self.network.where, self.network.passphrase
        self.target, self.taken_passphrase = self.network.target, self.network.taken_passphrase
        self.parts = {name: self._part(name, words, tip) for name, words, tip in PARTS}
        self.seconds = NumberField("Seconds for each stream", "s", width=70)
        self.seconds.show_value(Switches().stream_s)
        self.seconds.typed.connect(lambda _: self.changed.emit())
        self.more = button("Parts", self._show_parts, "tab", "Leave parts of the check out")
        self.start_here = button(
            "Start the stand-ins here", self._start_here, tip="All devices of the job, inside this computer only"
        )
        self.fault = _choice("With a fault", ["no fault", *(fault.words for fault in NETWORK_SHOWS.values())])
        self.fault_at = _choice("Fault at which camera", [])
        self.here_words = Elided()
        self.here_words.setProperty("role", "small")
        self._lay_out()
        self._here_changed()

    def _lay_out(self) -> None:
        here = row(label("Rehearse:", "small"), self.start_here, self.fault, self.fault_at, self.here_words)
        here.setStretch(4, 1)
        choices = flow(self.where, self.passphrase, label("each stream for", "small"), self.seconds, self.more)
        self._all_parts = held(flow(*self.parts.values()))
        self._all_parts.hide()
        caution = label(CAUTION, "caution", wrap=True)
        self.setLayout(column(choices, self._all_parts, here, caution, spacing=SPACE.TIGHT))

    def _part(self, name: str, words: str, tip: str) -> QCheckBox:
        made = QCheckBox(words)
        made.setChecked(bool(getattr(Switches(), name)))
        set_tip(made, tip)
        made.toggled.connect(lambda _: self.changed.emit())
        return made

    def _show_parts(self) -> None:
        self._all_parts.setVisible(self.more.isChecked())

    def show_job(self, job: Job, sealed: Path | None) -> None:
        """Follow the job: its cameras, and whether it has sealed passwords."""
        names = [camera.name for camera in job.cameras]
        if names != self._names:
            self._names = names
            self.fault_at.clear()
            self.fault_at.addItems(names)
        self.network.show_sealed(sealed)

    def switches(self) -> Switches:
        """What is ticked."""
        values: dict[str, object] = {name: part.isChecked() for name, part in self.parts.items()}
        seconds = self.seconds.value or Switches().stream_s
        return Switches.model_validate({**values, "stream_s": min(MOST_S, max(LEAST_S, seconds))})

    # ---- the stand-ins ----------------------------------------------------------------------------------------------

    def _start_here(self) -> None:
        if self.here.site is not None or self.here.is_starting:
            self.here.stop()
            return
        at, camera = self.fault.currentIndex(), self.fault_at.currentText()
        self.here.start(self._session.job, [f"{list(NETWORK_SHOWS)[at - 1]}={camera}"] if at > 0 and camera else [])

    def _here_changed(self) -> None:
        site = self.here.site
        going = site is not None or self.here.is_starting
        self.start_here.setText("Stop the stand-ins" if going else "Start the stand-ins here")
        self.start_here.setEnabled(site is not None or not going)
        for part in (self.fault, self.fault_at):
            part.setVisible(not going)
        self.here_words.setText(self._words_of(site))
        self.network.follow_stand_ins()

    def _words_of(self, site: SiteHere | None) -> str:
        if site is None:
            return "The stand-ins are starting." if self.here.is_starting else ""
        words = [f"Fault: {text}." for text in site.faults]
        words.append(f"Running, for your own tools too: user “installer”, password “{site.password}”.")
        if site.mode == "loopback":
            words.append(
                "This account cannot create a network namespace, so the stand-ins use loopback addresses (172.22.40.55 is "
                "127.22.40.55). Twin addresses, MAC addresses and other subnets cannot be simulated."
            )
        else:
            own = " --user --preserve-credentials" if os.geteuid() else ""
            words.append(f"A terminal on their network: nsenter --target {site.pid}{own} --net bash.")
        return " ".join(words)


def _choice(name: str, items: list[str]) -> Choice:
    made = Choice()
    made.setAccessibleName(name)
    made.addItems(items)
    return made
