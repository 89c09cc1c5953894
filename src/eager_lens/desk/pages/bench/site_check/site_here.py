"""The site of stand-ins that this window started: a process of its own, which ends with the window."""

from __future__ import annotations

import json
import os
import sys
from collections.abc import Sequence

from PySide6.QtCore import QCoreApplication, QObject, QProcess, QProcessEnvironment, QTimer, Signal

from eager_lens.core.job.file import job_text
from eager_lens.core.job.model import Job
from eager_lens.onsite.here import SiteHere

ENDS_WITHIN_MS = 4000
QUICK_START_S = 3.0


class SiteHereProcess(QObject):
    """Starts and ends it. ``site`` is what runs, None while nothing does.

    Attributes:
        is_starting: it was started, and has not told yet that it is ready.
    """

    changed = Signal()
    failed = Signal(str)

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self.site: SiteHere | None = None
        self._process: QProcess | None = None
        self._ending: QProcess | None = None
        application = QCoreApplication.instance()
        if application is not None:
            application.aboutToQuit.connect(self.stop_and_wait)

    @property
    def is_starting(self) -> bool:
        """Whether it is on its way."""
        return self._process is not None and self.site is None

    def start(self, job: Job, faults: Sequence[str], out_of_box: bool = False) -> None:
        """Start the stand-ins of a job as it is now, saved or not; those that still end hold their addresses until then.
        ``out_of_box``: as they were delivered, and quick to start again."""
        self.stop()
        process = self._process = QProcess(self)
        environment = QProcessEnvironment.systemEnvironment()
        environment.insert("PYTHONPATH", os.pathsep.join(part for part in sys.path if part))
        process.setProcessEnvironment(environment)
        process.readyReadStandardOutput.connect(self._read_site)
        process.finished.connect(lambda *_: self._ended(process))
        process.errorOccurred.connect(lambda *_: self._ended(process))
        given = [word for fault in faults for word in ("--fault", fault)]
        words = ["-m", "eager_lens", "site", "-", "--json", "--until-closed", *given]
        words += ["--out-of-box", "--start", f"{QUICK_START_S:g}"] if out_of_box else []
        plan = json.dumps(json.loads(job_text(job))).encode() + b"\n"

        def begin() -> None:
            if process is self._process:
                process.start(sys.executable, words)
                process.write(plan)

        if self._ending is None:
            begin()
        else:
            self._ending.finished.connect(begin)
        self.changed.emit()

    def _read_site(self) -> None:
        if self._process is None or self.site is not None or not self._process.canReadLine():
            return
        try:
            self.site = SiteHere.from_json(bytes(self._process.readLine().data()).decode("utf-8", "replace"))
        except ValueError:
            self.failed.emit("The stand-ins did not start correctly")
            self.stop()
            return
        self.changed.emit()

    def _ended(self, process: QProcess) -> None:
        if process is not self._process:
            return
        if self.site is None:
            words = bytes(process.readAllStandardError().data()).decode("utf-8", "replace").strip().splitlines()
            self.failed.emit(words[-1].removeprefix("eager-lens: ") if words else "The stand-ins could not be started")
        self._forget()

    def stop(self) -> None:
        """End it, if it runs; nothing waits for it."""
        process = self._process
        if process is None:
            return
        self._forget()
        if process.state() == QProcess.ProcessState.NotRunning:
            process.deleteLater()
            return
        self._ending = process
        process.finished.connect(self._gone)
        process.closeWriteChannel()
        process.terminate()
        QTimer.singleShot(ENDS_WITHIN_MS, process, process.kill)

    def _gone(self) -> None:
        if self._ending is not None:
            self._ending.deleteLater()
            self._ending = None

    def stop_and_wait(self) -> None:
        """End it, and come back when it is gone: the program ends."""
        self.stop()
        process = self._ending
        if process is not None and not process.waitForFinished(ENDS_WITHIN_MS):
            process.kill()
            process.waitForFinished(ENDS_WITHIN_MS)

    def _forget(self) -> None:
        self._process, self.site = None, None
        self.changed.emit()
