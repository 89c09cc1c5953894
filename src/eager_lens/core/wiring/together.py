"""What hangs together, told in next to no time however many devices there are (Galler and Fischer: disjoint sets as trees).

SciPy has the same; loading it for this would take the window the better part of a second, and 40 MB.
"""

from __future__ import annotations


class Together:
    """Devices that hang together, by ids; one that was never joined is alone."""

    def __init__(self) -> None:
        self._above: dict[str, str] = {}

    def join(self, a: str, b: str) -> bool:
        """Have two hang together from now on; whether they did not before."""
        above, below = self.top(b), self.top(a)
        self._above[below] = above
        return above != below

    def top(self, device_id: str) -> str:
        """The one that stands for all that hang together with this one."""
        while (above := self._above.get(device_id, device_id)) != device_id:
            # Each looks past the one above it, so that the next way is half as long.
            self._above[device_id] = device_id = self._above.get(above, above)
        return device_id
