"""Asking one device, and logging in there once.

The first question goes without a log-in. Where the device wants one, it gets a digest in the way that it asks for: HTTP digest
where it sends a challenge, the user token of WS-Security where it does not, both where it wants both. After a refusal nothing
more is sent with a log-in; the password itself is never sent.
"""

from __future__ import annotations

from typing import Literal, NamedTuple, NoReturn
from xml.etree.ElementTree import Element

from eager_lens.onsite.bounded_http import FAILED, Http, HttpAnswer, OtherCertificate, TooMuch
from eager_lens.onsite.digest import DigestLogin, NoDigest
from eager_lens.onsite.open_protocol.endpoints import Endpoint
from eager_lens.onsite.open_protocol.names import PREFIXES
from eager_lens.onsite.open_protocol.soap import (
    CONTENT_TYPE,
    LOCKED,
    NOT_OFFERED,
    SoapFault,
    addressed,
    body_of,
    envelope,
)
from eager_lens.onsite.open_protocol.user_token import token_header
from eager_lens.onsite.open_protocol.xml import Unreadable, local

MOST_QUESTIONS = 320

LoggedIn = Literal["not tried", "in", "refused", "locked", "plain text"]
Way = Literal["", "digest", "token", "both"]


class User(NamedTuple):
    """A user and the password, for one device."""

    name: str
    password: str

    def __repr__(self) -> str:
        """Without the password, wherever it may be printed."""
        return f"User({self.name!r})"


class NotTold(Exception):
    """A question has no answer that helps; in words that go on "It is not known, because ...".

    Attributes:
        not_offered: the device does not know the question. goes_on: other questions may still be answered.
    """

    def __init__(self, words: str, not_offered: bool = False, goes_on: bool = True) -> None:
        super().__init__(words)
        self.not_offered, self.goes_on = not_offered, goes_on


class LogInRefused(NotTold):
    """Its log-in was refused, or it is locked: nothing more is sent to it with one."""

    def __init__(self, words: str) -> None:
        super().__init__(words, goes_on=False)


class Conversation:
    """Questions to one device.

    Attributes:
        host: the address that is asked, whatever address the device tells. logged_in: how the log-in went.
        is_asked_for: the device wanted a log-in at some time. certificate: what it showed over TLS;
            ``shows_another_certificate``: not the remembered one, so that nothing was sent.
        ahead_s: by which its clock is ahead of this computer's, for the user token; until it is set, the date of its answers
            counts.
    """

    def __init__(self, http: Http, host: str, user: User | None) -> None:
        self.host = host
        self.logged_in: LoggedIn = "not tried"
        self.is_asked_for = False
        self.certificate = ""
        self.shows_another_certificate = False
        self.ahead_s: float | None = None
        self._date_off_s = 0.0
        self._http, self._user = http, user
        self._way: Way = ""
        self._digest: DigestLogin | None = None
        self._left = MOST_QUESTIONS

    async def ask(self, service: Endpoint, question: str, inside: str = "", to: str = "", action: str = "") -> Element:
        """Ask; the element in the answer's body.

        Args:
            service: on this device. question: its name with a prefix of ``names``, as ``tds:GetUsers``; ``inside``
                is its XML. to, action: given where the service wants addresses (WS-Addressing).

        Raises:
            NotTold: when there is no answer that helps.
        """
        body = f"<{question}>{inside}</{question}>" if inside else f"<{question}/>"
        answer, fault = await self._sent(service, question, body, to, action)
        if self._wants_login(answer, fault):
            self.is_asked_for = True
            answer, fault = await self._with_login(answer, service, question, body, to, action)
        elif self._way:
            self._is_in()
        found = self._judged(answer, fault)
        name = question.rpartition(":")[2]
        if local(found.tag) != f"{name}Response":
            raise NotTold(f"it answers with {local(found.tag)[:60]}", not_offered=True)
        return found

    def _wants_login(self, answer: HttpAnswer, fault: SoapFault | Element | None) -> bool:
        return answer.status == 401 or (isinstance(fault, SoapFault) and fault.wants_login)

    def _is_in(self) -> None:
        self.logged_in = "in"
        if self._digest is not None:
            self._digest.is_proven = self._digest.has_answered

    async def _with_login(
        self, answer: HttpAnswer, service: Endpoint, question: str, body: str, to: str, action: str
    ) -> tuple[HttpAnswer, SoapFault | Element | None]:
        """Log in as the device wants it, once; where it is in already, answer a challenge that is new."""
        if self._user is None:
            raise NotTold("it wants a log-in")
        if self.logged_in in ("refused", "locked", "plain text"):
            raise LogInRefused("the log-in was refused")
        challenges = _challenges_of(answer)
        if self.logged_in == "in":
            # A challenge may be good for some time only; without a new one it is this user who may not.
            if answer.status == 401 and self._take(challenges):
                answer, fault = await self._sent(service, question, body, to, action)
                if not self._wants_login(answer, fault):
                    return answer, fault
            raise NotTold(f"the user {self._user.name} may not read it")
        self._way = "digest" if self._take(challenges) else "token"
        sent, fault = await self._sent(service, question, body, to, action)
        if self._wants_login(sent, fault) and self._wants_both(sent):
            # HTTP was content with the digest and the service wants its token too, or the other way round.
            if sent.status == 401:
                self._take(_challenges_of(sent))
            self._way = "both"
            sent, fault = await self._sent(service, question, body, to, action)
        if self._wants_login(sent, fault):
            self._refused(sent, fault)
        if sent.status == 403:
            # So devices answer that have locked themselves; to a user who is in it says only that this one may not.
            self._lock()
        if not _is_locked(sent, fault):
            self._is_in()
        return sent, fault

    def _refused(self, sent: HttpAnswer, fault: SoapFault | Element | None) -> NoReturn:
        challenges = _challenges_of(sent)
        self._way = ""  # what is asked from now on goes without a log-in
        if _is_locked(sent, fault):
            self._lock()
        if challenges and not any(map(_is_digest, challenges)):
            self.logged_in = "plain text"
        else:
            self.logged_in = "refused"
        raise LogInRefused("the log-in was refused")

    def _lock(self) -> NoReturn:
        self.logged_in, self._way = "locked", ""
        raise LogInRefused("it is locked after too many wrong log-ins")

    def _take(self, challenges: list[str]) -> bool:
        """Take up a challenge of HTTP; whether there is one that a digest answers."""
        if not challenges or self._user is None:
            return False
        if self._digest is None:
            self._digest = DigestLogin(self._user.name, self._user.password)
        try:
            self._digest.take(challenges)
        except NoDigest:
            # It asks for the password as it is; the token of the service is a digest all the same.
            return False
        return True

    def _wants_both(self, sent: HttpAnswer) -> bool:
        if self._way == "digest":
            return sent.status != 401
        return sent.status == 401 and any(map(_is_digest, _challenges_of(sent)))

    async def _sent(
        self, service: Endpoint, question: str, body: str, to: str, action: str
    ) -> tuple[HttpAnswer, SoapFault | Element | None]:
        header = addressed(action, to) if to else ""
        if self._way in ("token", "both") and self._user is not None:
            header += token_header(self._user.name, self._user.password, self._ahead_s())
        data = envelope(body, header)
        prefix, _, name = question.partition(":")
        full = action or f"{PREFIXES[prefix]}/{name}"
        headers = [("Content-Type", f'{CONTENT_TYPE}; action="{full}"')]
        if self._way in ("digest", "both") and self._digest is not None:
            headers.append(("Authorization", self._digest.authorisation("POST", service.path, data) or ""))
        answer = await self._once("POST", service, headers, data)
        try:
            return answer, body_of(answer.body)
        except SoapFault as fault:
            return answer, fault
        except Unreadable:
            return answer, None

    async def _once(self, method: str, service: Endpoint, headers: list[tuple[str, str]], data: bytes) -> HttpAnswer:
        if not self._left:
            raise NotTold("it was asked too often", goes_on=False)
        self._left -= 1
        try:
            answer = await self._http.ask(method, service.url(self.host), headers, data)
        except TooMuch:
            raise NotTold("its answer does not end") from None
        except OtherCertificate as error:
            self.certificate, self.shows_another_certificate = error.shown, True
            raise NotTold("it shows another certificate than before", goes_on=False) from None
        except TimeoutError:
            raise NotTold(f"it took longer than {self._http.answer_s:g} s", goes_on=False) from None
        except (OSError, EOFError):
            raise NotTold("the connection was closed", goes_on=False) from None
        except FAILED:
            raise NotTold("it does not answer in valid HTTP") from None
        self.certificate = answer.certificate or self.certificate
        if self.ahead_s is None:
            self._date_off_s = answer.date_off_s() or 0.0
        return answer

    def _ahead_s(self) -> float:
        return self._date_off_s if self.ahead_s is None else self.ahead_s

    def _judged(self, answer: HttpAnswer, fault: SoapFault | Element | None) -> Element:
        if _is_locked(answer, fault):
            self._lock()
        if isinstance(fault, SoapFault):
            raise NotTold(f"it refuses: {fault}"[:200], not_offered=fault.says(NOT_OFFERED))
        if fault is not None:
            return fault
        if 300 <= answer.status < 400:
            raise NotTold("it redirects to another address, which is not followed")
        if answer.status in (404, 405, 501):
            raise NotTold("it has no such service", not_offered=True)
        if answer.status >= 400:
            raise NotTold(f"it answers with an error ({answer.status})")
        raise NotTold("its answer cannot be read")


def _is_locked(answer: HttpAnswer, fault: SoapFault | Element | None) -> bool:
    return answer.status in (423, 429) or (isinstance(fault, SoapFault) and fault.says(LOCKED))


def _challenges_of(answer: HttpAnswer) -> list[str]:
    return answer.all("www-authenticate")


def _is_digest(challenge: str) -> bool:
    return "digest " in challenge.lower()
