"""What a commissioning reaches devices by: the network, or in tests and trials devices in this very process."""

from __future__ import annotations

from eager_lens.onsite.bounded_http import Http
from eager_lens.onsite.check.connecting import connected
from eager_lens.onsite.check.network import Network


class Wire:
    """The network that devices are on. ``network``: how addresses of the plan are reached there."""

    def __init__(self, network: Network) -> None:
        self.network = network

    def http(self, certificate: str) -> Http:
        """What asks one device. ``certificate``: SHA-256 of the one that it has to show; empty: none is known."""
        return Http(certificate)

    async def is_open(self, host: str, port: int) -> bool:
        """Whether something takes a connection there."""
        return await connected(host, port) == "open"
