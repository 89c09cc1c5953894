"""A firm's own lists: out of one job, into another, and from colleague to colleague, entry by entry."""

import unittest

from eager_lens.core.errors import FileTrouble, RefusedInput
from eager_lens.core.firm.entries import allowed, begin_with, entries, fates_of, put_together, take_entries
from eager_lens.core.firm.label_stock import STOCKS
from eager_lens.core.firm.lists import FirmLists, firm_from_text, firm_text, lists_of, read_firm, write_firm
from eager_lens.core.firm.template import as_template
from eager_lens.core.job.edits import set_charges, set_prices
from eager_lens.core.job.model import DriveOffer, MakeProfile, changed
from eager_lens.core.job.prices import Charges, PartPrice
from eager_lens.core.job.proof import MountingStep
from tests.support import FolderCase, camera, job_with, recorder

MINE = FirmLists(
    make_profiles=(MakeProfile(make="Quill", start_s=40), MakeProfile(make="Tarn")),
    mounting_list=(MountingStep(id="a", stage="s", text="Look"),),
    prices=(PartPrice(what="Cable", price=0.5, currency="EUR"),),
    charges=Charges(currency="EUR", rate_per_h=60),
)
THEIRS = FirmLists(
    make_profiles=(MakeProfile(make="quill", start_s=55),),
    prices=(PartPrice(what="Plug", price=0.2),),
    charges=Charges(currency="USD", rate_per_h=90),
)
OFFERS = tuple(
    DriveOffer(name="Drive", tb=tb, price=price, currency="EUR") for tb, price in ((8, 150), (12, 220), (18, 300))
)


class Firm(FolderCase):
    def test_lists_go_from_a_job_to_a_file_to_another_job(self):
        job = set_charges("x", rate_per_h=60).apply(set_prices(MINE.prices, "EUR").apply(job_with([camera(1)])))
        path = self.folder / "deep" / "mine.firm.json"
        write_firm(path, lists_of(job))
        other = begin_with(read_firm(path), job_with([camera(2)]))
        self.assertEqual((other.prices, other.charges), (job.prices, job.charges))
        self.assertEqual(firm_from_text(firm_text(MINE)), MINE)

    def test_what_is_empty_takes_nothing_away(self):
        job = begin_with(MINE, job_with([camera(1)]))
        self.assertEqual(lists_of(begin_with(FirmLists(), job)), MINE)

    def test_a_price_keeps_its_currency_outside_its_job(self):
        job = set_charges("x", currency="EUR").apply(set_prices([PartPrice(what="Plug", price=2)]).apply(job_with()))
        self.assertEqual(lists_of(job).prices, (PartPrice(what="Plug", price=2, currency="EUR"),))

    def test_what_is_in_them_in_words(self):
        self.assertEqual(MINE.words, "2 make profiles, 1 mounting step, 1 price, rates")
        self.assertEqual(FirmLists().words, "nothing")

    def test_what_is_no_such_file(self):
        self.assertEqual(read_firm(self.folder / "none"), FirmLists())
        for text, words in (
            ("[]", "not a file of a firm"),
            ('{"format": "eager-lens-firm", "version": 7}', "version 7"),
            ("{", ""),
        ):
            with self.assertRaisesRegex(RefusedInput, words):
                firm_from_text(text)
        with self.assertRaises(FileTrouble):
            write_firm(self.folder, MINE)


class Entries(unittest.TestCase):
    def test_each_entry_says_what_it_is(self):
        found = {(one.list, one.name): one.state for one in entries(MINE, THEIRS)}
        self.assertEqual(
            found,
            {
                ("make_profiles", "quill"): "another",
                ("charges", "rates"): "another",
                ("prices", "Plug"): "new",
                ("make_profiles", "Tarn"): "only here",
                ("mounting_list", "Look"): "only here",
                ("prices", "Cable"): "only here",
            },
        )
        rates = next(one for one in entries(MINE, THEIRS) if one.list == "charges")
        self.assertEqual((rates.here_words, rates.there_words), ("60 EUR an hour, tax 0 %", "90 USD an hour, tax 0 %"))

    def test_a_colleagues_list_changes_nothing_unasked(self):
        found = entries(MINE, THEIRS)
        both = put_together(MINE, found, fates_of(found, over=False))
        self.assertEqual(
            (both.charges, both.make_profiles, both.mounting_list),
            (MINE.charges, MINE.make_profiles, MINE.mounting_list),
        )
        self.assertEqual({one.what for one in both.prices}, {"Cable", "Plug"})

    def test_what_is_chosen_is_taken_and_what_is_to_go_goes(self):
        found = entries(MINE, THEIRS)
        fates = {
            one.id: "take" if "take" in allowed(one) else "remove" if one.list == "prices" else "leave" for one in found
        }
        both = put_together(MINE, found, fates)
        self.assertEqual([(one.make, one.start_s) for one in both.make_profiles], [("quill", 55), ("Tarn", 90)])
        self.assertEqual((both.prices, both.charges), (THEIRS.prices, THEIRS.charges))

    def test_offers_of_one_name_are_told_apart(self):
        again = (*OFFERS, OFFERS[0])
        found = entries(FirmLists(drive_offers=OFFERS[:1]), FirmLists(drive_offers=again))
        self.assertEqual([one.state for one in found], ["new", "new", "new", "the same"])
        self.assertEqual(len(begin_with(FirmLists(drive_offers=again), job_with()).drive_offers), 4)
        job = changed(job_with(), drive_offers=OFFERS)
        kept = begin_with(FirmLists(drive_offers=(changed(OFFERS[0], price=99),)), job)
        self.assertEqual([one.price for one in kept.drive_offers], [99, 220, 300])

    def test_it_is_one_step_of_the_job(self):
        job = job_with([camera(1)])
        found = entries(lists_of(job), MINE)
        edit = take_entries(found, {one.id: "take" for one in found if one.list == "prices"})
        self.assertEqual(edit.label, "Use 1 entry of the firm's lists")
        self.assertEqual((edit.apply(job).prices, edit.apply(job).make_profiles), (MINE.prices, ()))

    def test_templates_and_stock(self):
        here, there = job_with([camera(1)], name="Shop"), job_with([camera(1), camera(2)], name="Shop")
        found = entries(FirmLists(templates=(here,)), FirmLists(templates=(there,), label_stocks=(STOCKS[0],)))
        self.assertEqual([(one.list, one.state) for one in found], [("templates", "another"), ("label_stocks", "new")])
        self.assertEqual((found[0].here_words, found[0].there_words), ("1 camera, 1 recorder", "2 cameras, 1 recorder"))
        both = put_together(FirmLists(templates=(here,)), found, fates_of(found, over=False))
        self.assertEqual((both.templates, both.label_stocks), ((here,), (STOCKS[0],)))


class Template(unittest.TestCase):
    def test_spare_devices_have_no_labels_in_it(self):
        spare = {"mac_address": "02:00:00:00:00:09", "serial": "S9", "firmware": "1"}
        job = job_with(
            [camera(1)], spare_cameras=(camera(9, **spare, registered=()),), spare_recorders=(recorder(9, **spare),)
        )
        made = as_template(job)
        for one in made.spare_devices():
            self.assertEqual((one.mac_address, one.serial, one.firmware), ("", "", ""))


if __name__ == "__main__":
    unittest.main()
