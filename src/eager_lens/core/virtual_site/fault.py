"""What a fault is."""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple

from eager_lens.core.simulation.parts import Unit
from eager_lens.core.simulation.site import Site


class Fault(NamedTuple):
    """A fault: its name on the command line, what it is, what brings it about on a camera (and says so in words), and
    whether devices that run on a real network show it."""

    name: str
    words: str
    put: Callable[[Site, Unit], str]
    on_network: bool = True
