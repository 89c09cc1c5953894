"""A device whose services are known, to be asked and set."""

from __future__ import annotations

import contextlib
import time
from collections.abc import Sequence
from xml.etree.ElementTree import Element

from eager_lens.onsite.bounded_http import Http
from eager_lens.onsite.open_protocol import device_service
from eager_lens.onsite.open_protocol.conversation import Conversation, NotTold, User
from eager_lens.onsite.open_protocol.endpoints import Endpoint
from eager_lens.onsite.open_protocol.names import DEVICE


class OpenedDevice:
    """A device at work. ``talk`` is the conversation with it; ``services`` its endpoints by namespace."""

    def __init__(self, talk: Conversation, services: dict[str, Endpoint]) -> None:
        self.talk, self.services = talk, services

    async def ask(self, service: str, question: str, inside: str = "") -> Element:
        """Ask one of its services.

        Raises:
            NotTold: when there is no answer that helps, or no such service.
        """
        endpoint = self.services.get(service)
        if endpoint is None:
            raise NotTold("it has no such service", not_offered=True)
        return await self.talk.ask(endpoint, question, inside)


async def open_device(http: Http, host: str, starts: Sequence[Endpoint], user: User | None) -> OpenedDevice:
    """Open a device at the first of some endpoints that answers.

    Raises:
        NotTold: when none does.
    """
    why = NotTold("nothing there speaks the open protocol", goes_on=False)
    for start in starts:
        talk = Conversation(http, host, user)
        try:
            await know_time(talk, start, [])
            return OpenedDevice(talk, await services_at(talk, start, []))
        except NotTold as error:
            why = error
            if talk.logged_in in ("refused", "locked") or talk.shows_another_certificate:
                break
    raise why


async def know_time(talk: Conversation, start: Endpoint, notes: list[str]) -> float | None:
    """Ask for its time, by which a log-in may have to go; by what its clock is ahead.

    Raises:
        NotTold: when it does not tell.
    """
    begun_s = time.time()
    told = device_service.time_of(await talk.ask(start, "tds:GetSystemDateAndTime"), begun_s, notes)
    talk.ahead_s = told.off_s
    return told.off_s


async def services_at(talk: Conversation, start: Endpoint, notes: list[str]) -> dict[str, Endpoint]:
    """Its services by namespace, as it tells them; where its device service answers is known, whatever it says."""
    found: dict[str, Endpoint] = {}
    with contextlib.suppress(NotTold):
        inside = "<tds:IncludeCapability>false</tds:IncludeCapability>"
        answer = await talk.ask(start, "tds:GetServices", inside)
        found = device_service.services_of(answer, talk.host, notes)
    if len(found) < 2:
        with contextlib.suppress(NotTold):
            answer = await talk.ask(start, "tds:GetCapabilities", "<tds:Category>All</tds:Category>")
            found = {**device_service.capabilities_of(answer, talk.host, notes), **found}
    if start.scheme == "https":
        # What is asked over TLS stays there, also of a device that tells its addresses without.
        secure = (start.scheme, start.port)
        found = {name: one if one.scheme == "https" else Endpoint(*secure, one.path) for name, one in found.items()}
    return {**found, DEVICE: start}
