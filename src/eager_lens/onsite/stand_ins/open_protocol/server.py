"""Requests of the open protocol at a stand-in: who may ask, which service answers, and faults as the standard has them."""

from __future__ import annotations

import contextlib
from xml.etree.ElementTree import Element

from eager_lens.onsite.open_protocol.names import (
    ANALYTICS,
    DEVICE,
    EVENTS,
    IMAGING,
    MEDIA,
    MEDIA2,
    PREFIXES,
    RECEIVER,
    RECORDING,
    REPLAY,
    SEARCH,
)
from eager_lens.onsite.open_protocol.soap import CONTENT_TYPE, envelope
from eager_lens.onsite.open_protocol.user_token import token_of
from eager_lens.onsite.open_protocol.xml import Unreadable, child, local, parsed, parts
from eager_lens.onsite.stand_ins.gate import Admitted
from eager_lens.onsite.stand_ins.open_protocol import (
    analytics_service,
    device_service,
    event_service,
    media_service,
    recorder_services,
)
from eager_lens.onsite.stand_ins.open_protocol.state import Answering, Owner, Served, path_of
from eager_lens.onsite.stand_ins.open_protocol.writing import Refusal, fault
from eager_lens.onsite.stand_ins.web import Answer, Asked

SERVICES: dict[str, dict[str, Answering]] = {
    DEVICE: device_service.ANSWERS,
    MEDIA: media_service.MEDIA1,
    MEDIA2: media_service.MEDIA2_ANSWERS,
    IMAGING: media_service.IMAGING_ANSWERS,
    ANALYTICS: analytics_service.ANSWERS,
    EVENTS: event_service.ANSWERS,
    RECORDING: recorder_services.RECORDING_ANSWERS,
    SEARCH: recorder_services.SEARCH_ANSWERS,
    RECEIVER: recorder_services.RECEIVER_ANSWERS,
    REPLAY: recorder_services.REPLAY_ANSWERS,
}
_PREFIX = {namespace: prefix for prefix, namespace in PREFIXES.items()}
NOT_AUTHORIZED = Refusal("the sender is not authorized", "NotAuthorized")


class OpenProtocol:
    """The services of one stand-in."""

    def __init__(self, owner: Owner) -> None:
        self._served = Served(owner)
        self._points = event_service.new_points()
        self._paths = {path_of(namespace): namespace for namespace in self._served.services}
        if self._served.stand_in.is_loose:
            self._paths.pop(path_of(MEDIA2), None)  # it tells of a service that is not there

    def knows(self, path: str) -> bool:
        """Whether a path is one of a service."""
        return self._namespace(path) is not None

    def _namespace(self, path: str) -> str | None:
        if path in self._paths:
            return self._paths[path]
        # A subscription has a path of its own under that of the event service.
        above, _, number = path.rpartition("/")
        return EVENTS if self._paths.get(above) == EVENTS and number.isdigit() else None

    async def answer(self, asked: Asked) -> Answer:
        """Answer a request to a service."""
        path = asked.target.partition("?")[0]
        namespace = self._namespace(path) or DEVICE
        try:
            root = parsed(asked.body)
            question = next(iter(parts(child(root, "Body"))), None)
            if question is None:
                raise Refusal("there is no question in it", "WellFormed")
            name = local(question.tag)
            admitted = self._admitted(asked, root, namespace, name)
            if admitted != "in":
                return self._not_admitted(admitted)
            return Answer(200, self._enveloped(await self._body(namespace, path, name, question)), CONTENT_TYPE)
        except Unreadable as error:
            return self._refused(Refusal(str(error), "WellFormed"))
        except Refusal as refusal:
            return self._refused(refusal)

    def _admitted(self, asked: Asked, root: Element, namespace: str, name: str) -> Admitted:
        gate, one = self._served.gate, self._served.stand_in
        if not self._served.is_set_up:
            return "in"  # out of its box it takes whatever is said (IEC 62676-2-31, default state)
        if namespace == DEVICE and name in device_service.BEFORE_LOGIN and not gate.is_locked:
            return "in"
        header, token = asked.headers.get("authorization", ""), token_of(root)
        by_http = gate.admits(asked.method, header) if header or token is None else "in"
        if by_http == "in" and token is None and one.wants_both:
            raise NOT_AUTHORIZED  # HTTP is content, the service is not
        if by_http != "in" or token is None:
            return by_http
        if one.wants_both and not header:
            return "asked"
        ahead_s = token.created_s()
        off_s = one.profile.clock_off_s
        if ahead_s is None or (off_s and abs(ahead_s - self._served.clock.now_s()) > off_s):
            return "asked"
        return gate.admits_token(token)

    def _not_admitted(self, admitted: Admitted) -> Answer:
        if admitted == "locked":
            return Answer(
                403, self._enveloped(fault(Refusal("locked", "AccountLocked", code="Receiver"))), CONTENT_TYPE
            )
        challenge = {"WWW-Authenticate": self._served.gate.challenge()}
        return Answer(401, self._enveloped(fault(NOT_AUTHORIZED)), CONTENT_TYPE, challenge)

    def _refused(self, refusal: Refusal) -> Answer:
        # Some devices leave the codes out and say it in words alone.
        shown = Refusal(refusal.reason) if self._served.stand_in.is_loose else refusal
        return Answer(refusal.status, self._enveloped(fault(shown)), CONTENT_TYPE)

    async def _body(self, namespace: str, path: str, name: str, question: Element) -> str:
        prefix = _PREFIX[namespace]
        if namespace == EVENTS:
            special = await self._event_body(path, name, question)
            if special is not None:
                return special
        answering = SERVICES[namespace].get(name)
        if answering is None:
            raise Refusal(f"{name} is not supported", "ActionNotSupported", code="Receiver", status=500)
        return f"<{prefix}:{name}Response>{answering(self._served, question)}</{prefix}:{name}Response>"

    async def _event_body(self, path: str, name: str, question: Element) -> str | None:
        if name == "CreatePullPointSubscription":
            inside = event_service.subscribe(self._served, self._points)
            return f"<tev:{name}Response>{inside}</tev:{name}Response>"
        if name not in ("PullMessages", "Unsubscribe", "Renew", "SetSynchronizationPoint"):
            return None
        number = path.rpartition("/")[2]
        point = self._points.each.get(int(number)) if number.isdigit() else None
        if point is None:
            raise Refusal("there is no such subscription", "InvalidArgVal")
        if name == "PullMessages":
            return f"<tev:PullMessagesResponse>{await event_service.pull(self._served, point, question)}</tev:PullMessagesResponse>"
        if name == "Renew":
            return f"<wsnt:RenewResponse>{event_service.renewed(self._served, point)}</wsnt:RenewResponse>"
        if name == "SetSynchronizationPoint":
            point.told = None
            return "<tev:SetSynchronizationPointResponse/>"
        with contextlib.suppress(KeyError):
            del self._points.each[int(number)]
        return "<wsnt:UnsubscribeResponse/>"

    def _enveloped(self, body: str) -> str:
        written = envelope(body).decode()
        if self._served.stand_in.is_loose:
            # Prefixes mean nothing, and devices write what they like.
            for own, other in (
                ("<s:", "<SOAP-ENV:"),
                ("</s:", "</SOAP-ENV:"),
                ("xmlns:s=", "xmlns:SOAP-ENV="),
                (">s:", ">SOAP-ENV:"),
            ):
                written = written.replace(own, other)
        return written
