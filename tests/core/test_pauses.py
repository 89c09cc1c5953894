"""Pauses in long work: others go first there, and it can be stopped; what it takes grows with the job, not with its square."""

import cProfile
import threading
import unittest
from functools import cache

from eager_lens.core.assess.assessment import assess
from eager_lens.core.job.edits import add_like
from eager_lens.core.options.best.picture import best_picture, task_of
from eager_lens.core.options.wiring_options import option_figures
from eager_lens.core.outgoing.formats.pdf import handover_pdf
from eager_lens.core.outgoing.handover.modes import Extras, sheets_of
from eager_lens.core.pauses import EVERY, pause, pausing, with_pauses
from eager_lens.core.planning.attaching import ATTACHMENTS, attached
from eager_lens.core.runbook.commissioning import commissioning
from eager_lens.core.runbook.looked_at import dark_when_all_is_in
from tests.support import demo_job, one_in


class Halted(Exception):
    """Raised at a pause."""


@cache
def larger(cameras):
    """The demo job with so many cameras more."""
    job = demo_job()
    return add_like(job.cameras[0].id, cameras).apply(job)


@cache
def wired(cameras):
    """The same with all of them on switches, assessed."""
    return assess(attached(larger(cameras), "LAN"))


def calls_of(act):
    """How many functions are called by something: work that no other program on the machine makes more of."""
    profile = cProfile.Profile()
    profile.runcall(act)
    return sum(one.callcount for one in profile.getstats())


WORK = {
    "figures": lambda cameras: assess(larger(cameras)),
    "wiring rewritten": lambda cameras: attached(larger(cameras), "LAN"),
    "wiring options": lambda cameras: option_figures(wired(cameras), "camera interface"),
    "commissioning plan": lambda cameras: commissioning(wired(cameras)),
    "best picture": lambda cameras: best_picture(task_of(wired(cameras), "rec-1")),
    "sheets": lambda cameras: sheets_of("offer", wired(cameras), "1 June"),
}
"""Long work on the demo job with so many cameras more."""


class Pauses(unittest.TestCase):
    def test_something_is_done_before_each_so_many_parts(self):
        seen = []
        with pausing(lambda: seen.append("pause")):
            for part in with_pauses(range(5), 2):
                seen.append(part)
        self.assertEqual(seen, ["pause", 0, 1, "pause", 2, 3, "pause", 4])

    def test_nothing_is_done_outside_and_on_other_threads(self):
        seen = []
        with pausing(lambda: seen.append("outer")):
            with pausing(lambda: seen.append("inner")):
                pause()
            pause()
            other = threading.Thread(target=pause)
            other.start()
            other.join()
        pause()
        self.assertEqual(seen, ["inner", "outer"])

    def test_long_work_can_be_stopped_at_its_pauses(self):
        for name, work in WORK.items():
            pauses = 0

            def counted():
                nonlocal pauses
                pauses += 1

            with pausing(counted):
                work(2 * EVERY)
            self.assertGreater(pauses, 4, name)
            for at in one_in(2, (1, 4)):
                left = at

                def halts():
                    nonlocal left
                    left -= 1
                    if not left:
                        raise Halted

                with self.subTest(work=name, at=at), pausing(halts), self.assertRaises(Halted):
                    work(2 * EVERY)

    def test_more_cameras_have_more_pauses(self):
        for name in ("figures", "wiring rewritten", "wiring options"):
            counts = []
            for cameras in (400, 800):
                seen = []
                with pausing(lambda seen=seen: seen.append(1)):
                    WORK[name](cameras)
                counts.append(len(seen))
            with self.subTest(work=name):
                self.assertGreater(counts[1] - counts[0], 4)

    def test_a_sheet_that_is_laid_out_pauses_for_each_page(self):
        sheets = sheets_of("crew", assess(demo_job()), "1 June", Extras())
        seen = []
        with pausing(lambda: seen.append(1)):
            pages = handover_pdf(sheets).count(b"/Type /Page\n")
        self.assertGreaterEqual(len(seen), max(2, pages))


class Growth(unittest.TestCase):
    def grows(self, work, least, most):
        """Calls for twice the cameras against once."""
        sizes = (300, 600)
        for size in sizes:
            wired(size)  # what is made once a process counts for nothing
        once, twice = (calls_of(lambda size=size: work(size)) for size in sizes)
        self.assertTrue(least < twice / once < most, twice / once)

    def test_wiring_is_rewritten_in_proportion_to_the_cameras(self):
        for attachment in ATTACHMENTS:
            with self.subTest(attachment):
                self.grows(lambda size, one=attachment: attached(larger(size), one), 1.5, 2.4)

    def test_a_site_whose_cameras_all_have_one_address_powers_up_in_proportion(self):
        self.grows(lambda size: dark_when_all_is_in(wired(size)), 1.5, 2.4)


if __name__ == "__main__":
    unittest.main()
