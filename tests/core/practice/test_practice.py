"""Practice: what codes draw, that each fault can be mended by hand on the bench, and what the account says."""

import json
import unittest

from eager_lens.core.addressing.ipv4 import address_text
from eager_lens.core.assess.assessment import assess
from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.file import job_from_text, job_text
from eager_lens.core.job.model import changed
from eager_lens.core.job.rehearsal import SiteAction
from eager_lens.core.practice.account import account_of, account_text, hidden_text, result_text
from eager_lens.core.practice.costs import COST_MIN, cost_min
from eager_lens.core.practice.drill import complaint_now, drill_of, site_of_practice
from eager_lens.core.practice.lessons import LEVELS, all_lessons, code_from
from eager_lens.core.simulation.actions import SITE_ACTIONS, do
from eager_lens.core.simulation.copies import copy_of
from eager_lens.core.simulation.replay import replayed
from eager_lens.core.virtual_site.faults import FAULTS


class Bench:
    """The bench of a practice, as a hand works at it."""

    def __init__(self, code):
        self.drill = drill_of(code)
        self.assessment = assess(self.drill.job)
        self.site = site_of_practice(self.assessment, code)
        self.unit = self.site.units[self.drill.camera]
        self.camera = self.unit.device
        self.recorder = next(iter(self.site.recorders()))
        self.actions = []

    def do(self, name, device=None, **values):
        device = self.drill.camera if device is None else device
        self.site.run_to(self.site.now_s + 60 * cost_min(name))
        outcome = do(self.site, name, device, values)
        self.actions.append(SiteAction(at_s=self.site.now_s, do=name, device=device, values=values))
        return outcome

    def until_done(self, name, device=None, **values):
        for _ in range(8):
            if self.do(name, device, **values).done:
                return
        raise AssertionError(f"{name} was never done")

    def wait(self, minutes):
        self.site.run_to(self.site.now_s + 60 * minutes)

    @property
    def said(self):
        return complaint_now(self.assessment, copy_of(self.site), self.drill)

    def rehearsal(self):
        return changed(self.drill.job.rehearsal, actions=tuple(self.actions), now_s=self.site.now_s)


def find(topic, level, fault):
    """The first code whose hidden fault is this one."""
    for seed in range(1, 60):
        code = f"{topic}-{level}-{seed}"
        if drill_of(code).faults == (fault,):
            return code
    raise AssertionError(fault)


class Codes(unittest.TestCase):
    def test_the_same_code_draws_the_same(self):
        drill_of.cache_clear()
        first = drill_of("mixed-2-7")
        drill_of.cache_clear()
        self.assertEqual(first, drill_of(" Mixed-2-7 "))
        self.assertNotEqual(drill_of("mixed-2-8").job, first.job)

    def test_every_lesson_draws_at_every_level(self):
        for lesson in all_lessons().lessons:
            for level in LEVELS:
                drill = drill_of(f"{lesson.id}-{level}-3")
                with self.subTest(drill.code):
                    self.assertIn(drill.faults, lesson.faults[level])
                    self.assertEqual(len(drill.faults), 2 if level == "3" else 1)
                    self.assertIn("“", drill.complaint)
                    self.assertNotIn("{", drill.complaint)
                    self.assertFalse([one for one in assess(drill.job).findings if one.severity >= 3])
            self.assertTrue(all(fault in FAULTS for sets in lesson.faults.values() for one in sets for fault in one))

    def test_what_is_no_code_is_refused(self):
        for text, words in (
            ("", "not a code"),
            ("night", "not a code"),
            ("night-2-x", "not a code"),
            ("day-1-1", "not a topic; the topics are twins"),
            ("night-4-1", "not a level"),
            ("night-1-1000000", "too large"),
            ("night-1-٣", "not a code"),
        ):
            with self.subTest(text), self.assertRaisesRegex(RefusedInput, words):
                code_from(text)

    def test_its_job_is_a_file_like_any_other(self):
        drill = drill_of("bridge-1-2")
        job = job_from_text(job_text(drill.job))
        self.assertEqual(job, drill.job)
        self.assertNotIn(drill.faults[0], job_text(job))
        self.assertEqual(job.rehearsal.practice, "bridge-1-2")

    def test_another_job_is_told(self):
        drill = drill_of("subnet-1-1")
        job = changed(drill.job, cameras=tuple(one for one in drill.job.cameras if one.id != drill.camera))
        with self.assertRaisesRegex(RefusedInput, "no longer that of the practice"):
            site_of_practice(assess(job), "subnet-1-1")

    def test_costs_are_of_actions_that_there_are(self):
        self.assertLessEqual(COST_MIN.keys(), SITE_ACTIONS.keys())


class Mended(unittest.TestCase):
    """Each lesson's first level is mended by the actions that the bench has."""

    def mend(self, topic, fault, hand, level="1"):
        bench = Bench(find(topic, level, fault))
        self.assertTrue(bench.said)
        hand(bench)
        self.assertEqual(bench.said, "", bench.drill.code)
        return bench

    def test_another_camera_on_its_address(self):
        def hand(bench):
            other = next(unit for unit, _ in bench.site.holding(bench.unit.sides[0].address) if unit is not bench.unit)
            bench.do("unplug")
            bench.until_done("address", other.id, address=f"{other.device.address}/24", gateway="", password="own")
            bench.do("plug")
            bench.wait(8)

        self.mend("twins", "address-taken", hand)

    def test_the_wrong_subnet(self):
        def hand(bench):
            self.assertFalse(bench.do("ping", "laptop", address=bench.camera.address).done)
            strange = bench.unit.sides[0].address
            bench.do("laptop address", "laptop", address=f"{address_text(strange ^ 0x80)}/24")
            bench.until_done("address", address=f"{bench.camera.address}/24", password="own")
            bench.wait(3)

        self.mend("subnet", "wrong-subnet", hand)

    def test_a_frozen_lease(self):
        def hand(bench):
            free = address_text(bench.unit.sides[0].address + 40)
            bench.until_done("address", address=f"{free}/24", password="own")
            channel = bench.camera.registered[0].channel
            bench.do("remove", bench.recorder.id, channel=str(channel))
            bench.do(
                "add", bench.recorder.id, address=free, channel=str(channel), password="own", camera=bench.camera.id
            )
            bench.do("refresh", bench.recorder.id)

        self.mend("lease", "frozen-lease", hand)

    def test_the_motion_chain(self):
        address = None
        for fault, hand in (
            ("event-target", lambda bench: bench.do("target", address=bench.recorder.device.address, password="own")),
            ("events-off", lambda bench: bench.do("take events", bench.recorder.id)),
            ("rule-off", lambda bench: bench.do("rule on", password="own")),
        ):
            bench = self.mend("motion", fault, hand)
            self.assertTrue(bench.do("walk").done, address)
        self.mend("motion", "schedule-gap", lambda bench: bench.do("schedule", bench.recorder.id), "2")
        self.mend("motion", "drive-failed", lambda bench: bench.do("new drive", bench.recorder.id), "2")

    def test_the_night(self):
        def host(bench):
            cable = next(one for one in bench.site.cables_of(bench.unit))
            return cable.far_end(bench.unit.id)[0]

        self.mend("night", "night-budget", lambda bench: bench.do("larger switch", host(bench)))

    def test_infrared_is_set_and_set_back(self):
        """Half of half is still half, and full is full again."""
        bench = Bench(find("night", "1", "night-budget"))
        for level, share in (("half", 0.5), ("half", 0.5), ("off", 0.0), ("full", 1.0)):
            self.assertTrue(bench.do("infrared", level=level, password="own").done)
            self.assertEqual(bench.unit.feeding.infrared_share, share)
        self.assertTrue(bench.said)

    def test_nothing_is_set_on_a_recorder_that_is_off(self):
        bench = Bench(find("motion", "1", "events-off"))
        bench.do("power off", bench.recorder.id)
        for action in ("take events", "schedule"):
            self.assertIn("does not run", bench.do(action, bench.recorder.id).words)
        self.assertFalse(bench.recorder.recording.takes_events)

    def test_clocks(self):
        zone = "Europe/London"
        own = {"zone": zone, "password": "own"}
        self.mend("clock", "time-zone", lambda bench: bench.do("time", server=bench.recorder.device.address, **own))

        def recorder(bench):
            bench.do("time", bench.recorder.id, server="", zone=zone)
            bench.wait(40)  # its cameras ask it again

        self.mend("clock", "recorder-clock", recorder)

    def test_the_bridge(self):
        def hand(bench):
            bridge = next(one for one in bench.site.units.values() if one.role == "bridge")
            self.assertIn("signal 1 of 4 bars", bench.do("read page", bridge.id, password="own").words)
            bench.do("align", bridge.id)

        self.mend("bridge", "weak-radio", hand)

    def test_others(self):
        def port(bench):
            cable = next(one for one in bench.site.cables_of(bench.unit))
            switch, number = cable.far_end(bench.unit.id)
            self.assertIn("gives no power", bench.do("read ports", switch).words)
            bench.do("set port", switch, port=str(number))
            bench.wait(4)

        self.mend("mixed", "port-off", port)
        self.mend("mixed", "unplugged", lambda bench: (bench.do("plug"), bench.wait(4)))

        def switch(bench):
            cable = next(one for one in bench.site.cables_of(bench.unit))
            bench.do("power on", cable.far_end(bench.unit.id)[0])
            bench.wait(8)

        self.mend("mixed", "switch-off", switch)
        self.mend("mixed", "broken", lambda bench: (bench.do("replace"), bench.wait(5)), "2")
        self.mend("mixed", "slow-link", lambda bench: (bench.do("new plugs"), bench.wait(3)), "2")

    def test_with_two_faults_one_mended_leaves_the_other(self):
        seed = next(
            seed for seed in range(1, 60) if drill_of(f"motion-3-{seed}").faults == ("rule-off", "event-target")
        )
        bench = Bench(f"motion-3-{seed}")
        bench.do("rule on", password="own")
        self.assertTrue(bench.said)
        bench.do("target", address=bench.recorder.device.address, password="own")
        self.assertEqual(bench.said, "")


class Accounts(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        bench = Bench(find("motion", "1", "rule-off"))
        bench.do("ping", "laptop", address=bench.camera.address)
        bench.do("read page", password="own")
        bench.do("rule on", password="own")
        cls.bench = bench
        cls.account = account_of(bench.assessment, copy_of(bench.site), bench.rehearsal(), bench.drill)

    def test_what_was_tried_and_what_it_cost(self):
        account = self.account
        self.assertTrue(account.is_mended)
        self.assertEqual([round(one.at_min) for one in account.tried], [1, 3, 5])
        self.assertEqual(round(account.minutes), 5)
        self.assertEqual(account.headline, "Repaired, 3 steps in 5 min")
        self.assertIn("The laptop" if "laptop" in account.tried[0].words else "Ping", account.tried[0].words)

    def test_the_quicker_way_ends_with_the_cause(self):
        self.assertEqual(self.account.quicker[-1].words, "Motion rule off")
        self.assertGreater(self.account.quicker_min, 0)
        text = account_text(self.account)
        for words in ("its motion rule is off", "Quicker", self.account.drill.lesson.rule, "Tried:"):
            self.assertIn(words, text)
        self.assertNotIn("Tried:", hidden_text(self.account))

    def test_the_result_file_has_no_names_of_people(self):
        data = json.loads(result_text([self.account]))
        (one,) = data["results"]
        self.assertEqual(
            sorted(one), ["code", "level", "mended", "minutes", "quicker_minutes", "seed", "steps", "topic"]
        )
        self.assertEqual((one["mended"], one["level"], len(one["steps"])), (True, 1, 3))

    def test_done_again_it_comes_out_the_same(self):
        bench = self.bench
        again = replayed(
            bench.assessment,
            bench.rehearsal(),
            lambda assessment, rehearsal: site_of_practice(assessment, rehearsal.practice),
        )
        self.assertEqual(again.troubles, ())
        self.assertEqual(again.site.units[bench.drill.camera].rule, "on")
        self.assertEqual(complaint_now(bench.assessment, copy_of(again.site), bench.drill), "")


if __name__ == "__main__":
    unittest.main()
