"""Logging in as devices want it, once; and answers that are broken, hostile or not quite by the standard."""

import asyncio
import base64
import contextlib
import unittest
from unittest import mock

from eager_lens.core.site_check.told import Told as ToldOfDevice
from eager_lens.core.site_check.told import UserTold
from eager_lens.onsite.bounded_http import Http
from eager_lens.onsite.check import look
from eager_lens.onsite.check.page import PageRead
from eager_lens.onsite.open_protocol import reading
from eager_lens.onsite.open_protocol.conversation import Conversation, NotTold, User
from eager_lens.onsite.open_protocol.endpoints import Endpoint, endpoint_of, host_of
from eager_lens.onsite.open_protocol.names import DEVICE, SERVICES
from eager_lens.onsite.open_protocol.reading import Wanted, read_device
from eager_lens.onsite.open_protocol.soap import envelope
from eager_lens.onsite.open_protocol.user_token import password_digest, token_of
from eager_lens.onsite.open_protocol.xml import LARGEST_BYTES, Unreadable, parsed
from eager_lens.onsite.stand_ins.certificate import tls_of
from eager_lens.onsite.stand_ins.gate import Gate
from eager_lens.onsite.stand_ins.timepiece import StandInClock
from eager_lens.onsite.stand_ins.web import Answer, serve
from tests.onsite.base import run

RIGHT, WRONG = User("installer", "Tramway-7-up"), User("installer", "wrong")
INFORMATION = (
    "<tds:GetDeviceInformationResponse><tds:Manufacturer>Quillmark</tds:Manufacturer><tds:Model>B4</tds:Model>"
    "<tds:FirmwareVersion>2.0</tds:FirmwareVersion><tds:SerialNumber>QU-1</tds:SerialNumber>"
    "<tds:HardwareId>1</tds:HardwareId></tds:GetDeviceInformationResponse>"
)
NOT_AUTHORIZED = (
    '<s:Fault xmlns:s="http://www.w3.org/2003/05/soap-envelope"><s:Code><s:Value>s:Sender</s:Value><s:Subcode>'
    "<s:Value>ter:NotAuthorized</s:Value></s:Subcode></s:Code><s:Reason><s:Text>no</s:Text></s:Reason></s:Fault>"
)


class Device:
    """A device on loopback that answers one question, to those who log in as it wants: by digest, token, both or Basic."""

    def __init__(self, wants="digest", tls=None, ahead_s=0.0, status=401):
        self.wants, self.tls, self.status = wants, tls, status
        self.gate = Gate("x", {RIGHT.name: (RIGHT.password,)}, 5, 10)
        self.clock = StandInClock(ahead_s, 0.0)
        self.asked = []

    async def __aenter__(self):
        self._server = await asyncio.start_server(self._serve, "127.0.0.1", 0, ssl=self.tls)
        self.port = self._server.sockets[0].getsockname()[1]
        return self

    async def __aexit__(self, *_):
        self._server.close()

    async def _serve(self, reader, writer):
        with contextlib.suppress(asyncio.CancelledError):  # the test is over
            await serve(reader, writer, self._answer, self.clock)

    async def _answer(self, asked):
        self.asked.append(asked)
        header, token = asked.headers.get("authorization", ""), token_of(parsed(asked.body))
        by_http = self.gate.admits("POST", header) == "in" if header else False
        near = token is not None and abs((token.created_s() or 0) - self.clock.now_s()) < 60
        by_token = near and token.is_of(RIGHT.password)
        if {"digest": by_http, "token": by_token, "both": by_http and by_token, "Basic": False}[self.wants]:
            return Answer(200, envelope(INFORMATION).decode(), "application/soap+xml")
        headers = {}
        if self.wants == "Basic":
            headers = {"WWW-Authenticate": 'Basic realm="x"'}
        elif self.wants != "token" and not by_http:
            headers = {"WWW-Authenticate": self.gate.challenge()}
        return Answer(self.status if not by_http else 400, envelope(NOT_AUTHORIZED).decode(), "text/xml", headers)

    @property
    def log_ins(self):
        """Questions that came with a log-in."""
        return sum(b"Password" in one.body or "authorization" in one.headers for one in self.asked)


def asked_of(device, user, times=1, remembered=""):
    """Ask a device who it is, so many times over: how the log-in went, and what it told."""

    async def work():
        async with device:
            scheme = "https" if device.tls else "http"
            with contextlib.closing(Http(remembered)) as http:
                talk = Conversation(http, "127.0.0.1", user)
                told = []
                for _ in range(times):
                    try:
                        service = Endpoint(scheme, device.port, "/service")
                        told.append((await talk.ask(service, "tds:GetDeviceInformation")).tag.rpartition("}")[2])
                    except NotTold as error:
                        told.append(str(error))
                return talk, told

    return run(work())


class LogIn(unittest.TestCase):
    def test_each_way_that_devices_want_it(self):
        for wants, questions in (("digest", 2), ("token", 2), ("both", 3)):
            with self.subTest(wants):
                device = Device(wants)
                talk, told = asked_of(device, RIGHT)
                self.assertEqual((talk.logged_in, told), ("in", ["GetDeviceInformationResponse"]))
                self.assertEqual(len(device.asked), questions)

    def test_once_in_every_question_goes_with_the_log_in(self):
        device = Device("token")
        talk, _ = asked_of(device, RIGHT, 3)
        self.assertEqual((talk.logged_in, len(device.asked), device.log_ins), ("in", 4, 3))

    def test_after_a_refusal_nothing_more_is_sent_with_a_log_in(self):
        for wants in ("digest", "token", "both"):
            with self.subTest(wants):
                device = Device(wants)
                talk, told = asked_of(device, WRONG, 3)
                self.assertEqual((talk.logged_in, device.log_ins), ("refused", 1))
                self.assertEqual(set(told), {"the log-in was refused"})

    def test_a_locked_device_is_told_apart_from_a_user_who_may_not(self):
        class Forbids(Device):
            """Answers 403 from so many questions with a log-in on."""

            def __init__(self, after):
                super().__init__("token")
                self.after = after

            async def _answer(self, asked):
                answer = await super()._answer(asked)
                return Answer(403) if self.log_ins > self.after else answer

        talk, told = asked_of(Forbids(0), RIGHT)
        self.assertEqual((talk.logged_in, told), ("locked", ["it is locked after too many wrong log-ins"]))
        talk, told = asked_of(Forbids(1), RIGHT, 2)
        self.assertEqual((talk.logged_in, told[1]), ("in", "it answers with an error (403)"))

    def test_a_refusal_at_one_port_ends_the_search_for_another(self):
        async def work():
            async with Device("digest") as first, Device("digest") as second:
                starts = [Endpoint("http", one.port, "/service") for one in (first, second)]
                with contextlib.closing(Http()) as http:
                    found = await read_device(http, "127.0.0.1", starts, WRONG, Wanted())
                return found, first, second

        found, first, second = run(work())
        self.assertEqual((found.logged_in, first.log_ins, second.log_ins), ("refused", 1, 0))

    def test_the_password_is_never_sent(self):
        device = Device("Basic")
        talk, _ = asked_of(device, RIGHT)
        self.assertEqual((talk.logged_in, device.log_ins), ("plain text", 1))  # by a token, which is a digest
        for wants in ("digest", "token", "both", "Basic"):
            device = Device(wants)
            asked_of(device, RIGHT)
            for one in device.asked:
                self.assertNotIn(RIGHT.password.encode(), one.body)
                self.assertNotIn("Basic", one.headers.get("authorization", ""))

    def test_a_device_whose_clock_is_wrong_gets_its_own_time(self):
        talk, told = asked_of(Device("token", ahead_s=-3 * 86_400.0), RIGHT)
        self.assertEqual((talk.logged_in, told), ("in", ["GetDeviceInformationResponse"]))

    def test_without_a_user_it_is_said_that_one_is_wanted(self):
        device = Device("token")
        talk, told = asked_of(device, None, 2)
        self.assertEqual((talk.logged_in, set(told), device.log_ins), ("not tried", {"it wants a log-in"}, 0))

    def test_the_digest_is_that_of_the_standard(self):
        """As a published example of the user token has it."""
        nonce = base64.b64decode("LKqI6G/AikKCQrN0zqZFlg==")
        self.assertEqual(password_digest(nonce, "2010-09-16T07:50:45Z", "userpassword"), "tuOSpGlFlIXsozq4HFNeeGeFLEI=")


class FirstUse(unittest.TestCase):
    def test_only_a_device_that_tells_it_has_no_user_waits_for_its_first(self):
        """An open camera that does not tell its users is open, not new."""
        for users, login in ((None, "open"), ((), "set-up wanted"), ((UserTold(name="a"),), "open")):
            told = ToldOfDevice(needs_no_login=True, users=users)
            self.assertEqual(look.login_of(reading.Reading(told), PageRead(False)), login)


class Certificates(unittest.TestCase):
    def test_the_one_that_is_shown_is_told_and_another_gets_nothing(self):
        talk, told = asked_of(Device(tls=tls_of("Hall")), RIGHT)
        self.assertEqual((talk.logged_in, len(talk.certificate)), ("in", 64))
        device = Device(tls=tls_of("Hall"))
        talk, told = asked_of(device, RIGHT, remembered="ab" * 32)
        self.assertEqual((device.asked, told), ([], ["it shows another certificate than before"]))
        self.assertTrue(talk.shows_another_certificate)

    def test_tls_that_never_finishes_is_given_up(self):
        async def silent(reader, writer):
            with contextlib.suppress(asyncio.CancelledError):
                await reader.read()

        async def work():
            server = await asyncio.start_server(silent, "127.0.0.1", 0)
            port = server.sockets[0].getsockname()[1]
            http = Http(answer_s=0.5)
            found = await read_device(http, "127.0.0.1", [Endpoint("https", port, "/x")], RIGHT, Wanted())
            server.close()
            return found

        self.assertIn("took longer", run(work()).why)


async def reading_of(answer, *headers, status="200 OK", endless=False, answer_s=2.0):
    """The reading of a device that answers every question with the same bytes, and how many came."""
    count = 0

    async def serving(reader, writer):
        nonlocal count
        with contextlib.suppress(ConnectionError, asyncio.IncompleteReadError, asyncio.CancelledError):
            while True:
                head = await reader.readuntil(b"\r\n\r\n")
                length = int(
                    next(line for line in head.lower().split(b"\r\n") if b"content-length" in line).split(b":")[1]
                )
                await reader.readexactly(length)
                count += 1
                lines = [f"HTTP/1.1 {status}", *headers]
                if not endless:
                    lines.append(f"Content-Length: {len(answer)}")
                writer.write("\r\n".join(lines).encode() + b"\r\n\r\n" + answer)
                while endless:
                    writer.write(answer)
                    await writer.drain()
                await writer.drain()

    server = await asyncio.start_server(serving, "127.0.0.1", 0)
    port = server.sockets[0].getsockname()[1]
    with contextlib.closing(Http(answer_s=answer_s)) as http:
        found = await read_device(
            http, "127.0.0.1", [Endpoint("http", port, "/service")], RIGHT, Wanted(True, True, True)
        )
    server.close()
    return found, count


class Hostile(unittest.TestCase):
    def read(self, answer, *headers, **how):
        return run(reading_of(answer, *headers, **how))

    def test_what_is_no_answer_is_none(self):
        bomb = b'<!DOCTYPE a [<!ENTITY b "cccccccccc"><!ENTITY d "&b;&b;&b;&b;">]><a>&d;</a>'
        outside = b'<!DOCTYPE a [<!ENTITY b SYSTEM "file:///etc/passwd">]><a>&b;</a>'
        deep = b"<a>" * 50_000 + b"</a>" * 50_000
        for answer in (b"", b"\x00" * 5000, b"<a", b"<a/>", bomb, outside, deep, b"<a/>" * 200_000, b"x" * 900_000):
            with self.subTest(answer[:30]):
                found, _ = self.read(answer)
                self.assertIsNone(found.told)
                self.assertTrue(found.why)

    def test_answers_without_end_are_stopped(self):
        found, _ = self.read(b"<a>" * 10_000, endless=True)
        self.assertIsNone(found.told)
        self.assertIn("does not end", found.why)

    def test_nobody_is_followed_to_another_host(self):
        found, count = self.read(b"", "Location: http://203.0.113.9/", status="302 Found")
        self.assertEqual((found.why, count), ("it redirects to another address, which is not followed", 1))

    def test_too_much_of_anything_is_cut(self):
        many = "".join(
            f'<trt:Profiles token="{at}" fixed="true"><tt:Name>{at}</tt:Name></trt:Profiles>' for at in range(9000)
        )
        found, _ = self.read(envelope(f"<trt:GetProfilesResponse>{many}</trt:GetProfilesResponse>"))
        self.assertIsNone(found.told)

    def test_xml_is_bounded(self):
        for data in (b"<a>" + b" " * LARGEST_BYTES + b"</a>", b"<a>" * 101 + b"</a>" * 101):
            with self.assertRaises(Unreadable):
                parsed(data)

    def test_questions_end_where_a_device_is_gone(self):
        """A device that dies in the middle costs two waits, not one for each question."""
        with mock.patch.object(reading, "READ_S", 60.0):
            found, count = self.read(envelope(INFORMATION), answer_s=1.0)
        self.assertIsNone(found.told)  # it answers the first question with another one's answer
        self.assertEqual(count, 1)


class Told(unittest.TestCase):
    def test_an_address_is_read_without_its_host(self):
        self.assertEqual(endpoint_of("http://0.0.0.0:8899/a/b?c=1"), Endpoint("http", 8899, "/a/b?c=1"))
        self.assertEqual(endpoint_of("https://[fe80::1]/x"), Endpoint("https", 443, "/x"))
        self.assertEqual(endpoint_of("rtsp://u:p@10.0.0.1/live", ("rtsp",)), Endpoint("rtsp", 554, "/live"))
        for told in ("", "x", "ftp://a/b", "http://a:99999/", "http://a/ b", "http:///x", "rtsp://a/b"):
            with self.subTest(told):
                self.assertIsNone(endpoint_of(told))
        self.assertEqual(host_of("http://192.0.2.7:80/x"), "192.0.2.7")

    def test_every_service_has_its_word(self):
        self.assertEqual(SERVICES[DEVICE], "device")
        self.assertEqual(len(set(SERVICES.values())), len(SERVICES))
