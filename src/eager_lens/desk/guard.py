"""What the toolkit calls while it paints must not raise: an error that goes through its own frames ends the process.

Each override that draws, and each model that is asked for what is drawn, stands behind ``kept_within``: it is drawn without
what failed, and the error is told like any other when the painting is over.
"""

from __future__ import annotations

import functools
import sys
import traceback
from collections.abc import Callable
from typing import ParamSpec, TypeVar

from PySide6.QtCore import QTimer

P = ParamSpec("P")
R = TypeVar("R")


def kept_within(method: Callable[P, R]) -> Callable[P, R | None]:
    """A method that gives None instead of raising; the error is told later."""

    @functools.wraps(method)
    def kept(*arguments: P.args, **named: P.kwargs) -> R | None:
        try:
            return method(*arguments, **named)
        except Exception as error:  # noqa: BLE001  (whatever it is, it must not reach the toolkit)
            tell_later(error)
            return None

    return kept


def tell_later(error: Exception) -> None:
    """Tell of an error once the toolkit is out of what it does now."""
    # A painter that a frame of the traceback still holds would be alive when the toolkit ends its painting.
    traceback.clear_frames(error.__traceback__)
    QTimer.singleShot(0, lambda: sys.excepthook(type(error), error, error.__traceback__))
