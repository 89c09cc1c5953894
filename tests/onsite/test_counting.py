"""Pictures counted out of RTP packets, beside what a decoder makes of the same pictures."""

import fractions
import unittest

import av

from eager_lens.onsite.check.counting import Counted
from eager_lens.onsite.check.parameter_sets import size_of
from eager_lens.onsite.stand_ins.loops import Loop
from eager_lens.onsite.stand_ins.rtp import cut, sender_report
from tests.support import one_in

SIZES = ((320, 176), (1920, 1080), (704, 576), (642, 362))


def units(codec, size, **options):
    """NAL units of some pictures, really encoded, by picture."""
    encoder = av.CodecContext.create({"h264": "libx264", "h265": "libx265"}[codec], "w")
    encoder.width, encoder.height = size
    encoder.pix_fmt = options.pop("pix_fmt", "yuv420p")
    encoder.time_base = fractions.Fraction(1, 10)
    encoder.options = {"preset": "ultrafast", "x265-params": "log-level=none", **options}
    frames = []
    for at in range(12):
        frame = av.VideoFrame(*size, encoder.pix_fmt)
        frame.pts = at
        frames += encoder.encode(frame)
    frames += encoder.encode(None)
    return [[part for part in bytes(one).replace(b"\0\0\0\1", b"\0\0\1").split(b"\0\0\1") if part] for one in frames]


def set_of(codec, pictures):
    kind = (lambda unit: unit[0] & 31) if codec == "h264" else (lambda unit: unit[0] >> 1 & 63)
    wanted = 7 if codec == "h264" else 33
    return next(unit for picture in pictures for unit in picture if kind(unit) == wanted)


class Sizes(unittest.TestCase):
    def test_sizes_of_real_encoders(self):
        for codec in ("h264", "h265"):
            for size in one_in(4, SIZES):
                for pix_fmt in ("yuv420p", "yuv422p", "yuv444p"):
                    with self.subTest(codec=codec, size=size, pix_fmt=pix_fmt):
                        made = set_of(codec, units(codec, size, pix_fmt=pix_fmt))
                        self.assertEqual(size_of(codec, made), size)

    def test_interlaced_pictures_count_their_lines(self):
        made = set_of("h264", units("h264", (1920, 1080), **{"x264-params": "interlaced=1"}))
        self.assertEqual(size_of("h264", made), (1920, 1080))

    def test_what_is_no_set_has_no_size(self):
        whole = set_of("h264", units("h264", (320, 176)))
        for at in range(1, len(whole)):
            found = size_of("h264", whole[:at])
            self.assertTrue(found is None or found == (320, 176), at)
        for unit in (b"", b"\x67", b"\x67" + b"\xff" * 40, b"\x67" + b"\0" * 4000, bytes(range(256))):
            for codec in ("h264", "h265"):
                self.assertTrue(max(size_of(codec, unit) or (0,)) <= 16_384)


class Rates(unittest.TestCase):
    def counted(self, codec, pictures, keys, clock_step=9000, arrival_s=0.1, off_s=0.0):
        loop = Loop(codec, 10.0, tuple(tuple(one) for one in pictures), tuple(keys), ())
        made = cut(loop)
        counted = Counted({"h264": "H264", "h265": "H265"}[codec], 90_000)
        for at, payloads in enumerate(made.frames):
            now_s = 1_800_000_000 + at * arrival_s
            stamp = 4_294_900_000 + at * clock_step  # it wraps on the way
            if at == 1:
                seconds = now_s + off_s
                ntp = (int(seconds) + 2_208_988_800, int(seconds % 1 * 2**32))
                counted.take_report(sender_report(1, ntp, stamp, 1, 1))
            for payload in payloads:
                head = bytes((0x80, 96, 0, 0)) + (stamp % 2**32).to_bytes(4, "big") + b"\0\0\0\1"
                counted.take(head + payload, now_s)
        return counted

    def test_rate_size_keys_and_clock(self):
        for codec in ("h264", "h265"):
            with self.subTest(codec):
                options = {"g": "4", "keyint_min": "4", "x265-params": "log-level=none:keyint=4:min-keyint=4:bframes=0"}
                pictures = units(codec, (320, 176), **options)
                counted = self.counted(codec, pictures, [at % 4 == 0 for at in range(12)], off_s=120.0)
                read = counted.read()
                self.assertEqual((read.outcome, read.width_px, read.height_px), ("opened", 320, 176))
                self.assertAlmostEqual(read.fps, 10, delta=0.01)
                self.assertAlmostEqual(read.key_frame_s, 0.4, delta=0.01)
                octets = sum(len(unit) + 4 for picture in pictures[:8] for unit in picture)
                self.assertAlmostEqual(read.mean_mbps, octets * 8 / 0.8 / 1e6, delta=1e-6)
                self.assertAlmostEqual(counted.clock_off_s(), 120.0, delta=0.01)

    def test_a_stream_clock_that_runs_wild_is_not_believed(self):
        pictures = units("h264", (320, 176)) * 4
        read = self.counted("h264", pictures, [True] * 48, clock_step=90).read()
        self.assertAlmostEqual(read.fps, 10, delta=0.01)
        self.assertIn("time stamps are wrong", read.words)

    def test_pictures_that_refer_to_later_ones_are_in_time(self):
        order = [0, 3, 1, 2, 6, 4, 5, 9, 7, 8, 11, 10]
        counted = Counted("H264", 90_000)
        counted.take(bytes((0x80, 96, 0, 0)) + bytes(8) + set_of("h264", units("h264", (320, 176))), 0.0)
        for at, shown in enumerate(order):
            head = bytes((0x80, 96, 0, 0)) + (shown * 9000 + 9000).to_bytes(4, "big") + b"\0\0\0\1"
            counted.take(head + b"\x41" * 100, at * 0.1)
        self.assertAlmostEqual(counted.read().fps, 10, delta=0.2)
