"""What devices may answer to a check: malformed, endless, slow, sent elsewhere, broken off. Each is a verdict, never a hang."""

import asyncio
import base64
import contextlib
import struct
import time
import unittest
from unittest import mock

from eager_lens.onsite import digest
from eager_lens.onsite.bounded_http import Http
from eager_lens.onsite.check import page, stream
from eager_lens.onsite.open_protocol.endpoints import Endpoint
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
    def look(self, how, answer=b"", answer_s=6.0):
        async def work():
            async with Answering(how, answer) as server:
                with contextlib.closing(Http(answer_s=answer_s)) as http:
                    return await page.look(http, f"http://127.0.0.1:{server.port}/"), server

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
                self.assertTrue(read.is_silent)

    def test_an_answer_without_end_is_stopped(self):
        for head in (b"HTTP/1.1 200 OK\r\n\r\n", b"HTTP/1.1 200 OK\r\nContent-Length: 99999999999\r\n\r\n"):
            read, _ = self.look(endless, head)
            self.assertTrue(read.is_silent)
            self.assertIn("endless", read.trouble)

    def test_a_slow_answer_is_given_up(self):
        begun = time.monotonic()
        read, _ = self.look(slow, http(body=b"x" * 100), 0.5)
        self.assertLess(time.monotonic() - begun, 28)  # all 100 bytes would take 30 s
        self.assertTrue(read.is_silent)

    def test_nobody_is_followed_to_another_host(self):
        read, server = self.look(fixed, http("302 Found", b"", "Location: http://203.0.113.9/"))
        self.assertIn("was not followed", read.trouble)
        self.assertEqual(server.connections, 1)

    def test_an_odd_date_is_no_clock(self):
        for date in ("yesterday", "", "Mon, 99 Foo 2026 25:61:61 GMT", "Thu, 01 Jan 99999 00:00:00 GMT"):
            read, _ = self.look(fixed, http("200 OK", b"", f"Date: {date}"))
            self.assertIsNone(read.clock_off_s)


def described(encoding="H264/90000", control="track1"):
    return SDP.replace("H264/90000", encoding).replace("track1", control)


class Camera:
    """An RTSP server on loopback that answers as it is told to, and keeps what it was asked."""

    def __init__(self, challenges=(), packets=(), body=SDP, answer=None, hangs_up=False, pace_s=0.0):
        self.challenges, self.packets, self.body = list(challenges), packets, body
        self.answer, self.hangs_up, self.pace_s = answer, hangs_up, pace_s
        self.asked, self.connections = [], 0

    async def __aenter__(self):
        self._server = await asyncio.start_server(self._serve, "127.0.0.1", 0)
        self.port = self._server.sockets[0].getsockname()[1]
        return self

    async def __aexit__(self, *_):
        self._server.close()

    @property
    def log_ins(self):
        """Connections and nonces with which somebody logged in."""
        lines = [line for one in self.asked for line in one.split("\r\n") if line.startswith("Authorization")]
        return {line.split('nonce="')[1].split('"')[0] if "nonce=" in line else line for line in lines}

    async def _serve(self, reader, writer):
        self.connections += 1
        with contextlib.suppress(ConnectionError, asyncio.IncompleteReadError, asyncio.LimitOverrunError):
            while True:
                head = (await reader.readuntil(b"\r\n\r\n")).decode()
                self.asked.append(head)
                method, number = head.split(" ", 1)[0], head.lower().split("cseq:")[1].split("\r\n")[0].strip()
                if self.answer is not None:
                    writer.write(self.answer)
                    continue
                if self.challenges and ("Authorization:" not in head or self.challenges[0] == "refuse"):
                    shown = self.challenges[-1:] if self.challenges[0] == "refuse" else self.challenges
                    lines = "".join(f"WWW-Authenticate: {one}\r\n" for one in shown)
                    writer.write(f"RTSP/1.0 401 Unauthorized\r\nCSeq: {number}\r\n{lines}\r\n".encode())
                    continue
                if method == "TEARDOWN" and self.hangs_up:
                    writer.close()
                    return
                answer = f"RTSP/1.0 200 OK\r\nCSeq: {number}\r\nSession: 1;timeout=60\r\n"
                body = self.body if method == "DESCRIBE" else ""
                writer.write(f"{answer}Content-Length: {len(body)}\r\n\r\n{body}".encode())
                if method == "PLAY":
                    for one in self.packets:
                        writer.write(struct.pack(">cBH", b"$", 0, len(one)) + one)
                        if self.pace_s:
                            await asyncio.sleep(self.pace_s)
                await writer.drain()


def packet(at, payload, step=9000, marker=True):
    return struct.pack(">BBHII", 0x80, 96 | marker << 7, at & 0xFFFF, at * step & 0xFFFFFFFF, 1) + payload


SPS = base64.b64decode("Z0LAC9oFBehAAAADAEAAAAUjxQqo")  # 320 x 176


async def pause():
    """Nobody has to be waited for."""


class Streams(unittest.TestCase):
    def read(self, camera, paths=("main",), for_s=1.0, away_s=0.0):
        """Read streams; for a while after half a second the machine does something else."""

        async def work():
            if away_s:
                asyncio.get_running_loop().call_later(0.5, time.sleep, away_s)
            async with camera:
                login = digest.DigestLogin("installer", "secret")
                wanted = [stream.Wanted(Endpoint("rtsp", camera.port, f"/{path}"), for_s) for path in paths]
                return await stream.read_streams("127.0.0.1", login, wanted, pause), login

        return run(work(), 120)[0]

    def test_answers_that_are_none(self):
        answers = (
            b"HTTP/1.1 200 OK\r\n\r\n" * 3,
            b"RTSP/1.0\r\n\r\n",
            b"RTSP/1.0 " + b"2" * 5000 + b" OK\r\n\r\n",
            b"RTSP/1.0 200 OK\r\nContent-Length: 99999999\r\n\r\n",
            b"RTSP/1.0 200 OK\r\nContent-Length: " + b"9" * 5000 + b"\r\n\r\n",
            b"RTSP/1.0 200 OK\r\nContent-Length: 5\r\n\r\nv=0\r\n",
            b"\xff" * 100_000,
            b"RTSP/1.0 200 " + b"x" * 100_000,
        )
        for answer in answers:
            with self.subTest(answer[:40]), mock.patch.object(stream, "OPEN_S", 1.0):
                streamed = self.read(Camera(answer=answer))
                self.assertEqual(streamed.reads[0].outcome, "no answer")
                self.assertTrue(streamed.reads[0].words)
                self.assertEqual(streamed.login, "no answer")

    def test_nobody_is_followed_to_another_host(self):
        camera = Camera(answer=b"RTSP/1.0 302 Found\r\nLocation: rtsp://127.0.0.1:1/x\r\n\r\n")
        self.assertIn("not followed", self.read(camera).reads[0].words)
        self.assertEqual(camera.connections, 1)
        # A description that names another host leads nowhere else either.
        camera = Camera(body=described(control="rtsp://203.0.113.9:554/x"))
        self.read(camera)
        self.assertEqual((camera.connections, len(camera.asked)), (1, 4))

    def test_a_password_is_never_sent_in_plain_text(self):
        for challenges in (('Basic realm="x"',), ('Bearer realm="x"', 'Basic realm="x"'), ("Digest",), ("",)):
            with self.subTest(challenges):
                camera = Camera(challenges)
                streamed = self.read(camera)
                self.assertEqual((streamed.login, streamed.reads[0].outcome), ("plain text", "refused"))
                self.assertNotIn("uthorization", "".join(camera.asked))
        # One that asks for digest first and for Basic later gets digest only.
        both = Camera(('Basic realm="x"', 'Digest realm="x", nonce="n"'))
        self.read(both)
        self.assertTrue(all("Digest " in one for one in both.asked if "Authorization" in one))

    def test_without_a_user_nothing_logs_in(self):
        async def work(camera):
            async with camera:
                wanted = [stream.Wanted(Endpoint("rtsp", camera.port, "/main"), 1)]
                return await stream.read_streams("127.0.0.1", None, wanted, pause)

        camera = Camera(('Digest realm="x", nonce="1"',))
        streamed = run(work(camera))
        self.assertEqual((streamed.login, streamed.reads[0].outcome), ("not tried", "refused"))
        self.assertEqual((len(camera.asked), camera.log_ins), (1, set()))

    def test_a_refusal_is_not_tried_again(self):
        camera = Camera(("refuse", 'Digest realm="x", nonce="1"'))
        streamed = self.read(camera, ("main", "sub"))
        self.assertEqual((streamed.login, len(streamed.reads)), ("refused", 1))
        self.assertEqual((camera.connections, len(camera.asked), len(camera.log_ins)), (1, 2, 1))

    def test_two_streams_take_one_log_in(self):
        packets = [packet(at, SPS if at == 0 else b"\x41" * 300, step=1800) for at in range(48)]
        for hangs_up in (False, True):
            with self.subTest(hangs_up=hangs_up), mock.patch.object(stream, "IN_OR_OUT_S", 60.0):
                camera = Camera(('Digest realm="x", nonce="1"',), packets, hangs_up=hangs_up, pace_s=0.02)
                streamed = self.read(camera, ("main", "sub"))
                self.assertEqual([one.outcome for one in streamed.reads], ["opened", "opened"])
                self.assertEqual((streamed.login, len(camera.log_ins)), ("in", 1))
                self.assertEqual(camera.connections, 1 + hangs_up)

    def test_a_machine_that_is_busy_with_other_things_for_a_while_changes_no_figure(self):
        packets = [packet(at, SPS if at == 0 else b"\x41" * 300, step=1800) for at in range(120)]
        (read,) = self.read(Camera(packets=packets, pace_s=0.02), for_s=1.5, away_s=4.0).reads
        self.assertEqual((read.outcome, read.words), ("opened", ""))
        self.assertAlmostEqual(read.fps, 50, delta=1)

    def test_ways_of_logging_in_that_are_legal_or_unknown(self):
        for challenge, login in (
            ('Digest realm="x", nonce="1", algorithm=SHA-512-256, qop="auth"', "in"),
            ('Digest realm="x", nonce="1", algorithm=SHA-256-sess, qop="auth,auth-int"', "in"),
            ('Digest realm="x", nonce="1", qop="auth-int"', "in"),
            ('Digest realm="x", nonce="1", algorithm=ROT13', "not tried"),
            ('Digest realm="x", nonce="1", qop="other"', "not tried"),
        ):
            with self.subTest(challenge):
                packets = [packet(at, SPS if at == 0 else b"\x41" * 300) for at in range(100)]
                self.assertEqual(self.read(Camera((challenge,), packets)).login, login)

    def test_streams_that_are_made_to_harm_end_in_a_verdict(self):
        endless = b"\x7c\x85" + b"\xff" * 1200  # a unit that begins and never ends
        cases = {
            "rubbish": [packet(at, bytes((at % 256,)) * 600) for at in range(200)],
            "a unit without end": [packet(0, endless, marker=False)] + [packet(0, b"\x7c\x05" + b"x" * 1200)] * 4000,
            "one picture a tick": [packet(at, SPS if at == 0 else b"\x41x", step=1) for at in range(5000)],
            "a clock at rest": [packet(0, b"\x41x")] * 500,
            "a clock that jumps": [packet(at, b"\x65x", step=0x7FFFFFF0) for at in range(500)],
            "packets of nothing": [b""] * 1000 + [b"\x80"] * 1000,
            "a set without end": [packet(at, b"\x67" + b"\x00" * 1400) for at in range(300)],
            "a huge picture": [packet(at, bytes.fromhex("674d0028f4ffffffffffffffff")) for at in range(300)],
        }
        for name, packets in cases.items():
            with self.subTest(name), mock.patch.object(stream, "SILENT_S", 1.5):
                (read,) = self.read(Camera(packets=packets)).reads
                self.assertIn(read.outcome, ("opened", "stopped", "no answer"))
                self.assertLessEqual(read.fps, 240)
                self.assertLessEqual(len(read.words), 200)

    def test_a_codec_that_is_not_known_is_named(self):
        packets = [packet(at, b"x" * 500, step=1800) for at in range(48)]
        (read,) = self.read(Camera(packets=packets, body=described("MP4V-ES/90000"), pace_s=0.02)).reads
        self.assertEqual((read.outcome, read.codec, read.width_px), ("opened", "mp4v-es", 0))

    def test_slow_and_endless_answers_are_given_up(self):
        async def work(how, answer):
            async with Answering(how, answer) as server:
                login = digest.DigestLogin("installer", "secret")
                wanted = [stream.Wanted(Endpoint("rtsp", server.port, "/main"), 1)]
                return await stream.read_streams("127.0.0.1", login, wanted, pause)

        with mock.patch.object(stream, "OPEN_S", 0.8):
            for how, answer in ((slow, b"RTSP/1.0 200 OK\r\n\r\n"), (endless, b"RTSP/1.0 200 OK\r\n")):
                self.assertEqual(run(work(how, answer), 120).reads[0].outcome, "no answer")
