"""Stand-ins on loopback, one part at a time: who is let in, what is sent, what malformed requests come to."""

import asyncio
import itertools
import socket
import struct
import tempfile
import time
import unittest
from pathlib import Path

import httpx
import ntplib

from eager_lens.core.assess.assessment import assess
from eager_lens.core.errors import RefusedInput
from eager_lens.core.values.motion_rule import MotionRule
from eager_lens.core.virtual_site.commissioned import commissioned
from eager_lens.core.virtual_site.faults import inject_by_name
from eager_lens.core.virtual_site.stand_in import StreamSent, described, stand_in_password
from eager_lens.onsite.bounded_http import Http
from eager_lens.onsite.check.searching import search
from eager_lens.onsite.digest import DigestLogin
from eager_lens.onsite.loopback import as_loopback, as_open_port
from eager_lens.onsite.open_protocol.conversation import User
from eager_lens.onsite.open_protocol.discovery import (
    Announced,
    Search,
    announcement,
    answer_to,
    answers_of,
    matches,
    search_of,
    search_text,
)
from eager_lens.onsite.open_protocol.endpoints import Endpoint
from eager_lens.onsite.open_protocol.names import DEVICE_PATH
from eager_lens.onsite.open_protocol.reading import Wanted, read_device
from eager_lens.onsite.rtsp_client import Locked, NoReply, Refused, RtspConversation
from eager_lens.onsite.stand_ins.dhcp import ACK, DISCOVER, NAK, OFFER, REQUEST, DhcpServer, Leases, asking_of
from eager_lens.onsite.stand_ins.gate import Gate
from eager_lens.onsite.stand_ins.loops import encoded, fits, loop_of
from eager_lens.onsite.stand_ins.motion import Motion, looked_through
from eager_lens.onsite.stand_ins.rtp import MOST_PAYLOAD, cut
from eager_lens.onsite.stand_ins.running import RunningSite
from eager_lens.onsite.stand_ins.sending import Link
from eager_lens.onsite.stand_ins.timepiece import StandInClock
from tests.onsite.base import run, small_job

PASSWORD = "Rehearse-1"
USER = "installer"
SMALL = StreamSent("main", "h264", 320, 176, 10, 1, 0.4, "store")


def site_of(job, *faults):
    site = commissioned(assess(job))
    inject_by_name(site, faults)
    return described(site, stand_in_password(PASSWORD, {}))


class OnLoopback(unittest.TestCase):
    """Some stand-ins of the small job, in this very process."""

    def setUp(self):
        self.writers = []

    def within(self, work, *faults, only=None, many=2):
        """Run ``work(running)`` while the site of the small job runs."""
        whole = site_of(small_job(many), *faults)
        if only is not None:
            whole = whole._replace(stand_ins=tuple(one for one in whole.stand_ins if one.id in only))
        with tempfile.TemporaryDirectory() as folder:
            running = RunningSite(whole, False, Path(folder))

            async def whole_run():
                await running.start()
                try:
                    return await work(running)
                finally:
                    for writer in self.writers:
                        writer.close()
                    await running.stop()

            try:
                return run(whole_run(), 300)
            finally:
                running.close()
                running.loops.close()
                for encoder in running.loops.encoders:  # one of them may be writing into the folder still
                    encoder.join()

    @staticmethod
    def at(number, port):
        return as_loopback((172 << 24) + (22 << 16) + (40 << 8) + number), as_open_port(port)

    async def talk(self, password=PASSWORD, number=40, take_packet=lambda channel, packet: None):
        reader, writer = await asyncio.open_connection(*self.at(number, 554))
        self.writers.append(writer)
        return RtspConversation(reader, writer, DigestLogin(USER, password), take_packet), reader, writer

    def url(self, number=40, path="main"):
        host, port = self.at(number, 554)
        return f"rtsp://{host}:{port}/{path}"


class Streams(OnLoopback):
    def test_a_session_from_description_to_teardown(self):
        async def work(running):
            packets = []
            talk, _, _ = await self.talk(take_packet=lambda channel, packet: packets.append((channel, packet)))
            sdp = (await talk.ask("DESCRIBE", self.url(), {"Accept": "application/sdp"})).body
            self.assertIn("m=video 0 RTP/AVP 96", sdp)
            self.assertIn("a=framerate:10", sdp)
            wanted = {"Transport": "RTP/AVP/TCP;unicast;interleaved=4-5"}
            await talk.ask("SETUP", self.url() + "/track1", wanted)
            await talk.ask("PLAY", self.url(), {})
            while len(packets) < 60:
                await talk.packets()
            stamps = [struct.unpack(">I", packet[4:8])[0] for channel, packet in packets if channel == 4]
            self.assertEqual({packet[0] for channel, packet in packets if channel == 4}, {0x80})
            self.assertEqual({packet[1] for channel, packet in packets if channel == 5}, {200})  # sender reports
            kinds = {channel for channel, _ in packets}
            self.assertEqual(kinds, {4, 5})
            steps = {(b - a) % 2**32 for a, b in itertools.pairwise(stamps)} - {0}
            self.assertEqual(steps, {9000})
            self.assertEqual(len(running.devices["cam-1"].rtsp.sessions), 1)

        self.within(work, only={"cam-1"})

    def test_what_is_not_there_or_not_allowed_is_refused(self):
        async def work(running):
            talk, _, _ = await self.talk()
            with self.assertRaisesRegex(NoReply, "404"):
                await talk.ask("DESCRIBE", self.url(path="nothing"), {})
            with self.assertRaisesRegex(NoReply, "461"):
                await talk.ask("SETUP", self.url(), {"Transport": "RTP/AVP;multicast"})
            for transport in (
                "RTP/AVP/TCP;interleaved=900-901",
                "RTP/AVP;client_port=0-1",
                "RTP/AVP;client_port=x",
                "",
            ):
                with self.subTest(transport), self.assertRaisesRegex(NoReply, "461"):
                    await talk.ask("SETUP", self.url(), {"Transport": transport})
            with self.assertRaisesRegex(NoReply, "454"):
                await talk.ask("PLAY", self.url(), {"Session": "none"})
            with self.assertRaisesRegex(NoReply, "405"):
                await talk.ask("RECORD", self.url(), {})
            other, _, _ = await self.talk("wrong")
            with self.assertRaises(Refused):
                await other.ask("DESCRIBE", self.url(), {})

        self.within(work, only={"cam-1"})

    def test_it_locks_itself_for_all_its_services(self):
        async def work(running):
            for _ in range(5):
                other, _, _ = await self.talk("wrong")
                with self.assertRaises(Refused):
                    await other.ask("DESCRIBE", self.url(), {})
            right, _, _ = await self.talk()
            with self.assertRaises(Locked):
                await right.ask("DESCRIBE", self.url(), {})
            host, port = self.at(40, 80)
            async with httpx.AsyncClient(trust_env=False) as http:
                answer = await http.get(f"http://{host}:{port}/", auth=httpx.DigestAuth(USER, PASSWORD))
            self.assertEqual(answer.status_code, 403)

        self.within(work, only={"cam-1"})

    def test_malformed_requests_end_the_connection_and_nothing_else(self):
        bad = (
            b"\r\n\r\n",
            b"OPTIONS\r\n\r\n",
            b"OPTIONS rtsp://x HTTP/1.1\r\n\r\n",
            b"OPTIONS rtsp://x RTSP/1.0\r\nContent-Length: -4\r\n\r\n",
            b"OPTIONS rtsp://x RTSP/1.0\r\nContent-Length: 99999999\r\n\r\n",
            b"\xff" * 70_000,
            b"$\x00\xff\xff",
        )

        async def work(running):
            for data in bad:
                with self.subTest(data[:40]):
                    reader, writer = await asyncio.open_connection(*self.at(40, 554))
                    writer.write(data)
                    writer.write_eof()
                    answer = await asyncio.wait_for(reader.read(), 60)
                    self.assertFalse(answer.startswith(b"RTSP/1.0 200"))
                    writer.close()
            talk, _, _ = await self.talk()
            self.assertIn("m=video", (await talk.ask("DESCRIBE", self.url(), {})).body)

        self.within(work, only={"cam-1"})

    def test_a_session_over_udp_ends_when_nothing_is_heard_of_it(self):
        async def work(running):
            server = running.devices["cam-1"].rtsp
            server._timeout_s = 0.4
            talk, _, _ = await self.talk()
            with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as receiver:
                receiver.bind(("127.0.0.1", 0))
                receiver.setblocking(False)
                port = receiver.getsockname()[1]
                wanted = {"Transport": f"RTP/AVP;unicast;client_port={port}-{port + 1}"}
                await talk.ask("SETUP", self.url(), wanted)
                await talk.ask("PLAY", self.url(), {})
                packet = await asyncio.wait_for(asyncio.get_running_loop().sock_recv(receiver, 2000), 60)
                self.assertEqual(packet[1] & 0x7F, 96)
                watch = asyncio.create_task(server.watch())
                for _ in range(1200):
                    await asyncio.sleep(0.05)
                    if not server.sessions:
                        break
                watch.cancel()
                self.assertEqual(server.sessions, {})

        self.within(work, only={"cam-1"})

    def test_a_recorder_shows_what_it_receives_and_why_not(self):
        async def work(running):
            channels = running.devices["rec-1"].channels
            for _ in range(900):
                await asyncio.sleep(0.1)
                if channels[1].shown == "receiving" and channels[2].shown == "refused":
                    break
            self.assertEqual((channels[1].shown, channels[1].why), ("receiving", ""))
            self.assertEqual((channels[2].shown, channels[2].why), ("refused", "user or password is wrong"))
            before = channels[1].octets
            await asyncio.sleep(3)
            self.assertGreater(channels[1].octets, before)
            host, port = self.at(20, 80)
            start = Endpoint("http", port, DEVICE_PATH)
            reading = await read_device(Http(), host, [start], User(USER, PASSWORD), Wanted(recordings=True))
            self.assertEqual([one.state for one in reading.told.recordings], ["Active", "Error"])
            self.assertEqual([one.address for one in reading.told.recordings], ["172.22.40.40", "172.22.40.41"])

        self.within(work, "wrong-password=Camera 2")

    def test_the_first_password_opens_a_device_out_of_its_box(self):
        async def work(running):
            device = running.devices["cam-1"]
            host = as_loopback(device.stand_in.interfaces[0].address)
            base = f"http://{host}:{as_open_port(80)}"
            async with httpx.AsyncClient(trust_env=False) as http:
                first = await http.get(base + "/")
                self.assertIn("It is not set up yet", first.text)
                short = await http.post(base + "/set-up", data={"password": "abc"})
                self.assertEqual(short.status_code, 422)
                taken = await http.post(base + "/set-up", data={"password": "Tramway-7-up"})
                self.assertEqual(taken.status_code, 200)
                login = httpx.DigestAuth(USER, "Tramway-7-up")
                self.assertEqual((await http.get(base + "/", auth=login)).status_code, 200)
                self.assertEqual((await http.get(base + "/")).status_code, 401)

        self.within(work, "out-of-box=Camera 1", only={"cam-1"})

    def test_time_is_served_with_the_devices_own_error(self):
        async def work(running):
            running.devices["rec-1"].clock.set_ahead(90.0)
            host, port = self.at(20, 123)
            got = await asyncio.to_thread(ntplib.NTPClient().request, host, 4, port, 60)
            self.assertAlmostEqual(got.offset, 90.0, delta=5)

        self.within(work, only={"rec-1"})

    def test_it_says_when_it_comes_and_when_it_goes(self):
        heard = []

        async def work(running):
            device = running.devices["cam-1"]
            listening = asyncio.create_task(
                search(["127.0.0.1"], lambda host, one: heard.append((host, one)), as_open_port(3702), 1.5)
            )
            await asyncio.sleep(0.3)
            device._announce("Hello")
            device._announce("Bye")
            await listening

        self.within(work, only={"cam-1"})
        told = [one for host, one in heard if host == self.at(40, 80)[0]]
        self.assertTrue(any(one.is_leaving for one in told))
        self.assertEqual({one.endpoint for one in told}, {told[0].endpoint})

    def test_a_slow_starter_answers_later(self):
        whole = site_of(small_job(1), "slow-start=Camera 1")
        camera = next(one for one in whole.stand_ins if one.id == "cam-1")
        self.assertAlmostEqual(camera.ready_after_s, 20.0)


class Gates(unittest.TestCase):
    def test_a_nonce_of_another_device_is_no_try(self):
        gate = Gate("a", {"u": ("p",)}, 1, 10)
        header = 'Digest username="u", realm="a", nonce="1-abc", uri="/", response="0"'
        self.assertEqual([gate.admits("GET", header) for _ in range(5)], ["asked"] * 5)

    def test_anything_but_digest_is_a_try(self):
        gate = Gate("a", {"u": ("p",)}, 2, 10)
        self.assertEqual([gate.admits("GET", "Basic dTpw") for _ in range(3)], ["wrong", "wrong", "locked"])


class Loops(unittest.TestCase):
    def test_each_codec_comes_to_its_planned_rate(self):
        for codec in ("h264", "h265"):
            with self.subTest(codec):
                loop = loop_of(SMALL._replace(codec=codec))
                self.assertAlmostEqual(loop.rate_mbps, 0.4, delta=0.01)
                self.assertEqual((len(loop.frames), sum(loop.keys)), (20, 2))

    def test_a_rate_that_no_encoder_reaches_stays_above_the_plan(self):
        loop = encoded(SMALL._replace(rate_mbps=0.001))
        self.assertFalse(fits(loop, SMALL._replace(rate_mbps=0.001)))

    def test_what_was_encoded_is_kept_and_damage_is_made_good(self):
        with tempfile.TemporaryDirectory() as folder:
            first = loop_of(SMALL, Path(folder))
            (kept,) = Path(folder).iterdir()
            self.assertEqual(loop_of(SMALL, Path(folder)), first)
            self.assertEqual(loop_of(SMALL._replace(rate_mbps=0.8), Path(folder)).rate_mbps, 2 * first.rate_mbps)
            kept.write_bytes(kept.read_bytes()[:100])
            self.assertEqual(loop_of(SMALL, Path(folder)), first)

    def test_payloads_fit_a_packet_and_hold_every_byte(self):
        loop = loop_of(SMALL._replace(rate_mbps=3.0))
        made = cut(loop)
        self.assertLessEqual(max(len(one) for frame in made.frames for one in frame), MOST_PAYLOAD)
        for frame, payloads in zip(loop.frames, made.frames, strict=True):
            whole = b""
            for payload in payloads:
                if payload[0] & 0x1F == 28:  # FU-A
                    whole += bytes((payload[0] & 0xE0 | payload[1] & 0x1F,)) if payload[1] & 0x80 else b""
                    whole += payload[2:]
                else:
                    whole += payload
            self.assertTrue(whole.endswith(b"".join(frame)))

    def test_a_jpeg_too_large_for_rtp_is_refused(self):
        with self.assertRaisesRegex(RefusedInput, "2688"):
            cut(encoded(SMALL._replace(codec="mjpeg", width_px=2688, height_px=1520, fps=2, rate_mbps=4)))

    def test_a_slow_link_has_to_be_waited_for(self):
        link = Link(10.0)
        self.assertAlmostEqual(link.wait_s(12_500_000), 10.0, delta=1)
        self.assertAlmostEqual(link.wait_s(12_500_000), 20.0, delta=2)

    def test_a_clock_gains_what_it_drifts(self):
        begun = time.monotonic()
        clock = StandInClock(10.0, 1e9)  # a thousand seconds a second
        time.sleep(0.1)
        ahead_s, passed_s = clock.ahead_s(), time.monotonic() - begun
        self.assertGreaterEqual(ahead_s, 10.0 + 100.0)
        self.assertLessEqual(ahead_s, 10.0 + 1000.0 * passed_s)


class Searches(unittest.TestCase):
    DEVICE = Announced("02:5b:1e:00:01:01", "Hall <east> & co", "Quillmark B4", "http://172.22.40.40:80/device")

    def test_an_answer_reads_back_as_it_was_told(self):
        message_id, text = search_text()
        search = search_of(text)
        self.assertEqual(search, Search(message_id, (), ()))
        ids = frozenset({message_id})
        for is_loose, note in ((False, ""), (True, "it answers a search without a list")):
            with self.subTest(is_loose=is_loose):
                (read,) = answers_of(answer_to(self.DEVICE._replace(is_loose=is_loose), search), ids)
                self.assertEqual((read.name, read.hardware, read.note), ("Hall <east> & co", "Quillmark B4", note))
                self.assertEqual((read.urls, read.endpoint), (("http://172.22.40.40:80/device",), self.DEVICE.endpoint))
        self.assertEqual(answers_of(answer_to(self.DEVICE, search), frozenset({"urn:uuid:another"})), [])

    def test_what_comes_and_goes_is_heard_without_a_search(self):
        (hello,) = answers_of(announcement(self.DEVICE, "Hello"), frozenset())
        (bye,) = answers_of(announcement(self.DEVICE, "Bye"), frozenset())
        self.assertEqual((hello.is_leaving, bye.is_leaving), (False, True))
        self.assertEqual(hello.endpoint, bye.endpoint)

    def test_a_lasting_name_that_was_made_from_a_mac_address_tells_it(self):
        message_id, text = search_text()
        answer = answer_to(self.DEVICE, search_of(text)).decode()
        own = "urn:uuid:6ba7b810-9dad-11d1-80b4-025b1e000101"
        (read,) = answers_of(answer.replace(self.DEVICE.endpoint, own).encode(), frozenset({message_id}))
        self.assertEqual(read.mac_address, "02:5b:1e:00:01:01")
        (read,) = answers_of(answer.encode(), frozenset({message_id}))
        self.assertEqual(read.mac_address, "")

    def test_only_what_is_wanted_answers(self):
        wanted = Search("m", ("Device",), (self.DEVICE.scopes[0],))
        self.assertTrue(matches(self.DEVICE, wanted))
        self.assertFalse(matches(self.DEVICE, wanted._replace(types=("Printer",))))
        self.assertFalse(matches(self.DEVICE, wanted._replace(scopes=("scope://elsewhere",))))

    def test_hostile_xml_is_nothing(self):
        bomb = b'<?xml version="1.0"?><!DOCTYPE a [<!ENTITY b "cccccccccc"><!ENTITY d "&b;&b;&b;&b;">]><a>&d;</a>'
        outside = b'<?xml version="1.0"?><!DOCTYPE a [<!ENTITY b SYSTEM "file:///etc/passwd">]><a>&b;</a>'
        for data in (
            bomb,
            outside,
            b"",
            b"\x00" * 100,
            b"<a",
            b"<a/>" * 30_000,
            b'<?xml version="1.0" encoding="x-y"?><a/>',
        ):
            with self.subTest(data[:30]):
                self.assertIsNone(search_of(data))
                self.assertEqual(answers_of(data, frozenset({"m"})), [])


class Motions(unittest.TestCase):
    def test_the_planned_rule_sees_who_comes_along_in_what_is_sent(self):
        right, blind = MotionRule(), MotionRule(smallest_m=5, largest_m=50)
        for scene in ("store", "yard"):
            with self.subTest(scene):
                sent = SMALL._replace(scene=scene)
                self.assertTrue(looked_through(sent, right).any())
                self.assertFalse(looked_through(sent, blind).any())

    def test_a_rule_that_is_off_sees_nothing(self):
        one = next(each for each in site_of(small_job(1)).stand_ins if each.id == "cam-1")
        self.assertFalse(Motion(one._replace(rule="off")).moves_at(0.0))
        seeing = Motion(one)
        until = time.monotonic() + 60
        while not seeing.moves_at(0.0) and time.monotonic() < until:
            time.sleep(0.05)
        self.assertTrue(seeing.moves_at(0.0))


class LeasesGiven(unittest.TestCase):
    def asked(self, kind, mac=1, wanted=b""):
        head = b"\x01\x01\x06\x00" + b"abcd" + b"\x00" * 20 + bytes((2, 0, 0, 0, 0, mac)) + b"\x00" * 10 + b"\x00" * 192
        options = bytes((53, 1, kind)) + (bytes((50, 4)) + wanted if wanted else b"") + b"\xff"
        return asking_of(head + b"\x63\x82\x53\x63" + options)

    def test_addresses_of_the_pool_reservations_and_its_end(self):
        reserved = {"02:00:00:00:00:09": 0xAC16287F}
        server = DhcpServer(Leases(0xAC162864, 0xAC162865, reserved, 3600), 0xAC162801, 24)

        def answered(asking):
            reply = server.reply_to(asking)
            return None if reply is None else (reply[242], int.from_bytes(reply[16:20], "big"))

        self.assertEqual(answered(self.asked(DISCOVER)), (OFFER, 0xAC162864))
        self.assertEqual(answered(self.asked(REQUEST, wanted=(0xAC162864).to_bytes(4, "big"))), (ACK, 0xAC162864))
        self.assertEqual(answered(self.asked(REQUEST, 2)), (ACK, 0xAC162865))
        self.assertIsNone(answered(self.asked(DISCOVER, 3)))
        self.assertEqual(answered(self.asked(REQUEST, 9)), (ACK, 0xAC16287F))
        self.assertEqual(answered(self.asked(REQUEST, 1, b"\x01\x02\x03\x04")), (NAK, 0))

    def test_what_is_no_question_is_passed_over(self):
        for data in (b"", b"\x01" * 300, b"\x02\x01\x06" + b"\x00" * 300):
            self.assertIsNone(asking_of(data))
