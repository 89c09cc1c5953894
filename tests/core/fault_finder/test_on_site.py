"""Answers of the simulated site: by what is so there. Faults are put there, and found without the table's word."""

import unittest
from random import Random

from eager_lens.core.assess.assessment import assess
from eager_lens.core.fault_finder.faulty_site import inject_faults
from eager_lens.core.fault_finder.for_job import traits_of_fault
from eager_lens.core.fault_finder.on_site import answer_on_site
from eager_lens.core.fault_finder.simulated_searches import drawn, trials
from eager_lens.core.fault_finder.symptoms import CAUSES_OF, symptoms_of, true_causes
from eager_lens.core.fault_finder.table import usual_table
from eager_lens.core.virtual_site.faults import FAULTS
from tests.onsite.base import small_job
from tests.support import demo_job, repeats, takes_long


class OnSite(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.assessment = assess(demo_job())

    def camera(self, name):
        return next(one for one in self.assessment.job.cameras if one.name == name)

    def put(self, *faults, name="Driver sign-on", seed=1):
        put = inject_faults(self.assessment, self.camera(name), faults, Random(seed))
        self.assertIsNotNone(put, faults)
        return put

    def put_somewhere(self, fault):
        """At the first camera of the demo where it shows."""
        found = (inject_faults(self.assessment, one, [fault], Random(1)) for one in self.assessment.job.cameras)
        return next(put for put in found if put is not None)

    def test_a_slow_link_is_noticed_where_the_stream_peaks_above_it(self):
        put = self.put_somewhere("slow-link")
        self.assertEqual(put.symptom, "stutters")
        wanted = {"speed": "slower", "cable-test": "a pair open or crossed", "loss": "a few all the time"}
        self.assertEqual({test: answer_on_site(put.at, test) for test in wanted}, wanted)

    def test_a_camera_that_is_right_shows_nothing(self):
        self.assertIsNone(inject_faults(self.assessment, self.camera("Driver sign-on"), (), Random(1)))
        at = self.put("relay-off").at  # not about the camera
        self.assertEqual(
            [
                answer_on_site(at, test)
                for test in ("ping", "held", "search", "login", "stream", "status", "link", "clock")
            ],
            ["answers", "{mac}", "at {address}", "taken", "plays well", "receiving", "on", "right"],
        )
        self.assertIsNone(answer_on_site(at, "no such test"))

    def test_every_answer_is_one_of_the_tables(self):
        table = usual_table()
        small = assess(small_job(4))
        for fault in CAUSES_OF:
            put = inject_faults(small, small.job.cameras[1], [fault], Random(1))
            for test in table.tests if put is not None else ():
                words = answer_on_site(put.at, test.id)
                if words is not None:
                    self.assertIn(words, test.outcomes, (fault, test.id))

    def test_what_each_fault_looks_like(self):
        for fault, wanted in (
            ("unplugged", {"ping": "no answer", "link": "off", "cable-test": "a pair open or crossed"}),
            ("broken", {"lamp": "no", "power": "none", "cable-test": "every pair good", "short-cable": "yes"}),
            ("port-off", {"power": "switched off", "swap-port": "yes", "short-cable": "no"}),
            ("budget", {"power": "refused: over the budget", "swap-port": "no"}),
            ("switch-off", {"others": "none", "link": "off", "power": "none"}),
            ("other-vlan", {"link": "on", "ping": "no answer", "vlan-read": "no", "swap-port": "yes"}),
            ("wrong-subnet", {"ping": "no answer", "search": "at an unused address", "default-address": "no"}),
            ("out-of-box", {"search": "at an unused address", "default-address": "yes"}),
            ("twin", {"ping": "no answer", "search": "at another device's address"}),
            ("address-taken", {"held": "another, or two in turn", "stranger": "a camera"}),
            ("frozen-lease", {"held": "another, or two in turn", "stranger": "a telephone or another device"}),
            ("protocol-off", {"search": "not in the list", "login": "taken", "protocol-set": "no"}),
            ("old-entry", {"ping": "answers", "entry-read": "no", "status": "no connection"}),
            ("no-channel", {"ping": "answers", "status": "no entry, or no channel free"}),
            ("other-codec", {"status": "connected, no picture", "other-codec": "yes", "stream": "plays well"}),
            ("clock-hour", {"clock": "off by whole hours", "time-server": "none, or no answer"}),
            ("time-zone", {"clock": "off by whole hours", "time-server": "as planned, answered"}),
            ("recorder-clock", {"recorder-clock": "off", "nearby": "yes"}),
            ("slow-start", {"ping": "no answer", "wait": "yes"}),
            ("uplink-narrow", {"status": "receiving", "speed": "as planned, none", "incoming": "well below"}),
            ("rule-off", {"rule-read": "off", "mark": "no"}),
            ("rule-blind", {"rule-read": "on", "mark": "only close by"}),
            ("event-target", {"event-sent": "to another address or port", "event-seen": "no"}),
            ("events-off", {"events-taken": "switched off, or another port", "event-sent": "yes"}),
            ("schedule-gap", {"schedule-hours": "no", "event-seen": "yes"}),
            ("drive-failed", {"drives": "failed, or not recording", "oldest": "there is none at all"}),
            ("overwritten", {"oldest": "younger", "drives": "healthy, recording"}),
            ("no-internet", {"internet": "no", "relay": "no connection", "one-picture": "no picture"}),
            ("no-gateway", {"gateway-read": "no", "internet": "yes", "relay": "no connection"}),
            ("viewer-password", {"inside": "no", "relay": "connected"}),
            ("slow-upload", {"one-picture": "stutters", "inside": "yes"}),
            ("recorder-off", {"recorder-runs": "dark", "ping": "answers", "status": "no connection"}),
        ):
            with self.subTest(fault):
                at = self.put(fault).at
                self.assertEqual({test: answer_on_site(at, test) for test in wanted}, wanted)

    @takes_long
    def test_at_night(self):
        """By day all is well; a hand over one light sensor shows what one infrared lamp takes, the evening what all take."""
        put = self.put_somewhere("night-budget")
        self.assertEqual(put.symptom, "night")
        wanted = {"status": "receiving", "power": "as planned, about {power_w}", "night-power": "no: over the budget"}
        self.assertEqual({test: answer_on_site(put.at, test) for test in wanted}, wanted)
        self.assertTrue(put.at.unit.runs)  # tried on a copy
        put.at.site.run_to(put.at.site.now_s + put.at.site.until_dusk_or_dawn_s() + 5)
        put.at.site.settle()
        self.assertFalse(put.at.unit.runs)

    def test_water_is_seen_while_it_rains(self):
        put = self.put_somewhere("wet-plug")
        self.assertEqual(put.symptom, "comes-and-goes")
        wanted = {"weather": "after rain or in the heat", "link": "goes on and off", "speed": "errors count up"}
        self.assertEqual({test: answer_on_site(put.at, test) for test in wanted}, wanted)
        put.at.site.rains = False
        self.assertEqual(answer_on_site(put.at, "link"), "on")
        self.assertEqual(symptoms_of(put.at, traits_of_fault(self.assessment, put.at.camera)), [])

    def test_a_recorder_that_is_off_is_what_its_own_ports_hang_on(self):
        put = self.put("recorder-off")
        self.assertEqual(true_causes(put.at, ["recorder-off"]), {"recorder-off"})
        self.assertGreater(len(put.down), 10)

    def test_faults_are_found(self):
        """Nearly every one is named first, and in about half of the time that a fixed order takes."""
        many = repeats(9, 24)
        found = list(trials([self.assessment], 5, many))
        fixed = list(trials([self.assessment], 5, many, fixed=True))
        self.assertGreaterEqual(sum(one.is_first for one in found), many - 2)
        self.assertLess(sum(one.minutes for one in found), 0.7 * sum(one.minutes for one in fixed))
        self.assertEqual({one.drawn for one in found}, {"single", "pair", "group"})

    @takes_long
    def test_some_wrong_answers_do_not_hide_them(self):
        found = list(trials([self.assessment], 6, 24, wrong=0.05))
        self.assertGreaterEqual(sum(one.is_among_three for one in found), 22)

    def test_the_same_seed_finds_the_same(self):
        self.assertEqual(list(trials([self.assessment], 7, 5)), list(trials([self.assessment], 7, 5)))

    def test_what_is_drawn_is_known_on_sites(self):
        rng = Random(1)
        for _ in range(200):
            self.assertLessEqual(set(drawn(rng)), FAULTS.keys() & CAUSES_OF.keys())


if __name__ == "__main__":
    unittest.main()
