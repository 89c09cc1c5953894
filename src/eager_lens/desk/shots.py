"""Pictures of each main view, drawn from the demo job without a screen."""

from __future__ import annotations

import os
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

WIDTH, HEIGHT = 1280, 800
SETTLE_S = 0.15
LONGEST_WAIT_S = 30.0


def draw_shots(folder: Path, only: str | None) -> int:
    """Draw the views into ``folder``; returns the exit status."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from PySide6.QtCore import QThreadPool
    from PySide6.QtWidgets import QApplication

    from eager_lens.core.present.working import FigureRef
    from eager_lens.desk.pages.bench.page import PLAN, REHEARSAL, BenchPage
    from eager_lens.desk.pages.motion.page import TRY, MotionPage
    from eager_lens.desk.pages.schedule.page import YEAR, SchedulePage
    from eager_lens.desk.pages.sizing.page import SizingPage
    from eager_lens.desk.pages.wiring.page import FAILING, WiringPage
    from eager_lens.desk.session import Session
    from eager_lens.desk.start import application
    from eager_lens.desk.window import Window

    app = application()
    with tempfile.TemporaryDirectory() as place:
        window = Window(Session(Path(place) / "config", Path(place) / "state"))
        window.resize(WIDTH, HEIGHT)
        window.show()

        def stage(name: str, subject: str = "") -> Callable[[], None]:
            return lambda: window.go(name, subject)  # type: ignore[arg-type]

        def sizing() -> None:
            window.open_demo()
            window.session.show_working(FigureRef("days", "rec-1"))

        def sizing_promise() -> None:
            window.side.hide_working()
            page = window.pages["sizing"]
            assert isinstance(page, SizingPage)
            page.show_promise()

        def sizing_best() -> None:
            page = window.pages["sizing"]
            assert isinstance(page, SizingPage)
            page.show_best()

        def sizing_clip() -> None:
            from eager_lens.core.clip.drawn import Drawn, write_clip

            page = window.pages["sizing"]
            assert isinstance(page, SizingPage)
            clip = Drawn(1280, 720, 10, 12, 3.0, 3)
            page.show_clip(write_clip(Path(place) / "yard-gate.mp4", clip, "h265", 24), "cam-26")

        def wiring() -> None:
            window.go("wiring", "cam-24")

        def wiring_radio() -> None:
            window.go("wiring", "link-42")

        def wiring_failing() -> None:
            page = window.pages["wiring"]
            assert isinstance(page, WiringPage)
            page.show_view(FAILING)
            page.failing.lead_to("net-3")

        def addresses() -> None:
            window.side.hide_working()
            window.go("addresses", "cam-18")

        def schedule_year() -> None:
            page = window.pages["schedule"]
            assert isinstance(page, SchedulePage)
            page.show_view(YEAR)
            page.year.show_base("week-3")
            page.year.show_year(2026)

        def motion_try() -> None:
            window.go("motion", "cam-21")
            page = window.pages["motion"]
            assert isinstance(page, MotionPage)
            page.show_view(TRY)
            _settle(app, QThreadPool.globalInstance())
            page.trying.look()
            _settle(app, QThreadPool.globalInstance())
            page.trying.tune()
            _settle(app, QThreadPool.globalInstance(), 240.0)

        def dark() -> None:
            window.run("dark")
            page = window.pages["sizing"]
            assert isinstance(page, SizingPage)
            page.show_cameras()
            window.go("sizing", "cam-22")

        def bench_plan() -> None:
            page = window.pages["bench"]
            assert isinstance(page, BenchPage)
            page.show_view(PLAN)
            _settle(app, QThreadPool.globalInstance())
            page.plan.set_people(2)
            page.plan.table.lead_to("cam-5/set-up")

        def bench_rehearsal() -> None:
            window.go("bench")
            page = window.pages["bench"]
            assert isinstance(page, BenchPage)
            page.show_view(REHEARSAL)
            rehearsal = page.rehearsal
            rehearsal.begin()
            _settle(app, QThreadPool.globalInstance())
            for _ in range(40):
                rehearsal.do_next()
            for number in (6, 13):
                rehearsal.do("plug", f"cam-{number}", {})
            rehearsal.rehearser.pass_time(120)
            rehearsal.do("search", "laptop", {})
            rehearsal.shelf.lead_to("cam-6")

        views: dict[str, Callable[[], None]] = {
            "start": window.show_start,
            "sizing": sizing,
            "sizing-promise": sizing_promise,
            "sizing-best": sizing_best,
            "sizing-clip": sizing_clip,
            "wiring": wiring,
            "wiring-radio": wiring_radio,
            "wiring-failing": wiring_failing,
            "addresses": addresses,
            "bench": stage("bench"),
            "bench-plan": bench_plan,
            "schedule": stage("schedule", "week-3"),
            "schedule-year": schedule_year,
            "motion": stage("motion", "cam-14"),
            "motion-try": motion_try,
            "proof": stage("proof"),
            "handover": stage("handover"),
            "bench-rehearsal": bench_rehearsal,
            "sizing-dark": dark,
        }
        if only is not None and only not in views:
            print(f"eager-lens: no view {only!r}; there are {', '.join(views)}", file=sys.stderr)
            return 2
        folder.mkdir(parents=True, exist_ok=True)
        for name, show in views.items():
            show()
            _settle(app, QThreadPool.globalInstance())
            if only in (None, name):
                window.grab().save(str(folder / f"{name}.png"))
                print(folder / f"{name}.png")
        window.session.close()
        window.deleteLater()
    QApplication.processEvents()
    return 0


def _settle(app: object, pool: object, longest_s: float = LONGEST_WAIT_S) -> None:
    """Let everything that was begun come to rest: events, delayed drawing, work on other threads."""
    from PySide6.QtCore import QThreadPool
    from PySide6.QtWidgets import QApplication

    assert isinstance(pool, QThreadPool)
    quiet_since, begun = time.monotonic(), time.monotonic()
    while time.monotonic() - quiet_since < SETTLE_S + 0.4 and time.monotonic() - begun < longest_s:
        QApplication.processEvents()
        if pool.activeThreadCount():
            quiet_since = time.monotonic()
        time.sleep(0.01)
