"""The job file: there and back, one line a device, nothing lost whatever happens on the way."""

import errno
import fcntl
import json
import os
import random
import threading
import unittest
from pathlib import Path
from unittest import mock

from eager_lens.core.errors import ChangedOnDisk, DamagedFile, FileTrouble, RefusedInput
from eager_lens.core.files import previous_version
from eager_lens.core.job import file as job_file
from eager_lens.core.job.edits import set_fields
from eager_lens.core.job.file import (
    job_from_text,
    job_schema,
    job_text,
    read_job,
    write_job,
    write_whole,
)
from eager_lens.core.job.kept_figures import KeptFigures
from eager_lens.core.job.migrations import VERSION, migrated
from tests.support import DEMO_PATH, FolderCase, camera, demo_job, job_with, repeats


class Text(unittest.TestCase):
    def test_there_and_back(self):
        for name, job in (("empty", job_with()), ("demo", demo_job())):
            with self.subTest(name):
                self.assertEqual(job_from_text(job_text(job)), job)

    def test_the_demo_ships_in_the_form_that_is_written(self):
        written = "write it anew: PYTHONPATH=src .venv/bin/python -m tools.demo_file"
        self.assertEqual(DEMO_PATH.read_text("utf-8"), job_text(demo_job()), written)

    def test_one_line_a_device_so_that_a_change_is_one_line(self):
        before = demo_job()
        after = set_fields(["cam-7"], "x", fps=3).apply(before)
        pairs = zip(job_text(before).splitlines(), job_text(after).splitlines(), strict=True)
        self.assertEqual(sum(one != other for one, other in pairs), 1)

    def test_letters_stay_letters(self):
        self.assertIn("Größe – ✓", job_text(job_with([camera(1, name="Größe – ✓")])))

    def test_what_a_hand_can_spoil_is_named_by_its_path(self):
        document = json.loads(job_text(demo_job()))
        for path, change in (
            ("cameras[3].fps", lambda d: d["cameras"][3].update(fps=0)),
            ("retention.least_days", lambda d: d["retention"].update(least_days=-31)),
            ("cameras[0].address", lambda d: d["cameras"][0].update(address="300.1.1.1")),
            ("cameras[0].address", lambda d: d["cameras"][0].update(address="172.22.040.9")),
            ("cameras[2].colour", lambda d: d["cameras"][2].update(colour="red")),
            (
                "schedules[1].plan.tue[0]",
                lambda d: d["schedules"][1]["plan"].update(tue=[["22:00", "06:00", "continuous"]]),
            ),
            ("subnets[0].cidr", lambda d: d["subnets"][0].update(cidr="172.22.40.0/99")),
            ("cameras[5].name", lambda d: d["cameras"][5].pop("name")),
            ("cameras", lambda d: d.update(cameras={})),
            ("recorders[0].drives", lambda d: d["recorders"][0].update(drives=2.5)),
        ):
            spoiled = json.loads(json.dumps(document))
            change(spoiled)
            with self.subTest(path), self.assertRaises(RefusedInput) as caught:
                job_from_text(json.dumps(spoiled))
            self.assertTrue(str(caught.exception).startswith(path), str(caught.exception))

    def test_foreign_and_future_files(self):
        for text, named in (
            ("{}", "format"),
            ("[]", "format"),
            ('{"format": "something-else", "version": 1}', "format"),
            ('{"format": "eager-lens-job"}', "version"),
            ('{"format": "eager-lens-job", "version": "1"}', "version"),
            ('{"format": "eager-lens-job", "version": true}', "version"),
            ('{"format": "eager-lens-job", "version": 99}', "newer"),
            ("", "line 1"),
        ):
            with self.subTest(text), self.assertRaises(RefusedInput) as caught:
                job_from_text(text)
            self.assertIn(named, str(caught.exception))

    def test_the_schema_describes_the_file(self):
        schema = job_schema()
        document = json.loads(job_text(demo_job(), figures=KeptFigures(model=1)))
        self.assertEqual(set(document), set(schema["properties"]))
        self.assertIs(schema["additionalProperties"], False)
        self.assertEqual(set(document["cameras"][0]), set(schema["$defs"]["Camera"]["properties"]))


class Migrations(unittest.TestCase):
    def test_steps_are_taken_one_after_the_other(self):
        steps = {1: lambda d: {**d, "keep": d["days"]}, 2: lambda d: {"retention": {"least_days": d["keep"]}}}
        self.assertEqual(migrated({"days": 31}, 1, 3, steps), {"retention": {"least_days": 31}})
        self.assertEqual(migrated({"keep": 7, "days": 1}, 2, 3, steps), {"retention": {"least_days": 7}})

    def test_an_older_file_is_brought_up_to_date_on_opening(self):
        """A made-up older version, in which the days stood by themselves, read through the real opening path."""
        old = json.loads(job_text(job_with()))
        old["days"] = old.pop("retention")["least_days"]
        step = {
            VERSION: lambda d: {**{k: v for k, v in d.items() if k != "days"}, "retention": {"least_days": d["days"]}}
        }
        with mock.patch.object(job_file, "VERSION", VERSION + 1), mock.patch.object(job_file, "STEPS", step):
            self.assertEqual(job_from_text(json.dumps(old)), job_with())


class Saving(FolderCase):
    def setUp(self):
        super().setUp()
        self.path = self.folder / "job.lens.json"
        self.job = job_with([camera(1)])

    def leftovers(self):
        return sorted(path.name for path in self.folder.iterdir())

    def test_the_previous_version_is_kept(self):
        stamp = write_job(self.path, self.job, None)
        self.assertEqual(self.leftovers(), ["job.lens.json"])
        after = set_fields(["cam-1"], "x", fps=3).apply(self.job)
        write_job(self.path, after, stamp)
        self.assertEqual(read_job(self.path)[0], after)
        self.assertEqual(read_job(previous_version(self.path))[0], self.job)

    def test_a_file_that_someone_else_wrote_is_not_written_over(self):
        stamp = write_job(self.path, self.job, None)
        self.path.write_text(job_text(job_with(name="Theirs")), "utf-8")
        with self.assertRaises(ChangedOnDisk):
            write_job(self.path, self.job, stamp)
        self.assertEqual(read_job(self.path)[0].name, "Theirs")
        write_job(self.path, self.job, stamp, force=True)
        self.assertEqual(read_job(previous_version(self.path))[0].name, "Theirs")

    def test_two_windows_that_save_in_one_moment(self):
        """Both read the same state before; one of them is told that the other was there first."""
        for turn in range(20):
            stamp = write_job(self.path, self.job, None, force=True)
            start, outcomes = threading.Barrier(2), []

            def save(name, start=start, stamp=stamp, outcomes=outcomes):
                start.wait()
                try:
                    write_job(self.path, job_with([camera(1)], name=name), stamp)
                    outcomes.append(name)
                except ChangedOnDisk:
                    outcomes.append("")

            both = [threading.Thread(target=save, args=(f"{name} {turn}",)) for name in ("A", "B")]
            for one in both:
                one.start()
            for one in both:
                one.join()
            (saved,) = [name for name in outcomes if name]
            self.assertEqual((len(outcomes), read_job(self.path).job.name), (2, saved))

    def test_a_folder_that_another_program_keeps_locked(self):
        folder = os.open(self.folder, os.O_RDONLY)
        self.addCleanup(os.close, folder)
        fcntl.flock(folder, fcntl.LOCK_EX)
        with (
            mock.patch.object(job_file, "SAVE_WAIT_S", 0.05),
            self.assertRaisesRegex(FileTrouble, "another program keeps it locked"),
        ):
            write_job(self.path, self.job, None)

    def test_a_name_that_leaves_no_room_for_its_neighbours_is_refused_in_a_sentence(self):
        path = self.folder / ("x" * 238 + ".lens.json")
        for act in (lambda: write_job(path, self.job, None), lambda: read_job(path)):
            with self.assertRaisesRegex(FileTrouble, "has 248 bytes"):
                act()

    def test_a_rehearsal_at_no_time_at_all_is_refused_with_where(self):
        for begins in ("2026-99-99T99:99", "9999-12-31T23:59", "0000-00-00T00:00"):
            document = json.loads(job_text(self.job))
            document["rehearsal"] = {"begins": begins}
            self.path.write_text(json.dumps(document), "utf-8")
            with self.assertRaisesRegex(DamagedFile, "rehearsal.begins"):
                read_job(self.path)

    def test_a_file_that_appeared_meanwhile_is_not_written_over(self):
        self.path.write_text("something of theirs", "utf-8")
        with self.assertRaises(ChangedOnDisk):
            write_job(self.path, self.job, None)
        self.assertEqual(self.path.read_text("utf-8"), "something of theirs")

    def test_a_full_disk_at_any_moment_leaves_the_old_file_whole(self):
        stamp = write_job(self.path, self.job, None)
        after = set_fields(["cam-1"], "x", fps=3).apply(self.job)
        full = OSError(errno.ENOSPC, "No space left on device")
        for step in ("os.fsync", "pathlib.Path.replace", "os.link"):
            with self.subTest(step), mock.patch(step, side_effect=full), self.assertRaises(FileTrouble) as caught:
                write_job(self.path, after, stamp)
            self.assertIn("disk is full", str(caught.exception))
            self.assertEqual(read_job(self.path)[0], self.job)
            self.assertFalse([name for name in self.leftovers() if name.endswith(".part")])

    def test_a_folder_that_cannot_be_written(self):
        for target, words in (
            (self.folder / "nowhere" / "job.lens.json", "no such file or folder"),
            (self.folder, "Saving"),
        ):
            with self.subTest(str(target)), self.assertRaises(FileTrouble) as caught:
                write_job(target, self.job, None)
            self.assertIn(words, str(caught.exception))

    def test_no_right_to_write(self):
        denied = OSError(errno.EACCES, "Permission denied")
        with mock.patch("os.open", side_effect=denied), self.assertRaises(FileTrouble) as caught:
            write_job(self.path, self.job, None)
        self.assertIn("select another folder", str(caught.exception))

    def test_the_rights_of_the_file_are_kept(self):
        stamp = write_job(self.path, self.job, None)
        self.path.chmod(0o600)
        write_job(self.path, self.job, stamp)
        self.assertEqual(self.path.stat().st_mode & 0o777, 0o600)

    def test_a_write_that_dies_half_way_leaves_no_half_file(self):
        write_whole(self.path, b"old")
        with mock.patch("os.fsync", side_effect=KeyboardInterrupt), self.assertRaises(KeyboardInterrupt):
            write_whole(self.path, b"new")
        self.assertEqual(self.path.read_bytes(), b"old")
        self.assertEqual(self.leftovers(), ["job.lens.json"])


class Opening(FolderCase):
    def test_damage_is_told_in_one_sentence_and_left_as_it_is(self):
        whole = job_text(demo_job()).encode("utf-8")
        for name, data in (
            ("cut off", whole[: len(whole) // 2]),
            ("empty", b""),
            ("not text", b"\x89PNG\r\n\x1a\n" + os.urandom(200)),
            ("another encoding", whole.decode("utf-8").encode("utf-16")),
        ):
            path = self.folder / f"{name}.lens.json"
            path.write_bytes(data)
            with self.subTest(name), self.assertRaises(DamagedFile) as caught:
                read_job(path)
            self.assertIn("left as it", str(caught.exception))
            self.assertEqual(path.read_bytes(), data)

    def test_the_way_back_is_pointed_out(self):
        path = self.folder / "job.lens.json"
        path.write_bytes(b"{")
        previous_version(path).write_text(job_text(job_with()), "utf-8")
        with self.assertRaises(DamagedFile) as caught:
            read_job(path)
        self.assertIn("job.lens.json.previous", str(caught.exception))

    def test_no_such_file(self):
        with self.assertRaises(FileTrouble) as caught:
            read_job(Path("/nowhere/at/all.lens.json"))
        self.assertIn("check the name", str(caught.exception))

    def test_three_thousand_mangled_files(self):
        """Whatever is done to the bytes: either a job comes out, or one refusal; nothing else is ever raised."""
        source = random.Random(7)
        whole = job_text(demo_job()).encode("utf-8")
        start = whole.index(b'"cameras"')
        seed = whole[: start + 2500] + b"]}"
        opened = 0
        for number in range(repeats(600, 3000)):
            data = bytearray(seed if number % 2 else job_text(job_with([camera(1)])).encode("utf-8"))
            for _ in range(source.randint(1, 4)):
                at = source.randrange(len(data))
                kind = source.randrange(4)
                if kind == 0:
                    data[at] = source.randrange(256)
                elif kind == 1:
                    del data[at : at + source.randint(1, 40)]
                elif kind == 2:
                    data[at:at] = source.choice([b"1e999", b"-1", b"null", b'"', b"[[[[", b"}", b"\xff\xfe", b"NaN"])
                else:
                    other = source.randrange(len(data))
                    data[at : at + 12] = data[other : other + 12]
            try:
                job_from_text(data.decode("utf-8"))
                opened += 1
            except (RefusedInput, UnicodeDecodeError):
                pass
        self.assertLess(opened, 3000)


if __name__ == "__main__":
    unittest.main()
