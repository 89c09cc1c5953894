"""``./eager-lens shots``: pictures of each main view, drawn from the demo job without a screen."""

from __future__ import annotations

import argparse
import os
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import TypeVar

from PySide6.QtCore import QThreadPool
from PySide6.QtWidgets import QApplication

from eager_lens.assets import asset
from eager_lens.core.assess.finding import Stage
from eager_lens.core.clip.drawn import Drawn, write_clip
from eager_lens.core.enquiry.enquiry import Enquiry, PlaceWanted
from eager_lens.core.present.working import FigureRef
from eager_lens.core.virtual_site.faults import FAULTS
from eager_lens.desk.pages.bench.page import PLAN, REHEARSAL, SET_DEVICES, SITE_CHECK, BenchPage
from eager_lens.desk.pages.motion.page import TRY, MotionPage
from eager_lens.desk.pages.sizing.page import SizingPage
from eager_lens.desk.panels.enquiry_view import EnquiryView
from eager_lens.desk.session import Session
from eager_lens.desk.start import application
from eager_lens.desk.widgets.page import Page
from eager_lens.desk.window import Window

WIDTH, HEIGHT = 1280, 800
SETTLE_S = 0.15
LONGEST_WAIT_S = 30.0
ENCODED_S = 90.0
"""So long the streams of all stand-ins may be encoded, where that was not done before."""

DAIRY = Enquiry(
    name="Brindlemoor Dairy",
    customer="Brindlemoor Dairy",
    places=(
        PlaceWanted(name="Dairy", views={"door": 2, "till": 1, "corridor": 2, "room": 1}),
        PlaceWanted(name="Yard", distance_m=45, views={"gate": 1, "yard": 3}),
        PlaceWanted(name="Cold store", distance_m=140, other_building=True, views={"store": 4}),
    ),
)

P = TypeVar("P", bound=Page)


class Views:
    """Brings the window to each view that a picture is taken of, one after the other."""

    def __init__(self, window: Window, folder: Path) -> None:
        self._window, self._folder = window, folder

    def _page(self, stage: Stage, kind: type[P]) -> P:
        page = self._window.pages[stage]
        assert isinstance(page, kind)
        return page

    def _sizing(self) -> SizingPage:
        return self._page("sizing", SizingPage)

    def sizing(self) -> None:
        """The demo job as it opens, with a working."""
        self._window.open_demo()
        self._window.session.show_working(FigureRef("days", "rec-1"))

    def new_job(self) -> None:
        """The questions of a new job, answered for an invented dairy."""
        self._window.run("enquiry")
        (view,) = self._window.findChildren(EnquiryView)
        view.show_answers(DAIRY)

    def sizing_promise(self) -> None:
        """The days that can be promised."""
        self._window.side.hide_working()
        self._sizing().show_promise()

    def sizing_best(self) -> None:
        """The best picture within the limits."""
        self._sizing().show_best()

    def sizing_clip(self) -> None:
        """A clip that was measured."""
        clip = Drawn(1280, 720, 10, 12, 3.0, 3)
        self._sizing().show_clip(write_clip(self._folder / "yard-gate.mp4", clip, "h265", 24), "cam-26")

    def addresses(self) -> None:
        """A camera inside the DHCP pool."""
        self._window.side.hide_working()
        self._window.go("addresses", "cam-18")

    def bench_plan(self) -> None:
        """The commissioning plan for two people."""
        page = self._page("bench", BenchPage)
        page.show_view(PLAN)
        settle()
        page.plan.set_people(2)
        page.plan.table.lead_to("cam-5/set-up")

    def bench_fault(self) -> None:
        """The fault finder after two answers."""
        page = self._page("bench", BenchPage)
        page.find_fault(["cam-6"], "comes-and-goes")
        for outcome in (0, 0):
            search = page.faults.searching.search
            if search is not None:
                page.faults.searching.become(search.answered(outcome))

    def motion_try(self) -> None:
        """A rule that was tried and tuned."""
        self._window.go("motion", "cam-21")
        page = self._page("motion", MotionPage)
        page.show_view(TRY)
        settle()
        page.trying.look()
        settle()
        page.trying.tune()
        settle(240.0)

    def bench_rehearsal(self) -> None:
        """The rehearsal in the middle, with two cameras that share an address."""
        self._window.go("bench")
        page = self._page("bench", BenchPage)
        page.show_view(REHEARSAL)
        rehearsal = page.rehearsal
        rehearsal.begin()
        settle()
        for _ in range(40):
            rehearsal.do_next()
        for number in (6, 13):
            rehearsal.do("plug", f"cam-{number}", {})
        rehearsal.rehearser.pass_time(120)
        rehearsal.do("search", "laptop", {})
        rehearsal.shelf.lead_to("cam-6")

    def set_devices(self) -> None:
        """The stand-ins of the demo out of the box, looked at: what differs from the plan."""
        job = self._folder / "brindlemoor.lens.json"
        job.write_bytes(asset("demo", "brindlemoor.lens.json").read_bytes())
        self._window.session.open(job)
        page = self._page("bench", BenchPage)
        page.show_view(SET_DEVICES)
        view = page.set_devices
        view.controls.start_here.click()
        wait_until(lambda: view.controls.here.site is not None)
        view.look.click()
        wait_until(lambda: view.looked is not None)
        view.table.lead_to(next(one.id for one in view.shown_rows() if one.name == "Halt platform"))

    def site_check(self) -> None:
        """The stand-ins of the demo, one of them at other settings, looked at; in the dark theme."""
        self._window.run("dark")
        page = self._page("bench", BenchPage)
        page.show_view(SITE_CHECK)
        view = page.site_check
        controls = view.controls
        controls.here.stop_and_wait()
        controls.fault.setCurrentText(FAULTS["other-settings"].words)
        controls.fault_at.setCurrentText("Yard throat")
        controls.start_here.click()
        wait_until(lambda: controls.here.site is not None)
        time.sleep(ENCODED_S)
        view.look.click()
        wait_until(view.begin.isVisible)
        view.begin.click()
        wait_until(lambda: not view.busy.is_running)
        controls.here.stop()
        view.table.lead_to(next(one.id for one in view.shown_rows() if one.row.name == "Yard throat"))

    def in_order(self) -> dict[str, Callable[[], None]]:
        """By the picture's name, what brings its view into sight; each goes on from where the one before it was."""

        def at(stage: Stage, subject: str = "") -> Callable[[], None]:
            return lambda: self._window.go(stage, subject)

        return {
            "start": self._window.show_start,
            "new-job": self.new_job,
            "sizing": self.sizing,
            "sizing-promise": self.sizing_promise,
            "sizing-best": self.sizing_best,
            "sizing-clip": self.sizing_clip,
            "wiring": at("wiring", "cam-24"),
            "addresses": self.addresses,
            "bench": at("bench"),
            "bench-plan": self.bench_plan,
            "bench-fault": self.bench_fault,
            "schedule": at("schedule", "week-3"),
            "motion": at("motion", "cam-14"),
            "motion-try": self.motion_try,
            "proof": at("proof", "cam-2"),
            "handover": at("handover"),
            "bench-rehearsal": self.bench_rehearsal,
            "bench-set-devices": self.set_devices,
            "bench-site-check": self.site_check,
        }


def draw_shots(folder: Path, only: str | None) -> int:
    """Draw the views into ``folder``, or the one named ``only``; returns the exit status."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    application()
    with tempfile.TemporaryDirectory() as place:
        window = Window(Session(Path(place) / "config", Path(place) / "state"))
        window.resize(WIDTH, HEIGHT)
        window.show()
        views = Views(window, Path(place)).in_order()
        if only is not None and only not in views:
            print(f"eager-lens: no view {only!r}; there are {', '.join(views)}", file=sys.stderr)
            return 2
        _draw(window, views, folder, only)
        window.session.close()
        window.deleteLater()
    QApplication.processEvents()
    return 0


def _draw(window: Window, views: dict[str, Callable[[], None]], folder: Path, only: str | None) -> None:
    folder.mkdir(parents=True, exist_ok=True)
    for name, show in views.items():
        show()
        settle()
        if only in (None, name):
            window.grab().save(str(folder / f"{name}.png"))
            print(folder / f"{name}.png")


def wait_until(holds: Callable[[], bool], longest_s: float = 120.0) -> None:
    """Let the event loop run until something holds."""
    begun = time.monotonic()
    while not holds() and time.monotonic() - begun < longest_s:
        QApplication.processEvents()
        time.sleep(0.01)


def settle(longest_s: float = LONGEST_WAIT_S) -> None:
    """Let everything that was begun come to rest: events, delayed drawing, work on other threads."""
    pool = QThreadPool.globalInstance()
    quiet_since, begun = time.monotonic(), time.monotonic()
    while time.monotonic() - quiet_since < SETTLE_S + 0.4 and time.monotonic() - begun < longest_s:
        QApplication.processEvents()
        if pool.activeThreadCount():
            quiet_since = time.monotonic()
        time.sleep(0.01)


def main() -> int:
    """Draw what was asked for."""
    parser = argparse.ArgumentParser(prog="eager-lens shots", description=__doc__)
    parser.add_argument("--out", type=Path, default=Path("docs/screenshots"))
    parser.add_argument("--only", metavar="NAME")
    given = parser.parse_args()
    return draw_shots(given.out, given.only)


if __name__ == "__main__":
    sys.exit(main())
