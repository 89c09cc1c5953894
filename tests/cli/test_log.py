"""`log`: verify, merge, key and sign, as scripts call them."""

import contextlib
import io
import json
from datetime import UTC, datetime
from unittest import mock

from eager_lens.cli.log import anchor_from
from eager_lens.core.records.event_log.entry import Event
from eager_lens.core.records.event_log.log_file import append
from eager_lens.core.records.event_log.verify import Anchor, verify
from eager_lens.main import main
from tests.support import FolderCase


class Log(FolderCase):
    def setUp(self):
        super().setUp()
        self.log = self.folder / "yard.log.jsonl"
        append(self.log, [(Event("edit", f"Set {at}"), datetime.now(UTC)) for at in range(4)], "WA", "test")

    def run_command(self, *words, typed=""):
        out, err = io.StringIO(), io.StringIO()
        with (
            contextlib.redirect_stdout(out),
            contextlib.redirect_stderr(err),
            mock.patch("sys.stdin", io.StringIO(typed)),
        ):
            status = main(["log", *map(str, words)])
        return status, out.getvalue(), err.getvalue()

    def test_a_whole_log_is_0_a_changed_one_1_another_file_2(self):
        status, said, _ = self.run_command("verify", self.log)
        self.assertEqual(status, 0)
        self.assertIn("whole: 5 entries", said)
        self.log.write_bytes(self.log.read_bytes().replace(b"Set 2", b"Set 9"))
        status, said, _ = self.run_command("verify", self.log)
        self.assertEqual(status, 1)
        self.assertIn("changed: line 4:", said)
        other = self.folder / "shopping.txt"
        other.write_text("milk\n", "utf-8")
        status, said, errors = self.run_command("verify", other)
        self.assertEqual((status, said), (2, ""))
        self.assertIn("is not an event log", errors)
        self.assertEqual(self.run_command("verify", self.folder / "none")[0], 2)

    def test_the_anchor_as_it_stands_on_a_sheet(self):
        anchor = verify(self.log).anchor
        grouped = " ".join(anchor.hash[at : at + 8] for at in range(0, 64, 8))
        for text in (f"5 {anchor.hash}", grouped, f"5 {grouped}", anchor.hash[:12]):
            self.assertEqual(self.run_command("verify", self.log, "--anchor", text)[0], 0, text)
        self.assertEqual(self.run_command("verify", self.log, "--anchor", "0" * 64)[0], 1)
        status, _, errors = self.run_command("verify", self.log, "--anchor", "yesterday")
        self.assertEqual(status, 2)
        self.assertIn("--anchor", errors)

    def test_a_group_of_a_hash_that_has_no_letter_is_no_count(self):
        digits = "62644263" + "0964e8fc" * 7
        grouped = " ".join(digits[at : at + 8] for at in range(0, 64, 8))
        for text, count in ((grouped, 0), (f"5 {grouped}", 5), (f"1,204 {grouped}", 1204), (grouped[:17], 0)):
            with self.subTest(text):
                self.assertEqual(anchor_from(text), Anchor(count, digits[: 16 if len(text) == 17 else 64]))

    def test_json(self):
        said = json.loads(self.run_command("verify", self.log, "--json")[1])
        self.assertEqual((said["whole"], said["entries"], said["troubles"]), (True, 5, []))
        self.assertEqual(said["hash"], verify(self.log).anchor.hash)

    def test_merge_key_and_sign(self):
        other = self.folder / "other.log.jsonl"
        other.write_bytes(self.log.read_bytes())
        append(other, [(Event("edit", "Theirs"), datetime.now(UTC))], "BF", "test")
        self.assertIn("Merge 1 entries", self.run_command("merge", self.log, other, "--by", "WA")[1])
        self.assertIn("already", self.run_command("merge", self.log, other)[1])
        key = self.folder / "firm.pem"
        status, said, _ = self.run_command("key", key, typed="under the signal box\n")
        made = said.rpartition("fingerprint ")[2].strip()
        self.assertEqual((status, len(made)), (0, 19))
        self.assertEqual(self.run_command("sign", self.log, "--key", key, typed="wrong\n")[0], 2)
        self.assertEqual(self.run_command("sign", self.log, "--key", key, typed="under the signal box\n")[0], 0)
        self.assertIn(f"signed with the key {made}, up to entry 7", self.run_command("verify", self.log)[1])
