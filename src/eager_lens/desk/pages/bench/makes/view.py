"""The makes of the job and their make profile out of the box, from the makers' instructions."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, NamedTuple

from PySide6.QtWidgets import QLabel, QLineEdit, QWidget

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.clock.drift import drifted_s
from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.edits import Edit, set_job, set_make_profiles
from eager_lens.core.job.fields import number_from
from eager_lens.core.job.make_profiles import MakeProfile, maker_of, usual_profile
from eager_lens.core.job.model import Job, changed
from eager_lens.core.plain_text import inside
from eager_lens.core.units import figure
from eager_lens.desk.session import Session
from eager_lens.desk.theme import SPACE
from eager_lens.desk.widgets.basics import button, column, label
from eager_lens.desk.widgets.flow import flow, pair
from eager_lens.desk.widgets.plain_words import set_tip
from eager_lens.desk.widgets.record_model import TableColumn
from eager_lens.desk.widgets.record_table import RecordTable

YES_NO = ("yes", "no")


class MakeRow(NamedTuple):
    """A make described in the job; ``at`` is its place in the job's list, None for what is assumed of all others."""

    id: str
    at: int | None
    profile: MakeProfile


def _set(rows: Sequence[MakeRow], job: Job, heading: str, value: Any, name: str) -> Edit:
    if rows[0].at is None:
        raise RefusedInput(heading, "this row holds the assumptions for all other makes; add a make first")
    places = {one.at for one in rows}
    make_profiles = [changed(one, **{name: value}) if at in places else one for at, one in enumerate(job.make_profiles)]
    return set_make_profiles(f"Set {inside(heading)} of {rows[0].profile.make or 'a make'}", make_profiles)


def _text(name: str, heading: str, width: int, **more: Any) -> TableColumn:
    return TableColumn(
        name,
        heading,
        lambda one, a: str(getattr(one.profile, name)),
        lambda rows, text, job: _set(rows, job, heading, text.strip(), name),
        width=width,
        **more,
    )


def _number(name: str, heading: str, unit: str, width: int, **more: Any) -> TableColumn:
    def edit(rows: Sequence[MakeRow], text: str, job: Job) -> Edit:
        try:
            value = number_from(text, unit)
        except ValueError as error:
            raise RefusedInput(heading, str(error)) from None
        return _set(rows, job, heading, value, name)

    def show(one: MakeRow, assessment: Assessment) -> str:
        return figure(getattr(one.profile, name), 6)

    return TableColumn(name, heading, show, edit, unit=unit, align="right", width=width, **more)


def _yes_no(name: str, heading: str, width: int, **more: Any) -> TableColumn:
    def edit(rows: Sequence[MakeRow], text: str, job: Job) -> Edit:
        word = text.strip().lower()
        if word not in YES_NO:
            raise RefusedInput(heading, f"{text.strip()!r} was given; allowed are yes and no")
        return _set(rows, job, heading, word == "yes", name)

    return TableColumn(
        name,
        heading,
        lambda one, a: "yes" if getattr(one.profile, name) else "no",
        edit,
        lambda one, job: YES_NO,
        width=width,
        **more,
    )


def _make_shown(one: MakeRow, assessment: Assessment) -> str:
    return "all others" if one.at is None else one.profile.make or "(not named)"


COLUMNS: tuple[TableColumn, ...] = (
    TableColumn(
        "make",
        "Make begins with",
        _make_shown,
        lambda rows, text, job: _set(rows, job, "Make", text.strip(), "make"),
        width=130,
        one_by_one=True,
    ),
    _text("first_address", "Default address", 140),
    _yes_no("takes_lease", "DHCP first", 82),
    _number("start_s", "Starts in", "s", 80),
    _number("update_s", "Updates in", "s", 90),
    _text("firmware_first", "Delivered", 70),
    _text("firmware_now", "Latest firmware", 72),
    _yes_no("open_protocol_on", "Open protocol on", 112),
    _yes_no("open_user_own", "with its own user", 112),
    _yes_no("answers_ping", "Answers pings", 96),
    _yes_no("announces", "Sends Hello", 108),
    _number("tries", "Locks after", "tries", 100),
    _number("locked_min", "for", "min", 64),
    _number("password_least", "Minimum password", "characters", 150),
    _number("drift_ppm", "Clock drifts", "ppm", 100),
    _number("in_box_min", "In the box", "min", 90),
    _yes_no("budget_by_class", "Allocates by class", 104),
    _text("user_name", "User", 90),
    _text("default_password", "Default password", 120),
    _number("http_port", "Page at TCP port", "", 110),
    _number("rtsp_port", "Streams at TCP port", "", 130),
    _text("main_stream_path", "Main stream at /", 120),
    _text("substream_path", "Substream at /", 110, stretch=True),
)


def in_words(profile: MakeProfile) -> str:
    """What the make profile of a make come to on the bench."""
    one = profile.make or "Any other make"
    first = (
        f"has the default address {profile.first_address}/{profile.first_prefix}"
        if profile.first_address
        else "has no default address"
    )
    if profile.takes_lease:
        first = f"asks for a DHCP lease first; without one it {first}"
    shared = (
        ""
        if profile.takes_lease or not profile.first_address
        else "; since all have the same, only one may have power at a time"
    )
    if profile.open_protocol_on:
        protocol = "The open protocol is on"
    else:
        protocol = "The open protocol is off out of the box"
    user = ", with its own user" if profile.open_user_own else ", with the web user"
    update = (
        "needs no update"
        if profile.firmware_first == profile.firmware_now
        else f"must be updated from {profile.firmware_first} to {profile.firmware_now}, which takes {profile.update_s:.0f} s"
    )
    box = (
        f"In the box it may run {profile.in_box_min:g} min at 20 °C"
        if profile.in_box_min
        else "It may not run in its box"
    )
    return (
        f"{one}: it {first}{shared}. It starts in {profile.start_s:.0f} s and {update}. {protocol}{user}. After "
        f"{profile.tries} wrong log-ins it locks for {profile.locked_min:g} min. Without a time server its clock may be "
        f"{drifted_s(0, profile.drift_ppm, 30 * 86400):.0f} s off after 30 days. {box}."
    )


class MakesView(QWidget):
    """The table of makes, and the job's time zone."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.table = RecordTable(session, COLUMNS, shares_selection=False)
        self._missing: QLabel = label("", "small", wrap=True)
        self.zone = QLineEdit()
        self.zone.setAccessibleName("Time zone of the site")
        self.zone.editingFinished.connect(self._set_zone)
        self.server = QLineEdit()
        self.server.setAccessibleName("Time server")
        self.server.setPlaceholderText("address or name")
        set_tip(self.server, "Recorders ask this server; cameras ask their recorder. Empty: not decided")
        self.server.editingFinished.connect(self._set_server)
        self.fields = {"time_zone": self.zone, "time_server": self.server}
        actions = flow(
            button("Add the makes of the job", self._add_missing, "main"),
            button("Add a make", self._add),
            button("Remove selected", self._remove, "quiet"),
            None,
            pair("Time zone of the site", self.zone),
            pair("Time server", self.server),
        )
        words = label(
            "Fill in from the makers' instructions: the commissioning plan and the rehearsal follow these figures. Devices of "
            "one maker (the first word) share the maker's own protocol.",
            "small",
            wrap=True,
        )
        self._selected_words = label("", "", wrap=True)
        self.table.selectionModel().selectionChanged.connect(lambda *_: self._show_selected())
        layout = column(actions, words, self.table, self._selected_words, self._missing, spacing=SPACE.HALF)
        layout.setStretch(2, 1)
        self.setLayout(layout)

    def show_assessment(self, assessment: Assessment) -> None:
        """Draw the table."""
        job = assessment.job
        rows = [MakeRow(f"make-{at}", at, profile) for at, profile in enumerate(job.make_profiles)]
        rows.append(MakeRow("make-others", None, usual_profile()))
        self.table.show_parts(rows, assessment)
        if not self.table.selected_parts():
            self.table.lead_to(rows[0].id)
        self._show_selected()
        if not self.zone.hasFocus():
            self.zone.setText(job.time_zone)
        if not self.server.hasFocus():
            self.server.setText(job.time_server)
        missing = _missing_makers(job)
        self._missing.setText(f"Not described yet, so with assumptions: {', '.join(missing)}." if missing else "")
        self._missing.setVisible(bool(missing))

    def _show_selected(self) -> None:
        selected = self.table.selected_parts()
        self._selected_words.setText(in_words(selected[0].profile) if selected else "")
        self._selected_words.setVisible(bool(selected))

    def _set_zone(self) -> None:
        text = self.zone.text().strip()
        if text != self.session.job.time_zone and not self.session.apply(set_job("the time zone", time_zone=text)):
            self.zone.setText(self.session.job.time_zone)

    def _set_server(self) -> None:
        text = self.server.text().strip()
        if text != self.session.job.time_server and not self.session.apply(
            set_job("the time server", time_server=text)
        ):
            self.server.setText(self.session.job.time_server)

    def _add(self) -> None:
        job = self.session.job
        if self.session.apply(
            set_make_profiles("Add a make", (*job.make_profiles, changed(usual_profile(), make="New make")))
        ):
            self.table.lead_to(f"make-{len(job.make_profiles)}")

    def _add_missing(self) -> None:
        job = self.session.job
        missing = _missing_makers(job)
        if not missing:
            self.session.notice("Every make of the job is described, or no device has a make yet")
            return
        new = tuple(changed(usual_profile(), make=make) for make in missing)
        self.session.apply(set_make_profiles(f"Add {', '.join(missing)[:100]}", (*job.make_profiles, *new)))

    def _remove(self) -> None:
        gone = {one.at for one in self.table.selected_parts() if one.at is not None}
        if not gone:
            self.session.notice("Select a make first", needs=True)
            return
        kept = [one for at, one in enumerate(self.session.job.make_profiles) if at not in gone]
        self.session.apply(set_make_profiles("Remove makes", kept))


def _missing_makers(job: Job) -> list[str]:
    """Makers of the job's devices that no line describes, as they are written."""
    described = {maker_of(one.make) for one in job.make_profiles}
    found: dict[str, str] = {}
    for device in job.devices():
        maker = maker_of(device.make)
        if maker and maker not in described:
            found.setdefault(maker, device.make.split()[0])
    return list(found.values())[:50]
