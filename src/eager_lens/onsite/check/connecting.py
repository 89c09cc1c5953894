"""A connection, made and let go at once: whether anybody is there."""

from __future__ import annotations

import asyncio
from typing import Literal

CONNECT_S = 1.2

Met = Literal["open", "refused", "nobody"]


async def connected(host: str, port: int) -> Met:
    """What meets a connection: a service, a device without one there, or nobody in time."""
    try:
        async with asyncio.timeout(CONNECT_S):
            _, writer = await asyncio.open_connection(host, port)
    except ConnectionRefusedError:
        return "refused"
    except (OSError, TimeoutError):
        return "nobody"
    writer.close()
    return "open"
