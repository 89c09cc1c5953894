"""Words on paper: a font for every character that this computer has one for, and numbers in place of names that have none."""

import io
import unittest
from datetime import date
from unittest import mock

import pypdfium2

from eager_lens.core.assess.assessment import assess
from eager_lens.core.firm.label_stock import STOCKS
from eager_lens.core.outgoing.formats import print_fonts
from eager_lens.core.outgoing.formats.pdf import handover_pdf
from eager_lens.core.outgoing.formats.print_fonts import MISSING, PLAIN, font_of, is_printable, markup, runs, width_of
from eager_lens.core.outgoing.formats.reader import reader_of
from eager_lens.core.outgoing.handover.labels import labels_of, labels_pdf
from eager_lens.core.outgoing.handover.modes import sheets_of
from eager_lens.core.outgoing.handover.printable import date_words, stand_ins, warning
from tests.core.outgoing.test_out import pdf_text
from tests.support import camera, job_with

CHINESE, EMOJI, ARABIC = "北門", "\N{GRINNING FACE}", "بوابة"


class NoSystemFonts(unittest.TestCase):
    """As on a computer whose fonts have none of these characters."""

    def setUp(self):
        font_of.cache_clear()
        self.addCleanup(font_of.cache_clear)
        patch = mock.patch.object(print_fonts, "_files_with", lambda character: iter(()))
        fallbacks = mock.patch.object(print_fonts, "_FALLBACKS", [])
        for one in (patch, fallbacks):
            one.start()
            self.addCleanup(one.stop)

    def test_what_the_programs_own_font_has(self):
        for text in ("Gate", "Tür", "Ворота", "Πύλη", "12 × 4 µm² — “ok”"):
            with self.subTest(text):
                self.assertTrue(is_printable(text))
                self.assertEqual(runs(text, PLAIN), [(PLAIN, text)])

    def test_what_none_has_is_marked_and_never_blank(self):
        for text in (CHINESE, EMOJI, ARABIC):
            with self.subTest(text):
                self.assertFalse(is_printable(text))
                ((_, shown),) = runs(text, PLAIN)
                self.assertEqual(set(shown), {MISSING})
        self.assertGreater(width_of(CHINESE, PLAIN, 9), 9)

    def test_names_stand_as_numbers_and_that_is_said(self):
        job = job_with(
            [camera(1, name=CHINESE), camera(2, name=f"Gate {EMOJI}"), camera(3, name="Tür"), camera(4, name=ARABIC)]
        )
        self.assertEqual(stand_ins(job), {CHINESE: "cam-1", f"Gate {EMOJI}": "Gate [cam-2]", ARABIC: "cam-4"})
        words = warning(job)
        self.assertIn(f"The fonts of this computer cannot print 3 names: {CHINESE} as cam-1", words)
        self.assertEqual(warning(job_with([camera(1)])), "")
        sheets = sheets_of("as built", assess(job), "x")
        text = "\n".join(pdf_text(handover_pdf(sheets, stand_ins=stand_ins(job))))
        for number in ("cam-1", "Gate [cam-2]", "cam-4", "Tür"):
            self.assertIn(number, text)
        labels = labels_of(job)
        self.assertEqual((labels[1].lines[0], labels[1].code.splitlines()[0]), ("cam-1", CHINESE))
        self.assertIn("Gate [cam-2]", "\n".join(pdf_text(labels_pdf(labels, STOCKS[0]))))

    def test_a_date_keeps_its_month(self):
        day = date(2026, 12, 1)
        for name in ("ja_JP", "ar_EG", "th_TH", "hi_IN", "zh_CN"):
            words = date_words(reader_of(name), day)
            with self.subTest(name):
                self.assertTrue(is_printable(words))
                self.assertEqual(words, "2026-12-01")
        self.assertEqual(date_words(reader_of("ru_RU"), day), "1 декабря 2026\u202fг.")


@unittest.skipUnless(print_fonts.shutil.which("fc-list"), "no fontconfig here")
class SystemFonts(unittest.TestCase):
    def test_a_character_that_a_font_here_has_is_drawn_in_it(self):
        if not any(True for _ in print_fonts._files_with("ب")):
            self.skipTest("no TrueType font here has Arabic letters")
        self.assertTrue(is_printable(ARABIC))
        self.assertTrue(font_of("ب").startswith("fallback-"))
        self.assertIn('<font name="fallback-', markup(f"Gate {ARABIC}"))
        job = job_with([camera(1, name=f"Gate {ARABIC}")])
        self.assertEqual(stand_ins(job), {})
        pdf = handover_pdf(sheets_of("as built", assess(job), "x"))
        with pypdfium2.PdfDocument(io.BytesIO(pdf)) as document:
            fonts = {
                chunk.get_font().get_base_name() if hasattr(chunk, "get_font") else ""
                for page in document
                for chunk in page.get_objects()
            }
        self.assertGreaterEqual(len(fonts), 1)

    def test_letters_of_arabic_are_joined_and_put_in_order(self):
        if not is_printable(ARABIC):
            self.skipTest("no TrueType font here has Arabic letters")
        seen = "".join(piece for _, piece in runs(ARABIC, PLAIN))
        self.assertEqual(len(seen), len(ARABIC))
        self.assertNotEqual(seen, ARABIC, "in presentation forms, from the right")


if __name__ == "__main__":
    unittest.main()
