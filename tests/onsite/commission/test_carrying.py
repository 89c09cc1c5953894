"""Setting a small site out of the box: the order, what is read back, what is told where something fails, and going on."""

import asyncio
import unittest

from eager_lens.core.addressing.ipv4 import address_number, address_text
from eager_lens.core.commission.ledger import Ledger, put_back_plan, runs_in
from eager_lens.core.commission.report import cut_off_words, outcome_words, report_of
from eager_lens.core.errors import FileTrouble
from tests.onsite.commission.in_memory import FIRST, MAKES, PASSWORD, Site, boxed_job
from tests.onsite.commission.seeded import run_many
from tests.support import lan, one_in, repeats

SETS = ("Set", "Create", "Modify", "Delete", "SystemReboot")


class Case(unittest.TestCase):
    def site(self, *given, **more):
        site = Site(*given, **more)
        self.addCleanup(site.close)
        return site

    def states(self, run):
        return {
            (one.plan.device, act.act.key): act.line.state if act.line else ""
            for one in report_of(run)
            for act in one.acts
        }

    def left(self, site):
        return {one.device: [act.key for act in one.acts] for one in site.plan().devices if one.acts or one.refused}


class AllOfIt(Case):
    def test_from_the_box_to_the_plan(self):
        site = self.site(boxed_job(3))
        plan = site.plan()
        self.assertEqual([one.shared for one in plan.devices], [False, True, True, True])
        run = site.set(plan)
        self.assertEqual(set(self.states(run).values()), {"done"})
        self.assertTrue(all(one.is_as_planned for one in report_of(run)))
        self.assertEqual(self.left(site), {})
        self.assertNotIn(PASSWORD, site.ledger_path.read_text("utf-8"))
        self.assertEqual(len(site.device("rec-1").channels), 3)
        camera = site.device("cam-2").stand_in
        self.assertEqual((camera.shown_text, camera.name, camera.streams[0].fps), ("Camera 2", "Camera 2", 10))

    def test_who_may_log_in_comes_first_and_the_address_last(self):
        site = self.site(boxed_job(1))
        plan = site.plan()
        camera = next(one for one in plan.devices if one.device == "cam-1")
        self.assertFalse(camera.shared)
        self.assertEqual(camera.acts[0].kind, "first user")
        self.assertEqual([act.kind for act in camera.acts[-2:]], ["address", "gateway"])
        run = site.set(plan)
        begun = [line.act for line in run.lines if line.device == "cam-1" and line.state == "begun"]
        self.assertEqual(begun, [act.key for act in camera.acts])

    def test_recorders_are_set_before_cameras_and_their_channels_after(self):
        site = self.site(boxed_job(1))
        order = [(line.device, line.act) for line in site.set().lines if line.state == "begun"]
        cameras = [at for at, (device, _) in enumerate(order) if device == "cam-1"]
        self.assertLess(order.index(("rec-1", "address eth0")), cameras[0])
        self.assertGreater(order.index(("rec-1", "channel 1")), cameras[-1])

    def test_nothing_is_sent_to_devices_on_one_address_that_cannot_be_told_apart(self):
        site = self.site(boxed_job(2))
        run = site.set(pins=False)
        states = self.states(run)
        self.assertEqual(states[("cam-1", "first user")], "refused")
        self.assertFalse(site.device("cam-1").is_set_up or site.device("cam-2").is_set_up)
        self.assertEqual(states[("rec-1", "address eth0")], "done")

    def test_nothing_but_its_own_goes_to_a_device_that_shares_its_address(self):
        """One whose first user is refused has no address of its own: what else it is to be set to could reach the other."""
        site = self.site(boxed_job(2))
        site.passwords["cam-1"] = "weak"
        run = site.set()
        self.assertEqual(self.states(run)[("cam-1", "first user")], "refused")
        self.assertEqual({line.act for line in run.lines if line.device == "cam-1"}, {"first user"})
        self.assertEqual(site.memory.unclear, [])
        self.assertFalse(site.device("cam-1").is_set_up)
        self.assertEqual(site.device("cam-2").stand_in.name, "Camera 2")

    def test_one_that_shares_its_address_and_whose_own_is_taken_stays_as_it_is(self):
        site = self.site(boxed_job(3))
        site.device("cam-3").change(interfaces=moved(site.device("cam-3"), "172.22.40.40"))
        run = site.set()
        begun = {line.act for line in run.lines if line.device == "cam-1" and line.state == "begun"}
        self.assertEqual(begun, {"first user"})
        self.assertEqual(site.memory.unclear, [])

    def test_a_recorder_with_two_interfaces_is_spoken_to_at_its_first(self):
        base = boxed_job(1)
        inner = lan("lan-2", "10.44.8.0/24", "")
        more = {
            "attachment": "camera interface",
            "camera_interface_subnet": "lan-2",
            "camera_interface_address": "10.44.8.20",
        }
        recorder = base.recorders[0].model_copy(update=more)
        site = self.site(base.model_copy(update={"recorders": (recorder,), "subnets": (*base.subnets, inner)}))
        states = {key: state for key, state in self.states(site.set()).items() if key[0] == "rec-1"}
        self.assertEqual({states[("rec-1", f"address eth{at}")] for at in (0, 1)}, {"done"})
        now = [address_text(one.address) for one in site.device("rec-1").stand_in.interfaces]
        self.assertEqual(now, ["172.22.40.20", "10.44.8.20"])

    def test_a_device_is_found_again_at_the_port_that_it_was_found_at(self):
        site = self.site(boxed_job(1))
        device = site.device("cam-1")
        device.stand_in = device.stand_in._replace(
            profile=device.stand_in.profile.model_copy(update={"http_port": 8080})
        )
        self.assertEqual(self.states(site.set())[("cam-1", "address eth0")], "done")

    def test_a_default_password_is_replaced(self):
        makes = tuple(one.model_copy(update={"default_password": "default"}) for one in MAKES)
        site = self.site(boxed_job(1).model_copy(update={"make_profiles": makes}))
        camera = site.device("cam-1")
        site.run(first_user(camera, "default"))
        plan = site.plan()
        self.assertEqual(plan.devices[1].acts[0].kind, "password")
        self.assertEqual(self.states(site.set(plan))[("cam-1", "password")], "done")
        self.assertEqual(camera.gate.users["installer"], (PASSWORD,))

    def test_a_recorder_is_not_told_a_password_that_nobody_knows(self):
        site = self.site(boxed_job(1))
        del site.passwords["cam-1"]
        recorder = site.plan().devices[0]
        self.assertNotIn("channel", [act.kind for act in recorder.acts])
        self.assertIn("no password of the camera", "".join(one.why for one in recorder.by_hand))

    def test_only_what_was_named(self):
        site = self.site(boxed_job(2))
        plan = site.plan(only=("cam-2",))
        self.assertEqual([one.device for one in plan.devices], ["cam-2"])
        site.set(plan)
        self.assertFalse(site.device("cam-1").is_set_up)
        self.assertTrue(site.device("cam-2").is_set_up)

    def test_putting_back_leaves_users_and_restores_the_rest(self):
        site = self.site(boxed_job(1))
        first = site.plan()
        run = site.set(first)
        back = site.set(put_back_plan(run), puts_back=True)
        self.assertEqual(set(self.states(back).values()), {"done"})
        wanted = {
            one.device: [a.key for a in one.acts if a.kind not in ("first user", "channel")] for one in first.devices
        }
        found = {one.device: [a.key for a in one.acts if a.kind != "channel"] for one in site.plan().devices}
        for device, keys in wanted.items():
            # The clock was set, and time goes on from there.
            self.assertLessEqual(set(keys) - {"clock"}, {*found[device], "gateway"}, device)
        self.assertEqual(site.device("cam-1").stand_in.interfaces[0].address & 0xFF, 50)


class Faults(Case):
    """Each ends in a told state, none in a lost device or a wrong one."""

    def set_questions(self, site_asks):
        return [name for name in site_asks if name.startswith(SETS)]

    def test_an_option_that_is_refused_after_all(self):
        site = self.site(boxed_job(2), ("refuses=Camera 1",))
        states = self.states(site.set())
        self.assertEqual(states.pop(("cam-1", "stream profile1")), "refused")
        self.assertEqual(set(states.values()), {"done"})
        self.assertEqual(self.left(site), {"cam-1": ["stream profile1"]})

    def test_a_restart_that_takes_far_too_long(self):
        site = self.site(boxed_job(1), ("slow=Camera 1",))
        run = site.set()
        line = next(line for device, act, line in run.each() if (device.device, act.kind) == ("cam-1", "address"))
        self.assertEqual(line.state, "lost")
        self.assertIn("172.22.40.40, or still at 172.30.0.50", line.why)
        self.assertEqual(self.states(run)[("cam-1", "gateway")], "")
        site.run(sleep(400))
        self.assertEqual(self.left(site), {"cam-1": ["gateway"]})
        site.set()
        self.assertEqual(self.left(site), {})

    def test_an_address_that_another_device_holds(self):
        asked = []
        site = self.site(boxed_job(2), asks=lambda device, name: asked.append(name))
        site.device("cam-2").change(interfaces=moved(site.device("cam-2"), "172.22.40.40"))
        plan = site.plan()
        first = next(one for one in plan.devices if one.device == "cam-1")
        self.assertIn("something else answers there", "".join(one.why for one in first.by_hand))
        self.assertNotIn("address", [act.kind for act in first.acts])

    def test_a_wrong_password_is_tried_once_and_nothing_is_sent(self):
        site = self.site(boxed_job(2))
        site.set()
        site.device("cam-1").set_user("installer", "Another-1")
        asked = []
        site.memory._asks = lambda device, name: asked.append(name)
        plan = site.plan()
        self.assertIn("refused the log-in", plan.devices[1].refused)
        self.assertEqual(self.set_questions(asked), [])
        self.assertEqual(plan.devices[1].acts, ())

    def test_a_locked_device_is_left_alone(self):
        site = self.site(boxed_job(1))
        site.set()
        for _ in range(5):
            site.device("cam-1").gate._counted(False)
        self.assertIn("locked itself", site.plan().devices[1].refused)

    def test_a_clock_a_year_off(self):
        site = self.site(boxed_job(1))
        site.device("cam-1").clock.set_ahead(-366 * 86_400)
        self.assertEqual(set(self.states(site.set()).values()), {"done"})
        self.assertLess(abs(site.device("cam-1").clock.ahead_s()), 5)

    def test_a_stranger_is_never_touched(self):
        site = self.site(boxed_job(2))
        stranger = site.device("cam-2")
        stranger.stand_in = stranger.stand_in._replace(serial="XX-9", interfaces=other_mac(stranger))
        plan = site.plan()
        self.assertTrue(plan.devices[2].refused)
        site.set(plan)
        self.assertFalse(stranger.is_set_up)

    def test_a_device_without_a_password_is_not_set_up(self):
        site = self.site(boxed_job(1))
        del site.passwords["cam-1"]
        self.assertIn("no password is noted", site.plan().devices[1].refused)

    def test_somebody_stops_it(self):
        site = self.site(boxed_job(2), asks=lambda device, name: None)

        def stop_at(device, name):
            if name == "SetVideoEncoderConfiguration":
                site.stop_path.touch()

        site.memory._asks = stop_at
        run = site.set()
        self.assertTrue(run.stopped)
        states = self.states(run)
        self.assertEqual(states[("cam-1", "stream profile1")], "done")
        self.assertEqual(states[("rec-1", "channel 1")], "")
        self.assertNotIn("begun", states.values())
        site.memory._asks = lambda device, name: None
        site.stop_path.unlink()
        site.set()
        self.assertEqual(self.left(site), {})

    def test_power_that_goes_at_any_setting(self):
        """Wherever it goes, what was done is told, and a second run ends as planned."""
        names = []
        dry = self.site(boxed_job(1), asks=lambda device, name: names.append((device.stand_in.id, name)))
        plan = dry.plan()
        names.clear()
        dry.set(plan)
        places = [at for at, (device, name) in enumerate(names) if device == "cam-1" and name.startswith(SETS)]
        for place in one_in(3, places):
            with self.subTest(names[place][1]):
                self.goes_dark_at(place)

    def goes_dark_at(self, place):
        site = self.site(boxed_job(1))
        plan = site.plan()
        seen = 0

        def goes_dark(device, name):
            nonlocal seen
            seen += 1
            if seen == place + 1:
                device.is_open = False
                site.loop.call_later(5.0, setattr, device, "is_open", True)

        site.memory._asks = goes_dark
        run = site.set(plan)
        self.assertTrue(run.is_over)
        self.assertNotIn("begun", self.states(run).values())
        site.memory._asks = lambda device, name: None
        site.run(sleep(30))
        site.set()
        self.assertEqual(self.left(site), {})

    def test_a_full_disk_ends_it_before_anything_more_is_sent(self):
        site = self.site(boxed_job(1))
        plan, sent = site.plan(), []
        site.memory._asks = lambda device, name: sent.append(name) if name.startswith(SETS) else None
        whole, written = Ledger.add, 0

        def full(self, line):
            nonlocal written
            written += 1
            if written > 4:
                raise FileTrouble("the disk is full")
            whole(self, line)

        Ledger.add = full
        try:
            with self.assertRaisesRegex(FileTrouble, "full"):
                site.set(plan)
        finally:
            Ledger.add = whole
        # Two acts have a beginning and an end on disk; the third could not be written, and was not sent.
        # What wants a log-in is asked twice: without it first.
        self.assertEqual(list(dict.fromkeys(sent)), ["CreateUsers", "SetSystemDateAndTime"])
        site.set()
        self.assertEqual(self.left(site), {})


class Kill(BaseException):
    """The program ends here, whatever it was about."""


class KilledAnywhere(Case):
    """A program that is killed before or after any line goes on to the end, and repeats nothing that was done."""

    def whole_length(self):
        site = self.site(boxed_job(1))
        return len(site.set().lines), Ledger.add

    def test_at_every_line(self):
        lines, add = self.whole_length()
        self.addCleanup(setattr, Ledger, "add", add)
        for at in one_in(2, range(lines)):
            for is_written in (False, True):
                with self.subTest(at, is_written=is_written):
                    self.killed_at(at, is_written, add)

    def killed_at(self, at, is_written, add):
        site = self.site(boxed_job(1))
        count = 0

        def dies(ledger, line):
            nonlocal count
            if count >= at:
                if is_written and count == at:
                    add(ledger, line)
                count += 1
                raise Kill
            count += 1
            add(ledger, line)

        Ledger.add = dies
        with self.assertRaises(Kill):
            site.set()
        Ledger.add = add
        site.abandon()
        done = {(device.device, act.key) for run in runs_in(site.ledger_path) for device, act in run.in_state("done")}
        site.run(sleep(120))
        run = site.set()
        self.assertEqual(self.left(site), {})
        self.assertEqual(done & {(line.device, line.act) for line in run.lines}, set())
        self.assertEqual(len(site.device("rec-1").channels), 1)


class ByChance(unittest.TestCase):
    def test_small_sites_with_one_fault_each(self):
        _, wrong = run_many(range(repeats(24, 120)))
        self.assertEqual(wrong, [])


class OnDisk(Case):
    def test_a_run_that_was_cut_off_says_where_a_device_may_be(self):
        site = self.site(boxed_job(1))
        run = site.set()
        lines = site.ledger_path.read_text("utf-8").splitlines()
        at = next(at for at, line in enumerate(lines) if '"act":"address eth0"' in line and "cam-1" in line)
        site.ledger_path.write_text("\n".join(lines[: at + 1]) + '\n{"line":{"at":"2026-', "utf-8")

        cut = runs_in(site.ledger_path)[-1]
        self.assertFalse(cut.is_over)
        self.assertEqual(len(run.lines), len(lines) - 2)
        self.assertEqual(
            [(device.device, act.key) for device, act in cut.in_state("begun")], [("cam-1", "address eth0")]
        )
        self.assertIn(f"it may be at {FIRST} or 172.22.40.40", cut_off_words(cut)[0])
        self.assertIn("It was cut off", outcome_words(cut))
        ledger = Ledger(site.ledger_path)
        ledger.begin(cut.head)
        ledger.close()
        self.assertEqual(len(runs_in(site.ledger_path)), 2)

    def test_two_runs_on_one_job_do_not_go_side_by_side(self):
        site = self.site(boxed_job(1))
        ledger = Ledger(site.ledger_path)
        self.addCleanup(ledger.close)
        with self.assertRaisesRegex(FileTrouble, "another run"):
            Ledger(site.ledger_path)


async def sleep(seconds):
    """Let so much time go by."""

    await asyncio.sleep(seconds)


async def first_user(device, password):
    """Give a device its first user."""
    device.set_user("installer", password)


def moved(device, address):
    """Its interfaces with another address."""

    first, *rest = device.stand_in.interfaces
    return (first._replace(address=address_number(address)), *rest)


def other_mac(device):
    """Its interfaces with another MAC address."""
    first, *rest = device.stand_in.interfaces
    return (first._replace(mac_address="02:99:00:00:00:01"), *rest)
