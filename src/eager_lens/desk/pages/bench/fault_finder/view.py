"""The fault finder: from what is seen, by the test that tells most a minute, to the cause and its remedy."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from datetime import datetime
from functools import partial

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QWidget

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.fault_finder.for_job import job_case
from eager_lens.core.fault_finder.groups import recorder_of
from eager_lens.core.fault_finder.known_answers import CHECK_MAKES, KnownAnswers, answers_of_check, answers_of_proof
from eager_lens.core.fault_finder.on_site import answer_on_site
from eager_lens.core.fault_finder.search import FaultSearch
from eager_lens.core.fault_finder.site_view import SiteView
from eager_lens.core.job.model import Camera
from eager_lens.core.simulation.copies import copy_of
from eager_lens.core.simulation.parts import NOT_ASKED
from eager_lens.core.simulation.site import Site
from eager_lens.core.site_check.lines import SiteCode
from eager_lens.core.site_check.readings import CheckRun
from eager_lens.core.site_check.verdicts import Row
from eager_lens.desk.asking import Asker
from eager_lens.desk.background import waited_for
from eager_lens.desk.pages.bench.fault_finder.figures_view import FaultFiguresView
from eager_lens.desk.pages.bench.fault_finder.search import FaultSearchView, TestMaker
from eager_lens.desk.pages.bench.fault_finder.start import FaultStart
from eager_lens.desk.session import Session
from eager_lens.desk.theme import SPACE
from eager_lens.desk.widgets.basics import column
from eager_lens.desk.widgets.current_stack import CurrentStack


class FaultView(QWidget):
    """Where a search begins, or the one that goes on."""

    look_asked = Signal(list)
    """A site check is wanted of these devices."""

    def __init__(
        self,
        session: Session,
        asker: Asker,
        *,
        rows_of_check: Callable[[], Sequence[Row]],
        run_of_check: Callable[[], CheckRun | None],
        site_of_rehearsal: Callable[[], Site | None],
        test_made: Callable[[str, str, float], object],
    ) -> None:
        super().__init__()
        self.session = session
        self.rows_of_check, self.run_of_check = rows_of_check, run_of_check
        self.site_of_rehearsal, self.test_made = site_of_rehearsal, test_made
        self.start = FaultStart(session, self.down_now)
        self.searching = FaultSearchView(session, asker, self._known, self._makers)
        self.figures = FaultFiguresView(session)
        self._stack = CurrentStack()
        self._stack.addWidget(self.start)
        self._stack.addWidget(self.searching)
        self._stack.addWidget(self.figures)
        self.start.begun.connect(self.begin)
        self.searching.left.connect(self.begin_anew)
        self.searching.figures_asked.connect(self.show_figures)
        self.start.figures_asked.connect(self.show_figures)
        self.figures.left.connect(self._leave_figures)
        whole = column(self._stack, spacing=SPACE.TIGHT)
        self.setLayout(whole)

    def show_assessment(self, assessment: Assessment) -> None:
        """Draw what is in sight; a search goes on with what the job says now."""
        search = self.searching.search
        if self._stack.currentWidget() is self.figures:
            self.figures.show_assessment(assessment)
            return
        if self._stack.currentWidget() is self.start or search is None:
            self.start.show_assessment(assessment)
            return
        device = assessment.facts.by_device_id.get(search.of.device.id)
        if device is None:
            self.begin_anew()
            return
        down = [one for one in search.of.down if one in assessment.facts.by_device_id]
        of = job_case(assessment, device, search.of.case.symptom, down=down)
        self.searching.show_search(replace(search, of=of))

    def begin(self, device_ids: Sequence[str], symptom: str) -> None:
        """Begin a search, on the first of the devices that show it."""
        assessment = self.session.assessment
        known = [one for one in device_ids if one in assessment.facts.by_device_id]
        if known:
            device = assessment.facts.by_device_id[known[0]]
            cameras = [one for one in known if isinstance(assessment.facts.by_device_id[one], Camera)]
            self._stack.setCurrentWidget(self.searching)
            self.searching.show_search(FaultSearch(job_case(assessment, device, symptom, down=cameras)))
            self.searching.setFocus()

    def begin_anew(self) -> None:
        """Back to device and symptom."""
        self.searching.search = None
        self._stack.setCurrentWidget(self.start)
        self.start.show_assessment(self.session.assessment)
        self.start.devices.setFocus()

    def show_figures(self) -> None:
        """Show the figures that it reckons with."""
        self._stack.setCurrentWidget(self.figures)
        self.figures.show_assessment(self.session.assessment)

    def _leave_figures(self) -> None:
        """Back to the search, with the figures as they are now."""
        self._stack.setCurrentWidget(self.start if self.searching.search is None else self.searching)
        self.show_assessment(self.session.assessment)

    # ---- what is known, and what the program can make itself -----------------------------------------------------------

    def down_now(self) -> list[str]:
        """Cameras that the last site check missed, or that the rehearsal's recorders get no picture of."""
        cameras = {camera.id: camera for camera in self.session.job.cameras}
        missed = {SiteCode.NOT_HEARD, SiteCode.NO_STREAM, SiteCode.IN_ITS_PLACE, SiteCode.ELSEWHERE}
        found = {
            row.device.id
            for row in self.rows_of_check()
            if row.device is not None and any(line.code in missed for line in row.lines)
        }
        site = self.site_of_rehearsal()
        if site is not None:
            on = {(one.recorder, one.channel): camera.id for camera in cameras.values() for one in camera.registered}
            found |= {
                on[recorder.id, channel]
                for recorder in site.recorders()
                for channel, entry in recorder.entries.items()
                if entry.shown in ("silent", "refused") and entry.why != NOT_ASKED and (recorder.id, channel) in on
            }
        return [one for one in cameras if one in found]

    def _known(self, search: FaultSearch) -> list[KnownAnswers]:
        """What the last site check and acceptance tests say of the device, as far as it was not answered yet."""
        table, device = search.of.case.table, search.of.device
        run = self.run_of_check()
        rows = [row for row in self.rows_of_check() if row.device is not None and row.device.id == device.id]
        checked = tuple(answer for row in rows for answer in answers_of_check(table, row, run))
        proved = answers_of_proof(table, self.session.job, device, datetime.now())
        made = {answer.test for answer in search.answers}
        can = {test.id for test in search.of.case.tests}
        found = []
        for known in (KnownAnswers("site check", run.at if run is not None else "", checked), proved):
            left = tuple(one for one in known.answers if one.test not in made and one.test in can)
            if left:
                found.append(known._replace(answers=left))
        return found

    def _makers(self, search: FaultSearch) -> list[TestMaker]:
        """The ways in which the program itself can make the test that is asked for."""
        asked, device = search.asked, search.of.device
        if asked is None:
            return []
        found = []
        if asked.test.id in CHECK_MAKES and device.address:
            recorder = recorder_of(self.session.job, device)
            ids = [device.id, *([recorder.id] if recorder is not None else [])]
            tip = "A site check of this device and its recorder; it first lists what it will send"
            found.append(TestMaker("Check over the network …", tip, partial(self.look_asked.emit, ids)))
        site = self.site_of_rehearsal()
        if site is not None and isinstance(device, Camera) and device.id in site.units:
            tip = "What the simulated site of the rehearsal shows now; nothing is changed"
            found.append(TestMaker("Ask the rehearsal", tip, partial(self._ask_rehearsal, site, device)))
        return found

    def _ask_rehearsal(self, site: Site, camera: Camera) -> None:
        search = self.searching.search
        if search is None or search.asked is None:
            return
        test = search.asked.test

        def answer() -> str | None:
            copied = copy_of(site)
            at = SiteView(copied, copied.units[camera.id], camera)
            at.plug_in()
            return answer_on_site(at, test.id)

        words = waited_for(answer, "Asking the rehearsal…")
        if words is None:
            self.session.notice("The rehearsal cannot answer that: it is not simulated")
        after = search.answered(None if words is None else test.outcomes.index(words))
        self.searching.become(after)
        if words is not None:
            self.test_made(camera.id, " – ".join(after.answer_words(after.answers[-1])), test.minutes)

    def take_known(self) -> None:
        """Take over what a site check that was asked for has read."""
        search = self.searching.search
        if search is not None:
            for known in self._known(search):
                if known.source == "site check":
                    search = search.with_answers(known.answers)
            self.searching.become(search)
