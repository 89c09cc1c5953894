"""What a single picture tells, of pictures that are known; and what the plan makes of it."""

import struct
import unittest
import zlib

import av
import numpy as np

from eager_lens.core.assess.assessment import assess
from eager_lens.core.assess.figures.rates import estimate_of
from eager_lens.core.clip.accept import accept_still, seen_in
from eager_lens.core.clip.container import measured_rate
from eager_lens.core.clip.drawn import Drawn, frames_of, write_clip
from eager_lens.core.clip.still import measured_still, properties
from eager_lens.core.errors import FileTrouble, RefusedInput
from eager_lens.core.present.working import FigureRef, working_of
from tests.support import FolderCase, camera, job_with


def write_still(path, picture, codec="png", pixels="gray"):
    with av.open(str(path), "w", format="image2") as out:
        stream = out.add_stream(codec, rate=1)
        stream.height, stream.width = picture.shape
        stream.pix_fmt = pixels
        out.mux(stream.encode(av.VideoFrame.from_ndarray(picture, format="gray").reformat(format=pixels)))
        out.mux(stream.encode())
    return path


class Properties(unittest.TestCase):
    def test_noise_on_slopes_and_flats(self):
        random = np.random.default_rng(2)
        slope = np.add.outer(np.arange(240) * 0.3, np.arange(320) * 0.2)
        for sigma in (1.0, 4.0):
            for view in (np.full((240, 320), 100.0), slope):
                noise = properties(view + random.normal(0, sigma, view.shape))[3]
                self.assertAlmostEqual(noise / sigma, 1, delta=0.2)

    def test_texture_is_detail_and_hardly_noise(self):
        stripes = np.tile(np.where(np.arange(320) // 4 % 2, 140.0, 100.0), (240, 1))
        detail, detail_log, flat_share, noise = properties(stripes)
        self.assertAlmostEqual(detail, 5, delta=0.3)
        self.assertLess(noise, 0.5)
        self.assertEqual(flat_share, 0)
        self.assertAlmostEqual(detail_log, np.log2(6), delta=0.1)


class Stills(FolderCase):
    def test_a_picture_is_read_whatever_its_kind(self):
        picture = next(frames_of(Drawn(width_px=320, height_px=200, noise_sigma=3)))
        png = measured_still(write_still(self.folder / "a.png", picture))
        jpg = measured_still(write_still(self.folder / "a.jpg", picture, "mjpeg", "yuvj420p"))
        for still in (png, jpg):
            self.assertEqual((still.width_px, still.height_px), (320, 200))
            self.assertAlmostEqual(still.luma_mean, float(picture.mean()), delta=2)
        # The view has grain of its own, pixel by pixel, which one picture cannot tell from noise.
        self.assertAlmostEqual(png.noise_sigma, float(np.hypot(3, 5)), delta=1)

    def test_the_assumed_rate_follows_what_it_shows(self):
        busy = measured_still(write_still(self.folder / "busy.png", next(frames_of(Drawn(640, 360, noise_sigma=1)))))
        flat = measured_still(write_still(self.folder / "flat.png", np.full((360, 640), 90, np.uint8)))
        job = job_with([camera(1)])
        rates = {}
        for still in (busy, flat):
            after = assess(accept_still(job.cameras[0], still).apply(job))
            got = after.camera("cam-1")
            rates[still.name] = got.rate_mbps
            self.assertEqual(got.rate_origin, "assumed")
            lines = {line.label: line.origin for line in working_of(FigureRef("rate", "cam-1"), after).lines}
            self.assertEqual(lines[f"detail, from {still.name}"], "measured")
        self.assertGreater(rates["busy.png"], 1.3 * rates["flat.png"])

    def test_the_range_of_mjpeg_holds_what_grainy_views_really_take(self):
        """Fine grain costs MJPEG up to three times what a picture's gradients say: without the wider range none of these fits."""
        for noise in (1, 4):
            drawn = Drawn(320, 180, 10, 1, noise_sigma=noise)
            still = measured_still(write_still(self.folder / "view.png", next(frames_of(drawn))))
            taken = measured_rate(write_clip(self.folder / "view.avi", drawn, "mjpeg", 8)).rate_mbps
            fields = {"codec": "mjpeg", "width_px": 320, "height_px": 180, "fps": 10, "scene": "counter"}
            got = estimate_of(camera(1, seen=seen_in(still), **fields)).rate
            with self.subTest(noise=noise):
                self.assertTrue(got.low_mbps < taken < got.high_mbps, (taken, got))
                self.assertGreater(taken, 1.3 * got.rate_mbps)

    def test_what_is_no_picture_is_refused(self):
        for name, data, words in (
            ("a.png", b"", "empty"),
            ("b.jpg", b"no picture at all", "no picture that can be read"),
        ):
            (self.folder / name).write_bytes(data)
            with self.assertRaises(RefusedInput) as caught:
                measured_still(self.folder / name)
            self.assertIn(words, str(caught.exception))
        head = b"IHDR" + struct.pack(">IIBBBBB", 90_000, 90_000, 8, 0, 0, 0, 0)
        body = zlib.compress(b"\0" * 90_001)
        parts = [head, b"IDAT" + body, b"IEND"]
        huge = b"".join(struct.pack(">I", len(p) - 4) + p + struct.pack(">I", zlib.crc32(p)) for p in parts)
        (self.folder / "huge.png").write_bytes(b"\x89PNG\r\n\x1a\n" + huge)
        with self.assertRaises(RefusedInput) as caught:
            measured_still(self.folder / "huge.png")
        self.assertIn("huge.png: ", str(caught.exception))
        tiny = write_still(self.folder / "tiny.png", np.zeros((16, 16), np.uint8))
        with self.assertRaises(RefusedInput) as caught:
            measured_still(tiny)
        self.assertIn("too small", str(caught.exception))
        with self.assertRaises(FileTrouble) as caught:
            measured_still(self.folder / "gone.png")
        self.assertIn("no such file", str(caught.exception))
