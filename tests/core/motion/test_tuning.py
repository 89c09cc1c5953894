"""A better rule: who walks in and in what weather, everything that moves judged by rule after rule, zones, margin, and proof."""

import unittest
from unittest import mock

import numpy as np

from eager_lens.core.motion.conditions import conditions
from eager_lens.core.motion.detector import Detector, zone_mask
from eager_lens.core.motion.places import presets
from eager_lens.core.motion.small import FPS, HIGH, WIDE
from eager_lens.core.motion.tuning import selecting
from eager_lens.core.motion.tuning.exclusions import Moving, left_out_share, parts_of, shapes_of
from eager_lens.core.motion.tuning.moved import CAUSES, COLUMNS, NOBODY, Moved, Sensitivities, moved_in
from eager_lens.core.motion.tuning.other_days import Gain, rule_result_in
from eager_lens.core.motion.tuning.proposal import Proposal, TuningPoint, front_of
from eager_lens.core.motion.tuning.scores import Evidence, Score, group_of
from eager_lens.core.motion.tuning.search import tuned
from eager_lens.core.motion.tuning.selecting import Grid, grid_of, selected_of, values_of
from eager_lens.core.motion.tuning.takes import ADULTS, CHILDREN, OTHERS, Plan, takes_of
from eager_lens.core.progress import finished
from eager_lens.core.values.motion_rule import CrossingLine, MotionRule, Zone
from eager_lens.core.values.weather import Weather
from eager_lens.core.workers import Workers
from tests.support import takes_long

SMALL = Plan(days=2, stretches=2, stretch_s=30.0, visits=9)

YARD = presets()["yard"]

CALM = presets()["yard"]._replace(weather=Weather(wind_m_per_s=0, cloud=0), passages=YARD.passages[:1])


def here(many=1):
    """No processes of their own: starting them takes longer than a small search."""
    return mock.patch("eager_lens.core.workers.MOST", many)


class Days(unittest.TestCase):
    def test_winds_are_spread_about_the_scenes_own(self):
        winds = [one.weather.wind_m_per_s for one in conditions(YARD, 3, 40)]
        self.assertAlmostEqual(np.mean(winds), YARD.weather.wind_m_per_s, delta=0.3)
        self.assertLess(min(winds), 0.4 * YARD.weather.wind_m_per_s)
        self.assertGreater(max(winds), 1.8 * YARD.weather.wind_m_per_s)

    def test_some_days_of_a_dry_scene_are_wet_and_none_indoors(self):
        wet = [one.weather.rain_mm_per_h > 0 for one in conditions(YARD, 3, 40)]
        self.assertEqual(sum(wet), 10)
        self.assertFalse(any(one.weather.rain_mm_per_h for one in conditions(presets()["store"], 3, 40)))

    def test_days_of_one_seed_are_not_those_of_another(self):
        self.assertFalse({one.seed for one in conditions(YARD, 1, 6)} & {one.seed for one in conditions(YARD, 1001, 6)})


class WalkingIn(unittest.TestCase):
    def setUp(self):
        self.takes = takes_of(YARD, MotionRule(), 1, SMALL)
        self.visits = [visit for take in self.takes for visit in take.visits]

    def test_as_many_children_as_adults_of_all_heights(self):
        takes = takes_of(YARD, MotionRule(), 1, SMALL._replace(visits=180))
        visits = [visit for take in takes for visit in take.visits]
        groups = np.bincount([group_of(one) for one in visits])
        self.assertEqual(groups[ADULTS], groups[CHILDREN])
        self.assertEqual(groups[OTHERS], len(visits) // 9)
        tall = [one.looks.tall_m for one in visits if one.kind == "person"]
        self.assertLess(min(tall), 0.95)
        self.assertGreater(max(tall), 1.85)
        self.assertGreater(np.ptp([one.looks.upper for one in visits]), 150)

    def test_one_is_in_sight_at_a_time(self):
        for take in self.takes:
            scene = take.source()
            for at_s in np.arange(*take.stretch, 0.5):
                if take.visits:
                    self.assertLessEqual(len(scene.seen(float(at_s))), 1)

    def test_a_rule_for_vehicles_alone_has_only_those_come(self):
        takes = takes_of(presets()["gate"], MotionRule(kinds=("vehicle",)), 1, SMALL)
        self.assertEqual({visit.kind for take in takes for visit in take.visits}, {"vehicle"})

    def test_what_comes_seldom_comes_oftener_and_counts_for_less(self):
        take = next(one for one in self.takes if one.tells_false)
        stands_for = dict(take.stands_for)
        usual = next(one for one in conditions(YARD, 1, 2) if one.seed == take.place.condition.seed).weather
        drawn = take.place.condition.weather
        self.assertAlmostEqual(drawn.insects_per_h * stands_for["insect"], usual.insects_per_h)
        self.assertLessEqual(drawn.headlights_per_h, 8 * usual.headlights_per_h)
        foxes = [one.per_h_by_night for one in take.place.view.passages if not one.counts]
        self.assertEqual([one * stands_for["small animal"] for one in foxes], [2.0])


class EveryRule(unittest.TestCase):
    """What is judged from columns is what a detector of its own does."""

    @classmethod
    def setUpClass(cls):
        view = YARD._replace(weather=YARD.weather.model_copy(update={"wind_m_per_s": 15.0}))
        cls.takes = takes_of(view, MotionRule(), 5, SMALL._replace(stretches=5))
        cls.moved = [moved_in(take, at, MotionRule(), (50.0,)) for at, take in enumerate(cls.takes)]
        cls.evidence = Evidence(cls.takes, cls.moved, (50.0,))

    def did(self, rule):
        did = [rule_result_in(take, (rule,))[0] for take in self.takes]
        missed = [0, 0, 0]
        for take, one in zip(self.takes, did, strict=True):
            for number, visit in enumerate(take.visits):
                missed[group_of(visit)] += number not in one.caught
        return Score(sum(one.alarms for one in did) * 3600 / self.evidence.watched_s, tuple(missed))

    def assert_same(self, rule):
        found, did = self.evidence.of_rule(rule), self.did(rule)
        self.assertEqual(found.missed, did.missed)
        self.assertAlmostEqual(found.false_per_h, did.false_per_h)
        return found

    def test_the_default(self):
        self.assertGreater(self.assert_same(MotionRule()).false_per_h, 0)

    @takes_long
    def test_sizes_times_and_kinds(self):
        self.assert_same(MotionRule(smallest_m=1.0, largest_m=3.0, shortest_s=1.2))
        self.assert_same(MotionRule(kinds=("person",)))

    def test_a_line(self):
        found = self.assert_same(MotionRule(line=CrossingLine(begins=(0.5, 0.05), ends=(0.5, 0.95))))
        self.assertLess(found.false_per_h, self.evidence.of_rule(MotionRule()).false_per_h)

    def test_the_middle_of_several_sensitivities_is_a_detector_of_its_own(self):
        take = self.takes[0]
        source = take.source()
        several, one = (
            Sensitivities(MotionRule(), (30.0, 50.0, 70.0), source.lens),
            Detector(MotionRule(), source.lens, FPS),
        )
        for at in range(150):
            picture = source.picture(take.stretch[0] + at / FPS)
            found = [area for area in one.step(picture) if area.pictures >= 2]
            self.assertEqual(several.step(picture)[1], found)

    def test_of_one_at_a_time_all_that_was_seen_is_that_ones(self):
        self.assertEqual(sum(self.evidence.come), sum(len(take.visits) for take in self.takes))


def table(boxes, cause="foliage", visit=NOBODY):
    rows = [(0, float(at), box, 1.0, 9, NOBODY, visit, CAUSES.index(cause)) for at, box in enumerate(boxes)]
    return np.array(rows, dtype=COLUMNS)


class Zones(unittest.TestCase):
    def evidence(self):
        chance = np.random.default_rng(1)
        x, y = chance.integers(100, 130, 300), chance.integers(10, 40, 300)
        leaves = np.column_stack((x, y, x + 8, y + 8))
        lights = [(int(at), 30, int(at) + 40, 60) for at in chance.integers(0, 120, 200)]
        take = takes_of(YARD, MotionRule(), 1, SMALL)[0]
        moved = Moved((np.concatenate([table(leaves.tolist()), table(lights, "headlight")]),))
        return Evidence([take], [moved], (50.0,)), leaves

    def test_the_whole_of_what_moves_is_covered_and_not_what_lies_beside(self):
        evidence, leaves = self.evidence()
        every = evidence.tables[0]
        parts = parts_of(evidence, every, np.ones(len(every), dtype=bool))
        tree = next(part for part in parts if part.triggers == 300)
        shapes = list(shapes_of(tree))
        self.assertEqual(len(shapes), 4)
        for zone in shapes:
            looked = zone_mask(MotionRule(zones=(zone,)))
            covered = np.mean([not looked[top:bottom, left:right].any() for left, top, right, bottom in leaves])
            self.assertGreater(covered, 0.9)
            self.assertTrue(looked[:, :80].all())
            self.assertLess(left_out_share((zone,)), 0.2)

    def test_at_the_picture_s_edge_a_zone_ends_there(self):
        points = np.zeros((HIGH, WIDE), dtype=bool)
        points[:20, :30] = True
        for zone in shapes_of(Moving(points, 10)):
            self.assertTrue(all(0 <= x <= 1 and 0 <= y <= 1 for x, y in zone.corners))

    def test_no_zone_takes_half_of_the_picture(self):
        self.assertEqual(list(shapes_of(Moving(np.ones((HIGH, WIDE), dtype=bool), 10))), [])

    def test_few_alarms_are_no_place(self):
        evidence, _ = self.evidence()
        few = evidence.tables[0][:7]
        self.assertEqual(parts_of(evidence, few, np.ones(7, dtype=bool)), [])


class Margin(unittest.TestCase):
    def grid(self, false_per_h, missed=None):
        shape = (5, 5, 1, 1)
        values = ((10.0, 30.0, 50.0, 70.0, 90.0), (0.2, 0.4, 0.6, 0.8, 1.0), (8.0,), (0.4,))
        false = np.asarray(false_per_h, dtype=float).reshape(shape)
        return Grid((), values, false, np.zeros((*shape, 3), dtype=int) if missed is None else missed)

    def selected(self, grid, now_per_h=50.0, missed=(0, 0, 0)):
        return selected_of(grid, Score(now_per_h, missed), (100, 100, 0))

    def test_a_lone_good_setting_loses_against_a_good_region(self):
        false = np.full((5, 5), 30.0)
        false[1, 1] = 0.0
        false[2:, 2:] = 4.0
        self.assertEqual(self.selected(self.grid(false)).at[:2], (3, 3))

    def test_none_at_the_edge_beyond_which_nothing_was_tried(self):
        false = 10 * np.add.outer(np.arange(5.0), np.arange(5.0)[::-1])
        at = self.selected(self.grid(false), now_per_h=100.0).at
        self.assertEqual(at[:2], (1, 3), "neither the least sensitivity nor the largest smallest size")

    def test_who_is_caught_weighs_more_than_a_few_false_alarms(self):
        missed = np.zeros((5, 5, 1, 1, 3), dtype=int)
        missed[2:, ..., ADULTS] = 1  # one of 200 costs 0.75 an hour
        false = np.tile(np.array([3.0, 3.0, 2.6, 2.6, 2.6])[:, None], (1, 5))
        self.assertEqual(self.selected(self.grid(false, missed)).at[0], 1)

    def test_who_misses_more_children_is_not_proposed_however_quiet(self):
        missed = np.zeros((5, 5, 1, 1, 3), dtype=int)
        missed[:3, ..., CHILDREN] = 3
        false = np.tile(np.array([0.0, 0.0, 0.0, 20.0, 25.0])[:, None], (1, 5))
        found = self.selected(self.grid(false, missed))
        self.assertTrue(found is None or found.at[0] > 2)

    def test_none_that_tells_more_falsely_than_the_rule_as_it_is(self):
        self.assertIsNone(self.selected(self.grid(np.full((5, 5), 9.0)), now_per_h=8.0))

    def test_the_rule_as_it_is_is_on_its_own_grid(self):
        rule = MotionRule(sensitivity=44, smallest_m=0.33, largest_m=5, shortest_s=0.9)
        values = values_of(rule)
        evidence = Evidence([], [], values[0])
        grid = grid_of(evidence, rule, (), tuple(one[:3] if 44 not in one else one for one in values))
        self.assertEqual(Grid((), values, *grid[2:]).rule(rule, Grid((), values, *grid[2:]).place_of(rule)), rule)


class Curve(unittest.TestCase):
    def test_it_has_the_settings_that_no_other_beats_and_only_those(self):
        chance = np.random.default_rng(3)
        drawn = [TuningPoint(MotionRule(), bool(n % 2), *chance.integers(0, 60, 2)) for n in range(80)]
        for left_out in (False, True):
            points = [one for one in drawn if one.left_out == left_out]
            figures = {(one.false_per_h, one.missed_share) for one in points}
            unbeaten = {
                (a, b) for a, b in figures if not any(x <= a and y <= b and (x, y) != (a, b) for x, y in figures)
            }
            front = [(one.false_per_h, one.missed_share) for one in front_of(drawn, left_out)]
            self.assertEqual(front, sorted(unbeaten))
            self.assertGreaterEqual(len(front), 2)


class Worth(unittest.TestCase):
    def proposal(self, before, after):
        point = TuningPoint(MotionRule(), False, 1.0, 0.0)
        gains = [Gain(per_h, 3600.0, (50, 50, 10), missed) for per_h, missed in (before, after)]
        return Proposal(MotionRule(sensitivity=30), point, (point,), (), *gains)

    def test_fewer_false_alarms_and_nobody_more_missed(self):
        self.assertTrue(self.proposal((40, (1, 2, 0)), (4, (1, 2, 0))).is_better)

    def test_not_at_the_children_s_cost(self):
        self.assertFalse(self.proposal((40, (1, 2, 0)), (4, (0, 5, 0))).is_better)
        self.assertTrue(self.proposal((40, (1, 2, 0)), (4, (0, 4, 0))).is_better, "two of fifty may be chance")

    def test_where_hardly_anything_is_told_nothing_is_worth_it(self):
        self.assertFalse(self.proposal((0.2, (0, 0, 0)), (0, (0, 0, 0))).is_better)

    def test_fewer_misses_where_too_many_were_missed(self):
        self.assertTrue(self.proposal((5, (20, 30, 0)), (5, (2, 3, 0))).is_better)
        self.assertFalse(self.proposal((5, (20, 30, 0)), (9, (2, 3, 0))).is_better)


class Search(unittest.TestCase):
    def search(self, view, rule=None, found=lambda proposal: None, plan=None):
        plan = plan or Plan(days=2, stretches=4, stretch_s=40.0, visits=9)
        with (
            here(),
            mock.patch("eager_lens.core.motion.tuning.search.TO_SELECT", plan),
            mock.patch("eager_lens.core.motion.tuning.search.TO_PROVE", plan._replace(stretches=3)),
            mock.patch.object(selecting, "SENSITIVITIES", (30.0, 50.0, 62.0)),
        ):
            return finished(tuned(view, rule or MotionRule(), 1, found))

    def test_the_windy_yard_is_tuned_on_days_it_has_not_seen(self):
        best_so_far = []
        proposal = self.search(YARD, found=best_so_far.append)
        self.assertTrue(proposal.is_better)
        self.assertLess(proposal.after.false_per_h, 0.5 * proposal.before.false_per_h)
        self.assertTrue(proposal.zones)
        left, top, right, bottom = YARD.foliage[0]
        looked = zone_mask(MotionRule(zones=proposal.zones))
        across, down = (right - left) / 4, (bottom - top) / 4  # a crown fills the middle of its box
        rows = slice(round((top + down) * HIGH), round((bottom - down) * HIGH))
        crown = looked[rows, round((left + across) * WIDE) : round((right - across) * WIDE)]
        self.assertLess(crown.mean(), 0.1, "the zone covers the tree that moves")
        (early,) = best_so_far
        self.assertEqual(early.rule, proposal.rule)
        self.assertIsNone(early.after)
        self.assertIn(proposal.rule, [one.rule for one in proposal.points])

    @takes_long
    def test_where_nothing_is_wrong_nothing_is_proposed(self):
        proposal = self.search(CALM, plan=SMALL)
        self.assertFalse(proposal.is_better)

    @takes_long
    def test_zones_that_somebody_drew_stay(self):
        drawn = Zone(corners=((0.7, 0.1), (0.97, 0.1), (0.97, 0.6), (0.7, 0.6)), leave_out=True)
        proposal = self.search(YARD, MotionRule(zones=(drawn,)), plan=SMALL)
        self.assertIn(drawn, proposal.rule.zones)


class Together(unittest.TestCase):
    def test_in_processes_of_their_own_the_answers_come_in_order(self):
        with here(2), Workers() as workers:
            self.assertEqual(finished(workers.each(divmod, [(7, 2), (9, 4), (20, 6)])), [(3, 1), (2, 1), (3, 2)])
            with self.assertRaises(ZeroDivisionError):
                finished(workers.each(divmod, [(1, 1), (1, 0)]))

    def test_on_one_core_it_is_done_here(self):
        with here(), Workers() as workers:
            shares = list(workers.each(divmod, [(7, 2), (9, 4)]))
        self.assertEqual(shares, [0.0, 0.5])


if __name__ == "__main__":
    unittest.main()
