"""Watching one file for what others do to it."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QFileSystemWatcher, QObject, QTimer, Signal

DISK_SETTLES_MS = 150
"""Who replaces a file may take it away first: so long after a change it is looked at."""


class FileWatch(QObject):
    """Tells, a moment after it happened, that somebody changed, replaced or removed the file."""

    changed = Signal()

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._watcher = QFileSystemWatcher(self)
        self._settled = QTimer(self, singleShot=True, interval=DISK_SETTLES_MS)
        self._settled.timeout.connect(self.changed)
        self._watcher.fileChanged.connect(lambda _: self._settled.start())

    def stop(self) -> None:
        """Watch nothing."""
        if self._watcher.files():
            self._watcher.removePaths(self._watcher.files())

    def watch(self, path: Path | None) -> None:
        """Watch this file, if there is one, and no other."""
        self.stop()
        if path is not None and path.exists():
            self._watcher.addPath(str(path))
