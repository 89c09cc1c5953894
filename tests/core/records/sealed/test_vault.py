"""The sealed file: opens with its passphrase only, tells damage from a wrong one, and gives nothing away."""

import base64
import hashlib
import hmac
import json
import os
import stat
import threading
import unittest
from dataclasses import replace
from pathlib import Path
from unittest import mock

from eager_lens.core.device_passwords import LONGEST, RULE, SIGNS, Rule, made, weakness
from eager_lens.core.errors import ChangedOnDisk, DamagedFile, FileTrouble
from eager_lens.core.files import previous_version
from eager_lens.core.records.sealed.passphrase import normalised
from eager_lens.core.records.sealed.passphrase import weakness as passphrase_weakness
from eager_lens.core.records.sealed.seen import is_older
from eager_lens.core.records.sealed.vault import (
    COSTS,
    Costs,
    Vault,
    WrongPassphrase,
    create,
    key_of,
    open_vault,
    sealed,
    sealed_path,
    take_along,
    unsealed,
)
from tests.support import FolderCase

PASSPHRASE = "four quiet brass lamps"
PLANTED = "Planted-Secret-77"
CHEAP = Costs(2**14, 1, 1)
"""What a file may ask for at least: tests that need no real cost take this."""


def with_more(**passwords):
    return lambda vault: replace(vault, passwords={**vault.passwords, **passwords})


class CheapCase(FolderCase):
    """Keys at the least cost: what the usual one takes is a matter of ``Sealed``."""

    def setUp(self):
        super().setUp()
        cheap = mock.patch("eager_lens.core.records.sealed.vault.COSTS", CHEAP)
        cheap.start()
        self.addCleanup(cheap.stop)


class Older(CheapCase):
    """An older sealed file put in place of the newer one: it is whole, and opens by the same passphrase."""

    def setUp(self):
        super().setUp()
        self.path, self.state = self.folder / "depot.sealed.json", self.folder / "state"
        self.opened = create(self.path, PASSPHRASE)
        self.opened.change(with_more(one="Old-Secret-1"))
        self.assertEqual(is_older(self.opened, self.state), "")
        self.old = self.path.read_bytes()
        self.opened.change(with_more(one="New-Secret-1"))
        self.opened.change(with_more(two="New-Secret-2"))
        self.assertEqual(is_older(self.opened, self.state), "")

    def test_it_is_told_each_time(self):
        self.path.write_bytes(self.old)
        for _ in range(2):
            words = is_older(open_vault(self.path, PASSPHRASE), self.state)
            self.assertIn("lacks 2 changes to its passwords", words)

    def test_a_copy_under_another_name_goes_its_own_way(self):
        copy = self.folder / "other.sealed.json"
        copy.write_bytes(self.old)
        self.assertEqual(is_older(open_vault(copy, PASSPHRASE), self.state), "")

    def test_what_is_remembered_tells_nothing_and_harms_nothing(self):
        notes = self.state / "sealed-files.json"
        self.assertNotIn("depot", notes.read_text("ascii"))
        self.assertEqual(stat.S_IMODE(notes.stat().st_mode), 0o600)
        notes.write_text("[[[")
        self.assertEqual(is_older(self.opened, self.state), "")
        self.assertEqual(is_older(self.opened, Path("/proc/nowhere")), "")


class Sealed(FolderCase):
    def setUp(self):
        super().setUp()
        self.path = self.folder / "depot.sealed.json"
        self.vault = Vault({"cam-1": PLANTED, "rec-1": "Other-Secret-12"}, one_for_all=False)
        self.key = key_of(PASSPHRASE, b"salt" * 4, CHEAP)

    def test_there_and_back(self):
        opened = create(self.path, PASSPHRASE)
        opened.change(lambda vault: self.vault)
        again = open_vault(self.path, PASSPHRASE)
        self.assertEqual(again.vault, replace(self.vault, revision=1))
        self.assertEqual(again.key.costs, COSTS)

    def test_only_its_owner_reads_it_and_nothing_of_it_is_plain(self):
        opened = create(self.path, PASSPHRASE)
        opened.change(lambda vault: self.vault)
        opened.change(with_more(more="x"))
        for path in (self.path, previous_version(self.path)):
            self.assertEqual(stat.S_IMODE(path.stat().st_mode), 0o600)
            data = path.read_bytes()
            for secret in (PLANTED, "cam-1", PASSPHRASE):
                self.assertNotIn(secret.encode(), data)
        for shown in (repr(self.vault), repr(opened), repr(opened.key)):
            self.assertNotIn(PLANTED, shown)
            self.assertNotIn(opened.key.cipher.hex()[:8], shown)

    def test_twice_sealed_is_never_the_same_and_its_size_tells_little(self):
        first, again = sealed(self.vault, self.key), sealed(self.vault, self.key)
        self.assertNotEqual(json.loads(first)["data"], json.loads(again)["data"])
        longer = sealed(Vault({"cam-1": PLANTED + "-and-more", "rec-1": "x" * 30}), self.key)
        self.assertEqual(len(first), len(longer))

    def test_a_wrong_passphrase_is_no_damage(self):
        self.path.write_bytes(sealed(self.vault, self.key))
        for wrong in ("four quiet brass lamp", "", "FOUR QUIET BRASS LAMPS"):
            with self.assertRaises(WrongPassphrase) as caught:
                open_vault(self.path, wrong)
            self.assertIn("the file itself is undamaged", str(caught.exception))

    def test_damage_is_no_wrong_passphrase(self):
        head = json.loads(sealed(self.vault, self.key))
        changes = (
            {"data": head["data"][:-8] + "AAAAAAA="},
            {"nonce": head["nonce"][::-1]},
            {"checksum": "0" * 64},
            {"key": {**head["key"], "n": 2**30}},
            {"version": 3},
        )
        for change in changes:
            with self.subTest(list(change)), self.assertRaises(DamagedFile):
                unsealed(json.dumps({**head, **change}).encode(), self.key, "x")
        for data in (b"", b"{}", b"[]", b"7", b"\xff\xfe", sealed(self.vault, self.key)[:-40], b"[" * 100_000):
            with self.assertRaises(DamagedFile):
                unsealed(data, self.key, "x")

    def test_what_a_file_may_ask_for_is_bounded(self):
        """A file whose checksum fits may still ask for a key that takes all memory, or none that is worth its name."""

        def asking(**wanted):
            head = json.loads(sealed(self.vault, self.key))
            head["key"] = {**head["key"], **wanted}
            head.pop("checksum")
            text = json.dumps(head, sort_keys=True).encode("ascii")
            return json.dumps({**head, "checksum": hashlib.sha256(text).hexdigest()}).encode()

        unsealed(asking(), self.key, "x")
        for wanted in (
            {"n": 2**22},
            {"n": 2**17 - 1},
            {"n": 2, "r": 1},
            {"r": 10**9},
            {"p": 10**6},
            {"n": True},
            {"n": 2.0**17},
            {"n": "131072"},
            {"r": -8},
            {"p": None},
            {"salt": 7},
        ):
            with self.subTest(wanted), self.assertRaises(DamagedFile):
                unsealed(asking(**wanted), self.key, "x")

    def test_what_cannot_be_read_or_written_is_told(self):
        with self.assertRaises(FileTrouble):
            open_vault(self.path, PASSPHRASE)
        with self.assertRaises(FileTrouble):
            create(self.folder / "none" / "x.sealed.json", PASSPHRASE)
        os.mkfifo(self.path)
        with self.assertRaises(FileTrouble):
            open_vault(self.path, PASSPHRASE)

    def test_it_stands_beside_the_job_wherever_the_link_lies(self):
        self.assertEqual(sealed_path(self.folder / "depot.lens.json", ".lens.json"), self.path)
        (self.folder / "depot.lens.json").write_text("{}", "utf-8")
        (self.folder / "links").mkdir()
        link = self.folder / "links" / "today.lens.json"
        link.symlink_to(self.folder / "depot.lens.json")
        self.assertEqual(sealed_path(link, ".lens.json"), self.path)

    def test_it_goes_along_as_it_is(self):
        before, now = self.folder / "depot.lens.json", self.folder / "new.lens.json"
        self.assertEqual(take_along(before, now, ".lens.json"), "")
        data = sealed(self.vault, self.key)
        self.path.write_bytes(data)
        self.assertIn("were copied", take_along(before, now, ".lens.json"))
        self.assertEqual((self.folder / "new.sealed.json").read_bytes(), data)
        (self.folder / "new.sealed.json").write_bytes(b"theirs")
        self.assertIn("existed already", take_along(before, now, ".lens.json"))
        self.assertEqual((self.folder / "new.sealed.json").read_bytes(), b"theirs")


class TwoWindows(CheapCase):
    def setUp(self):
        super().setUp()
        self.path = self.folder / "depot.sealed.json"
        self.one = create(self.path, PASSPHRASE)
        self.other = replace(self.one)

    def test_neither_takes_away_what_the_other_made(self):
        def many(opened, prefix):
            for at in range(45):
                opened.change(with_more(**{f"{prefix}-{at}": made()}))

        threads = [threading.Thread(target=many, args=pair) for pair in ((self.one, "a"), (self.other, "b"))]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual(len(open_vault(self.path, PASSPHRASE).vault.passwords), 90)

    def test_what_was_changed_since_it_was_seen_is_not_replaced(self):
        self.one.change(with_more(cam="mine"))
        with self.assertRaises(ChangedOnDisk):
            self.other.change(with_more(cam="theirs"), over=frozenset({"cam"}))
        self.assertEqual(self.other.vault.passwords, {"cam": "mine"})
        self.other.change(with_more(cam="theirs"), over=frozenset({"cam"}))
        self.assertEqual(open_vault(self.path, PASSPHRASE).vault.passwords, {"cam": "theirs"})

    def test_the_version_before_is_kept(self):
        self.one.change(with_more(cam="first"))
        self.one.change(with_more(cam="second"))
        before = unsealed(previous_version(self.path).read_bytes(), self.one.key, "x")
        self.assertEqual(before.passwords, {"cam": "first"})

    def test_a_file_that_is_made_twice_is_told(self):
        with self.assertRaises(ChangedOnDisk):
            create(self.path, PASSPHRASE)


def first_version(vault, passphrase):
    """The bytes of a sealed file as the program before this one wrote it."""
    from cryptography.hazmat.primitives.ciphers.aead import AESGCM

    salt, nonce = b"0123456789abcdef", b"nonce-12byte"
    both = hashlib.scrypt(passphrase.encode(), salt=salt, n=2**15, r=8, p=1, maxmem=2**28, dklen=64)
    text = lambda data: base64.b64encode(data).decode()  # noqa: E731
    head = {
        "format": "eager-lens-sealed",
        "version": 1,
        "key": {"by": "scrypt", "n": 2**15, "r": 8, "p": 1, "salt": text(salt)},
        "cipher": "AES-256-GCM",
        "nonce": text(nonce),
    }
    bound = json.dumps(head, sort_keys=True).encode()
    plain = json.dumps({"passwords": vault.passwords, "one_for_all": vault.one_for_all}).encode()
    head["check"] = text(hmac.digest(both[32:], bound, "sha256"))
    head["data"] = text(AESGCM(both[:32]).encrypt(nonce, plain, bound))
    head["checksum"] = hashlib.sha256(json.dumps(head, sort_keys=True).encode()).hexdigest()
    return json.dumps(head).encode()


class FirstVersion(FolderCase):
    """Files of before open with the passphrase as it was typed, and are sealed at today's cost when they are written."""

    def test_opened_and_sealed_anew(self):
        path = self.folder / "depot.sealed.json"
        decomposed = "vier gru\u0308ne Lampen im Moor"
        path.write_bytes(first_version(Vault({"cam-1": PLANTED}), decomposed))
        opened, other = open_vault(path, decomposed), open_vault(path, decomposed)
        opened.change(with_more(a="1"))
        other.change(with_more(b="2"))
        head = json.loads(path.read_bytes())
        self.assertEqual((head["version"], head["key"]["n"]), (2, COSTS.n))
        composed = "vier gr\u00fcne Lampen im Moor"
        self.assertEqual(open_vault(path, composed).vault.passwords, {"cam-1": PLANTED, "a": "1", "b": "2"})


KNOWN_TO_ALL = (
    "correct horse battery staple",
    "Correct_Horse_Battery_Staple1",
    "To be or not to be that is the question",
)
"""Long, and the first that are tried."""


class Passphrases(unittest.TestCase):
    def test_one_form_however_it_was_typed(self):
        self.assertEqual(normalised("gru\u0308n\u00a0und gelb"), normalised("gr\u00fcn und\u2003gelb"))
        self.assertNotEqual(normalised("Gelb"), normalised("gelb"))

    def test_how_hard_it_is_to_guess(self):
        for easy in (
            "",
            "short",
            "aaaaaaaaaaaaaaaa",
            "password1234",
            "hunter2hunter2",
            "Brindlemoor2026",
            *KNOWN_TO_ALL,
        ):
            self.assertTrue(passphrase_weakness(easy, ("Brindlemoor Tramway",)), easy)
        for good in (PASSPHRASE, "kettle ninety moss parade", "xK7#pQ9vLm2$wR"):
            self.assertEqual(passphrase_weakness(good), "", good)
        self.assertIn("1000 characters", passphrase_weakness("ab " * 5000))


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
            ("Ab1!", "at least 8"),
            ("a" * 65, "64 at most"),
            ("Pass word 12", "no spaces"),
            ("Pässwort-12", "plain keyboard"),
            ("alllowercase", "three kinds"),
        ):
            self.assertIn(words, weakness(password))
        self.assertEqual(weakness("Tramway" + SIGNS[0] + "12"), "")
