"""What is dragged from widget to widget: devices, by their ids."""

from __future__ import annotations

from PySide6.QtCore import QMimeData

DEVICES = "application/x-eager-lens-devices"


def devices_mime(ids: list[str]) -> QMimeData:
    """Device ids as what is dragged."""
    data = QMimeData()
    data.setData(DEVICES, "\n".join(ids).encode("utf-8"))
    return data


def devices_from(data: QMimeData) -> list[str]:
    """Device ids out of what was dropped."""
    return bytes(data.data(DEVICES).data()).decode("utf-8").split("\n")
