"""What a clip was sent as, of files that were written for it, whole and broken."""

import io
import struct
import wave
from datetime import UTC, datetime

import av
import numpy as np

from eager_lens.core.assess.assessment import assess
from eager_lens.core.clip.accept import accept
from eager_lens.core.clip.container import measured_rate
from eager_lens.core.clip.drawn import Drawn, write_clip, write_repeated
from eager_lens.core.errors import FileTrouble, RefusedInput
from eager_lens.core.present.working import FigureRef, working_of
from tests.support import FolderCase, camera, job_with

SMALL = Drawn(width_px=160, height_px=96, fps=10, duration_s=4)


class Whole(FolderCase):
    def test_every_container_and_codec_tells_the_same(self):
        for name, codec, container in (
            ("a.mp4", "h264", None),
            ("a.mkv", "h265", None),
            ("a.ts", "h264", None),
            ("a.h264", "h264", "h264"),
            ("a.h265", "h265", "hevc"),
        ):
            with self.subTest(name):
                got = measured_rate(write_clip(self.folder / name, SMALL, codec, container=container))
                self.assertEqual((got.codec, got.width_px, got.height_px, got.fps), (codec, 160, 96, 10))
                self.assertEqual(got.key_frame_s, 2)
                self.assertEqual(got.frames.size_bytes.size, 40)
                self.assertAlmostEqual(got.duration_s, 4)
                self.assertEqual(np.flatnonzero(got.frames.is_key).tolist(), [0, 20])

    def test_the_rate_is_the_bytes_over_the_time(self):
        path = write_clip(self.folder / "a.h264", SMALL, container="h264")
        got = measured_rate(path)
        self.assertAlmostEqual(got.rate_mbps, 8e-6 * path.stat().st_size / 4, delta=0.02 * got.rate_mbps)
        self.assertLess(got.low_mbps, got.rate_mbps)
        self.assertAlmostEqual(got.rate_mbps, 8e-6 * 10 * (2 * got.key_bytes + 38 * got.other_bytes) / 40, delta=1e-9)

    def test_a_part_of_an_interval_at_the_end_is_not_counted(self):
        whole = measured_rate(write_clip(self.folder / "a.mp4", SMALL))
        longer = measured_rate(write_clip(self.folder / "b.mp4", SMALL._replace(duration_s=4.3)))
        self.assertAlmostEqual(longer.rate_mbps, whole.rate_mbps, delta=0.01 * whole.rate_mbps)
        self.assertEqual(longer.frames.size_bytes.size, 43)

    def test_mjpeg_has_no_interval(self):
        got = measured_rate(write_clip(self.folder / "a.avi", SMALL, "mjpeg", 6))
        self.assertIsNone(got.key_frame_s)
        self.assertIsNone(got.other_bytes)
        self.assertIn("every frame is a key frame", " ".join(got.notes))

    def test_a_long_clip_tells_its_own_variation(self):
        got = measured_rate(write_clip(self.folder / "a.mp4", SMALL._replace(fps=5, duration_s=40)))
        self.assertGreater(got.low_mbps, got.rate_mbps / 1.15)
        self.assertNotIn("too short", " ".join(got.notes))

    def test_a_repeated_clip_is_as_long_and_as_dear_as_its_part(self):
        path = write_clip(self.folder / "a.mkv", SMALL)
        once, often = measured_rate(path), measured_rate(write_repeated(path, self.folder / "b.mp4", 20))
        self.assertAlmostEqual(often.duration_s, 80)
        self.assertAlmostEqual(often.rate_mbps, once.rate_mbps, delta=0.01 * once.rate_mbps)

    def test_progress_is_told_and_may_stop(self):
        class Enough(Exception):
            pass

        shares = []

        def step(share):
            shares.append(share)
            raise Enough

        path = write_clip(self.folder / "a.mp4", SMALL._replace(fps=25, duration_s=25))
        with self.assertRaises(Enough):
            measured_rate(path, step)
        self.assertEqual(len(shares), 1)
        self.assertTrue(0 < shares[0] <= 1)


class Broken(FolderCase):
    def refuses(self, path, words):
        with self.assertRaises(RefusedInput) as caught:
            measured_rate(path)
        self.assertIn(words, str(caught.exception))
        self.assertIn(path.name, str(caught.exception))

    def put(self, name, data):
        path = self.folder / name
        path.write_bytes(data)
        return path

    def test_what_is_no_video(self):
        self.refuses(self.put("a.mp4", b""), "empty (0 bytes)")
        self.refuses(self.put("a.mp4", b"name,place\nGate,Yard\n" * 50), "not a video that can be read")
        with self.assertRaises(FileTrouble) as caught:
            measured_rate(self.folder / "nothing.mp4")
        self.assertIn("no such file", str(caught.exception))

    def test_sound_only(self):
        sound = io.BytesIO()
        with wave.open(sound, "wb") as out:
            out.setnchannels(1)
            out.setsampwidth(2)
            out.setframerate(8000)
            out.writeframes(struct.pack("<800h", *range(800)))
        self.refuses(self.put("a.wav", sound.getvalue()), "sound only")

    def test_cut_off(self):
        whole = write_clip(self.folder / "a.mp4", SMALL).read_bytes()
        self.refuses(self.put("b.mp4", whole[: len(whole) // 2]), "incomplete: its index is missing")
        moved = self.folder / "c.mp4"
        with (
            av.open(str(self.folder / "a.mp4")) as given,
            av.open(str(moved), "w", options={"movflags": "faststart"}) as out,
        ):
            stream = out.add_stream_from_template(given.streams.video[0])
            for packet in given.demux(video=0):
                if packet.size:
                    packet.stream = stream
                    out.mux(packet)
        data = moved.read_bytes()
        self.refuses(self.put("d.mp4", data[: data.index(b"mdat") + 3000]), "cut off after")

    def test_too_short(self):
        one = SMALL._replace(duration_s=0.1)
        self.refuses(write_clip(self.folder / "a.mp4", one), "only one frame")
        self.refuses(write_clip(self.folder / "b.mp4", SMALL._replace(duration_s=0.5)), "5 frames")

    def test_no_key_frame(self):
        path = write_clip(self.folder / "a.ts", SMALL, key_frame_s=60)
        with av.open(str(path)) as given:
            packets = [bytes(packet) for packet in given.demux(video=0) if packet.size][1:]
        self.refuses(self.put("b.h264", b"".join(packets)), "it")

    def test_frames_at_uneven_times(self):
        path = self.folder / "b.mkv"
        with av.open(str(write_clip(self.folder / "a.mkv", SMALL))) as given, av.open(str(path), "w") as out:
            stream = out.add_stream_from_template(given.streams.video[0])
            shift = 0
            for number, packet in enumerate(given.demux(video=0)):
                if packet.size:
                    shift += 250 if number % 3 == 0 else 0
                    packet.pts += shift
                    packet.dts = packet.pts
                    packet.stream = stream
                    out.mux(packet)
        self.refuses(path, "fixed frame rate")

    def test_gigantic_dimensions(self):
        # A sequence header that says 65,520 px a side, in a bare H.264 stream with a frame's bytes behind it.
        class Bits:
            def __init__(self):
                self.text = ""

            def put(self, value, wide):
                self.text += f"{value:0{wide}b}"

            def ue(self, value):
                code = f"{value + 1:b}"
                self.text += "0" * (len(code) - 1) + code

        bits = Bits()
        bits.put(66, 8)
        bits.put(0, 8)
        bits.put(51, 8)
        for value in (0, 0, 2, 1):
            bits.ue(value)
        bits.put(0, 1)
        for value in (4094, 4094):
            bits.ue(value)
        bits.text += "11001"
        bits.text += "0" * (-len(bits.text) % 8)
        header = int(bits.text, 2).to_bytes(len(bits.text) // 8, "big")
        frame = b"\0\0\0\1\x65" + bytes(range(1, 200))
        path = self.put("huge.h264", b"\0\0\0\1\x67" + header + b"\0\0\0\1\x68\xce\x38\x80" + frame * 20)
        self.refuses(path, "resolution cannot be read")

    def test_another_codec_is_named(self):
        path = self.folder / "a.avi"
        with av.open(str(path), "w") as out:
            stream = out.add_stream("mpeg4", rate=10)
            stream.width, stream.height, stream.pix_fmt = 64, 64, "yuv420p"
            for _ in range(12):
                out.mux(stream.encode(av.VideoFrame(64, 64, "yuv420p")))
            out.mux(stream.encode())
        self.refuses(path, "codec is mpeg4")

    def test_one_key_frame_only_is_measured_without_an_interval(self):
        got = measured_rate(write_clip(self.folder / "a.mp4", SMALL, key_frame_s=60))
        self.assertIsNone(got.key_frame_s)
        self.assertIn("only one key frame", " ".join(got.notes))


class Accepted(FolderCase):
    def test_the_plan_takes_rate_range_settings_and_name(self):
        clip = measured_rate(write_clip(self.folder / "gate.mp4", SMALL))
        job = accept(camera(1), clip).apply(job_with([camera(1)]))
        one, got = job.cameras[0], assess(job).camera("cam-1")
        self.assertEqual((one.width_px, one.fps, one.codec, one.key_frame_s), (160, 10, "h264", 2))
        self.assertAlmostEqual(got.day_mbps, clip.rate_mbps)
        self.assertLess(got.low_mbps / got.rate_mbps, clip.low_mbps / clip.rate_mbps, "the night is the model's")
        self.assertEqual(got.rate_origin, "measured")
        lines = working_of(FigureRef("rate", "cam-1"), assess(job)).lines
        self.assertEqual((lines[0].label, lines[0].origin), ("clip gate.mp4, 4 s", "measured"))

    def test_one_clip_is_one_half_of_the_day_and_the_model_has_the_other(self):
        clip = measured_rate(write_clip(self.folder / "gate.mp4", SMALL, begun="2026-05-03T22:40:00Z"))
        self.assertEqual(clip.begun, datetime(2026, 5, 3, 22, 40, tzinfo=UTC))
        for by_night, half in ((False, "day"), (True, "night")):
            yard = camera(1, scene="yard-dark", rate_control="VBR", cap_mbps=None)
            job = accept(yard, clip, by_night=by_night).apply(job_with([yard]))
            got = assess(job).camera("cam-1")
            self.assertEqual(job.cameras[0].measured_when, half)
            self.assertAlmostEqual(getattr(got, f"{half}_mbps"), clip.rate_mbps)
            other = got.night_mbps if half == "day" else got.day_mbps
            self.assertAlmostEqual(got.rate_mbps, (clip.rate_mbps + other) / 2)

    def test_a_file_that_knows_no_time_says_none(self):
        for at, begun in enumerate(("", "yesterday", "1904-01-01T00:00:00Z")):
            self.assertIsNone(measured_rate(write_clip(self.folder / f"{at}.mp4", SMALL, begun=begun)).begun)

    def test_day_and_night_are_joined_by_their_hours(self):
        day = measured_rate(write_clip(self.folder / "day.mp4", SMALL))
        night = measured_rate(write_clip(self.folder / "night.mp4", SMALL._replace(noise_sigma=9)))
        self.assertGreater(night.rate_mbps, day.rate_mbps)
        job = accept(camera(1), day, night).apply(job_with([camera(1)]))
        self.assertAlmostEqual(job.cameras[0].measured_mbps, (day.rate_mbps + night.rate_mbps) / 2)
        self.assertIn("by night night.mp4", job.cameras[0].measured_from)
