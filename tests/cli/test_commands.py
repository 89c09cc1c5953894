"""The command line as a script sees it: output, exit status, and one sentence for bad input."""

import contextlib
import io
import json
import os
import subprocess
import sys
import unittest
from pathlib import Path
from unittest import mock

from eager_lens.core.job.file import job_text, read_job
from eager_lens.main import main
from tests.support import DEMO_PATH, FolderCase, camera, job_with

ROOT = Path(__file__).parents[2]


def run(*words, given=""):
    out, err = io.StringIO(), io.StringIO()
    with (
        contextlib.redirect_stdout(out),
        contextlib.redirect_stderr(err),
        mock.patch("sys.stdin", io.TextIOWrapper(io.BytesIO(given if isinstance(given, bytes) else given.encode()))),
    ):
        try:
            status = main([str(word) for word in words])
        except SystemExit as end:
            status = end.code
    return status, out.getvalue(), err.getvalue()


class Terminals(FolderCase):
    """A terminal that knows few letters is no reason to fail, and JSON stays JSON."""

    def test_letters_that_an_output_cannot_hold(self):
        path = self.folder / "job.lens.json"
        path.write_text(job_text(job_with([camera(1, name="Tür → 門 \N{GRINNING FACE}")])), "utf-8")
        for encoding in ("latin-1", "ascii"):
            environment = {**os.environ, "PYTHONPATH": str(ROOT / "src"), "PYTHONIOENCODING": encoding}
            for words in (("assess", str(path)), ("assess", str(path), "--json"), ("assess", "Tür 門.json")):
                command = [sys.executable, "-m", "eager_lens", *words]
                done = subprocess.run(command, capture_output=True, env=environment, check=False)
                with self.subTest(encoding=encoding, words=words):
                    self.assertNotIn(b"Traceback", done.stderr)
                    self.assertIn(done.returncode, (0, 1, 2))
                    if words[-1] == "--json":
                        found = json.dumps(json.loads(done.stdout.decode(encoding)), ensure_ascii=False)
                        self.assertIn("Tür → 門 \N{GRINNING FACE}", found)


class Calc(unittest.TestCase):
    def test_an_object_in_an_object_out(self):
        status, out, err = run("calc", "disk-space", "--json", given='{"rate_mbps": 1, "days": 1}')
        self.assertEqual((status, json.loads(out), err), (0, {"gb": 10.8}, ""))
        self.assertEqual(len(out.splitlines()), 1)

    def test_bad_input_is_one_sentence_and_nothing_else(self):
        for given in ("", "{", "[]", '{"rate_mbps": -1, "days": 1}', '{"rate_mbps": NaN, "days": 1}', '{"days": 1}'):
            with self.subTest(given):
                status, out, err = run("calc", "disk-space", given=given)
                self.assertEqual((status, out), (2, ""))
                self.assertEqual(len(err.splitlines()), 1)
                self.assertNotIn("Traceback", err)

    def test_what_no_file_can_hold_is_refused_by_its_field(self):
        for given, words in (
            (b'{"rate_mbps": 1, "\xff": 1}', "not UTF-8"),
            (b'{"role": "x\\ud800"}', "role: the text contains U+D800"),
            (b'{"a\\u0000b": 1}', "U+0000"),
        ):
            with self.subTest(given):
                status, out, err = run("calc", "disk-space", given=given)
                self.assertEqual((status, out, len(err.splitlines())), (2, "", 1))
                self.assertIn(words, err)

    def test_a_message_repeats_little_of_what_was_given(self):
        for given in (
            json.dumps({"x" * 100_000: 1}),
            json.dumps({"rate_mbps": "y" * 100_000, "days": 1}),
            "{" + ",".join(['"k": 1'] * 20_000) + "}",
        ):
            with self.subTest(given[:10]):
                _, _, err = run("calc", "disk-space", given=given)
                self.assertLess(len(err), 700)

    def test_not_a_number_is_named_by_its_field(self):
        _, _, err = run("calc", "disk-space", given='{"rate_mbps": NaN, "days": 1}')
        self.assertIn("rate_mbps: NaN was given; a finite number is needed", err)

    def test_lines_answer_one_by_one(self):
        lines = '{"rate_mbps": 1, "days": 1}\n{"rate_mbps": "1", "days": 1}\nnonsense\n{"rate_mbps": 2, "days": 1}'
        status, out, err = run("calc", "disk-space", "--lines", given=lines)
        answers = [json.loads(line) for line in out.splitlines()]
        self.assertEqual((status, err), (2, ""))
        self.assertEqual([answer.get("gb") for answer in answers], [10.8, None, None, 21.6])
        self.assertIn("rate_mbps", answers[1]["error"])
        self.assertEqual(run("calc", "disk-space", "--lines", given='{"rate_mbps": 1, "days": 1}\n')[0], 0)

    def test_list_and_schema(self):
        status, out, _ = run("calc", "--list")
        self.assertEqual(status, 0)
        for name in ("disk-space", "drive-array", "days-kept", "event-clips", "week-hours", "address-plan"):
            self.assertIn(name, out)
            schema = json.loads(run("calc", name, "--schema")[1])
            self.assertEqual(set(schema) & {"input", "output"}, {"input", "output"})

    def test_unknown_calculator(self):
        status, _, err = run("calc", "nonsense")
        self.assertEqual(status, 2)
        self.assertIn("disk-space", err)


class Assess(FolderCase):
    def test_the_demo_needs_attention(self):
        status, out, _ = run("assess", DEMO_PATH, "--json")
        report = json.loads(out)
        self.assertEqual(status, 1)
        self.assertEqual((len(report["cameras"]), len(report["recorders"])), (36, 2))
        self.assertIn("days-doubtful", [finding["code"] for finding in report["findings"]])
        self.assertEqual(report["findings"][0]["severity"], "fault")
        self.assertEqual((report["whole_job"]["cameras"], report["whole_job"]["registered"]), (36, 35))
        for days in ("promised_days", "mean_days"):
            self.assertEqual(report["whole_job"][days], min(one[days] for one in report["recorders"].values()))
        self.assertEqual(report["readout"][0]["figure"], "23")
        status, out, _ = run("assess", DEMO_PATH)
        self.assertIn("can promise 23 of 31 days", out)
        self.assertIn("40 days expected", out)

    def test_a_job_with_nothing_worse_than_a_note(self):
        path = self.folder / "fine.lens.json"
        path.write_text(job_text(job_with([camera(1)])), "utf-8")
        self.assertEqual(run("assess", path)[0], 0)

    def test_what_cannot_be_read(self):
        path = self.folder / "broken.lens.json"
        path.write_text("{", "utf-8")
        for given in (path, self.folder / "none.lens.json", self.folder):
            with self.subTest(given.name):
                status, out, err = run("assess", given)
                self.assertEqual((status, out), (2, ""))
                self.assertEqual(len(err.splitlines()), 1)


class Convert(FolderCase):
    def test_round_between_the_formats(self):
        csv, xlsx, back = self.folder / "a.csv", self.folder / "b.xlsx", self.folder / "c.lens.json"
        self.assertEqual(run("convert", DEMO_PATH, csv)[0], 0)
        self.assertEqual(run("convert", csv, xlsx)[0], 0)
        self.assertEqual(run("convert", xlsx, back)[0], 0)
        names = [c.name for c in read_job(back)[0].cameras]
        self.assertEqual(names, [c.name for c in read_job(DEMO_PATH)[0].cameras])

    def test_a_job_stays_the_same_job(self):
        target = self.folder / "same.lens.json"
        run("convert", DEMO_PATH, target)
        self.assertEqual(read_job(target).job, read_job(DEMO_PATH).job)
        again = self.folder / "again.lens.json"
        run("convert", target, again)
        self.assertEqual(again.read_bytes(), target.read_bytes())

    def test_sheets(self):
        for name, start in (("sheets.html", b"<!DOCTYPE html>"), ("sheets.pdf", b"%PDF")):
            target = self.folder / name
            self.assertEqual(run("convert", DEMO_PATH, target, "--replace")[0], 0)
            self.assertTrue(target.read_bytes().startswith(start))

    def test_rows_that_could_not_be_taken_are_told(self):
        source = self.folder / "list.csv"
        source.write_text("Name,FPS\nGate,12\nDoor,fast\n", "utf-8")
        status, _, err = run("convert", source, self.folder / "job.lens.json")
        self.assertEqual(status, 1)
        self.assertIn("Row 3, FPS", err)

    def test_one_sentence_for_each_kind_of_trouble(self):
        source = self.folder / "list.csv"
        rows = "".join(f"Camera {n},{n}.1.1.999,fast\n" for n in range(1, 9)) + "Gate,10.0.0.1,12\n"
        source.write_text("Name,IP,FPS\n" + rows, "utf-8")
        status, _, err = run("convert", source, self.folder / "job.lens.json")
        self.assertEqual((status, len(err.splitlines())), (1, 2))
        self.assertIn("Row 2, IP: '1.1.1.999' is not an IPv4 address", err)
        self.assertIn("So 7 further rows: 3, 4, 5, 6 and more.", err)

    def test_nothing_is_written_over_unasked_and_a_job_keeps_its_previous_version(self):
        target, other = self.folder / "job.lens.json", self.folder / "other.lens.json"
        target.write_text(job_text(job_with([camera(1, name="Mine")])), "utf-8")
        other.write_text(job_text(job_with([camera(1, name="Theirs")])), "utf-8")
        before = target.read_bytes()
        for out in (target, self.write("a.csv"), self.write("a.pdf"), self.write("a.html"), self.write("a.xlsx")):
            was = out.read_bytes()
            status, _, err = run("convert", other, out)
            with self.subTest(out.name):
                self.assertEqual((status, out.read_bytes()), (2, was))
                self.assertIn("use --replace", err)
        self.assertEqual(run("convert", other, target, "--replace")[0], 0)
        self.assertEqual(read_job(target).job.cameras[0].name, "Theirs")
        self.assertEqual((self.folder / "job.lens.json.previous").read_bytes(), before)
        practice = ("practice", "night-1-7", "--job", target)
        self.assertEqual(run(*practice)[0], 2)
        self.assertEqual(run(*practice, "--replace")[0], 0)

    def write(self, name):
        path = self.folder / name
        path.write_text("mine", "utf-8")
        return path

    def test_standard_input_and_output(self):
        environment = {**os.environ, "PYTHONPATH": str(ROOT / "src")}
        command = [sys.executable, "-m", "eager_lens", "convert", "-", "-"]
        there = subprocess.run(
            [*command, "--to", "csv"], input=DEMO_PATH.read_bytes(), capture_output=True, env=environment
        )
        self.assertEqual((there.returncode, there.stderr), (0, b""))
        back = subprocess.run([*command, "--to", "json"], input=there.stdout, capture_output=True, env=environment)
        self.assertEqual(back.returncode, 0)
        self.assertIn(b"allowed are none yet; the rest of the row is imported. So 35 further rows", back.stderr)
        names = [one["name"] for one in json.loads(back.stdout)["cameras"]]
        self.assertEqual(names, [one.name for one in read_job(DEMO_PATH).job.cameras])

    def test_numbers_that_can_be_read_in_two_ways_are_told(self):
        source, target = self.folder / "list.csv", self.folder / "job.lens.json"
        source.write_text("Name;Cable length\nGate;1.296\n", "utf-8")
        status, _, err = run("convert", source, target)
        self.assertEqual(status, 1)
        self.assertIn("Cable length: 1.296 is ambiguous and was read as 1.296", err)
        self.assertEqual(run("convert", source, target, "--replace", "--decimal", "comma"), (0, "", ""))
        self.assertEqual(read_job(target).job.cameras[0].cable_m, 1296)

    def test_the_list_of_a_search_tool_is_no_list_of_cameras(self):
        source = self.folder / "scan.txt"
        source.write_text("? (172.22.40.40) at 02:5b:1e:00:00:40 [ether] on eth0\n", "utf-8")
        status, _, err = run("convert", source, self.folder / "job.lens.json")
        self.assertEqual(status, 2)
        self.assertIn("Addresses, Compare a scan", err)

    def test_sheets_are_written_as_the_reader_has_numbers(self):
        target = self.folder / "sheets.html"
        self.assertEqual(run("convert", DEMO_PATH, target, "--locale", "de_AT")[0], 0)
        self.assertIn("72,2", target.read_text("utf-8"))
        self.assertIn("23 of 31 days", run("assess", DEMO_PATH, "--locale", "de_AT")[1])
        self.assertEqual(
            json.loads(run("assess", DEMO_PATH, "--json", "--locale", "de_AT")[1])["readout"][0]["figure"], "23"
        )
        status, _, err = run("assess", DEMO_PATH, "--locale", "klingon")
        self.assertEqual(status, 2)
        self.assertIn("not a known locale", err)

    def test_what_is_worse_than_a_note_ends_with_1(self):
        path = self.folder / "to-do.lens.json"
        path.write_text(job_text(job_with([camera(1, address="")])), "utf-8")
        status, out, _ = run("assess", path)
        self.assertIn("to do", out)
        self.assertEqual(status, 1)

    def test_nothing_is_written_where_something_is_wrong(self):
        good, empty = self.folder / "good.csv", self.folder / "empty.csv"
        good.write_text("Name\nGate\n", "utf-8")
        empty.write_text("Name,FPS\nGate,fast\n", "utf-8")
        for source, target, words in (
            (good, self.folder / "job.docx", "the file ending must be one of"),
            (self.folder / "list.docx", self.folder / "job.csv", "the file ending must be one of"),
            (empty, self.folder / "job.lens.json", "no camera"),
            (good, self.folder / "nowhere" / "job.lens.json", "no such file or folder"),
        ):
            with self.subTest(words):
                status, _, err = run("convert", source, target)
                self.assertEqual(status, 2)
                self.assertIn(words, err)
                self.assertFalse(target.exists())


class Others(unittest.TestCase):
    def test_the_schema_is_printed(self):
        schema = json.loads(run("schema")[1])
        self.assertEqual(schema["properties"]["format"], {"const": "eager-lens-job"})

    def test_an_unknown_command_is_refused_by_name(self):
        status, _, err = run("measure")
        self.assertEqual(status, 2)
        self.assertIn("measure", err)

    def test_no_command_loads_the_window_or_the_calculators_before_it_needs_them(self):
        code = "import sys; from eager_lens.main import _parser; _parser(); print(*sorted(sys.modules))"
        env = {"PYTHONPATH": str(ROOT / "src"), "PATH": "/usr/bin:/bin"}
        loaded = subprocess.run(
            [sys.executable, "-c", code], env=env, capture_output=True, text=True, check=True
        ).stdout
        for heavy in ("PySide6", "pydantic", "openpyxl", "reportlab", "jinja2"):
            self.assertNotIn(f" {heavy} ", f" {loaded} ")

    def test_without_a_display_the_demo_says_so_and_ends_by_itself(self):
        env = {"PYTHONPATH": str(ROOT / "src"), "PATH": "/usr/bin:/bin", "HOME": "/nonexistent"}
        command = [sys.executable, "-m", "eager_lens", "demo", "--for", "0.3", "--tell"]
        done = subprocess.run(command, env=env, capture_output=True, text=True, timeout=60, check=False)
        self.assertEqual(done.returncode, 0, done.stderr)
        self.assertIn("no display", done.stderr)
        self.assertIn("window painted", done.stdout)

    def test_a_broken_pipe_is_no_crash(self):
        env = {"PYTHONPATH": str(ROOT / "src"), "PATH": "/usr/bin:/bin"}
        command = f"{sys.executable} -m eager_lens assess {DEMO_PATH} --json | head -c 10"
        done = subprocess.run(["sh", "-c", command], env=env, capture_output=True, text=True, timeout=60, check=False)
        self.assertNotIn("Traceback", done.stderr)


if __name__ == "__main__":
    unittest.main()
