"""Every figure of a job wherever it is shown, with what it means and whose it is: window, sheets, command line."""

import random
import re
from typing import NamedTuple

from PySide6.QtWidgets import QLabel, QWidget

from eager_lens.cli.job import as_json, as_text
from eager_lens.core.exchange.handover import handover_sheets
from eager_lens.core.exchange.sheets import SheetTable
from eager_lens.core.job.model import Link, Registration, Retention, ScheduleException
from eager_lens.core.present.working import FigureRef, working_of
from eager_lens.core.reference.streams import QUALITIES, stream_assumptions
from eager_lens.desk.widgets.record_table import RecordTable
from tests.support import camera, job_with, recorder, switch, week_of

RECORDERS = ("Alder", "Birch", "Cedar")
NUMBER = r"(\d[\d\u2009\u202f\u00a0]*(?:\.\d+)?)"
NAME = f"({'|'.join(RECORDERS)})"

SENTENCES = (
    (rf"{NAME} can promise {NUMBER}", "promised days"),
    (rf"days can be promised; {NAME} keeps {NUMBER}", "promised days"),
    (rf"Days promised · {NAME}: {NUMBER} of", "promised days"),
    (rf"{NAME}: {NUMBER} of [\d.]+ days, mean", "promised days"),
    (rf"{NAME}: [\d.]+ of [\d.]+ days, mean {NUMBER}", "mean days"),
    (rf"{NAME}: [\d.]+ TB, {NUMBER} GB a day", "GB a day"),
    (rf"{NAME}: {NUMBER} TB, [\d.\u2009]+ GB a day", "usable TB"),
    (rf"{NAME}: [\d.]+ TB, [\d.\u2009]+ GB a day, {NUMBER} days on the mean", "mean days"),
    (rf"Incoming · {NAME}: {NUMBER} of", "incoming Mb/s"),
    (rf"Power · (Depot switch): {NUMBER} of", "draw W"),
    (rf"Days kept, {NAME}: {NUMBER} days", "promised days"),
    (rf"{NAME} may keep {NUMBER}", "longest days"),
)
"""What a sentence says: the first group is whose figure it is, the second the figure."""

SHEET_COLUMNS = {
    ("Recorder", "Days promised"): "promised days",
    ("Recorder", "Days, mean"): "mean days",
    ("Recorder", "GB a day"): "GB a day",
    ("Recorder", "Usable, TB"): "usable TB",
    ("Recorder", "Incoming, Mb/s"): "incoming Mb/s",
    ("Camera", "Bit rate, Mb/s"): "rate Mb/s",
    ("Camera", "GB a day"): "GB a day",
}

TABLE_COLUMNS = {"rate": "rate Mb/s", "stored": "GB a day"}

FIELDS = {
    "promised_days": "promised days",
    "mean_days": "mean days",
    "gb_per_day": "GB a day",
    "usable_tb": "usable TB",
    "incoming_mbps": "incoming Mb/s",
    "rate_mbps": "rate Mb/s",
}


class Shown(NamedTuple):
    """A figure as it is shown: its meaning, whose it is, its text, and where."""

    meaning: str
    whose: str
    text: str
    where: str


def jobs(many, seed=14):
    """Jobs of all sorts: rates measured, entered and estimated, recording of all kinds, redundancy, exceptions, seasons."""
    return [_job(random.Random(f"{seed}:{at}")) for at in range(many)]


def _job(chance):
    names = RECORDERS[: chance.randint(1, 3)]
    recorders = [
        recorder(
            at,
            name=name,
            drives=(drives := chance.randint(2, 6)),
            bays=8,
            drive_tb=chance.choice((4, 8, 12, 18)),
            raid_level=chance.choice(("span", "raid5" if drives > 2 else "mirror")),
            incoming_limit_mbps=chance.choice((80, 160, 256)),
            erase_after_days=chance.choice((None, None, 60)),
        )
        for at, name in enumerate(names, 1)
    ]
    schedules = (
        week_of(),
        week_of("motion", id="week-2", name="On motion"),
        week_of("motion", 7, 19, "week-3", "By day"),
    )
    cameras = [_camera(chance, at, len(recorders)) for at in range(1, chance.randint(3, 12))]
    depot = switch(1, name="Depot switch", ports=24, poe_ports=16, budget_w=chance.choice((60, 120, 250)))
    links = [Link(id=f"link-{one.id}", a=one.id, b="net-1", b_port=at) for at, one in enumerate(cameras, 1)]
    links += [
        Link(id=f"link-{one.id}", a="net-1", a_port=16 + at, b=one.id, b_port=1) for at, one in enumerate(recorders, 1)
    ]
    exceptions = (
        (ScheduleException(id="ex-1", name="Fair", first="2026-06-01", last="2026-06-20", schedule="week-1"),)
        if chance.random() < 0.4
        else ()
    )
    return job_with(
        cameras,
        recorders,
        network=(depot,),
        links=tuple(links),
        schedules=schedules,
        exceptions=exceptions,
        retention=Retention(least_days=chance.choice((7, 14, 31)), most_days=chance.choice((None, 90))),
        time_zone=chance.choice(("Europe/London", "UTC", "Australia/Hobart")),
    )


def _camera(chance, number, recorders):
    fields = {
        "name": f"View {number:02}",
        "scene": chance.choice(list(stream_assumptions().scenes)),
        "schedule": chance.choice(("week-1", "week-2", "week-3")),
        "events_per_h": chance.choice((0, 2, 6, 30)),
        "fps": chance.choice((6, 12, 25)),
        "quality": chance.choice(QUALITIES),
        "codec": chance.choice(("h264", "h265")),
        "rate_control": chance.choice(("VBR", "VBR", "smart codec")),
        "registered": (Registration(recorder=f"rec-{chance.randint(1, recorders)}", channel=number),),
        "poe_class": 3,
        "power_w": chance.choice((4, 7, 12)),
    }
    made = camera(number, **fields)
    if chance.random() < 0.4:
        read = {"measured_mbps": chance.choice((0.8, 2.2, 4.0)), "measured_when": chance.choice(("", "day", "night"))}
        made = made.model_copy(update=read)
    return made


# ---- where figures are shown -------------------------------------------------------------------------------------------


def in_sentences(texts, where):
    """Figures that sentences tell."""
    for text in texts:
        for pattern, meaning in SENTENCES:
            for found in re.finditer(pattern, text):
                yield Shown(meaning, found[1], found[2], where)


def in_window(page, where):
    """Figures that a page shows: its sentences, what its painted parts say, and its tables."""
    texts = [one.text() for one in page.findChildren(QLabel) if one.isVisible()]
    texts += [one.accessibleName() for one in page.findChildren(QWidget) if one.isVisible()]
    yield from in_sentences(texts, where)
    for table in (one for one in page.findChildren(RecordTable) if one.isVisible()):
        columns = [column.id for column in table.records.columns]
        for at, column in enumerate(columns):
            for row in range(table.records.rowCount() if column in TABLE_COLUMNS else 0):
                name, text = (str(table.records.index(row, column).data() or "") for column in (0, at))
                if name.startswith("View"):
                    yield Shown(TABLE_COLUMNS[column], name, text, f"{where}, table")


def in_sheets(assessment):
    """Figures of the handover sheets."""
    for sheet in handover_sheets(assessment, "2026-11-28").sheets:
        texts = [sheet.intro]
        for block in sheet.blocks:
            if isinstance(block, SheetTable):
                headings = [column.heading for column in block.columns]
                texts.append(block.caption)
                for row in block.rows:
                    texts += row
                    for heading, cell in zip(headings, row, strict=True):
                        meaning = SHEET_COLUMNS.get((headings[0], heading))
                        if meaning and re.match(NUMBER, cell):
                            yield Shown(meaning, row[0], re.match(NUMBER, cell)[1], f"sheet {sheet.title}")
        yield from in_sentences(texts, f"sheet {sheet.title}")


def in_terminal(assessment):
    """Figures that the command line prints, as text and as JSON."""
    yield from in_sentences(as_text(assessment).splitlines(), "assess")
    told = as_json(assessment)
    job = assessment.job
    for kind, devices in (("recorders", job.recorders), ("cameras", job.cameras)):
        for device in devices:
            for field, meaning in FIELDS.items():
                value = told[kind][device.id].get(field)
                if value is not None:
                    yield Shown(meaning, device.name, repr(float(value)), "assess --json")


def in_workings(assessment):
    """Values of workings."""
    for kind, meaning, devices in (
        ("days", "promised days", assessment.job.recorders),
        ("incoming", "incoming Mb/s", assessment.job.recorders),
        ("power", "draw W", assessment.job.network),
        ("rate", "rate Mb/s", assessment.job.cameras),
        ("gb-per-day", "GB a day", assessment.job.cameras),
    ):
        for device in devices:
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
            if abs(number - shown_number) > (step + shown_step) * 1.0001:
                found.append((exact, other))
    return found
