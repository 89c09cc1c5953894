"""A whole site at work: every stand-in in its place, and what cannot run here with why."""

from __future__ import annotations

import asyncio
import concurrent.futures
import contextlib
import heapq
import itertools
import threading
from collections.abc import Callable, Iterable
from pathlib import Path

from eager_lens.core.virtual_site.stand_in import Described, StandIn, StreamSent
from eager_lens.onsite.open_protocol import discovery as ws_discovery
from eager_lens.onsite.stand_ins import discovery
from eager_lens.onsite.stand_ins.device import Device
from eager_lens.onsite.stand_ins.loops import loop_of
from eager_lens.onsite.stand_ins.places import OnLoopback, OwnNetwork, Place, Wires, loopback_group, told_apart
from eager_lens.onsite.stand_ins.rtp import Cut, cut

ENCODERS = 2
WANTED_NOW, MAY_BE_WANTED = 0, 1


class Loops:
    """The encoded stretches of all streams of a site, each made once: those that are asked for before those that only may
    be."""

    def __init__(self, kept_in: Path | None) -> None:
        self._kept_in = kept_in
        self._made: dict[StreamSent, concurrent.futures.Future[Cut]] = {}
        self._waiting: list[tuple[int, int, StreamSent]] = []
        self._number = itertools.count()
        self._there_is_work = threading.Condition()
        self._stopped = False
        # Daemons: a site that is ended does not wait for a stretch that nobody wants any more. Whoever takes the folder away
        # afterwards does.
        self.encoders = [threading.Thread(target=self._encode, daemon=True) for _ in range(ENCODERS)]
        for encoder in self.encoders:
            encoder.start()

    async def cut(self, stream: StreamSent) -> Cut:
        """A stream's stretch, cut into packets.

        Raises:
            RefusedInput: when it cannot be sent.
        """
        return await asyncio.shield(asyncio.wrap_future(self._wanted(stream, WANTED_NOW)))

    def prepare(self, streams: Iterable[StreamSent]) -> None:
        """Have streams encoded in the background, for when they are asked for."""
        for stream in streams:
            self._wanted(stream, MAY_BE_WANTED)

    def _wanted(self, stream: StreamSent, urgency: int) -> concurrent.futures.Future[Cut]:
        key = stream._replace(path="")
        with self._there_is_work:
            found = self._made.setdefault(key, concurrent.futures.Future())
            if not found.done() and not found.running():
                heapq.heappush(self._waiting, (urgency, next(self._number), key))
                self._there_is_work.notify()
        return found

    def _encode(self) -> None:
        while True:
            with self._there_is_work:
                while not self._waiting and not self._stopped:
                    self._there_is_work.wait()
                if self._stopped:
                    return
                _, _, stream = heapq.heappop(self._waiting)
                found = self._made[stream]
                if found.running() or found.done():  # it was asked for twice
                    continue
                found.set_running_or_notify_cancel()
            try:
                found.set_result(cut(loop_of(stream, self._kept_in)))
            except BaseException as error:  # noqa: BLE001  (it is raised where the stream is asked for)
                found.set_exception(error)

    def close(self) -> None:
        """Begin no more."""
        with self._there_is_work:
            self._stopped = True
            self._there_is_work.notify_all()


class RunningSite:
    """The stand-ins of a site, from ``start`` to ``stop``.

    Attributes:
        devices: by id. left_out: by id, why a device does not run here.
    """

    def __init__(self, described: Described, in_namespaces: bool, kept_in: Path | None = None) -> None:
        """Set the network up; what sets it up cannot run inside an event loop.

        Raises:
            OSError: when that is not possible.
        """
        self.described = described
        self.devices: dict[str, Device] = {}
        self.left_out: dict[str, str] = dict(described.dark)
        self.loops = Loops(kept_in)
        self._wires = Wires(described) if in_namespaces else None
        self._places: dict[str, Place] = {}
        self._group: asyncio.BaseTransport | None = None
        if self._wires is None:
            self.left_out.update({one.id: why for one, why in told_apart(described.stand_ins)})
        for one in described.stand_ins:
            if one.id not in self.left_out:
                self._places[one.id] = self._place(one)

    def _place(self, one: StandIn) -> Place:
        if self._wires is None:
            return OnLoopback(one)
        place = OwnNetwork(one)
        self._wires.plug(place)
        return place

    async def start(self) -> None:
        """Start all stand-ins; one that cannot is left out, with why."""
        for one in self.described.stand_ins:
            if one.id in self._places:
                await self._start(one, self._places[one.id])
        if self._wires is None:
            await self._answer_searches()
        streams = [device.stand_in.streams for device in self.devices.values()]
        self.loops.prepare(stream for each in itertools.zip_longest(*streams) for stream in each if stream is not None)

    async def _start(self, one: StandIn, place: Place) -> None:
        device = Device(one, place, self.loops.cut)
        try:
            await device.start()
            self.devices[one.id] = device
        except OSError as error:
            self.left_out[one.id] = f"it could not start: {error.strerror or error}"
            await device.stop()

    async def _answer_searches(self) -> None:
        """On loopback one socket hears searches for all; each device answers from its own address."""

        def announced() -> list[tuple[ws_discovery.Announced, Callable[[bytes, tuple[str, int]], None] | None]]:
            return [
                (device.announced(), device.answer_search)
                for device in self.devices.values()
                if device.is_discoverable and device.is_open
            ]

        with contextlib.suppress(OSError):
            loop = asyncio.get_running_loop()
            opened = loopback_group(ws_discovery.PORT)
            self._group, _ = await loop.create_datagram_endpoint(lambda: discovery.Discoverable(announced), sock=opened)

    async def stop(self) -> None:
        """End all that runs."""
        self.loops.close()
        if self._group is not None:
            self._group.close()
        await asyncio.gather(*(device.stop() for device in self.devices.values()))

    def close(self) -> None:
        """Take the network down; as setting it up, this cannot run inside an event loop."""
        for place in self._places.values():
            place.close()
        if self._wires is not None:
            self._wires.close()
