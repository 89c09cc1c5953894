"""A new job by questions: what a customer says on the telephone, what that comes to as it is typed, and one button."""

from __future__ import annotations

import datetime
from collections.abc import Callable
from functools import partial

from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import QCheckBox, QHeaderView, QLineEdit, QTableWidget, QTableWidgetItem, QVBoxLayout, QWidget

from eager_lens.core.assess.assessment import Assessment, assess
from eager_lens.core.assess.figures.devices import days_words
from eager_lens.core.assess.finding import Severity
from eager_lens.core.enquiry.build import ASSUMED, job_for
from eager_lens.core.enquiry.enquiry import MOST_VIEWS, RECORD_WORDS, Enquiry, PlaceWanted, view_kinds
from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.model import Job
from eager_lens.core.plain_text import inside, sentence_case
from eager_lens.core.planning.attaching import ATTACHMENT_WORDS, ATTACHMENTS
from eager_lens.core.present.parts import parts_list
from eager_lens.core.recording.typed_dates import days_from, month_days_from
from eager_lens.core.recording.week import DAYS, typed_minute
from eager_lens.core.sizing.drives import LEVEL_WORDS
from eager_lens.core.units import count, figure
from eager_lens.core.validation import read_as, without_unwritable
from eager_lens.desk.background import Task, Work
from eager_lens.desk.session import Session
from eager_lens.desk.theme import SPACE, look
from eager_lens.desk.widgets.basics import Choice, button, held, label, row
from eager_lens.desk.widgets.busy import Busy
from eager_lens.desk.widgets.flow import flow, pair
from eager_lens.desk.widgets.number_field import NumberField
from eager_lens.desk.widgets.plain_words import set_tip

AFTER_TYPING_MS = 200
MOST_PLACES, MOST_ROWS_IN_SIGHT = 100, 8
NAME, DISTANCE, APART = range(3)
FIRST_KIND = 3
CAPPED_TIP = (
    "Each camera gets a usual maximum: about 1 to 2 Mb/s for 1080p, 2 to 4 for 4 MP, 4 to 8 for 8 MP. Without a maximum you "
    "buy drives for the worst noise and motion."
)
MAIN_PLACE = "Main building"


class EnquiryView(QWidget):
    """Takes the place of the page until the job is built or given up."""

    def __init__(
        self, session: Session, base: Job, build: Callable[[Enquiry], object], leave: Callable[[], object]
    ) -> None:
        super().__init__()
        self._session, self._base, self._build_job, self._leave = session, base, build, leave
        self.enquiry: Enquiry | None = None
        self.outcome: Assessment | None = None
        self._busy = Busy(session, self)
        self._timer = QTimer(self, singleShot=True, interval=AFTER_TYPING_MS)
        self._timer.timeout.connect(self._work_out)
        self._make_fields()
        self._make_places()
        self._result = label("", wrap=True)
        self._trouble = label("", "caution", wrap=True)
        self._assumed = label(f"Assumed until the site has been seen: {'; '.join(ASSUMED)}.", "small", wrap=True)
        self._build = button("Create job", self._built, "main")
        self._lay_out()
        self._changed()

    # ---- parts ---------------------------------------------------------------------------------------------------

    def _line(self, name: str, width: int, text: str = "", hint: str = "") -> QLineEdit:
        made = QLineEdit(text)
        made.setAccessibleName(name)
        made.setPlaceholderText(hint)
        made.setMaxLength(200)
        look.fix_width(made, width)
        made.textChanged.connect(lambda _: self._changed())
        return made

    def _number(self, name: str, unit: str, value: float | None, empty: str = "", width: int = 86) -> NumberField:
        made = NumberField(name, unit, empty, width)
        made.show_value(value)
        made.typed.connect(lambda _: self._changed())
        made.refused.connect(lambda text: self._session.notice(text, needs=True))
        return made

    def _make_fields(self) -> None:
        usual = Enquiry()
        self._name = self._line("Job", 190, hint="Name of the job")
        self._customer = self._line("Customer", 170)
        self._site = self._line("Site", 170)
        self._least = self._number("Minimum days to keep", "days", usual.least_days)
        self._most = self._number("Days until recordings are erased", "days", None, "as required")
        self._erase = QCheckBox("erase after")
        self._erase.setChecked(usual.erase)
        self._record = Choice()
        for key, words in RECORD_WORDS.items():
            self._record.addItem(words, key)
        self._record.setCurrentIndex(self._record.findData(usual.record))
        self._record.setAccessibleName("Recording mode")
        self._opens = self._line("Opening time", 64, "8:00")
        self._closes = self._line("Closing time", 64, "18:00")
        self._days = self._line("Opening days", 90, "Mon-Fri")
        self._closed = self._line("Closed every year on", 200, hint="25 December, 1 January")
        self._attachment = Choice()
        for attachment in ATTACHMENTS:
            self._attachment.addItem(ATTACHMENT_WORDS[attachment], attachment)
        self._attachment.setAccessibleName("Connection of cameras")
        self._capped = QCheckBox("maximum bit rates")
        set_tip(self._capped, CAPPED_TIP)
        self._capped.setChecked(usual.capped)
        self._redundancy = QCheckBox("a drive may fail")
        self._redundancy.setChecked(usual.redundancy)
        self._internet = QCheckBox("internet line, upload")
        self._internet.setChecked(usual.internet)
        self._upload = self._number("Upload of the internet line", "Mb/s", usual.upload_mbps)
        for box in (self._capped, self._erase, self._redundancy, self._internet):
            box.toggled.connect(lambda _: self._changed())
        for choice in (self._record, self._attachment):
            choice.activated.connect(lambda _: self._changed())

    def _make_places(self) -> None:
        kinds = [kind.label for kind in view_kinds().values()]
        self.places = QTableWidget(0, FIRST_KIND + len(kinds))
        self.places.setHorizontalHeaderLabels(["Place", "Cable route, m", "Another building", *kinds])
        self.places.setAccessibleName("Places, with the number of views of each kind")
        self.places.verticalHeader().hide()
        # Tab leaves the table, so that the keyboard is not caught in it; arrows go through it.
        self.places.setTabKeyNavigation(False)
        self.places.setHorizontalScrollMode(QTableWidget.ScrollMode.ScrollPerPixel)
        header = self.places.horizontalHeader()
        header.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        header.setSectionResizeMode(NAME, QHeaderView.ResizeMode.Interactive)
        self.places.setColumnWidth(NAME, look.px(190))
        header.setHighlightSections(False)
        place = QTableWidgetItem("Place")
        place.setTextAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        self.places.setHorizontalHeaderItem(NAME, place)
        header.setMinimumSectionSize(look.px(52))
        self.places.itemChanged.connect(lambda _: self._changed())
        self.add_place(MAIN_PLACE)

    def add_place(self, name: str = "") -> None:
        """Add a row for a place; the recorder stands in the first."""
        at = self.places.rowCount()
        if at >= MOST_PLACES:
            return
        self.places.blockSignals(True)
        self.places.insertRow(at)
        for column in range(self.places.columnCount()):
            item = QTableWidgetItem()
            if column != NAME:
                item.setTextAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
            if column == NAME:
                item.setText(name or f"Place {at + 1}")
            elif column == APART:
                item.setFlags(
                    Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsUserCheckable | Qt.ItemFlag.ItemIsSelectable
                )
                item.setCheckState(Qt.CheckState.Unchecked)
            if at == 0 and column in (DISTANCE, APART):
                item = QTableWidgetItem("recorder" if column == DISTANCE else "")
                item.setFlags(Qt.ItemFlag.NoItemFlags)
            self.places.setItem(at, column, item)
        self.places.blockSignals(False)
        if at:
            self.places.setCurrentCell(at, NAME)
            self.places.setFocus()
        self._changed()

    def _remove_place(self) -> None:
        at = self.places.currentRow()
        if at > 0:
            self.places.removeRow(at)
            self._changed()
        else:
            self._session.notice("The recorder is in the first place, which cannot be removed", needs=True)

    def _lay_out(self) -> None:
        intro = (
            "Enter what the customer says on the telephone. Everything else is assumed, listed below, and can be changed "
            "later."
        )
        ends = row(None, self._busy.stop_button, button("Cancel", self._leave), self._build)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(SPACE.FULL + 4, SPACE.FULL, SPACE.FULL + 4, SPACE.FULL)
        layout.setSpacing(SPACE.HALF)
        layout.addWidget(label("New job from questions", "verdict"))
        layout.addWidget(label(intro, "muted", wrap=True))
        layout.addLayout(
            flow(
                pair("Job", self._name), pair("customer", self._customer), pair("site", self._site), spacing=SPACE.FULL
            )
        )
        layout.addLayout(
            flow(
                pair("Keep at least", self._least),
                *(self._erase, self._most),
                pair("record", self._record),
                self._capped,
                spacing=SPACE.FULL,
            )
        )
        self._hours = held(
            flow(
                pair("Open from", self._opens),
                pair("to", self._closes),
                pair("on", self._days),
                pair("closed on", self._closed),
                spacing=SPACE.HALF,
            )
        )
        layout.addWidget(self._hours)
        layout.addLayout(
            flow(
                pair("Attached to", self._attachment),
                self._redundancy,
                self._internet,
                self._upload,
                spacing=SPACE.FULL,
            )
        )
        places = row(
            label("Views of each kind", "heading"),
            None,
            button("Add place", self.add_place),
            button("Remove place", self._remove_place, "quiet"),
        )
        layout.addLayout(places)
        layout.addWidget(self.places)
        layout.addWidget(label("Result", "heading"))
        layout.addWidget(self._busy.bar)
        layout.addWidget(self._result)
        layout.addWidget(self._trouble)
        layout.addWidget(self._assumed)
        layout.addStretch(1)
        layout.addLayout(ends)

    def show_answers(self, enquiry: Enquiry) -> None:
        """Fill in what is told of names and places."""
        self._name.setText(enquiry.name)
        self._customer.setText(enquiry.customer)
        self._site.setText(enquiry.site)
        for at, place in enumerate(enquiry.places):
            if at >= self.places.rowCount():
                self.add_place()
            self.places.item(at, NAME).setText(place.name)  # type: ignore[union-attr]
            if at:
                self.places.item(at, DISTANCE).setText(figure(place.distance_m))  # type: ignore[union-attr]
                state = Qt.CheckState.Checked if place.other_building else Qt.CheckState.Unchecked
                self.places.item(at, APART).setCheckState(state)  # type: ignore[union-attr]
            for number, kind in enumerate(view_kinds()):
                self.places.item(at, FIRST_KIND + number).setText(str(place.views.get(kind) or ""))  # type: ignore[union-attr]

    # ---- answers -------------------------------------------------------------------------------------------------

    def answers(self) -> Enquiry:
        """The answers as they stand.

        Raises:
            RefusedInput: naming what cannot be taken.
        """
        closes = _minute(self._closes.text(), "Closing time")
        return read_as(
            Enquiry,
            {
                "name": without_unwritable(self._name.text().strip()) or "New job",
                "customer": without_unwritable(self._customer.text().strip()),
                "site": without_unwritable(self._site.text().strip()),
                "places": [self._place(at) for at in range(self.places.rowCount())],
                "least_days": self._least.value,
                "most_days": self._most.value if self._erase.isChecked() else None,
                "erase": self._erase.isChecked(),
                "record": self._record.currentData(),
                "opens_min": _minute(self._opens.text(), "Opening time") % (24 * 60),
                "closes_min": closes,
                "open_days": days_from(self._days.text()) or DAYS,
                "closed": month_days_from(self._closed.text(), datetime.date.today().year, "Closed on"),
                "capped": self._capped.isChecked(),
                "redundancy": self._redundancy.isChecked(),
                "internet": self._internet.isChecked(),
                "upload_mbps": self._upload.value or 20.0,
                "attachment": self._attachment.currentData(),
            },
        )

    def _place(self, at: int) -> PlaceWanted:
        def text(column: int) -> str:
            item = self.places.item(at, column)
            return "" if item is None else item.text().strip()

        name = text(NAME)
        if not name:
            raise RefusedInput("Place", f"row {at + 1} has no name")
        apart = self.places.item(at, APART)
        views = {
            kind: _whole(text(FIRST_KIND + number), f"{name}, {view_kinds()[kind].label.lower()}")
            for number, kind in enumerate(view_kinds())
        }
        distance = 0.0 if at == 0 else _metres(text(DISTANCE), f"{name}, cable route")
        is_apart = at > 0 and apart is not None and apart.checkState() is Qt.CheckState.Checked
        fields = {"name": without_unwritable(name), "distance_m": distance, "other_building": is_apart, "views": views}
        return read_as(PlaceWanted, fields)

    def _changed(self) -> None:
        if not hasattr(self, "_build"):
            return
        by_hours = self._record.currentData() == "by hours"
        self._hours.setVisible(by_hours)
        rows = min(self.places.rowCount(), MOST_ROWS_IN_SIGHT)
        height = self.places.horizontalHeader().height() + sum(self.places.rowHeight(at) for at in range(rows))
        self.places.setFixedHeight(height + look.px(16))
        self._upload.setEnabled(self._internet.isChecked())
        self._most.setEnabled(self._erase.isChecked())
        # What is built is what stands here, never the answers of a moment ago.
        self._busy.stop()
        self._build.setEnabled(False)
        self._timer.start()

    # ---- what that comes to --------------------------------------------------------------------------------------

    def _work_out(self) -> None:
        try:
            enquiry = self.answers()
        except RefusedInput as error:
            self._tell("", str(error))
            return
        if not enquiry.cameras:
            self._tell("Enter the number of views: 2 under Doors, 1 under Tills …", "")
            return
        base = self._base

        def work(task: Task) -> Work[Assessment | str]:
            yield 0.1
            try:
                job = job_for(enquiry, base)
            except RefusedInput as error:
                return error.problem
            yield 0.8
            return assess(job)

        self._busy.begin(work, partial(self._take, enquiry))

    def _take(self, enquiry: Enquiry, found: Assessment | str) -> None:
        if isinstance(found, str):
            self._tell("", sentence_case(found) + ".")
            return
        self.enquiry, self.outcome = enquiry, found
        self._tell("\n".join(_summary(found)), "")
        self._build.setEnabled(True)

    def _tell(self, result: str, trouble: str) -> None:
        if trouble or not result or self.enquiry is None:
            self.outcome = None
        self._result.setText(result)
        self._assumed.setVisible(self.outcome is not None)
        self._trouble.setText(trouble)
        self._trouble.setVisible(bool(trouble))

    def _built(self) -> None:
        if self.enquiry is not None and self.outcome is not None:
            self._build_job(self.enquiry)


def _minute(text: str, what: str) -> int:
    try:
        return typed_minute(text)
    except ValueError as error:
        raise RefusedInput(what, str(error)) from None


def _whole(text: str, what: str) -> int:
    if not text:
        return 0
    if not (text.isascii() and text.isdigit()) or int(text) > MOST_VIEWS:
        raise RefusedInput(what, f"{text!r} was given; enter a whole number from 0 to {MOST_VIEWS}")
    return int(text)


def _metres(text: str, what: str) -> float:
    plain = text.removesuffix("m").strip().replace(",", ".")
    try:
        metres = float(plain) if plain else 0.0
    except ValueError:
        metres = -1.0
    if not 0 <= metres <= 20_000:
        raise RefusedInput(what, f"{text!r} was given; enter metres from 0 to 20 000")
    return metres


def _caps_words(job: Job) -> str:
    caps = sorted({camera.cap_mbps for camera in job.cameras if camera.cap_mbps is not None})
    if not caps:
        return "No maximum bit rates: drives are sized for the worst noise and motion."
    return (
        f"Maximum bit rates of {figure(caps[0])} to {figure(caps[-1])} Mb/s, depending on resolution and view, must be set "
        "in the cameras."
    )


def _summary(assessment: Assessment) -> list[str]:
    """What the job comes to, in a few lines."""
    job, facts = assessment.job, assessment.facts
    lines = [f"{count(len(job.cameras), 'camera')} at {count(len({c.place for c in job.cameras}), 'place')}."]
    for recorder in job.recorders:
        got = facts.recorder_figures[recorder.id]
        drives = f"{recorder.drives} × {figure(recorder.drive_tb)} TB, {LEVEL_WORDS[recorder.raid_level]}"
        promised = days_words(got.promised_days, got.keeps)
        lines.append(
            f"{recorder.name}: {recorder.channels} channels, {drives}; {figure(got.incoming_mbps)} of "
            f"{figure(recorder.incoming_limit_mbps)} Mb/s incoming; promises {promised} of {figure(job.retention.least_days)} days."
        )
    lines.append(_caps_words(job))
    network = [part for part in parts_list(facts) if part.group == "Switches and network"]
    if network:
        lines.append("Network: " + "; ".join(f"{figure(part.quantity, 9)} × {part.what}" for part in network) + ".")
    cable = [part for part in parts_list(facts) if part.group == "Cable"]
    lines.append("Cable: " + "; ".join(f"{inside(part.what)} {part.quantity_words()}" for part in cable) + ".")
    needs = [finding for finding in assessment.findings if finding.severity > Severity.TODO]
    is_faulty = any(finding.severity is Severity.FAULT for finding in needs)
    settle = f"{'' if is_faulty else 'No fault. '}To settle: {'; '.join(finding.title for finding in needs[:3])}."
    lines.append(settle if needs else "No fault and no warning.")
    return lines
