"""What a job may hold: edits are held to the limits of the file, and a file beyond them opens with the surplus named."""

import json
import unittest
from datetime import date

from eager_lens.core.errors import FileTrouble, RefusedInput
from eager_lens.core.job.edits import (
    add_exception,
    add_network_device,
    set_drive_offers,
    set_job,
    with_parts,
)
from eager_lens.core.job.file import ENDING, RowTexts, job_from_text, job_text, read_job, surplus_words, write_job
from eager_lens.core.job.limits import LIST_LIMITS
from eager_lens.core.job.model import DriveOffer, Job, NetworkDevice, ScheduleException, changed
from tests.support import FolderCase, camera, demo_job, job_with


def full(name, part):
    """A job whose list holds as many as it may."""
    return Job(**{name: tuple(part(at) for at in range(LIST_LIMITS[name]))})


class Edits(unittest.TestCase):
    def test_no_edit_goes_beyond_what_the_file_may_hold(self):
        offers = tuple(DriveOffer(name=f"Drive {at}", tb=1, price=1) for at in range(LIST_LIMITS["drive_offers"] + 1))
        day = date(2026, 1, 1)
        for label, job, edit in (
            ("a price list", Job(), set_drive_offers(offers)),
            (
                "exceptions",
                full("exceptions", lambda at: ScheduleException(id=f"exception-{at}", name="S", first=day, last=day)),
                add_exception("One more", day, day),
            ),
            (
                "switches",
                full("network", lambda at: NetworkDevice(id=f"net-{at}", name="S")),
                add_network_device("switch"),
            ),
        ):
            with self.subTest(label), self.assertRaises(RefusedInput) as caught:
                edit.apply(job)
            self.assertIn("a job holds at most", str(caught.exception))

    def test_up_to_the_limit_it_is_taken_and_read_again(self):
        job = Job(network=tuple(NetworkDevice(id=f"net-{at}", name="S") for at in range(LIST_LIMITS["network"] - 1)))
        job = add_network_device("switch").apply(job)
        self.assertEqual(len(job_from_text(job_text(job)).network), LIST_LIMITS["network"])

    def test_texts_too(self):
        with self.assertRaises(RefusedInput):
            set_job("note", note="x" * 4001).apply(Job())

    def test_what_no_file_can_hold_is_taken_out_of_what_was_typed(self):
        job = set_job("name", name="De\0pot\ud800 \uffffNorth").apply(Job())
        self.assertEqual(job.name, "Depot North")
        self.assertEqual(changed(camera(1), note="a\x1bb\nc\td").note, "ab\nc\td")
        self.assertEqual(job_from_text(job_text(job)), job)


class Beyond(FolderCase):
    """Files that hold more than a job may: made by hand, or by a program that did not look."""

    def document(self, **lists):
        return {**json.loads(job_text(demo_job())), **lists}

    def written(self, document):
        path = self.folder / f"much{ENDING}"
        path.write_text(json.dumps(document), "utf-8")
        return path

    def test_they_open_with_the_surplus_named(self):
        most = LIST_LIMITS["network"]
        document = self.document(network=[{"id": f"n-{at}", "name": f"Switch {at}"} for at in range(most + 2)])
        document["note"] = "y" * 5000
        document["cameras"][0]["note"] = "z" * 4003
        path = self.written(document)
        before = path.read_bytes()
        job, _, surplus, _ = read_job(path)
        self.assertEqual((len(job.network), len(job.note), len(job.cameras[0].note)), (most, 4000, 4000))
        sentences = " ".join(surplus)
        for words in (
            "network: the file has 5,002",
            "2 were left out",
            f'"Switch {most}"',
            "note: the last 1,000",
            "cameras[0].note",
        ):
            self.assertIn(words, sentences)
        self.assertIn("left as it is", surplus_words(surplus))
        self.assertEqual(path.read_bytes(), before)

    def test_what_is_wrong_otherwise_is_still_refused(self):
        document = self.document(note="y" * 5000)
        document["cameras"][3]["fps"] = "many"
        with self.assertRaises(FileTrouble) as caught:
            read_job(self.written(document))
        self.assertIn("cameras[3].fps", str(caught.exception))

    def test_halves_of_characters_are_taken_out(self):
        document = self.document(name="Depot \ud800\x00North")
        self.assertEqual(read_job(self.written(document)).job.name, "Depot North")


class ReadBack(FolderCase):
    """Nothing is written that could not be opened again."""

    def setUp(self):
        super().setUp()
        self.path = self.folder / f"job{ENDING}"
        self.stamp = write_job(self.path, job_with([camera(1)]), None)

    def refused(self, job, words):
        before = self.path.read_bytes()
        for rows in (None, RowTexts()):
            with self.assertRaises(FileTrouble) as caught:
                write_job(self.path, job, self.stamp, rows=rows)
            self.assertIn(words, str(caught.exception))
        self.assertEqual(self.path.read_bytes(), before)

    def test_values_that_went_round_the_checks(self):
        good = job_with([camera(1)])
        self.refused(
            good.model_copy(update={"cameras": (camera(1).model_copy(update={"fps": -3}),)}), "cameras[0], fps"
        )
        self.refused(good.model_copy(update={"note": "x" * 5000}), "note")
        self.refused(good.model_copy(update={"cameras": (camera(1), camera(1))}), "used 2 times")
        self.refused(good.model_copy(update={"name": "half \ud800"}), "would not be the same")
        much = tuple(NetworkDevice(id=f"n-{at}", name="S") for at in range(LIST_LIMITS["network"] + 1))
        self.refused(good.model_copy(update={"network": much}), "network")

    def test_every_part_is_proved_once_and_anew_when_it_changes(self):
        rows = RowTexts()
        job = job_with([camera(n) for n in range(1, 4)])
        self.assertEqual(job_text(job, rows), job_text(job))
        worse = with_parts(job, cameras=(job.cameras[0], job.cameras[1].model_copy(update={"fps": 0}), job.cameras[2]))
        with self.assertRaises(FileTrouble):
            job_text(worse, rows)
        after = with_parts(job, cameras=(job.cameras[0], changed(job.cameras[1], fps=3), job.cameras[2]))
        self.assertEqual(job_from_text(job_text(after, rows)), after)

    def test_every_list_of_a_job_has_a_limit(self):
        self.assertEqual(set(LIST_LIMITS), {name for name, field in Job.model_fields.items() if field.default == ()})
