"""A firm's own lists: out of one job, into another, and from colleague to colleague."""

import unittest

from eager_lens.core.errors import FileTrouble, RefusedInput
from eager_lens.core.job.edits import set_charges, set_prices
from eager_lens.core.job.firm import (
    FirmLists,
    firm_from_text,
    firm_text,
    joined,
    lists_of,
    read_firm,
    take_lists,
    write_firm,
)
from eager_lens.core.job.model import MakeProfile
from eager_lens.core.job.prices import Charges, PartPrice
from eager_lens.core.job.proof import MountingStep
from tests.support import FolderCase, camera, job_with

MINE = FirmLists(
    make_profiles=(MakeProfile(make="Quill", start_s=40), MakeProfile(make="Tarn")),
    mounting_list=(MountingStep(id="a", stage="s", text="Look"),),
    prices=(PartPrice(what="Cable", price=0.5),),
    charges=Charges(currency="EUR", rate_per_h=60),
)
THEIRS = FirmLists(make_profiles=(MakeProfile(make="quill", start_s=55),), prices=(PartPrice(what="Plug", price=0.2),))


class Firm(FolderCase):
    def test_lists_go_from_a_job_to_a_file_to_another_job(self):
        job = set_charges("x", rate_per_h=60).apply(set_prices(MINE.prices, "EUR").apply(job_with([camera(1)])))
        path = self.folder / "deep" / "mine.firm.json"
        write_firm(path, lists_of(job))
        other = take_lists(read_firm(path)).apply(job_with([camera(2)]))
        self.assertEqual((other.prices, other.charges), (job.prices, job.charges))
        self.assertEqual(firm_from_text(firm_text(MINE)), MINE)

    def test_what_is_empty_takes_nothing_away(self):
        job = take_lists(MINE).apply(job_with([camera(1)]))
        self.assertEqual(lists_of(take_lists(FirmLists()).apply(job)), MINE)
        both = joined(MINE, THEIRS)
        self.assertEqual({one.make: one.start_s for one in both.make_profiles}["quill"], 55)
        self.assertEqual(len(both.make_profiles), 2)
        self.assertEqual({one.what for one in both.prices}, {"Cable", "Plug"})
        self.assertEqual((both.mounting_list, both.charges), (MINE.mounting_list, MINE.charges))

    def test_what_is_in_them_in_words(self):
        self.assertEqual(MINE.words, "2 make profiles, 1 mounting step, 1 price, rates")
        self.assertEqual(FirmLists().words, "nothing")

    def test_what_is_no_such_file(self):
        self.assertEqual(read_firm(self.folder / "none"), FirmLists())
        for text, words in (
            ("[]", "no file of a firm"),
            ('{"format": "eager-lens-firm", "version": 7}', "version 7"),
            ("{", ""),
        ):
            with self.assertRaisesRegex(RefusedInput, words):
                firm_from_text(text)
        with self.assertRaises(FileTrouble):
            write_firm(self.folder, MINE)


if __name__ == "__main__":
    unittest.main()
