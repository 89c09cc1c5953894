"""One choice for each thing under limits: against trying every combination."""

import itertools
import random
import unittest
from unittest import mock

from eager_lens.core.options.best.programme import Limit, Option, best_choice, broken


def by_trying(things, limits):
    """The best worth by trying all combinations."""
    best = None
    for picked in itertools.product(*things):
        if all(sum(w * picked[at].cost for at, w in one.weights.items()) <= one.most + 1e-9 for one in limits):
            worth = sum(option.worth for option in picked)
            best = worth if best is None else max(best, worth)
    return best


class Programme(unittest.TestCase):
    def test_it_finds_what_trying_everything_finds(self):
        chance, none = random.Random(5), 0
        for _ in range(30):
            things = [[Option(chance.uniform(1, 9), chance.uniform(0, 5)) for _ in range(4)] for _ in range(5)]
            limits = [
                Limit("space", {at: chance.uniform(5, 20) for at in range(5)}, chance.uniform(150, 500), "GB"),
                Limit("link", {0: 1.0, 2: 2.0}, chance.uniform(6, 25), "Mb/s"),
            ]
            wanted, got = by_trying(things, limits), best_choice(things, limits, gap=0.0)
            if wanted is None:
                none += 1
                self.assertIsNone(got)
                # The cheapest options are cheapest for every limit: none fail together unless one fails alone.
                self.assertTrue(broken(things, limits))
            else:
                self.assertAlmostEqual(got.worth, wanted)
                for one in limits:
                    used = sum(w * things[at][got.options[at]].cost for at, w in one.weights.items())
                    self.assertLessEqual(used, one.most * (1 + 1e-6))
        self.assertTrue(0 < none < 30, none)

    def test_without_the_whole_search_it_keeps_every_limit_and_tells_how_near_it_is(self):
        """As when the time limit ends before anything was found: parts of options are taken as the cheaper ones."""
        chance = random.Random(6)
        for _ in range(30):
            things = [[Option(chance.uniform(1, 9), chance.uniform(0, 5)) for _ in range(4)] for _ in range(5)]
            limits = [Limit("space", {at: chance.uniform(5, 20) for at in range(5)}, chance.uniform(250, 500), "GB")]
            with mock.patch("eager_lens.core.options.best.programme._Programme.whole", return_value=None):
                got = best_choice(things, limits, gap=0.0)
            if got is None:
                self.assertTrue(broken(things, limits))
                continue
            used = sum(w * things[at][got.options[at]].cost for at, w in limits[0].weights.items())
            self.assertLessEqual(used, limits[0].most * (1 + 1e-6))
            self.assertLessEqual(by_trying(things, limits), got.worth * (1 + got.gap) + 1e-9)

    def test_many_things_take_no_search(self):
        chance = random.Random(7)
        things = [sorted(Option(chance.uniform(1, 9), chance.uniform(0, 5)) for _ in range(20)) for _ in range(400)]
        limit = Limit("space", {at: chance.uniform(5, 20) for at in range(400)}, 9_000, "GB")
        with mock.patch(
            "eager_lens.core.options.best.programme._Programme.whole", side_effect=AssertionError("searched")
        ):
            self.assertLess(best_choice(things, [limit]).gap, 0.003)

    def test_what_cannot_be_kept_is_told_by_how_much_worst_first(self):
        things = [[Option(3, 1), Option(2, 0)], [Option(5, 1), Option(4, 0)]]
        limits = [
            Limit("near", {0: 1, 1: 1}, 5, "Mb/s"),
            Limit("far", {0: 10, 1: 10}, 20, "GB"),
            Limit("kept", {0: 1}, 2, "Mb/s"),
        ]
        found = broken(things, limits)
        self.assertEqual([(one.limit.name, one.least) for one in found], [("far", 60), ("near", 6)])
        self.assertIsNone(best_choice(things, limits))

    def test_nothing_to_choose_is_no_trouble(self):
        self.assertEqual(best_choice([], []).options, ())
        self.assertEqual(best_choice([[Option(1, 1), Option(2, 3)]], []).options, (1,))
