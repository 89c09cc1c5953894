"""The widgets below a widget."""

from __future__ import annotations

from collections.abc import Iterator

from PySide6.QtWidgets import QWidget


def widgets_below(part: QWidget) -> Iterator[QWidget]:
    """All of them, parents before their children.

    Not by the toolkit's own ``findChildren``: whatever that finds is kept by ``part``, and what the toolkit made for itself
    (the list of a choice, its bars) stays kept long after it is gone.
    """
    waiting = [part]
    while waiting:
        found = waiting.pop()
        if found is not part:
            yield found
        waiting += [child for child in reversed(found.children()) if isinstance(child, QWidget)]
