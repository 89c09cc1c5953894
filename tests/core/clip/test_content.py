"""What is in a clip's pictures: estimates of pictures that are known."""

import unittest

import numpy as np

from eager_lens.core.clip.container import measured_rate
from eager_lens.core.clip.content import MOST_PX, STRIPE_ROWS, Estimate, bands_of, content_of, estimated
from eager_lens.core.clip.drawn import Drawn, write_clip
from eager_lens.core.clip.reencoding import settings_of, tried
from eager_lens.core.errors import RefusedInput
from tests.support import FolderCase, takes_long

SMALL = Drawn(width_px=160, height_px=96, fps=10, duration_s=4)


def noisy_pairs(view, sigma, pairs=8, mover=None, seed=3):
    random = np.random.default_rng(seed)
    made = []
    for at in range(pairs):
        first, later = view.copy(), view.copy()
        if mover is not None:
            first[mover], later[mover] = 40, 80 + 5 * at
        made.append((first + random.normal(0, sigma, view.shape), later + random.normal(0, sigma, view.shape)))
    return made


class Estimated(unittest.TestCase):
    FLAT = np.full((240, 320), 120.0)

    def test_noise_of_a_still_flat_view(self):
        for sigma in (1.0, 3.0, 6.0):
            got = estimated(noisy_pairs(self.FLAT, sigma))
            self.assertAlmostEqual(got.noise_sigma / sigma, 1, delta=0.08)
            self.assertLess(got.moving_share, 0.06)
            self.assertLess(got.detail, 0.3 * sigma)

    def test_what_moves_is_a_share_of_the_picture(self):
        mover = slice(80, 160), slice(80, 160)
        got = estimated(noisy_pairs(self.FLAT, 1.0, mover=mover))
        self.assertAlmostEqual(got.moving_share, 80 * 80 / (240 * 320), delta=0.03)
        self.assertAlmostEqual(got.motion_mad, got.moving_share * 57, delta=1.5)

    def test_detail_of_a_known_slope(self):
        slope = np.tile(np.arange(320) * 0.6, (240, 1))
        got = estimated(noisy_pairs(slope, 0.0))
        self.assertAlmostEqual(got.detail, 0.3, delta=0.02)
        self.assertEqual(got.flat_share, 1)
        stripes = np.tile(np.where(np.arange(320) % 2, 130.0, 110.0), (240, 1))
        self.assertAlmostEqual(estimated(noisy_pairs(stripes, 0.0)).detail, 10, delta=0.2)
        self.assertAlmostEqual(estimated(noisy_pairs(stripes, 0.0)).detail_log, np.log2(11), delta=0.05)

    def test_no_pictures_are_refused(self):
        with self.assertRaises(ValueError):
            estimated([])
        with self.assertRaises(ValueError):
            estimated([(np.zeros((4, 4)), np.zeros((4, 4)))])


class Large(unittest.TestCase):
    def test_only_bands_of_large_pictures_are_taken_at_full_size_and_evenly(self):
        self.assertIsNone(bands_of((2160, 3840)))
        bands = bands_of((4320, 8192))
        self.assertLessEqual(len(bands) * STRIPE_ROWS * 8192, MOST_PX)
        self.assertEqual(bands[0].start, 0)
        self.assertGreater(bands[-1].stop, 4320 - 2 * STRIPE_ROWS)
        self.assertEqual(len({band.start for band in bands}), len(bands))

    @takes_long
    def test_what_is_told_of_bands_is_what_is_told_of_the_whole(self):
        random = np.random.default_rng(5)
        view = random.integers(60, 180, (256, 256)).astype(np.uint8)
        view = np.tile(np.kron(view, np.ones((8, 8), np.uint8)), (2, 4))
        whole, banded = Estimate(), Estimate()
        # One pair: of 33 million points each figure is known to far less than a hundredth.
        noise = (2 * random.standard_normal(view.shape, np.float32) for _ in range(2))
        first, later = ((view + one).clip(0, 255).astype(np.uint8) for one in noise)
        whole.add(first, later)
        banded.add_large(first, later)
        one, other = whole.content(), banded.content()
        for name in ("detail", "detail_log", "noise_sigma", "luma_mean"):
            self.assertAlmostEqual(getattr(other, name) / getattr(one, name), 1, delta=0.02)

    def test_pictures_of_another_size_are_refused(self):
        estimate = Estimate()
        estimate.add(np.zeros((16, 16)), np.zeros((16, 16)))
        for pair in ((np.zeros((16, 24)),) * 2, (np.zeros((16, 16)), np.zeros((8, 16)))):
            with self.assertRaises(ValueError):
                estimate.add(*pair)


class OfAClip(FolderCase):
    def content(self, drawn, quality=12):
        path = write_clip(self.folder / "a.mkv", drawn, quality=quality)
        return content_of(path, measured_rate(path))

    def test_noise_and_walkers_are_seen(self):
        drawn = Drawn(width_px=320, height_px=192, fps=15, duration_s=3, noise_sigma=4)
        calm, busy = self.content(drawn._replace(walkers=0)), self.content(drawn._replace(walkers=6))
        self.assertAlmostEqual(calm.noise_sigma, 4, delta=1)
        self.assertGreater(busy.moving_share, calm.moving_share + 0.03)

    def test_long_clips_are_looked_into_all_along(self):
        got = self.content(SMALL._replace(fps=5, duration_s=30))
        self.assertGreater(got.detail, 1)


class Tried(FolderCase):
    def setUp(self):
        super().setUp()
        self.path = write_clip(self.folder / "a.mp4", SMALL._replace(width_px=320, height_px=192), quality=24)
        self.clip = measured_rate(self.path)
        self.own = settings_of(self.clip, "medium")

    def rate(self, **settings):
        return tried(self.path, self.clip, "medium", self.own._replace(**settings)).rate_mbps

    def test_the_clip_s_own_settings_give_its_own_rate(self):
        self.assertAlmostEqual(self.rate(), self.clip.rate_mbps)

    def test_fewer_pixels_frames_and_key_frames_and_lower_quality_cost_less(self):
        for settings in ({"fps": 5}, {"width_px": 160}, {"quality": "low"}, {"key_frame_s": 4}):
            with self.subTest(settings):
                self.assertLess(self.rate(**settings), 0.97 * self.clip.rate_mbps)
        self.assertGreater(self.rate(quality="high"), self.clip.rate_mbps)

    def test_another_codec_is_compared_at_equal_fidelity(self):
        shares = []
        got = tried(self.path, self.clip, "medium", self.own._replace(codec="h265"), shares.append)
        self.assertTrue(0.3 < got.ratio < 2.5)
        self.assertEqual(shares, sorted(shares))
        self.assertAlmostEqual(shares[-1], 1)
        self.assertGreater(self.rate(codec="mjpeg"), 3 * self.clip.rate_mbps)

    def test_more_than_the_clip_holds_is_refused(self):
        for settings in ({"fps": 30}, {"width_px": 1920}):
            with self.assertRaises(RefusedInput) as caught:
                self.rate(**settings)
            self.assertIn("record a clip at the larger settings", str(caught.exception))
