"""The offer: one page, what the customer gets in his words, what was assumed."""

import math
import unittest

import pypdfium2

from eager_lens.core.assess.assessment import assess
from eager_lens.core.enquiry.build import job_for
from eager_lens.core.enquiry.enquiry import Enquiry, PlaceWanted
from eager_lens.core.outgoing.formats.pdf import handover_pdf
from eager_lens.core.outgoing.formats.sheets import Bullets, SheetTable
from eager_lens.core.outgoing.handover.offer import offer_sheet
from tests.support import camera, demo_job, job_with

SHOP = Enquiry(
    name="Shop", customer="Trust", places=(PlaceWanted(name="Shop", views={"door": 1, "till": 2}),), most_days=60
)


def texts(sheets):
    (sheet,) = sheets.sheets
    for block in sheet.blocks:
        if isinstance(block, SheetTable):
            yield from (" | ".join(row) for row in block.rows)
        elif isinstance(block, Bullets):
            yield from block.items


class Offer(unittest.TestCase):
    def test_it_states_days_and_settings_and_no_chance(self):
        for job in (job_for(SHOP), demo_job()):
            words = "\n".join(texts(offer_sheet(assess(job), "28 November 2026"))).lower()
            for chance in ("in 20", "95 of", "times in", "expected", "certain", "probab"):
                self.assertNotIn(chance, words)

    def test_it_tells_what_is_seen_kept_delivered_and_assumed(self):
        assessment = assess(job_for(SHOP))
        found = "\n".join(texts(offer_sheet(assessment, "28 November 2026")))
        for words in (
            "Shop | 3 | 1 to identify a person; 2 to recognise a known person",
            "Pictures are kept | At least 31 days",
            "At most 60 days: the recorders erase older recordings",
            "Bit rates | Each camera is set to at most 1.75 Mb/s; the days depend on that.",
            "Mon to Fri 00:00 to 08:00 motion, 08:00 to 18:00 continuous",
            "1 drive may fail and must be replaced at once",
            "Router, four LAN ports and a WAN port | 1 piece",
            "Assumed until the site has been seen: cable runs of 25 m indoors",
        ):
            self.assertIn(words, found)

    def test_a_job_that_cannot_keep_its_days_says_what_it_keeps(self):
        assessment = assess(demo_job())
        found = "\n".join(texts(offer_sheet(assessment, "28 November 2026")))
        days = math.floor(assessment.whole.promised_days)
        self.assertIn(f"Pictures are kept | Not recorded: 1 camera (no recorder). {days} days with the drives", found)
        self.assertNotIn("Assumed until", found)

    def test_it_is_one_page_whatever_the_size(self):
        many = tuple(
            PlaceWanted(name=f"Hall {at}", distance_m=100 * at, views={"room": 4, "door": 2}) for at in range(20)
        )
        for job in (job_for(SHOP), demo_job(), job_for(Enquiry(places=many)), job_with([camera(1)])):
            pdf = pypdfium2.PdfDocument(handover_pdf(offer_sheet(assess(job), "28 November 2026")))
            with self.subTest(job.name):
                self.assertEqual(len(pdf), 1)


if __name__ == "__main__":
    unittest.main()
