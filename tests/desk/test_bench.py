"""The bench in the real window: a whole commissioning, faults off the plan, taking back, ticks, makes."""

import unittest
from unittest import mock

from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from eager_lens.core.job.edits import remove_devices, set_fields
from eager_lens.core.job.model import EMPTY_JOB
from eager_lens.core.job.rehearsal import Rehearsal
from eager_lens.core.runbook.timing import duration_s
from eager_lens.desk.pages.bench.commissioning.view import minutes
from eager_lens.desk.pages.bench.makes.view import in_words
from eager_lens.desk.pages.bench.page import MAKES, PLAN, REHEARSAL
from tests.core.simulation.base import bench_job
from tests.desk.base import WindowCase
from tests.support import demo_job


class BenchCase(WindowCase):
    def open_bench(self, job=None, view=REHEARSAL):
        self.page = self.open_demo("bench") if job is None else self.open_job(job, "bench")
        self.page.show_view(PLAN)
        self.wait_for_work()
        self.page.show_view(view)
        QApplication.processEvents()
        self.plan, self.view = self.page.plan, self.page.rehearsal
        return self.page

    def begin(self, job=None):
        self.open_bench(job)
        self.press(self.page, "Start a rehearsal")
        self.wait_for_work()
        return self.site()

    def site(self):
        return self.view.rehearser.site

    def receiving(self):
        return {
            entry.from_unit
            for recorder in self.site().recorders()
            for entry in recorder.entries.values()
            if entry.shown == "receiving"
        }

    def menu_action(self, words):
        action = next(one for one in self.view._back.menu().actions() if one.text().startswith(words))
        action.trigger()
        QApplication.processEvents()

    def select(self, unit_id):
        self.view.shelf.lead_to(unit_id)
        QApplication.processEvents()

    def hand(self, action, **values):
        """Select an action in the list, type its values, press Do it."""
        self.view.hand.select(action)
        for name, text in values.items():
            field = self.view.hand.fields[name]
            if hasattr(field, "findData"):
                field.setCurrentIndex(field.findData(text))
            else:
                field.clear()
                QTest.keyClicks(field, text)
        self.press(self.page, "Do action")
        return self.view.hand.outcome.text()


class ByThePlan(BenchCase):
    def test_a_newcomer_brings_a_site_up_step_by_step(self):
        few = [f"cam-{n}" for n in range(1, 37) if n % 3]
        self.begin(remove_devices(few, "Leave a third of the cameras").apply(demo_job()))
        for _ in range(3 * len(self.plan.placed)):
            shown = self.view._plan_words.text()
            if "are done" in shown:
                break
            self.click(self.view._plan_do)
        self.assertEqual(self.view._plan_words.text(), f"All {len(self.plan.placed)} steps of the plan are done.")
        self.assertEqual(len(self.receiving()), 9)
        self.assertEqual([line.words for line in self.site().log_lines if line.weight == "lesson"], [])
        self.assertIn("9 of 9 receiving", self.view._list_tabs[1].text())

    def test_played_by_itself_and_kept_in_the_job(self):
        self.open_bench(view=PLAN)
        self.press(self.page, "Play on")
        self.wait_for_work()
        self.assertEqual(len(self.receiving()), 30)
        self.assertIn("30 channels receiving", self.last_notice())
        played = self.session.job.rehearsal
        path = self.folder / "played.lens.json"
        self.session.save_as(path)
        self.session.open(path)
        self.window.go("bench")
        self.wait_for_work()
        self.assertEqual(self.session.job.rehearsal, played)
        self.assertEqual(len(self.receiving()), 30, "what was saved comes out the same again")

    def test_undo_takes_the_whole_playing_back(self):
        self.open_bench(view=PLAN)
        self.press(self.page, "Play on")
        self.wait_for_work()
        self.shortcut(Qt.Key.Key_Z)
        self.assertIsNone(self.session.job.rehearsal)
        self.assertIsNone(self.site())


class ByHand(BenchCase):
    def up_to_cameras(self):
        self.begin(bench_job(cameras=3))
        for unit_id in ("rec-1", "net-1", "net-9"):
            self.select(unit_id)
            self.hand("power on")
        for _ in range(3):
            self.press(self.page, "+1 min")
        self.select("rec-1")
        self.assertIn("is set up", self.hand("set up"))
        self.select("laptop")
        self.hand("laptop address", address="172.22.40.250/24")
        self.hand("laptop address", address="172.29.0.2/24")

    def test_a_whole_camera_by_mouse(self):
        self.up_to_cameras()
        self.select("cam-1")
        self.assertEqual(self.view.hand.kind.name, "plug", "what a dark camera wants first is offered first")
        self.hand("plug")
        self.press(self.page, "+1 min")
        self.press(self.page, "Search now")
        self.assertEqual(self.view.found.records.rowCount(), 2)
        self.hand("set up")
        self.assertEqual(self.view.hand.kind.name, "address")
        self.assertEqual(self.view.hand.fields["address"].text(), "172.22.40.40/24", "the plan's own value is proposed")
        self.hand("address")
        self.select("rec-1")
        self.hand("add")
        self.press(self.page, "Refresh")
        self.assertEqual(self.receiving(), {"cam-1"})
        self.assertIn("1 of 1 receiving", self.view._list_tabs[1].text())

    def test_two_at_once_is_the_taught_fault_and_can_be_taken_back(self):
        self.up_to_cameras()
        for unit_id in ("cam-1", "cam-2"):
            self.select(unit_id)
            self.hand("plug")
        self.press(self.page, "+1 min")
        self.press(self.page, "+1 min")
        self.press(self.page, "Search now")
        twins = [row for row in range(self.view.found.records.rowCount()) if self.view.found.records.at(row).twins]
        self.assertEqual(len(twins), 2)
        self.select("cam-1")
        words = self.hand("set up")
        self.select("cam-2")
        words += self.hand("set up")
        self.assertIn("answered at 172.29.0.8 instead of", words)
        for _ in range(4):
            self.press(self.page, "Undo action")
            self.wait_for_work()
        self.assertFalse(self.site().units["cam-2"].is_lit)
        self.assertTrue(self.site().units["cam-1"].is_lit)

    def test_back_to_a_line_of_the_tape(self):
        self.up_to_cameras()
        row = next(
            row
            for row in range(self.view.log_table.records.rowCount())
            if self.view.log_table.records.at(row).line.words == "Recorder 1 is ready"
        )
        self.view.log_table.selectRow(row)
        self.menu_action("Back to the selected line")
        self.wait_for_work()
        self.assertFalse(self.site().units["rec-1"].access.is_set_up)
        self.shortcut(Qt.Key.Key_Z)
        self.wait_for_work()
        self.assertTrue(self.site().units["rec-1"].access.is_set_up, "even that can be undone")

    def test_nonsense_is_told_and_nothing_is_remembered(self):
        self.up_to_cameras()
        before = self.session.job.rehearsal
        self.select("laptop")
        self.hand("ping", address="somewhere")
        self.assertIn("is not an IPv4 address", self.last_notice())
        self.assertIs(self.session.job.rehearsal, before)

    def test_by_keyboard_alone(self):
        self.begin(bench_job(cameras=1))
        self.view.shelf.setFocus()
        self.select("rec-1")
        self.view.hand.act_menu.setFocus()
        self.key(self.view.hand.act_menu, Qt.Key.Key_Tab)
        self.assertIs(self.window.focusWidget(), self.view.hand.go)
        self.key(self.view.hand.go, Qt.Key.Key_Space)
        self.assertTrue(self.site().units["rec-1"].is_lit)
        self.select("laptop")
        self.view.hand.select("laptop address")
        field = self.view.hand.fields["address"]
        field.setFocus()
        field.clear()
        QTest.keyClicks(field, "172.22.40.251/24")
        self.key(field, Qt.Key.Key_Return)
        self.assertEqual(len([side for side in self.site().laptop.sides if side.address]), 1)

    def test_a_line_of_the_search_list_leads_to_its_device(self):
        self.up_to_cameras()
        self.select("cam-1")
        self.hand("plug")
        self.press(self.page, "+1 min")
        self.press(self.page, "Search now")
        self.select("laptop")
        row = next(r for r in range(2) if self.view.found.records.at(r).id == "cam-1")
        self.view.found.selectRow(row)
        self.assertEqual(self.view.selected_unit().id, "cam-1")


class TheClock(BenchCase):
    def test_it_runs_at_its_speed_and_stops_out_of_sight(self):
        self.begin(bench_job(cameras=1))
        rehearser = self.view.rehearser
        self.view._speed.setCurrentIndex(2)
        with mock.patch(
            "eager_lens.desk.pages.bench.rehearsal.rehearser.time.monotonic", side_effect=[100.0, 100.5, 101.0]
        ):
            rehearser.run()
            rehearser._tick()
            rehearser._tick()
        self.assertAlmostEqual(self.site().now_s, 60.0)
        self.assertTrue(rehearser.is_running)
        self.window.go("schedule")
        self.assertFalse(rehearser.is_running)
        self.assertAlmostEqual(self.session.job.rehearsal.now_s, self.site().now_s)

    def test_to_the_next_event(self):
        self.begin(bench_job(cameras=1))
        self.select("net-1")
        self.hand("power on")
        self.press(self.page, "Next event")
        self.assertAlmostEqual(self.site().now_s, 25.0)
        self.assertEqual(self.site().log_lines[-1].words, "Switch 1 is ready")

    def test_a_day_and_warmth_of_ones_own_and_nonsense_is_told(self):
        self.open_bench(bench_job(cameras=1))
        self.view.begins.setText("2026-03-28T22:00")
        self.view.warmth.setText("31")
        self.press(self.page, "Start a rehearsal")
        self.wait_for_work()
        self.assertEqual(f"{self.site().local():%d %b %H:%M}", "28 Mar 22:00")
        self.assertEqual(self.session.job.rehearsal.ambient_c, 31)
        self.menu_action("Start over")
        for text in ("tomorrow", "2026-13-45T10:00"):
            self.view.begins.setText(text)
            self.press(self.page, "Start a rehearsal")
            self.assertIn("cannot start", self.last_notice())
            self.assertIsNone(self.session.job.rehearsal)


class AJobThatChanges(BenchCase):
    def test_a_renamed_camera_is_renamed_on_the_shelf_and_nothing_is_lost(self):
        self.begin(bench_job(cameras=2))
        self.select("rec-1")
        self.hand("power on")
        self.session.apply(set_fields(["cam-1"], "Rename", name="Kiosk till"))
        self.wait_for_work()
        self.assertEqual(self.site().units["cam-1"].name, "Kiosk till")
        self.assertTrue(self.site().units["rec-1"].is_lit)

    def test_a_device_taken_out_of_the_job_is_told_and_its_deeds_are_kept(self):
        self.begin(bench_job(cameras=2))
        self.select("cam-2")
        self.hand("plug")
        self.session.apply(remove_devices(["cam-2"], "Remove"))
        self.wait_for_work()
        self.assertIn("The job has changed since", self.last_notice())
        self.assertEqual(len(self.session.job.rehearsal.actions), 1)
        self.shortcut(Qt.Key.Key_Z)
        self.wait_for_work()
        self.assertTrue(self.site().cables["link-2"].plugged)

    def test_an_empty_job_says_what_to_do(self):
        self.open_bench(EMPTY_JOB)
        self.assertIn("Add recorders and cameras on the Wiring page", self.view.empty.text())
        self.page.show_view(PLAN)
        self.wait_for_work()
        self.assertEqual(self.plan._words.text(), "Nothing to commission yet")

    def test_half_a_thousand_cameras_have_a_plan_and_a_shelf(self):
        from tools.perf.benchmarks import job_of

        self.begin(job_of(500, 24))
        self.assertGreater(self.view.shelf.records.rowCount(), 500)
        self.assertGreater(len(self.plan.placed), 2000)


class ThePlan(BenchCase):
    def setUp(self):
        super().setUp()
        self.open_bench(view=PLAN)

    def test_one_person_and_two(self):
        alone, two = (duration_s(placed) for placed in self.plan.made.by_hand)
        words = f"186 steps, 0 ticked: {minutes(alone)} h alone, {minutes(two)} h for two"
        self.assertEqual(self.plan._words.text(), words)
        self.assertLess(two, alone)
        self.press(self.page, "Two people")
        self.assertEqual({one.person for one in self.plan.placed}, {0, 1})

    def test_ticks_are_kept_undone_and_lead_on(self):
        first = self.plan.table.selected_parts()[0].id
        self.press(self.page, "Done")
        self.assertEqual([tick.step for tick in self.session.job.commissioning], [first])
        self.assertNotEqual(self.plan.table.selected_parts()[0].id, first)
        self.press(self.page, "Skipped")
        self.assertEqual(self.session.job.commissioning[1].outcome, "skipped")
        self.plan.table.lead_to(first)
        self.press(self.page, "Untick")
        self.assertEqual([tick.outcome for tick in self.session.job.commissioning], ["skipped"])
        self.shortcut(Qt.Key.Key_Z)
        self.assertEqual(len(self.session.job.commissioning), 2)

    def test_the_chart_and_the_list_choose_the_same_step(self):
        chart = self.plan.chart
        bar = next(bar for bar in chart._bars if bar.id == "rec-1/set-up")
        self.click(chart, (round(chart._block(bar).center().x()), round(chart._block(bar).center().y())))
        self.assertEqual(self.plan.table.selected_parts()[0].id, "rec-1/set-up")
        self.assertIn("172.22.40.20", self.plan._step_type.text())
        chart.setFocus()
        self.key(chart, Qt.Key.Key_Right)
        self.assertNotEqual(self.plan.table.selected_parts()[0].id, "rec-1/set-up")
        self.assertIsNone(chart.bar_at(QPoint(0, 0)))

    def test_what_cannot_come_up_leads_to_the_device(self):
        self.press(self.page, "Not possible as planned 7")
        row = next(
            row for row in range(7) if "the voltage at the camera is too low" in self.plan.blocked.records.at(row).why
        )
        self.plan._to_finding(row)
        self.assertEqual(self.window.stage, "wiring")

    def test_a_typed_result_is_compared_and_taken_over(self):
        self.plan.table.lead_to("cam-1/set-up")
        self.plan.found.setText("172.22.40.77 02:5b:1e:00:00:40 QU-3100")
        self.key(self.plan.found, Qt.Key.Key_Return)
        self.assertIn("Hall doors east: elsewhere. Planned at 172.22.40.40", self.plan._found_words.text())
        self.press(self.page, "Apply")
        self.assertEqual(self.session.job.cameras[0].address, "172.22.40.77")
        self.session.undo()
        self.plan.found.setText("02:5b:1e:00:00:41 172.22.40.41")
        self.key(self.plan.found, Qt.Key.Key_Return)
        self.assertIn("not the device of the selected step", self.last_notice())
        self.plan.found.setText("hello")
        self.key(self.plan.found, Qt.Key.Key_Return)
        self.assertTrue(self.notices[-1].needs)


class PastedResults(BenchCase):
    def test_a_pasted_list_is_compared_as_a_whole_and_taken_over(self):
        self.open_bench(view=PLAN)
        self.clipboard(
            "02:5b:1e:00:00:40 172.22.40.40\n02:5b:1e:00:00:41\t172.22.40.99\n02:aa:bb:cc:dd:ee 172.22.40.7\n"
        )
        self.plan.found.setFocus()
        self.key(self.plan.found, Qt.Key.Key_V, Qt.KeyboardModifier.ControlModifier)
        words = self.plan._found_words.text()
        for part in ("3 answers", "1 as planned", "1 elsewhere", "1 stranger"):
            self.assertIn(part, words)
        self.press(self.page, "Apply")
        self.assertEqual(self.session.job.cameras[1].address, "172.22.40.99")
        self.assertEqual(self.plan.found.text(), "")

    def test_a_list_of_another_job_is_refused(self):
        self.open_bench(view=PLAN)
        before = self.session.job
        self.clipboard("02:aa:00:00:00:01 10.1.1.1\n02:aa:00:00:00:02 10.1.1.2\n")
        self.plan.found.setFocus()
        self.key(self.plan.found, Qt.Key.Key_V, Qt.KeyboardModifier.ControlModifier)
        self.assertTrue(self.notices[-1].needs)
        self.assertIs(self.session.job, before)


class Makes(BenchCase):
    def test_a_habit_is_typed_and_the_plan_follows(self):
        self.open_bench(view=MAKES)
        table = self.page.makes.table
        before = self.plan._words.text()
        self.put_cell(table, self.row_named(table, "Quillmark"), "takes_lease", "yes")
        self.assertTrue(self.session.job.make_profiles[0].takes_lease)
        self.page.show_view(PLAN)
        self.wait_for_work()
        self.assertNotEqual(self.plan._words.text(), before)

    def test_nonsense_and_the_line_of_all_others_are_refused(self):
        self.open_bench(view=MAKES)
        table, before = self.page.makes.table, self.session.job
        self.put_cell(table, 0, "first_address", "172.29.0.900")
        self.assertIn("is not an IPv4 address", self.last_notice())
        self.put_cell(table, 0, "start_s", "soon")
        self.put_cell(table, self.row_named(table, "all others"), "start_s", "5")
        self.assertIn("add a make first", self.last_notice())
        self.assertIs(self.session.job, before)

    def test_makes_are_added_described_in_words_and_taken_out(self):
        self.open_bench(bench_job(make_profiles=()), view=MAKES)
        self.assertIn("Quillmark", self.page.makes._missing.text())
        self.press(self.page, "Add the makes")
        self.assertEqual([one.make for one in self.session.job.make_profiles], ["Quillmark"])
        self.assertIn(
            "has the default address 172.30.0.50/24; since all have the same",
            in_words(self.session.job.make_profiles[0]),
        )
        self.page.makes.table.selectRow(0)
        self.press(self.page, "Remove selected")
        self.assertEqual(self.session.job.make_profiles, ())

    def test_the_time_zone_of_the_site(self):
        self.open_bench(view=MAKES)
        zone = self.page.makes.zone
        zone.setText("Europe/Lisbon")
        self.key(zone, Qt.Key.Key_Return)
        self.assertEqual(self.session.job.time_zone, "Europe/Lisbon")
        zone.setText("Lisbon")
        self.key(zone, Qt.Key.Key_Return)
        self.assertIn("did you mean Europe/Lisbon", self.last_notice())
        self.assertEqual(zone.text(), "Europe/Lisbon")

    def test_the_time_server_of_the_site(self):
        self.open_bench(view=MAKES)
        server = self.page.makes.server
        server.setText("time.example")
        self.key(server, Qt.Key.Key_Return)
        self.assertEqual(self.session.job.time_server, "time.example")
        self.session.undo()
        self.assertEqual((self.session.job.time_server, server.text()), ("", ""))


class Secrets(BenchCase):
    def test_a_rehearsal_holds_stand_ins_only(self):
        self.open_bench(view=PLAN)
        self.press(self.page, "Play on")
        self.wait_for_work()
        said = {
            action.values[key]
            for action in self.session.job.rehearsal.actions
            for key in ("new", "password")
            if key in action.values
        }
        self.assertEqual(said, {"own"})
        self.assertIsInstance(self.session.job.rehearsal, Rehearsal)


if __name__ == "__main__":
    unittest.main()
