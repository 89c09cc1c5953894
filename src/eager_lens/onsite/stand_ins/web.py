"""A small HTTP server for a stand-in's page, on h11: requests in, a handler's answers out, with bounds on all of it."""

from __future__ import annotations

import asyncio
from collections.abc import Awaitable, Callable, Mapping
from typing import NamedTuple

import h11

from eager_lens.onsite.stand_ins.timepiece import StandInClock

IDLE_S = 15.0
MOST_BODY_BYTES = 65_536
READ_BYTES = 65_536


class Asked(NamedTuple):
    """A request: method, path with its query, headers by lower-case name, body, and who asks."""

    method: str
    target: str
    headers: Mapping[str, str]
    body: bytes
    peer: str


class Answer(NamedTuple):
    """An answer: status, body, its type, further headers."""

    status: int
    body: str = ""
    kind: str = "text/html; charset=utf-8"
    headers: Mapping[str, str] = {}


async def serve(
    reader: asyncio.StreamReader,
    writer: asyncio.StreamWriter,
    handler: Callable[[Asked], Awaitable[Answer]],
    clock: StandInClock,
) -> None:
    """One connection, to its end."""
    connection = h11.Connection(h11.SERVER)
    peer = (writer.get_extra_info("peername") or ("",))[0]
    try:
        while True:
            asked = await _next(connection, reader, peer)
            if asked is None:
                break
            answer = await handler(asked)
            body = answer.body.encode()
            headers = [
                ("Date", clock.http_date()),
                ("Content-Type", answer.kind),
                ("Content-Length", str(len(body))),
                *answer.headers.items(),
            ]
            writer.write(connection.send(h11.Response(status_code=answer.status, headers=headers)) or b"")
            if asked.method != "HEAD":
                writer.write(connection.send(h11.Data(data=body)) or b"")
            writer.write(connection.send(h11.EndOfMessage()) or b"")
            await writer.drain()
            if connection.our_state is not h11.DONE or connection.their_state is not h11.DONE:
                break
            connection.start_next_cycle()
    except (ConnectionError, TimeoutError, h11.RemoteProtocolError, h11.LocalProtocolError):
        pass
    finally:
        writer.close()


async def _next(connection: h11.Connection, reader: asyncio.StreamReader, peer: str) -> Asked | None:
    head: h11.Request | None = None
    body = b""
    while True:
        event = connection.next_event()
        if event is h11.NEED_DATA:
            connection.receive_data(await asyncio.wait_for(reader.read(READ_BYTES), IDLE_S))
        elif isinstance(event, h11.Request):
            head = event
        elif isinstance(event, h11.Data):
            body += bytes(event.data)
            if len(body) > MOST_BODY_BYTES:
                return None
        elif isinstance(event, h11.EndOfMessage):
            assert head is not None
            headers = {name.decode("latin-1").lower(): value.decode("latin-1") for name, value in head.headers}
            return Asked(head.method.decode(), head.target.decode("latin-1"), headers, body, peer)
        else:
            return None
