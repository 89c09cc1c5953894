"""Where a service is: scheme, port and path out of an address that a device told. Its host is never used: devices tell their
old address, 0.0.0.0, or that of another network."""

from __future__ import annotations

from typing import NamedTuple
from urllib.parse import urlsplit

USUAL_PORTS = {"http": 80, "https": 443, "rtsp": 554, "rtsps": 322}


class Endpoint(NamedTuple):
    """A service of a device, wherever the device is."""

    scheme: str
    port: int
    path: str

    def url(self, host: str) -> str:
        """Its address on a host."""
        return f"{self.scheme}://{host}:{self.port}{self.path}"


def endpoint_of(told: str, schemes: tuple[str, ...] = ("http", "https")) -> Endpoint | None:
    """An endpoint out of a told address; None where it is no address of these schemes."""
    try:
        parts = urlsplit(told.strip())
        port = parts.port
    except ValueError:
        return None
    scheme = parts.scheme.lower()
    if scheme not in schemes or not parts.netloc:
        return None
    path = parts.path or "/"
    if parts.query:
        path += f"?{parts.query}"
    if not path.isascii() or not path.isprintable() or " " in path:
        return None
    return Endpoint(scheme, port or USUAL_PORTS[scheme], path)


def host_of(told: str) -> str:
    """The host in a told address; empty where there is none."""
    try:
        return urlsplit(told.strip()).hostname or ""
    except ValueError:
        return ""
