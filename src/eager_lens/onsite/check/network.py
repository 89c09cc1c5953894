"""How the planned addresses are reached: as they are, or on this computer's loopback."""

from __future__ import annotations

from typing import Any

from eager_lens.core.addressing.ipv4 import address_text
from eager_lens.onsite.loopback import as_loopback, as_open_port


class Network:
    """The network that a check goes to. ``here``: the note of a site of stand-ins; empty for this computer's own network."""

    def __init__(self, here: dict[str, Any]) -> None:
        self.on_loopback = bool(here) and here["mode"] == "loopback"
        self.site_password: str | None = here.get("password") if here else None

    def reach(self, number: int, port: int) -> tuple[str, int]:
        """Where an address and port of the plan are reached."""
        if self.on_loopback:
            return as_loopback(number), as_open_port(port)
        return address_text(number), port

    def planned(self, host: str, of_plan: dict[str, str]) -> str:
        """The planned address that a host stands for."""
        return of_plan.get(host, host) if self.on_loopback else host
