"""Thresholds of findings, each just inside and just outside: moved by a tenth, one of the two would turn."""

import unittest

from eager_lens.core.assess.assessment import assess
from eager_lens.core.assess.figures.cap_cost import coarser
from eager_lens.core.assess.figures.devices import life_of
from eager_lens.core.assess.figures.power import supply_run, supply_volts
from eager_lens.core.assess.finding import Severity
from eager_lens.core.assess.limits import keeps, load_severity, power_severity
from eager_lens.core.assess.rules.links import key_frame_bytes, late_key_frame
from eager_lens.core.job.capping import capped
from eager_lens.core.job.make_profiles import MakeProfile
from eager_lens.core.job.model import Link, PowerUnit
from eager_lens.core.reference.streams import stream_assumptions
from tests.core.assess.test_rules import moving
from tests.core.assess.test_wiring_rules import site
from tests.support import camera, codes, finding_of, job_with, recorder, switch, week_of

UNCAPPED = {"rate_control": "VBR", "cap_mbps": None}

WARNING, FAULT = Severity.WARNING, Severity.FAULT


def fed(count, budget_w, **fields):
    """A switch that feeds cameras of 10 W each."""
    cameras = [camera(n, power_w=10, **fields) for n in range(1, count + 1)]
    links = tuple(Link(id=f"l{n}", a=f"cam-{n}", b="net-1", b_port=n) for n in range(1, count + 1))
    links += (Link(id="up", a="rec-1", b="net-1", b_port=count + 1),)
    one = switch(1, ports=count + 1, poe_ports=count, budget_w=budget_w)
    return job_with(cameras, network=(one,), links=links)


def carried(minutes):
    """A UPS that carries its 100 W for so long."""
    hours = minutes / 60 / 0.8
    battery_wh = 100 / 0.85 * 20 * (hours / 20) ** (1 / 1.15)  # rated over 20 h; Peukert's law
    unit = PowerUnit(id="pow-1", name="U", kind="ups", feeds=("rec-1",), budget_w=500, battery_wh=battery_wh)
    return job_with([camera(1)], recorders=[recorder(own_w=93)], power_units=(unit,))


def drifting(ppm):
    """A recorder whose clock gains or loses so much, and nothing that sets it."""
    return job_with(
        [camera(1)], recorders=[recorder(make="Q")], make_profiles=(MakeProfile(make="Q", drift_ppm=ppm),), subnets=()
    )


class Loads(unittest.TestCase):
    def test_near_is_from_85_of_100_on_and_over_from_100(self):
        for load, severity in ((85, None), (85.1, WARNING), (100, WARNING), (100.1, FAULT)):
            with self.subTest(load):
                self.assertEqual(load_severity(load, 100), severity)

    def test_a_fifth_of_a_power_budget_is_left_spare(self):
        for draw_w, severity in ((80, None), (80.1, WARNING), (100, WARNING), (100.1, FAULT)):
            with self.subTest(draw_w):
                self.assertEqual(power_severity(draw_w, 100), severity)

    def test_days_that_are_kept_exactly_are_kept(self):
        self.assertTrue(keeps(31, 31) and keeps(None, 31) and keeps(31 * (1 - 1e-12), 31))
        self.assertFalse(keeps(30.9, 31))


class Pinned(unittest.TestCase):
    """A job on either side of each threshold: the finding is there on one of them only."""

    CASES = (
        ("clock-drifts", drifting(23.1), drifting(23.2)),
        ("long-cable", job_with([camera(1, cable_m=90)]), job_with([camera(1, cable_m=90.1)])),
        ("incoming-near", job_with([camera(1, measured_mbps=108)]), job_with([camera(1, measured_mbps=137)])),
        ("incoming-over", job_with([camera(1, measured_mbps=160)]), job_with([camera(1, measured_mbps=160.1)])),
        ("power-near", fed(4, 50), fed(4, 49.9)),
        ("power-over", fed(4, 40), fed(4, 39.9)),
        ("ups-short", carried(10.1), carried(9.9)),
    )

    def test_each_is_told_on_one_side_only(self):
        for code, inside, outside in self.CASES:
            with self.subTest(code):
                self.assertNotIn(code, codes(inside))
                self.assertIn(code, codes(outside))

    def test_a_channel_of_copper_is_100_m(self):
        for length_m, severity in ((100, WARNING), (100.1, FAULT)):
            self.assertEqual(finding_of(job_with([camera(1, cable_m=length_m)]), "long-cable").severity, severity)

    def test_motion_that_is_recorded_four_fifths_of_the_time_is_continuous_by_another_name(self):
        # share = 1 - exp(-rho), rho = events a second x (5 + 20 + 15 + 1) s
        for per_h, expected in ((140, False), (143, True)):
            with self.subTest(per_h):
                self.assertEqual("nearly-always" in codes(moving({"events_per_h": per_h})), expected)

    def test_a_cap_that_costs_as_much_as_the_next_lower_quality_is_told(self):
        def job_of(cap_mbps):
            return job_with([camera(1, rate_control="capped VBR", cap_mbps=cap_mbps)])

        def steps(mbps):
            return coarser(assess(job_of(mbps)).camera("cam-1").at_cap)

        low, high = 0.05, 8.0
        for _ in range(20):
            middle = (low + high) / 2
            low, high = (middle, high) if steps(middle) >= 3 else (low, middle)
        self.assertEqual(
            ("low-cap" in codes(job_of(low * 0.98)), "low-cap" in codes(job_of(high * 1.02))), (True, False)
        )

    def test_usual_caps_are_not_told(self):
        for scene in stream_assumptions().scenes:
            for width_px, height_px in ((1920, 1080), (2688, 1520), (3840, 2160)):
                with self.subTest(scene=scene, width_px=width_px):
                    one = capped(camera(1, scene=scene, width_px=width_px, height_px=height_px, codec="h265"))
                    self.assertNotIn("low-cap", codes(job_with([one])))

    def test_a_card_lasts_two_years_at_least(self):
        # 1 Mb/s all day is 10.8 GB: 7.884 TB in two years.
        for written_tb, expected in ((8.0, False), (7.8, True)):
            job = job_with([camera(1, measured_mbps=1, card_gb=64, card_written_tb=written_tb)])
            self.assertEqual("card-worn" in codes(job), expected)

    def both_sides(self, code, job_of, figure_of, limit, low, high):
        """Halve the way between two settings until the figure is just on either side of the limit: the finding follows it.
        The limit is written out, so that moving the program's own by a tenth fails."""
        for _ in range(14):
            middle = (low + high) / 2
            if figure_of(assess(job_of(middle)).facts) > limit:
                high = middle
            else:
                low = middle
        below, above = assess(job_of(low)), assess(job_of(high))
        self.assertAlmostEqual(figure_of(below.facts), limit, delta=0.03 * limit)
        self.assertAlmostEqual(figure_of(above.facts), limit, delta=0.03 * limit)
        found = [code in [finding.code for finding in one.findings] for one in (below, above)]
        self.assertEqual(found, [False, True])

    def test_a_key_frame_may_take_half_a_second(self):
        def job_of(rate_mbps):
            link = Link(id="cam", a="cam-1", b="net-1", b_port=1, long_reach=True)
            return site(camera={"measured_mbps": rate_mbps, "key_frame_s": 4, **UNCAPPED}, links={"cam": link})

        def late_ms(facts):
            link = next(one for one in facts.job.links if one.id == "cam")
            return late_key_frame(facts, link, facts.topology.on_route[link.id])[1]

        self.both_sides("late-key-frame", job_of, late_ms, 500, 0.5, 8)

    def test_a_rate_that_is_kept_bounds_its_key_frames_to_half_a_second_of_it(self):
        link = Link(id="cam", a="cam-1", b="net-1", b_port=1, long_reach=True)
        for fields, bytes_ in (
            ({"rate_control": "CBR"}, 8e6 * 0.5 / 8),
            ({"rate_control": "capped VBR", "cap_mbps": 9}, 9e6 * 0.5 / 8),
        ):
            with self.subTest(fields):
                job = site(camera={"measured_mbps": 8, "key_frame_s": 10, "fps": 5, **fields}, links={"cam": link})
                facts = assess(job).facts
                self.assertAlmostEqual(key_frame_bytes(job.cameras[0], facts), bytes_)
                self.assertNotIn("late-key-frame", codes(job))  # 400 and 450 ms on 10 Mb/s

    def test_links_of_more_than_50_mb_s_are_not_slow(self):
        for capacity_mbps, expected in ((50, True), (51, False)):
            link = Link(id="cam", a="cam-1", b="net-1", b_port=1, capacity_mbps=capacity_mbps)
            job = site(camera={"measured_mbps": 38, "key_frame_s": 8, "fps": 1, **UNCAPPED}, links={"cam": link})
            with self.subTest(capacity_mbps):
                self.assertEqual("late-key-frame" in codes(job), expected)

    def test_a_rebuild_that_fails_twice_in_a_hundred_is_told(self):
        def job_of(drive_tb):
            return job_with([camera(1)], [recorder(drives=3, bays=3, drive_tb=drive_tb, raid_level="raid5")])

        def lost(facts):
            return life_of(facts.job.recorders[0], facts.recorder_figures["rec-1"]).unreadable_share

        self.both_sides("rebuild-risky", job_of, lost, 0.02, 0.2, 16)

    def test_nine_tenths_of_the_voltage_are_wanted(self):
        def job_of(length_m):
            unit = PowerUnit(id="pow-1", name="Unit", kind="supply", feeds=("cam-1",), length_m=length_m, area_mm2=0.5)
            return site(power_units=(unit,))

        def lost_share(facts):
            unit = facts.job.power_units[0]
            settled = supply_run(unit, facts.topology.supplies[unit.id].draw_w, outdoor=False).settled
            return 1.0 if settled is None else 1 - settled.device_v / supply_volts(unit)

        self.both_sides("supply-drop", job_of, lost_share, 0.1, 1, 60)

    def test_fifteen_seconds_are_offered_where_nothing_is_recorded_after(self):
        job = job_with([camera(1, post_recording_s=0)], schedules=(week_of("motion"),))
        found = finding_of(job, "no-post-recording")
        self.assertIn("15 s", found.action)
        self.assertEqual(found.fix.apply(job).cameras[0].post_recording_s, 15)


if __name__ == "__main__":
    unittest.main()
