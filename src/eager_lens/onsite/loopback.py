"""The planned addresses on the loopback network of this computer, for where network namespaces are not allowed."""

from __future__ import annotations

import os
from functools import cache
from pathlib import Path

from eager_lens.core.addressing.ipv4 import address_text

OPEN_FROM = 20_000
"""Ports that only root may open stand so much higher: 80 at 20080."""

LOOPBACK = 127 << 24


def as_loopback(address: int) -> str:
    """The loopback address that stands for one of the plan: its first number becomes 127."""
    return address_text(LOOPBACK | address & 0xFFFFFF)


@cache
def first_open_port() -> int:
    """The lowest port that this account may open."""
    if os.geteuid() == 0:
        return 0
    try:
        return int(Path("/proc/sys/net/ipv4/ip_unprivileged_port_start").read_text("ascii"))
    except (OSError, ValueError):
        return 1024


def as_open_port(port: int) -> int:
    """A port that this account may open, in place of one that it may not."""
    return port if port >= first_open_port() else port + OPEN_FROM
