"""First use, passwords, users, channels, clocks, events, resets and updates on the simulated site."""

import unittest

from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.model import SubnetPlan
from eager_lens.core.job.rehearsal import Rehearsal
from eager_lens.core.simulation.actions import SITE_ACTIONS
from eager_lens.core.simulation.clocks import shown, shown_apart_s
from eager_lens.core.simulation.parts import DEFAULT_PASSWORD
from tests.core.simulation.base import PLAIN, RECORDER, BenchCase, at_recorder, bench_job
from tests.support import lan, recorder


class FirstUse(BenchCase):
    def plugged(self, **make_profiles):
        self.powered(make_profiles=(PLAIN.model_copy(update=make_profiles), RECORDER))
        self.do("plug", "cam-1")
        self.wait(65)
        return self.unit("cam-1")

    def test_before_it_a_device_answers_searches_and_nothing_else(self):
        camera = self.plugged()
        self.assertIn("2 devices", self.do("search").words)
        outcome = self.do("address", "cam-1", address="172.22.40.40/24")
        self.assertFalse(outcome.done)
        self.assertIn("answers searches only", outcome.words)
        self.assertFalse(camera.access.is_set_up)

    def test_the_default_password_may_not_stay(self):
        self.plugged()
        self.assertIn("may not stay", self.do("set up", "cam-1", new=DEFAULT_PASSWORD).words)

    def test_a_short_password_is_refused_by_the_makes_own_rule(self):
        self.plugged()
        self.assertIn("at least 8", self.do("set up", "cam-1", new="short").words)
        self.plugged(password_least=4, password_kinds=1)
        self.assertTrue(self.do("set up", "cam-1", new="short").done)

    def test_a_skipped_recovery_contact_is_told_and_a_full_reset_is_the_way_back(self):
        camera = self.plugged()
        self.assertIn("factory reset", self.do("set up", "cam-1", new="own", recovery="no").words)
        self.do("full reset", "cam-1")
        self.assertFalse(camera.access.is_set_up)

    def test_real_passwords_are_never_taken(self):
        self.plugged()
        with self.assertRaises(RefusedInput) as caught:
            self.do("set up", "cam-1", new="Tr4m-Depot!")
        self.assertIn("stand-ins only", str(caught.exception))

    def test_an_unknown_zone_is_refused_and_names_what_it_may_mean(self):
        self.plugged()
        with self.assertRaises(RefusedInput) as caught:
            self.do("set up", "cam-1", new="own", zone="London")
        self.assertIn("Europe/London", str(caught.exception))

    def test_twice_is_told(self):
        self.plugged()
        self.do("set up", "cam-1", new="own")
        self.assertIn("set up already", self.do("set up", "cam-1", new="own").words)

    def test_a_recorder_is_set_up_on_its_own_monitor_once_it_runs(self):
        self.site_with()
        self.do("power on", "rec-1")
        self.assertIn("give it its time", self.do("set up", "rec-1", new="own").words)
        self.wait(101)
        self.assertTrue(self.do("set up", "rec-1", new="own").done)


class Locks(BenchCase):
    def test_wrong_tries_lock_it_and_time_opens_it_again(self):
        self.powered()
        self.ready(1)
        for _ in range(5):
            self.assertFalse(self.do("update", "cam-1", password="site").done)
        self.assertTrue(self.has_noted("locked itself for 10 min after 5"))
        self.assertIn("locked itself", self.do("time", "cam-1", password="own").words)
        self.wait(601)
        self.assertTrue(self.do("time", "cam-1", password="own").done)

    def test_a_recorder_with_a_wrong_password_locks_the_camera_by_itself(self):
        self.powered()
        self.ready(1)
        entry = self.registered(1, password="site")
        self.assertEqual((entry.shown, entry.why), ("refused", "Camera 1: the password is wrong"))
        self.wait(600)
        self.assertTrue(self.has_noted("whatever keeps trying keeps it locked"))
        self.assertIn("locked", entry.why)


class Protocols(BenchCase):
    def ready_other_make(self, **make_profiles):
        self.powered(
            make="Sparling B", make_profiles=(PLAIN.model_copy(update={"make": "Sparling", **make_profiles}), RECORDER)
        )
        self.ready(1)

    def test_another_make_is_refused_on_the_makers_own_protocol(self):
        self.ready_other_make()
        self.assertIn("another make", self.registered(1, protocol="own").why)

    def test_the_open_protocol_is_off_out_of_the_box(self):
        self.ready_other_make()
        self.assertIn("open protocol is off", self.registered(1, protocol="open").why)

    def test_its_user_is_another_than_the_web_user(self):
        self.ready_other_make(open_protocol_on=True)
        entry = self.registered(1, protocol="open")
        self.assertIn("no user yet", entry.why)
        self.do("open protocol", "cam-1", new="site")
        self.do("refresh", "rec-1")
        self.assertIn("wrong", entry.why, "the recorder still tries the web user's password")
        self.do("remove", "rec-1", channel="1")
        self.assertEqual(self.registered(1, protocol="open", password="site").shown, "receiving")

    def test_with_no_user_of_its_own_the_web_user_serves(self):
        self.ready_other_make(open_protocol_on=True, open_user_own=False)
        self.assertEqual(self.registered(1, protocol="open").shown, "receiving")

    def test_a_clock_far_off_refuses_the_log_in(self):
        self.ready_other_make()
        self.do("open protocol", "cam-1", new="own")
        self.unit("cam-1").clock.offset_s = -3600
        entry = self.registered(1, protocol="open")
        self.assertIn("clock is too far off", entry.why)
        self.do("time", "cam-1", server="172.22.40.20")
        self.wait(70)
        self.assertEqual(entry.shown, "receiving", "the recorder tries again by itself")

    def test_all_of_its_own_make_at_once_works_with_one_password_for_all(self):
        self.powered()
        for n in (1, 2):
            self.ready(n, new="site")
        self.assertIn("2 cameras", self.do("own make", "rec-1", password="site").words)
        self.do("refresh", "rec-1")
        self.assertEqual({n: e.shown for n, e in self.unit("rec-1").entries.items()}, {1: "receiving", 2: "receiving"})


class Channels(BenchCase):
    def test_what_is_added_stays_silent_until_it_is_looked_at_again(self):
        self.powered()
        self.ready(1)
        self.do("add", "rec-1", address="172.22.40.40", protocol="own", camera="cam-1")
        entry = self.unit("rec-1").entries[1]
        self.assertEqual(entry.shown, "silent")
        self.wait(21)
        self.assertEqual(entry.shown, "receiving")

    def test_limits_of_the_recorder(self):
        cases = (
            ({"codecs": ("h264",)}, "does not take"),
            ({"largest_megapixels": 1}, "megapixels"),
            ({"incoming_limit_mbps": 0.01}, "used up"),
        )
        for limits, words in cases:
            with self.subTest(limits=limits):
                self.powered(recorders=[recorder(make="Quillmark R", **limits)])
                self.ready(1)
                entry = self.registered(1)
                self.assertEqual(entry.shown, "silent")
                self.assertIn(words, entry.why)

    def test_incoming_is_given_out_in_the_order_of_the_channels(self):
        self.powered(
            camera_fields={n: {"measured_mbps": 4} for n in (1, 2, 3)},
            recorders=[recorder(make="Quillmark R", incoming_limit_mbps=9)],
        )
        for n in (1, 2, 3):
            self.ready(n)
            self.registered(n)
        self.assertEqual(
            [e.shown for _, e in sorted(self.unit("rec-1").entries.items())], ["receiving", "receiving", "silent"]
        )

    def test_no_channel_left_twice_added_and_no_such_channel(self):
        self.powered(
            recorders=[recorder(make="Quillmark R", channels=1)],
            camera_fields={n: {"registered": at_recorder(1)} for n in (1, 2, 3)},
        )
        self.ready(1)
        self.registered(1)
        self.assertIn("on channel 1 of Recorder 1 already", self.do("add", "rec-1", address="172.22.40.40").words)
        self.assertIn("no channel left", self.do("add", "rec-1", address="172.22.40.41").words)
        self.assertIn("no channel 7", self.do("add", "rec-1", address="172.22.40.41", channel="7").words)
        with self.assertRaises(RefusedInput):
            self.do("rename", "rec-1", channel="5")
        with self.assertRaises(RefusedInput):
            self.do("add", "rec-1", address="172.22.40.41", channel="first")

    def test_a_name_given_at_the_recorder_reaches_the_camera(self):
        self.powered()
        self.ready(1)
        self.registered(1)
        self.do("rename", "rec-1", channel="1", name="Kiosk till")
        self.assertEqual(self.unit("cam-1").given_name, "Kiosk till")

    def test_a_long_reach_socket_is_too_slow_for_a_large_stream(self):
        for peak, wanted in ((4, "receiving"), (14, "alternating")):
            with self.subTest(peak=peak):
                job = bench_job(camera_fields={1: {"measured_mbps": peak}})
                links = tuple(
                    link.model_copy(update={"long_reach": True}) if link.id == "link-1" else link for link in job.links
                )
                self.powered(job=job.model_copy(update={"links": links}))
                self.ready(1)
                self.assertEqual(self.registered(1).shown, wanted)

    def test_tested_without_the_recorder_the_fault_is_split(self):
        self.powered()
        self.ready(1)
        self.assertIn("plays", self.do("stream", address="172.22.40.40").words)
        self.assertIn("does not play", self.do("stream", address="172.22.40.40", password="site").words)
        self.assertIn("asks for a password", self.do("page", address="172.22.40.40").words)
        self.assertIn("No stream", self.do("stream", address="172.22.40.99").words)

    def test_what_cannot_be_done_is_refused_and_explained(self):
        self.powered()
        for name, device, words in (
            ("dance", "cam-1", "nothing that can be done"),
            ("plug", "cam-77", "no device"),
            ("add", "cam-1", "nothing to do to"),
        ):
            with self.subTest(name=name), self.assertRaises(RefusedInput) as caught:
                self.do(name, device)
            self.assertIn(words, str(caught.exception))
        self.assertIn("is dark", self.do("set up", "cam-1", new="own").words)

    def test_every_deed_has_a_label_and_somebody_to_do_it_to(self):
        for name, kind in SITE_ACTIONS.items():
            self.assertEqual(name, kind.name)
            self.assertTrue(kind.label and kind.roles)


class OwnPorts(BenchCase):
    def own_ports(self, **fields):
        sides = {"ports": 10, "poe_ports": 8, "budget_w": 100, "attachment": "recorder PoE ports"}
        side = {"camera_interface_subnet": "lan-2", "camera_interface_address": "10.44.8.1"}
        one = recorder(make="Quillmark R", **sides, **side)
        job = bench_job(
            recorders=[one], subnets=(lan(), SubnetPlan(id="lan-2", name="Cameras", cidr="10.44.8.0/24")), **fields
        )
        links = [
            link.model_copy(update={"b": "rec-1"}) for link in job.links if link.id in ("link-1", "link-2", "link-3")
        ]
        up = next(link for link in job.links if link.id == "link-rec").model_copy(update={"a_port": 9})
        self.powered(job=job.model_copy(update={"links": (*links, up)}))

    def test_a_camera_of_its_own_make_is_taken_by_itself(self):
        self.own_ports()
        for n in (1, 2):
            self.do("plug", f"cam-{n}")
        self.wait(120)
        entries = self.unit("rec-1").entries
        self.assertEqual(
            {n: (e.shown, e.name) for n, e in entries.items()},
            {1: ("receiving", "Camera 1"), 2: ("receiving", "Camera 2")},
        )

    def test_the_two_sides_do_not_hear_each_other(self):
        self.own_ports()
        self.do("plug", "cam-1")
        self.wait(120)
        self.assertNotIn("cam-1", [one.id for one, _ in self.site.heard(self.site.laptop, self.site.laptop.sides[0])])
        self.do("laptop to", "rec-1", side="cameras")
        self.assertIn("cam-1", [one.id for one, _ in self.site.heard(self.site.laptop, self.site.laptop.sides[0])])

    def test_an_event_to_the_other_side_is_lost(self):
        self.own_ports()
        self.do("plug", "cam-1")
        self.wait(120)
        self.assertTrue(self.do("walk", "cam-1").done)
        self.do("laptop to", "rec-1", side="cameras")
        self.do("laptop address", address="10.44.8.200/24")
        self.unit("cam-1").access.password = "own:cam-1"
        self.unit("rec-1").entries[1].password = "own:cam-1"
        self.assertTrue(self.do("target", "cam-1", address="172.22.40.20").done)
        outcome = self.do("walk", "cam-1")
        self.assertFalse(outcome.done)
        self.assertIn("nothing is kept", outcome.words)

    def test_passed_through_the_ports_are_a_plain_switch(self):
        sides = {"ports": 10, "poe_ports": 8, "budget_w": 100, "attachment": "bridged PoE ports"}
        job = bench_job(recorders=[recorder(make="Quillmark R", **sides)])
        links = [link.model_copy(update={"b": "rec-1"}) for link in job.links if link.id == "link-1"]
        up = next(link for link in job.links if link.id == "link-rec").model_copy(update={"a_port": 9})
        self.powered(job=job.model_copy(update={"links": (*links, up)}))
        self.ready(1)
        self.assertIn("answers", self.do("ping", address="172.22.40.40").words)


class Clocks(BenchCase):
    def test_without_a_server_a_clock_drifts_and_with_one_it_does_not(self):
        self.powered(make_profiles=(PLAIN.model_copy(update={"drift_ppm": 100}), RECORDER))
        self.ready(1)
        camera = self.unit("cam-1")
        camera.clock.drift_ppm = 100.0
        self.wait(10 * 86_400)
        self.assertAlmostEqual(shown_apart_s(self.site, camera), 86.4, delta=0.5)
        self.do("time", "cam-1", server="172.22.40.20")
        self.wait(86_400)
        self.assertLess(abs(shown_apart_s(self.site, camera)), 0.2)

    def test_a_server_that_is_none_is_told(self):
        self.powered()
        self.ready(1)
        self.do("time", "cam-1", server="172.22.40.99")
        self.wait(5)
        self.assertTrue(self.has_noted("Camera 1 gets no time"))

    def test_a_fixed_offset_misses_summer_time_and_a_named_zone_does_not(self):
        """The clocks go forward at 01:00 on 29 March 2026."""
        for zone, off_s in (("Europe/London", 0), ("+0", -3600)):
            with self.subTest(zone=zone):
                self.powered(rehearsal=Rehearsal(begins="2026-03-28T22:00"))
                self.ready(1, zone=zone)
                self.assertAlmostEqual(shown_apart_s(self.site, self.unit("cam-1")), 0, delta=1)
                self.wait(6 * 3600)
                self.assertAlmostEqual(shown_apart_s(self.site, self.unit("cam-1")), off_s, delta=1)

    def test_a_clip_is_not_found_when_the_recorders_clock_is_off(self):
        self.powered()
        self.ready(1)
        self.registered(1)
        self.assertTrue(self.do("walk", "cam-1").done)
        now = f"{self.site.local():%H:%M}"
        self.assertTrue(self.do("find", "rec-1", channel="1", time=now).done)
        self.unit("rec-1").clock.offset_s = 1800
        self.do("walk", "cam-1")
        self.unit("rec-1").clips.pop(0)
        outcome = self.do("find", "rec-1", channel="1", time=now)
        self.assertFalse(outcome.done)
        self.assertIn("1800 s ahead", outcome.words)
        later = f"{shown(self.site, self.unit('rec-1')):%H:%M}"
        self.assertTrue(self.do("find", "rec-1", channel="1", time=later).done)

    def test_no_time_of_day_is_refused(self):
        self.powered()
        self.ready(1)
        self.registered(1)
        with self.assertRaises(RefusedInput):
            self.do("find", "rec-1", channel="1", time="noon")


class Service(BenchCase):
    def test_a_soft_reset_keeps_software_and_video_and_a_full_one_loses_both(self):
        self.powered()
        self.ready(1)
        self.registered(1)
        self.do("walk", "cam-1")
        one = self.unit("rec-1")
        self.do("update", "rec-1")
        self.wait(600)
        self.do("soft reset", "rec-1")
        self.assertEqual((len(one.clips), one.firmware, one.entries), (1, one.profile.firmware_now, {}))
        self.wait(200)
        self.do("full reset", "rec-1")
        self.assertEqual((len(one.clips), one.firmware), (0, one.profile.firmware_first))

    def test_a_reset_camera_is_at_its_first_address_again(self):
        self.powered()
        self.ready(1)
        self.do("soft reset", "cam-1")
        self.wait(65)
        self.assertTrue(self.unit("cam-1").sides[0].is_near(self.site.laptop.sides[1].address))
        self.assertFalse(self.unit("cam-1").access.is_set_up)

    def test_an_update_restarts_the_camera(self):
        self.powered()
        self.ready(1)
        self.registered(1)
        self.assertTrue(self.do("update", "cam-1").done)
        self.wait(100)
        self.assertEqual(self.unit("cam-1").phase, "updating")
        self.assertEqual(self.unit("rec-1").entries[1].shown, "silent")
        self.wait(220)
        self.assertEqual((self.unit("cam-1").firmware, self.unit("rec-1").entries[1].shown), ("1.2", "receiving"))
        self.assertIn("already", self.do("update", "cam-1").words)

    def test_power_lost_in_an_update_leaves_it_broken_until_a_full_reset(self):
        self.powered()
        self.ready(1)
        self.do("update", "cam-1")
        self.wait(60)
        self.do("unplug", "cam-1")
        self.do("plug", "cam-1")
        self.wait(120)
        self.assertEqual(self.unit("cam-1").phase, "broken")
        self.do("full reset", "cam-1")
        self.wait(65)
        self.assertTrue(self.unit("cam-1").runs)


if __name__ == "__main__":
    unittest.main()
