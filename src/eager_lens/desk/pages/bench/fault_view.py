"""The fault finder: from what is seen, by the test that tells most a minute, to the cause and its remedy."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace

from PySide6.QtWidgets import QWidget

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.fault_finder.for_job import answers_of_check, job_case
from eager_lens.core.fault_finder.inference import TestAnswer
from eager_lens.core.fault_finder.search import FaultSearch
from eager_lens.core.site_check.verdicts import Row
from eager_lens.desk.pages.bench.fault_search import FaultSearchView
from eager_lens.desk.pages.bench.fault_start import FaultStart
from eager_lens.desk.session import Session
from eager_lens.desk.theme import SPACE
from eager_lens.desk.widgets.basics import column
from eager_lens.desk.widgets.current_stack import CurrentStack


class FaultView(QWidget):
    """Where a search begins, or the one that goes on."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.rows_of_check: Callable[[], Sequence[Row]] = lambda: ()
        self.start, self.searching = FaultStart(session), FaultSearchView(session)
        self.searching.answers_of_check = self._checked
        self._stack = CurrentStack()
        self._stack.addWidget(self.start)
        self._stack.addWidget(self.searching)
        self.start.begun.connect(self.begin)
        self.searching.left.connect(self.begin_anew)
        whole = column(self._stack, spacing=SPACE.TIGHT)
        self.setLayout(whole)

    def show_assessment(self, assessment: Assessment) -> None:
        """Draw what is in sight; a search goes on with what the job says now."""
        search = self.searching.search
        if self._stack.currentWidget() is self.start or search is None:
            self.start.show_assessment(assessment)
            return
        device = assessment.facts.by_device_id.get(search.of.device.id)
        if device is None:
            self.begin_anew()
            return
        of = job_case(assessment, device, search.of.case.symptom)
        self.searching.show_search(replace(search, of=of))

    def begin(self, device_id: str, symptom: str) -> None:
        """Begin a search."""
        device = self.session.assessment.facts.by_device_id.get(device_id)
        if device is not None:
            self._stack.setCurrentWidget(self.searching)
            self.searching.show_search(FaultSearch(job_case(self.session.assessment, device, symptom)))
            self.searching.setFocus()

    def begin_anew(self) -> None:
        """Back to device and symptom."""
        self.searching.search = None
        self._stack.setCurrentWidget(self.start)
        self.start.show_assessment(self.session.assessment)
        self.start.devices.setFocus()

    def _checked(self, search: FaultSearch) -> list[TestAnswer]:
        """What the last site check has read of the device and was not answered yet."""
        made = {answer.test for answer in search.answers}
        can = {test.id for test in search.of.case.tests}
        rows = [row for row in self.rows_of_check() if row.device is not None and row.device.id == search.of.device.id]
        found = [answer for row in rows for answer in answers_of_check(search.of.case.table, row)]
        return [answer for answer in found if answer.test not in made and answer.test in can]
