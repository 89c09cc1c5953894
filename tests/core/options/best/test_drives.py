"""The cheapest drives out of a price list."""

import unittest

from eager_lens.core.errors import RefusedInput
from eager_lens.core.incoming.price_list import price_list
from eager_lens.core.incoming.table_in import table_from_text
from eager_lens.core.job.model import DriveOffer
from eager_lens.core.options.best.drives import purchases
from tests.support import job_with, recorder

LIST = "Article;TB;Price (EUR)\nSmall;4;100\nMiddle;8;170\nLarge;16;390\n"


def offers():
    return price_list(table_from_text(LIST)).offers


class Cheapest(unittest.TestCase):
    def test_each_offer_and_level_with_the_fewest_drives_cheapest_first(self):
        got = purchases(15, offers(), recorder(bays=4, reserve_share=0))
        self.assertEqual([one.price for one in got], sorted(one.price for one in got))
        self.assertEqual((got[0].words, got[0].price), ("2 × Middle, spanned, no redundancy", 340))
        by_level = {(one.offer.name, one.level): one for one in got}
        self.assertEqual((by_level["Middle", "raid5"].drives, by_level["Middle", "raid5"].usable_tb), (3, 16))
        self.assertEqual(by_level["Small", "span"].price, 400)
        self.assertNotIn(("Small", "raid5"), by_level)

    def test_reserve_and_spares_are_the_recorder_s(self):
        plain = purchases(16, offers(), recorder(bays=4, reserve_share=0), ["span"])
        held = purchases(16, offers(), recorder(bays=4, reserve_share=0.05, hot_spares=1), ["span"])
        self.assertEqual(plain[0].drives, 2)
        self.assertEqual({one.offer.name: one.drives for one in held}, {"Middle": 4, "Large": 3})

    def test_bought_they_are_in_the_recorder(self):
        job = job_with(recorders=[recorder(bays=4)])
        bought = purchases(15, offers(), job.recorders[0], ["raid5"])[0]
        after = bought.edit(job.recorders[0]).apply(job).recorders[0]
        self.assertEqual((after.drives, after.drive_tb, after.raid_level), (3, 8, "raid5"))

    def test_nothing_fits(self):
        self.assertEqual(purchases(500, offers(), recorder(bays=4)), [])
        self.assertEqual(purchases(1, [], recorder(bays=4)), [])


class PriceList(unittest.TestCase):
    def test_headings_units_and_currency_are_understood(self):
        for text in (
            LIST,
            "name,capacity (TB),price,currency\nSmall,4,100,EUR\nMiddle,8 TB,170,EUR\nLarge,16,390,EUR\n",
            "Drive\tSize\tUnit price, EUR\nSmall\t4\t100 EUR\nMiddle\t8\t170\nLarge\t16\t390\n",
        ):
            with self.subTest(text[:20]):
                got = price_list(table_from_text(text)).offers
                self.assertEqual(got[1], DriveOffer(name="Middle", tb=8, price=170, currency="EUR"))

    def test_bad_rows_are_left_out_and_named(self):
        got = price_list(table_from_text(LIST + "Odd;many;5\n;4;5\nFree;2;-1\n"))
        self.assertEqual(len(got.offers), 3)
        self.assertEqual([problem.split(" was")[0] for problem in got.problems], ["Row 5", "Row 6", "Row 7"])

    def test_what_is_no_price_list_is_refused(self):
        for text, words in (("Name;Price\nA;1\n", "no column for tb"), ("Name;TB;Price\n", "no row")):
            with self.assertRaises(RefusedInput) as caught:
                price_list(table_from_text(text))
            self.assertIn(words, str(caught.exception))
