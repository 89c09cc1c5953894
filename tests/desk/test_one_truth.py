"""A figure that stands in two places is the same number: every page of the window, sheets and command line of thirty jobs."""

import unittest
from collections import Counter

from PySide6.QtWidgets import QApplication

from eager_lens.core.present.stages import STAGES
from tests.desk.base import WindowCase
from tests.one_truth.figures import Shown, disagreements, in_sheets, in_terminal, in_window, in_workings
from tests.one_truth.jobs import jobs
from tests.support import repeats

LEAST_PLACES = {
    "promised days": 13,
    "incoming Mb/s": 12,
    "passed checks": 11,
    "registered": 11,
    "address faults": 10,
    "draw W": 9,
    "GB a day": 8,
    "rate Mb/s": 5,
    "camera W": 5,
    "cable m": 5,
    "mean days": 4,
    "usable TB": 4,
    "volts": 4,
    "stopped cameras": 3,
    "allocated W": 3,
    "free addresses": 3,
    "recorded h a day": 3,
    "load Mb/s": 2,
    "port W": 2,
    "events an hour": 2,
    "px/m": 2,
}
"""A collector that finds nothing would agree with everything: in so many places each figure must be found."""


class EveryFigure(WindowCase):
    draws_curves = True

    def in_every_view(self, stage, turn, tabs_seen):
        """What a page shows: of each job the first view, of its other tabs every fourth, and of the tabs that come into sight with
        them. Every tab is seen with seven jobs, which takes a quarter of the time."""
        page = self.window.pages[stage]
        QApplication.processEvents()
        yield from in_window(self.window, stage)
        for tab in page._tabs_in_sight():
            if tab not in tabs_seen:
                tabs_seen.append(tab)
                if len(tabs_seen) % 4 == turn % 4:
                    tab.click()
                    yield from self.in_every_view(stage, turn, tabs_seen)

    def in_the_window(self, job, turn):
        self.open_job(job)
        for stage in STAGES:
            self.window.go(stage)
            yield from self.in_every_view(stage, turn, [])

    def test_is_the_same_number_wherever_it_stands(self):
        places = Counter()
        for at, job in enumerate(jobs(repeats(6, 30))):
            shown = [*self.in_the_window(job, at)]
            assessment = self.session.assessment
            shown += [*in_terminal(assessment), *in_sheets(assessment), *in_workings(assessment)]
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
