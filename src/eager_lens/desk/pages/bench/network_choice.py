"""Which network is gone to, and the passphrase of the sealed passwords for it: shared by whoever reads or sets devices."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QLineEdit

from eager_lens.desk.pages.bench.site_check.site_here import SiteHereProcess
from eager_lens.desk.widgets.basics import Choice
from eager_lens.onsite.here import SiteHere


class NetworkChoice(QObject):
    """A choice and a field, for a view to lay out; it follows the stand-ins.

    Attributes:
        where: this computer's network, or that of the stand-ins. passphrase: in sight where there is anything to open.
    """

    changed = Signal()

    def __init__(self, here: SiteHereProcess) -> None:
        super().__init__()
        self._here = here
        self._sealed: Path | None = None
        self.where = Choice()
        self.where.setAccessibleName("Which network")
        self.where.addItems(["The network of this computer", "The stand-ins on this computer"])
        self.where.currentIndexChanged.connect(lambda _: self._moved())
        self.passphrase = QLineEdit()
        self.passphrase.setEchoMode(QLineEdit.EchoMode.Password)
        self.passphrase.setAccessibleName("Passphrase of the sealed passwords")
        self.passphrase.setPlaceholderText("Passphrase of the sealed passwords")

    @property
    def is_real(self) -> bool:
        """Whether the network of this computer is meant."""
        return self.where.currentIndex() == 0

    def follow_stand_ins(self) -> None:
        """Stand-ins that run are meant; those that do not cannot be."""
        runs = self._here.site is not None
        self.where.model().item(1).setEnabled(runs)  # type: ignore[attr-defined]
        self.where.setCurrentIndex(1 if runs else 0)
        self._moved()

    def show_sealed(self, sealed: Path | None) -> None:
        """Follow the job's sealed file; None where it has none."""
        self._sealed = sealed
        self._show_passphrase()

    def _moved(self) -> None:
        self._show_passphrase()
        self.changed.emit()

    def _show_passphrase(self) -> None:
        self.passphrase.setVisible(self._sealed is not None and self.is_real)

    def target(self) -> SiteHere | None:
        """The stand-ins, where they are what is meant."""
        return None if self.is_real else self._here.site

    def taken_passphrase(self) -> tuple[Path, str] | None:
        """The sealed file and the passphrase that was typed, which is forgotten here; None where none was."""
        passphrase = self.passphrase.text()
        self.passphrase.clear()
        if self._sealed is None or not passphrase or self.target() is not None:
            return None
        return self._sealed, passphrase
