"""The sealed file: opens with its passphrase only, tells damage from a wrong one, and gives nothing away."""

import json
import stat
import unittest

from eager_lens.core.errors import DamagedFile, FileTrouble, RefusedInput
from eager_lens.core.sealed.passwords import LONGEST, RULE, SIGNS, Rule, made, weakness
from eager_lens.core.sealed.vault import Vault, WrongPassphrase, read_vault, sealed, sealed_path, unsealed, write_vault
from tests.support import FolderCase

PASSPHRASE = "four quiet brass lamps"
PLANTED = "Planted-Secret-77"


class Sealed(FolderCase):
    def setUp(self):
        super().setUp()
        self.path = self.folder / "depot.sealed.json"
        self.vault = Vault({"cam-1": PLANTED, "rec-1": "Other-Secret-12"}, one_for_all=False)

    def test_there_and_back(self):
        write_vault(self.path, self.vault, PASSPHRASE)
        self.assertEqual(read_vault(self.path, PASSPHRASE), self.vault)

    def test_only_its_owner_reads_it_and_nothing_of_it_is_plain(self):
        write_vault(self.path, self.vault, PASSPHRASE)
        self.assertEqual(stat.S_IMODE(self.path.stat().st_mode), 0o600)
        data = self.path.read_bytes()
        for secret in (PLANTED, "cam-1", PASSPHRASE):
            self.assertNotIn(secret.encode(), data)
        self.assertNotIn(PLANTED, repr(self.vault))

    def test_twice_sealed_is_never_the_same_and_its_size_tells_little(self):
        first, again = sealed(self.vault, PASSPHRASE), sealed(self.vault, PASSPHRASE)
        self.assertNotEqual(json.loads(first)["data"], json.loads(again)["data"])
        longer = sealed(Vault({"cam-1": PLANTED + "-and-more", "rec-1": "x" * 30}), PASSPHRASE)
        self.assertEqual(len(first), len(longer))

    def test_a_wrong_passphrase_is_no_damage(self):
        data = sealed(self.vault, PASSPHRASE)
        for wrong in ("four quiet brass lamp", "", "FOUR QUIET BRASS LAMPS"):
            with self.assertRaises(WrongPassphrase) as caught:
                unsealed(data, wrong, "x")
            self.assertIn("the file itself is whole", str(caught.exception))

    def test_damage_is_no_wrong_passphrase(self):
        head = json.loads(sealed(self.vault, PASSPHRASE))
        changes = (
            {"data": head["data"][:-8] + "AAAAAAA="},
            {"nonce": head["nonce"][::-1]},
            {"checksum": "0" * 64},
            {"key": {**head["key"], "n": 2**30}},
            {"version": 2},
        )
        for change in changes:
            with self.subTest(list(change)), self.assertRaises(DamagedFile):
                unsealed(json.dumps({**head, **change}).encode(), PASSPHRASE, "x")
        for data in (b"", b"{}", b"\xff\xfe", sealed(self.vault, PASSPHRASE)[:-40]):
            with self.assertRaises(DamagedFile):
                unsealed(data, PASSPHRASE, "x")

    def test_a_short_passphrase_is_refused_and_nothing_written(self):
        with self.assertRaises(RefusedInput):
            write_vault(self.path, self.vault, "short")
        self.assertFalse(self.path.exists())

    def test_what_cannot_be_read_or_written_is_told(self):
        with self.assertRaises(FileTrouble):
            read_vault(self.path, PASSPHRASE)
        with self.assertRaises(FileTrouble):
            write_vault(self.folder / "none" / "x.sealed.json", self.vault, PASSPHRASE)

    def test_it_stands_beside_the_job(self):
        self.assertEqual(sealed_path(self.folder / "depot.lens.json", ".lens.json"), self.path)


class Made(unittest.TestCase):
    def test_by_rule_and_never_twice(self):
        all_made = {made() for _ in range(300)}
        self.assertEqual(len(all_made), 300)
        for password in all_made:
            self.assertEqual(len(password), RULE.length)
            self.assertEqual(weakness(password), "")
            self.assertFalse(set(password) & set("lI1O0o"))
            for kind in RULE.kinds:
                self.assertTrue(set(password) & set(kind))

    def test_lengths_that_devices_do_not_take_are_refused(self):
        for length in (3, LONGEST + 1):
            with self.assertRaises(ValueError):
                made(Rule(length))
        self.assertEqual(len(made(Rule(8))), 8)

    def test_weak_ones_are_told_why(self):
        for password, words in (
            ("Ab1!", "8 at least"),
            ("a" * 65, "64 at most"),
            ("Pass word 12", "no spaces"),
            ("Pässwort-12", "plain keyboard"),
            ("alllowercase", "three kinds"),
        ):
            self.assertIn(words, weakness(password))
        self.assertEqual(weakness("Tramway" + SIGNS[0] + "12"), "")
