"""Every figure of a job wherever it is shown, with what it means and whose it is: window, sheets, workings, command line."""

import math
import re
from functools import cache
from typing import NamedTuple

from PySide6.QtWidgets import QLabel, QPushButton
from tools.trial.windows import in_sight

from eager_lens.cli.job import as_json, as_text
from eager_lens.core.outgoing.formats.sheets import SheetTable
from eager_lens.core.outgoing.handover.modes import sheets_of
from eager_lens.core.present.working import FigureRef, working_of
from eager_lens.desk.widgets.record_table import RecordTable
from tests.one_truth.jobs import RECORDERS, SUBNET, SUPPLY, SWITCH

NUMBER = r"(\d[\d\u2009\u202f\u00a0]*(?:\.\d+)?)"
NAME = rf"({'|'.join(RECORDERS)}|{SWITCH}|{SUPPLY}|View \d\d)"
JOB = "the job"

OF_A_DEVICE = (
    (rf"{NAME} can promise {NUMBER}", "promised days"),
    (rf"days can be promised; {NAME} keeps {NUMBER}", "promised days"),
    (rf"Days promised · {NAME}: {NUMBER} of", "promised days"),
    (rf"{NAME}: {NUMBER} of [\d.]+ days, \d+ expected", "promised days"),
    (rf"Days kept, {NAME}: {NUMBER} days", "promised days"),
    (rf"{NAME}: [\d.]+ of [\d.]+ days, {NUMBER} expected", "mean days"),
    (rf"{NAME}: [\d.]+ TB, [\d.\u2009]+ GB a day, {NUMBER} days expected", "mean days"),
    (rf"{NAME}: [\d.]+ TB, {NUMBER} GB a day", "GB a day"),
    (rf"{NAME}: {NUMBER} TB, [\d.\u2009]+ GB a day", "usable TB"),
    (rf"{NAME} may keep {NUMBER}", "longest days"),
    (rf"{NAME} needs {NUMBER} TB to promise", "needed TB"),
    (rf"Incoming · {NAME}: {NUMBER} of", "incoming Mb/s"),
    (rf"{NAME}: \d+ of \d+ channels, {NUMBER} of", "incoming Mb/s"),
    (rf"{NAME}: \d+ cameras?, \d+ channels: {NUMBER} of", "incoming Mb/s"),
    (rf"{NAME}: {NUMBER} Mb/s incoming", "incoming Mb/s"),
    (rf"{NAME}: {NUMBER} of \d+ channels", "cameras"),
    (rf"{NAME}: {NUMBER} cameras?, \d+ channels", "cameras"),
    (rf"If {NAME} fails, {NUMBER} cameras? stops? recording", "stopped cameras"),
    (rf"Power · {NAME}: {NUMBER} of", "draw W"),
    (rf"{NAME} draws {NUMBER} W of", "draw W"),
    (rf"{NAME} feeds {NUMBER} W", "draw W"),
    (rf"{NAME}: {NUMBER} of [\d.]+ W allocated", "allocated W"),
    (rf"{NAME}: {NUMBER} V of", "volts"),
    (rf"{NAME}: {NUMBER} m of cable", "cable m"),
    (rf"{NAME} draws {NUMBER} W; PoE class", "camera W"),
    (rf"{NAME}: {NUMBER} px/m, not enough", "px/m"),
    (f"{NAME}: motion records {NUMBER} % of the time", "motion %"),
)
"""What a sentence says of somebody: the first group is whose figure it is, the second the figure."""

OF_THE_JOB = (
    (f"A camera records {NUMBER} h a day on average", "mean h a day"),
    (f"all together store {NUMBER} GB a day", "GB a day"),
    (rf"{NUMBER} cameras? on \d+ recorders?", "cameras"),
    (rf"All {NUMBER} cameras are registered", "registered"),
    (rf"^Registered: {NUMBER} of \d", "registered"),
    (rf"^Registered: \d+ of {NUMBER} cameras", "cameras"),
    (rf"{NUMBER}(?: of \d+)? cameras? (?:have no recorder|without a recorder)", "without a recorder"),
    (rf"^{NUMBER} tests? failed", "failed checks"),
    (rf"failed, {NUMBER} of \d+ passed", "passed checks"),
    (rf"{NUMBER} of \d+ acceptance tests passed", "passed checks"),
    (rf"^Tests passed: {NUMBER} of", "passed checks"),
    (rf"^Tests passed: \d+ of {NUMBER}", "checks"),
    (rf"failed, \d+ of {NUMBER} passed", "checks"),
    (rf"{NUMBER} address faults? would keep", "address faults"),
    (rf"^Addresses: {NUMBER} fault", "address faults"),
    (f"0/24 has {NUMBER} free addresses", "free addresses"),
    (f"skips {NUMBER} % of its hours", "left out %"),
    (rf"{NUMBER} bit rates? of \d+ estimated", "assumed rates"),
)
"""What a sentence says of the whole job, or of its one subnet: the group is the figure."""

MEANINGS = {
    # Tables of the window.
    "Bit rate, Mb/s": "rate Mb/s",
    "Stored, GB a day": "GB a day",
    "Stored now, GB a day": "GB a day",
    "Recorded, h a day": "recorded h a day",
    "Recorded, % of that": "motion %",
    "Peak, Mb/s": "peak Mb/s",
    "There, px/m": "px/m",
    "Voltage, V": "volts",
    "Gives, W of allocated": "port W",
    "Power draw, W": "camera W",
    "Load, Mb/s of capacity": "load Mb/s",
    "Cable, m": "cable m",
    "PoE class": "PoE class",
    "Stop, cameras": "stopped cameras",
    "Left": "free addresses",
    "Events, an hour": "events an hour",
    "Pre-recording, s": "pre-recording s",
    # Sheets.
    "Voltage at the camera, V": "volts",
    "Voltage there, V": "volts",
    "Draws, W": "camera W",
    "Mb/s of capacity": "load Mb/s",
    "Usable, TB": "usable TB",
    "Days promised": "promised days",
    "Days, expected": "mean days",
    "Incoming, Mb/s": "incoming Mb/s",
    "GB a day": "GB a day",
    "Events an hour": "events an hour",
    "Before and after, s": "pre-recording s",
    # The command line.
    "promised_days": "promised days",
    "mean_days": "mean days",
    "gb_per_day": "GB a day",
    "usable_tb": "usable TB",
    "incoming_mbps": "incoming Mb/s",
    "rate_mbps": "rate Mb/s",
    "recorded_h_per_day": "recorded h a day",
    "peak_mbps": "peak Mb/s",
    "cameras": "cameras",
}
"""What a column's heading, or a name of the command line, means."""

OWNERS = {"What"}
"""Headings of the columns that say whose row it is, where that is not the first: of a list of ports, what hangs there."""

WORKINGS = (
    ("days", "promised days", "recorders"),
    ("incoming", "incoming Mb/s", "recorders"),
    ("power", "draw W", "network"),
    ("stops", "stopped cameras", "network"),
    ("stops", "stopped cameras", "recorders"),
    ("rate", "rate Mb/s", "cameras"),
    ("gb-per-day", "GB a day", "cameras"),
    ("volts", "volts", "cameras"),
    ("view", "px/m", "cameras"),
)


class Shown(NamedTuple):
    """A figure as it is shown: its meaning, whose it is, its text, and where."""

    meaning: str
    whose: str
    text: str
    where: str


@cache
def told_by(text):
    """Figures that a sentence tells: meaning, whose, number. Most sentences stand on every page."""
    found = [(what, one[1], one[2]) for pattern, what in OF_A_DEVICE for one in re.finditer(pattern, text)]
    for pattern, what in OF_THE_JOB:
        owner = SUBNET if what == "free addresses" else JOB
        found += [(what, owner, one[1]) for one in re.finditer(pattern, text)]
    return found


def in_sentences(texts, where):
    """Figures that sentences tell."""
    for text in texts:
        yield from (Shown(*parts, where) for parts in told_by(text))


def in_rows(headings, rows, where):
    """Figures of a table's rows: of what stands in their first column, or in the one that says whose they are."""
    owner = next((at for at, heading in enumerate(headings) if heading in OWNERS), 0)
    for row in rows:
        if owner and row[owner] == SWITCH:
            continue  # links of several devices end there: whose figure it is, such a row does not say
        for heading, cell in zip(headings, row, strict=True):
            meaning, number = MEANINGS.get(heading), re.match(NUMBER, cell)
            if meaning and number:
                yield Shown(meaning, row[owner], number[1], where)


def in_window(window, where):
    """Figures in sight: of sentences, of what painted parts say to a screen reader, and of tables."""
    seen = [*in_sight(window)]
    texts = {one.accessibleName() for one in seen}
    texts |= {one.text() for one in seen if isinstance(one, QLabel | QPushButton)}
    yield from in_sentences(texts, where)
    for table in (one for one in seen if isinstance(one, RecordTable)):
        model = table.records
        headings = [model.heading(column) for column in model.columns]
        rows = (
            [str(model.index(row, at).data() or "") for at in range(len(headings))] for row in range(model.rowCount())
        )
        yield from in_rows(headings, rows, f"{where}, table")


def in_sheets(assessment):
    """Figures of the handover sheets."""
    for sheet in sheets_of("as built", assessment, "2026-11-28").sheets:
        where = f"sheet {sheet.title}"
        yield from in_sentences([sheet.intro], where)
        for block in (one for one in sheet.blocks if isinstance(one, SheetTable)):
            yield from in_sentences([block.caption, *(cell for row in block.rows for cell in row)], where)
            yield from in_rows([column.heading for column in block.columns], block.rows, where)


def in_terminal(assessment):
    """Figures that the command line prints, as text and as JSON."""
    yield from in_sentences(as_text(assessment).splitlines(), "assess")
    report = as_json(assessment)
    job = assessment.job
    for kind, devices in (("recorders", job.recorders), ("cameras", job.cameras)):
        for device in devices:
            for field, value in report[kind][device.id].items():
                if field in MEANINGS and value is not None:
                    yield Shown(MEANINGS[field], device.name, repr(float(value)), "assess --json")
    whole = report["whole_job"]
    for field, meaning in (
        ("cameras", "cameras"),
        ("registered", "registered"),
        ("stored_gb_per_day", "GB a day"),
        ("recorded_h_per_day", "mean h a day"),
        ("checks_passed", "passed checks"),
        ("checks", "checks"),
    ):
        yield Shown(meaning, JOB, repr(float(whole[field])), "assess --json")


def in_workings(assessment):
    """Values of workings."""
    for kind, meaning, devices in WORKINGS:
        for device in getattr(assessment.job, devices):
            working = working_of(FigureRef(kind, device.id), assessment)
            found = working and re.match(NUMBER, working.value)
            if found:
                yield Shown(meaning, device.name, found[1], "working")


# ---- whether they agree ------------------------------------------------------------------------------------------------


def value_of(text):
    """A figure's number, and half a step of its last digit: as near as its text can tell."""
    plain = re.sub(r"[\u2009\u202f\u00a0 ]", "", text)
    number = float(plain)
    if "e" in plain:
        return number, 1e-9
    # Whole parts are never rounded away.
    return number, 0.5 * 10.0 ** -len(plain.partition(".")[2])


def disagreements(shown):
    """Pairs of one meaning and one owner whose texts cannot be the same number."""
    by_key = {}
    for one in shown:
        by_key.setdefault((one.meaning, one.whose), []).append(one)
    found = []
    for several in by_key.values():
        exact = next((one for one in several if one.where == "assess --json"), several[0])
        number, step = value_of(exact.text)
        for other in several:
            shown_number, shown_step = value_of(other.text)
            if "days" in other.meaning and shown_number in (math.floor(number * (1 + 1e-9)), math.ceil(number)):
                continue  # days are told as whole ones: those kept rounded down, those that may be exceeded rounded up
            if abs(number - shown_number) > (step + shown_step) * 1.0001:
                found.append((exact, other))
    return found
