"""What devices may answer to a check: malformed, endless, slow, sent elsewhere, broken off. Each is a verdict, never a hang."""

import asyncio
import contextlib
import struct
import time
import unittest
from unittest import mock

from eager_lens.onsite.check import page, stream
from tests.onsite.base import run

SDP = (
    "v=0\r\no=- 1 1 IN IP4 127.0.0.1\r\ns=x\r\nc=IN IP4 127.0.0.1\r\nt=0 0\r\nm=video 0 RTP/AVP 96\r\n"
    "a=rtpmap:96 H264/90000\r\na=control:track1\r\n"
)


def http(status="200 OK", body=b"x", *headers):
    lines = [f"HTTP/1.1 {status}", f"Content-Length: {len(body)}", *headers]
    return "\r\n".join(lines).encode() + b"\r\n\r\n" + body


async def fixed(answer, writer):
    writer.write(answer)
    await writer.drain()
    writer.close()


async def endless(answer, writer):
    with contextlib.suppress(ConnectionError):
        writer.write(answer)
        while True:
            writer.write(b"x" * 65_536)
            await writer.drain()


async def slow(answer, writer):
    with contextlib.suppress(ConnectionError):
        for one in answer:
            writer.write(bytes((one,)))
            await writer.drain()
            await asyncio.sleep(0.3)


class Answering:
    """A server on loopback that answers each connection in its own way."""

    def __init__(self, how, answer=b""):
        self._how, self._answer = how, answer
        self.connections = 0
        self.asked = b""

    async def __aenter__(self):
        self._server = await asyncio.start_server(self._serve, "127.0.0.1", 0)
        self.port = self._server.sockets[0].getsockname()[1]
        return self

    async def __aexit__(self, *_):
        self._server.close()

    async def _serve(self, reader, writer):
        self.connections += 1
        with contextlib.suppress(ConnectionError, asyncio.IncompleteReadError):
            self.asked += await reader.readuntil(b"\r\n\r\n")
            await self._how(self._answer, writer)


class Pages(unittest.TestCase):
    def look(self, how, answer=b"", password="secret"):
        async def work():
            async with Answering(how, answer) as server, page.client() as client:
                url = f"http://127.0.0.1:{server.port}/"
                return await page.look(client, url, "installer", password), server

        return run(work(), 120)

    def test_what_is_no_http_is_told(self):
        for answer in (
            b"SSH-2.0-x\r\n",
            b"\x00" * 5000,
            b"HTTP/1.1 999999 x\r\n\r\n",
            b"HTTP/1.1 200 OK\r\nA" + b"a" * 300_000,
        ):
            with self.subTest(answer[:20]):
                read, _ = self.look(fixed, answer)
                self.assertEqual(read.login, "no answer")

    def test_an_answer_without_end_is_stopped(self):
        with mock.patch.object(page, "ANSWER_S", 3.0):
            for head in (b"HTTP/1.1 200 OK\r\n\r\n", b"HTTP/1.1 200 OK\r\nContent-Length: 99999999999\r\n\r\n"):
                read, _ = self.look(endless, head)
                self.assertEqual(read.login, "no answer")
                self.assertIn("does not end", read.trouble)

    def test_a_slow_answer_is_given_up(self):
        with mock.patch.object(page, "ANSWER_S", 0.5):
            begun = time.monotonic()
            read, _ = self.look(slow, http(body=b"x" * 100))
            self.assertLess(time.monotonic() - begun, 28)  # all 100 bytes would take 30 s
            self.assertEqual(read.login, "no answer")

    def test_nobody_is_followed_to_another_host(self):
        read, server = self.look(fixed, http("302 Found", b"", "Location: http://203.0.113.9/"))
        self.assertIn("was not followed", read.trouble)
        self.assertEqual(server.connections, 1)

    def test_a_password_is_not_sent_in_plain_text(self):
        read, server = self.look(fixed, http("401 x", b"", 'WWW-Authenticate: Basic realm="x"'))
        self.assertEqual(read.login, "plain text")
        self.assertNotIn(b"uthorization", server.asked)

    def test_an_odd_date_is_no_clock(self):
        for date in ("yesterday", "", "Mon, 99 Foo 2026 25:61:61 GMT", "Thu, 01 Jan 99999 00:00:00 GMT"):
            read, _ = self.look(fixed, http("200 OK", b"", f"Date: {date}"))
            self.assertIsNone(read.clock_off_s)

    def test_channels_that_are_none(self):
        bodies = (b"", b"[]", b"{}", b'{"channels": 3}', b'{"channels": [3]}', b'{"channels": [{}]}', b"[" * 100_000)
        for body in bodies:
            with self.subTest(body[:30]):

                async def work(body=body):
                    async with Answering(fixed, http(body=body)) as server, page.client() as client:
                        return await page.channels(client, f"http://127.0.0.1:{server.port}/c", "u", "p")

                self.assertIsNone(run(work()))

    def test_texts_of_a_recorder_are_made_harmless(self):
        body = b'{"channels": [{"number": 1, "name": "a\\u0000\\u202eb", "state": "' + b"x" * 5000 + b'"}]}'

        async def work():
            async with Answering(fixed, http(body=body)) as server, page.client() as client:
                return await page.channels(client, f"http://127.0.0.1:{server.port}/c", "u", "p")

        (channel,) = run(work())
        self.assertNotIn("\u0000", channel.name)
        self.assertEqual(len(channel.state), 200)


class Streams(unittest.TestCase):
    def ask(self, how, answer=b""):
        async def work():
            async with Answering(how, answer) as server:
                url = f"rtsp://127.0.0.1:{server.port}/main"
                return await stream.ask("127.0.0.1", server.port, url, "installer", "secret"), server

        return run(work(), 120)

    def test_answers_that_are_none(self):
        answers = (
            b"HTTP/1.1 200 OK\r\n\r\n" * 3,
            b"RTSP/1.0\r\n\r\n",
            b"RTSP/1.0 200 OK\r\nContent-Length: 99999999\r\n\r\n",
            b"RTSP/1.0 200 OK\r\nContent-Length: 5\r\n\r\nv=0\r\n",
            b"RTSP/1.0 200 OK\r\nContent-Length: 500\r\n\r\nv=0",
            b"\xff" * 100_000,
            b"",
        )
        for answer in answers:
            with self.subTest(answer[:40]):
                asked, _ = self.ask(fixed, answer)
                self.assertEqual(asked.outcome, "no answer")
                self.assertTrue(asked.words)

    def test_nobody_is_followed_to_another_host(self):
        asked, server = self.ask(fixed, b"RTSP/1.0 302 Found\r\nLocation: rtsp://203.0.113.9/x\r\n\r\n")
        self.assertIn("not followed", asked.words)
        self.assertEqual(server.connections, 1)

    def test_a_refusal_is_not_tried_again(self):
        challenge = b'RTSP/1.0 401 Unauthorized\r\nWWW-Authenticate: Digest realm="x", nonce="1"\r\n\r\n'
        asked, server = self.ask(fixed, challenge)
        self.assertIn(asked.outcome, ("refused", "no answer"))
        self.assertEqual(server.connections, 1)

    def test_slow_and_endless_answers_are_given_up(self):
        with mock.patch.object(stream, "OPEN_S", 0.8):
            for how, answer in ((slow, b"RTSP/1.0 200 OK\r\n\r\n"), (endless, b"RTSP/1.0 200 OK\r\n")):
                asked, _ = self.ask(how, answer)
                self.assertEqual(asked.outcome, "no answer")

    def test_a_stream_that_opens_and_sends_rubbish_ends_in_a_verdict(self):
        async def rubbish(answer, writer, reader=None):
            writer.write(answer)

        async def camera(reader, writer):
            with contextlib.suppress(ConnectionError, asyncio.IncompleteReadError):
                while True:
                    head = (await reader.readuntil(b"\r\n\r\n")).decode()
                    method = head.split(" ", 1)[0]
                    number = head.lower().split("cseq:")[1].split("\r\n")[0].strip()
                    answer = f"RTSP/1.0 200 OK\r\nCSeq: {number}\r\nSession: 1;timeout=60\r\n"
                    body = ""
                    if method == "DESCRIBE":
                        body = SDP
                        answer += f"Content-Type: application/sdp\r\nContent-Length: {len(body)}\r\n"
                    elif method == "SETUP":
                        answer += "Transport: RTP/AVP/TCP;unicast;interleaved=0-1\r\n"
                    writer.write((answer + "\r\n" + body).encode())
                    if method == "PLAY":
                        for at in range(200):
                            packet = struct.pack(">BBHII", 0x80, 96, at, at * 9000, 1) + bytes((at,)) * 600
                            writer.write(struct.pack(">cBH", b"$", 0, len(packet)) + packet)
                        await writer.drain()
                        writer.close()
                        return

        async def work():
            server = await asyncio.start_server(camera, "127.0.0.1", 0)
            port = server.sockets[0].getsockname()[1]
            arguments = ("127.0.0.1", port, "main", "u", "p", 2.0, lambda: False)
            try:
                return await asyncio.to_thread(stream.read_stream, *arguments)
            finally:
                server.close()

        found = run(work(), 120)
        self.assertIn(found.read.outcome, ("stopped", "no answer", "not video"))
        self.assertTrue(found.read.words)
