"""A figure that stands in two places is the same number: window, sheets and command line of thirty jobs."""

import unittest
from collections import Counter

from eager_lens.core.assess.assessment import assess
from eager_lens.desk.pages.sizing.page import ASSUMED, CAMERAS, LEVERS, PROMISE
from tests.desk.base import WindowCase
from tests.one_truth import Shown, disagreements, in_sheets, in_terminal, in_window, in_workings, jobs

LEAST_PLACES = {
    "promised days": 6,
    "mean days": 4,
    "rate Mb/s": 4,
    "GB a day": 4,
    "incoming Mb/s": 4,
    "draw W": 2,
}
"""A collector that finds nothing would agree with everything: in so many places each figure must be found."""


class EveryFigure(WindowCase):
    def in_the_window(self, job):
        page = self.open_job(job)
        found = []
        for tab in (CAMERAS, PROMISE, ASSUMED, LEVERS):
            page._show_tab(tab)
            self.wait_for_work()
            found += in_window(self.window, f"sizing, {page.tabs[tab].words}")
        for stage in ("wiring", "schedule", "proof", "handover"):
            self.window.go(stage)
            found += in_window(self.window, stage)
        return found

    def test_is_the_same_number_wherever_it_stands(self):
        places = Counter()
        for at, job in enumerate(jobs(30)):
            assessment = assess(job)
            shown = [*in_terminal(assessment), *in_sheets(assessment), *in_workings(assessment)]
            # The window shows one assessment in many ways: ten jobs of the thirty are enough to see it.
            shown += self.in_the_window(job) if at % 3 == 0 else []
            with self.subTest(job=at):
                self.assertEqual(disagreements(shown), [])
            places.update({(one.meaning, one.where) for one in shown})
        for meaning, least in LEAST_PLACES.items():
            where = {place for what, place in places if what == meaning}
            self.assertGreaterEqual(len(where), least, (meaning, where))

    def test_a_figure_that_differs_is_seen(self):
        same = [
            Shown("promised days", "Alder", text, place)
            for text, place in (("9.094", "assess --json"), ("9.09", "strip"))
        ]
        self.assertEqual(disagreements(same), [])
        other = Shown("promised days", "Alder", "9.11", "sheet")
        self.assertEqual([pair[1] for pair in disagreements([*same, other])], [other])
        self.assertEqual(disagreements([Shown("GB a day", "Alder", text, "") for text in ("1\u2009100.6", "1101")]), [])


if __name__ == "__main__":
    unittest.main()
