"""Cameras get channels: filling, moving, changing places, and two recorders for one camera."""

import unittest

from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.model import Registration, by_id
from eager_lens.core.planning.registering import (
    channels_held,
    fill_the_channels,
    free_channels,
    put_on_channel,
    register_on,
    unregister,
)
from tests.support import camera, job_with, recorder


def places(job):
    return {c.id: [(p.recorder, p.channel) for p in c.registered] for c in job.cameras}


class Filling(unittest.TestCase):
    def test_free_channels_are_filled_lowest_first(self):
        cameras = [camera(1), *(camera(n, registered=()) for n in (2, 3))]
        job = job_with(cameras, recorders=[recorder(channels=4)])
        self.assertEqual(places(fill_the_channels().apply(job))["cam-3"], [("rec-1", 3)])

    def test_the_recorder_of_the_same_subnet_comes_first(self):
        recorders = [recorder(1, subnet="lan-1"), recorder(2, subnet="lan-2")]
        job = job_with([camera(1, registered=(), subnet="lan-2")], recorders=recorders)
        self.assertEqual(places(fill_the_channels().apply(job))["cam-1"], [("rec-2", 1)])

    def test_when_that_is_full_the_next_one_helps_out(self):
        cameras = [camera(n, registered=()) for n in range(1, 6)]
        job = job_with(cameras, recorders=[recorder(1, channels=2), recorder(2, channels=2, subnet="")])
        filled = places(fill_the_channels().apply(job))
        self.assertEqual([filled[f"cam-{n}"] for n in (3, 4, 5)], [[("rec-2", 1)], [("rec-2", 2)], []])


class Moving(unittest.TestCase):
    def setUp(self):
        self.job = job_with(
            [camera(n) for n in (1, 2, 3)], recorders=[recorder(1, channels=4), recorder(2, channels=2)]
        )

    def test_register_elsewhere(self):
        after = register_on(self.job, ["cam-1", "cam-3"], "rec-2").apply(self.job)
        self.assertEqual(places(after), {"cam-1": [("rec-2", 1)], "cam-2": [("rec-1", 2)], "cam-3": [("rec-2", 2)]})

    def test_besides_keeps_both(self):
        after = register_on(self.job, ["cam-1"], "rec-2", add=True).apply(self.job)
        self.assertEqual(places(after)["cam-1"], [("rec-1", 1), ("rec-2", 1)])
        again = register_on(after, ["cam-1"], "rec-2", add=True).apply(after)
        self.assertEqual(places(again), places(after))

    def test_too_few_free_channels_are_told(self):
        with self.assertRaises(RefusedInput) as caught:
            register_on(self.job, ["cam-1", "cam-2", "cam-3"], "rec-2")
        self.assertIn("2 free channels for 3 cameras", str(caught.exception))

    def test_two_cameras_change_places(self):
        after = put_on_channel(self.job, "cam-1", "rec-1", 3).apply(self.job)
        self.assertEqual(places(after), {"cam-1": [("rec-1", 3)], "cam-2": [("rec-1", 2)], "cam-3": [("rec-1", 1)]})

    def test_onto_a_free_channel(self):
        after = put_on_channel(self.job, "cam-1", "rec-1", 4).apply(self.job)
        self.assertEqual(places(after)["cam-1"], [("rec-1", 4)])
        self.assertEqual(free_channels(after.recorders[0], channels_held(after.cameras)), [1])

    def test_the_other_recorder_is_left_alone(self):
        both = (Registration(recorder="rec-1", channel=1), Registration(recorder="rec-2", channel=1))
        job = job_with([camera(1, registered=both), camera(2)], recorders=[recorder(1), recorder(2)])
        after = put_on_channel(job, "cam-1", "rec-1", 2).apply(job)
        self.assertEqual(set(places(after)["cam-1"]), {("rec-1", 2), ("rec-2", 1)})
        self.assertEqual(places(after)["cam-2"], [("rec-1", 1)])

    def test_off_again(self):
        after = unregister(["cam-1", "cam-2"], "rec-1", self.job).apply(self.job)
        self.assertEqual([by_id(after.cameras)[i].registered for i in ("cam-1", "cam-2")], [(), ()])


if __name__ == "__main__":
    unittest.main()
