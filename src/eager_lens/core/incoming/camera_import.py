"""From a table of texts to cameras: guess what each column means, read every row, tell each trouble by row and column."""

import re
from collections import Counter
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from functools import cache
from typing import Any, Literal, NamedTuple

from eager_lens.core.addressing.ipv4 import mac_address
from eager_lens.core.errors import RefusedInput
from eager_lens.core.incoming.number_marks import Decimal, Marks, marks_in, with_point
from eager_lens.core.incoming.table_in import RawTable, heading_parts
from eager_lens.core.job.edits import Edit, add_cameras, set_each
from eager_lens.core.job.fields import CAMERA_FIELDS, DeviceField
from eager_lens.core.job.model import Camera, Job, MeasuredWhen, Registration, changed
from eager_lens.core.job.most import MOST_CAMERAS
from eager_lens.core.units import count, feet_in_m

# Columns that people keep and that stand for a field in two parts, or for one that needs another to be understood.
WIDTH, HEIGHT, MEGAPIXELS, KEY_FRAMES = "width", "height", "megapixels", "key_frame_frames"
_FIELD_OF = {field.id: field for field in CAMERA_FIELDS}
ID = "id"
ID_HEADING = "ID in the job"
EXTRA_TARGETS: dict[str, tuple[str, tuple[str, ...]]] = {
    WIDTH: ("Picture width (px)", ("width", "picture width", "horizontal")),
    HEIGHT: ("Picture height (px)", ("height", "picture height", "vertical")),
    MEGAPIXELS: ("Resolution (MP)", ("mp", "megapixel", "megapixels", "mpx")),
    KEY_FRAMES: ("Key-frame interval (frames)", ("key frame frames", "gop length", "gop frames")),
    ID: (ID_HEADING, ("id", "id in the job", "camera id", "device id")),
}
NUMERIC = frozenset(
    {field.id for field in CAMERA_FIELDS if field.align == "right"} | {WIDTH, HEIGHT, MEGAPIXELS, KEY_FRAMES}
)
"""What is a number: only there marks mean decimals and thousands. A serial ``0,50`` is a serial."""

KnownRows = Literal["update", "add", "leave out"]
"""What becomes of rows about cameras that are in the job already."""


class Column(NamedTuple):
    """What a column of the table is taken for.

    ``target`` is a field's id or one of ``EXTRA_TARGETS``, or empty for a column that is left out; ``factor`` turns
    the column's unit into the field's. ``marks`` says how it writes its decimals; None where no number has a mark.
    """

    heading: str
    target: str
    factor: float = 1.0
    unit: str = ""
    marks: Marks | None = None


@dataclass(frozen=True)
class Mapping:
    """What all columns are taken for, whether the first row is one of headings, and what the bit rates are where no column says
    so: a key of ``MEASURED_WHEN``, empty for settings or figures of a data sheet, and over how many minutes they were read
    (None: nobody knows). ``known_rows``: what becomes of rows about cameras that the job has."""

    columns: tuple[Column, ...]
    has_headings: bool
    known_rows: KnownRows = "update"
    measured_when: MeasuredWhen = ""
    measured_min: float | None = None

    @property
    def asks_when(self) -> bool:
        """Whether there are bit rates, and nothing that says what they are."""
        found = {column.target for column in self.columns}
        return "measured_mbps" in found and "measured_when" not in found

    @property
    def unsure(self) -> tuple[int, ...]:
        """The columns whose decimal mark somebody has to look at."""
        return tuple(
            at
            for at, column in enumerate(self.columns)
            if column.target in NUMERIC and column.marks is not None and not column.marks.is_certain
        )

    def with_decimal(self, decimal: Decimal, at: int) -> "Mapping":
        """The same with another decimal mark in a column."""
        columns = list(self.columns)
        columns[at] = columns[at]._replace(marks=Marks(decimal, True))
        return replace(self, columns=tuple(columns))

    def with_target(self, at: int, target: str) -> "Mapping":
        """The same with another meaning for one column; a column that had it before is left out."""
        columns = [
            column._replace(target="") if target and column.target == target else column for column in self.columns
        ]
        unit, marks = columns[at].unit, columns[at].marks
        columns[at] = Column(columns[at].heading, target, _factor(target, unit), unit, marks)
        return replace(self, columns=tuple(columns))


@dataclass(frozen=True)
class Problem:
    """A cell that could not be taken. ``row`` is the row in the file, from 1. A row that is kept lacks just this cell."""

    row: int
    column: str
    text: str
    problem: str
    row_kept: bool

    def sentence(self) -> str:
        """The whole trouble in one line."""
        fate = "the rest of the row is imported" if self.row_kept else "the row is left out"
        return f"Row {self.row}, {self.column}: {self.problem}; {fate}."


MOST_ROWS_NAMED = 5


def kinds_of_trouble(problems: Iterable[Problem]) -> tuple[str, ...]:
    """One sentence for each kind of trouble: the first of it as it is, and how many more in which rows."""
    kinds: dict[tuple[str, str, bool], list[Problem]] = {}
    for one in problems:
        kinds.setdefault((one.column, re.sub(r"'[^']*'", "''", one.problem), one.row_kept), []).append(one)
    found = []
    for ones in kinds.values():
        more = ", ".join(str(one.row) for one in ones[1:MOST_ROWS_NAMED])
        rest = " and more" if len(ones) > MOST_ROWS_NAMED else ""
        also = f" So {count(len(ones) - 1, 'further row')}: {more}{rest}." if len(ones) > 1 else ""
        found.append(ones[0].sentence() + also)
    return tuple(found)


class Update(NamedTuple):
    """A row about a camera that is in the job: which, by what it was known, and the fields that are others then. ``words``: each
    of these as it is and as it will be."""

    camera: str
    known_by: str
    fields: dict[str, Any]
    words: tuple[str, ...]


@dataclass(frozen=True)
class ImportResult:
    """Cameras that can be added, those of the job that are updated, what could not be taken, and the rows left out as they
    stood. ``known``: how many rows are about cameras of the job, whatever becomes of them. ``ids``: of the cameras that can be
    added, the ids that the list gives them, for a job that is made from it; empty where it gives none."""

    cameras: tuple[dict[str, Any], ...]
    problems: tuple[Problem, ...]
    left_out: tuple[tuple[str, ...], ...]
    updates: tuple[Update, ...] = ()
    known: int = 0
    ids: tuple[str, ...] = ()

    @property
    def changed(self) -> tuple[Update, ...]:
        """The updates that change anything."""
        return tuple(one for one in self.updates if one.fields)

    @property
    def words(self) -> str:
        """What it would do."""
        parts = [f"Import {count(len(self.cameras), 'camera')}"] if self.cameras else []
        if self.changed:
            parts.append(f"{'update' if parts else 'Update'} {count(len(self.changed), 'camera')}")
        return ", ".join(parts)

    def edit(self, label: str | None = None) -> Edit:
        """The one edit that adds and updates all of them.

        Raises:
            RefusedInput: when applied, if the job has no room for them.
        """
        label = label or self.words or "Nothing to import"
        adding = add_cameras(self.cameras, label) if self.cameras else None
        updating = set_each(label, {one.camera: one.fields for one in self.changed}) if self.changed else None

        def apply(job: Job) -> Job:
            job = job if updating is None else updating.apply(job)
            return job if adding is None else adding.apply(job)

        return Edit(label, apply)


def targets() -> dict[str, str]:
    """Everything a column can be taken for, id to words, in the order to offer."""
    return {
        "": "exclude",
        **{field.id: field.heading_with_unit for field in CAMERA_FIELDS},
        **{target: words for target, (words, _) in EXTRA_TARGETS.items()},
    }


def guess_mapping(table: RawTable) -> Mapping:
    """What each column probably means, from its heading; from its position where there are no headings.

    Without headings the columns are taken for Name, Place, Make and so on, as an exported list has them.
    """
    first = table.rows[0]
    guesses = [_guess(heading) for heading in first]
    has_headings = sum(bool(column.target) for column in guesses) >= max(1, sum(bool(cell) for cell in first) // 3)
    if not has_headings:
        order = ("name", "place", "make", "address", "mac_address", "serial")
        guesses = [Column(f"Column {at + 1}", order[at] if at < len(order) else "") for at in range(len(first))]
    seen: set[str] = set()
    columns = []
    for column in guesses:
        # The first of two columns of one meaning is taken.
        columns.append(column._replace(target="") if column.target in seen else column)
        seen.add(column.target) if column.target else None
    return Mapping(tuple(_with_marks(columns, table, table.rows[1:] if has_headings else table.rows)), has_headings)


def _with_marks(columns: Sequence[Column], table: RawTable, rows: Sequence[Sequence[str]]) -> Iterator[Column]:
    """The columns with their decimal marks: by their own cells, else by those of other columns, else a guess to be looked at."""
    found = [
        marks_in(row[at] for row in rows[:LOOKED_AT]) if column.target in NUMERIC or not column.target else None
        for at, column in enumerate(columns)
    ]
    sure = {
        marks.decimal
        for column, marks in zip(columns, found, strict=True)
        if marks is not None and marks.is_certain and column.target
    }
    for column, marks in zip(columns, found, strict=True):
        if marks is None or marks.is_certain:
            yield column._replace(marks=marks)
        elif table.is_workbook or column.heading in _OWN_HEADINGS:
            # Numbers of a workbook are numbers, and this program's own lists write a point.
            yield column._replace(marks=Marks(".", True))
        elif len(sure) == 1 and marks.example:
            yield column._replace(marks=Marks(next(iter(sure)), True))
        elif marks.example and column.factor < 1:
            # Nobody writes thousandths of a small unit, as of kb/s: what can be thousands is.
            yield column._replace(marks=marks._replace(decimal="," if "." in marks.example else "."))
        else:
            yield column._replace(marks=marks)


def _guess(heading: str) -> Column:
    text, unit = heading.strip(), ""
    whole = _target_of(_words(text))
    words, in_brackets = heading_parts(text)
    if whole is None and words != text:
        text, unit = words, in_brackets.lower().replace("  ", " ")
        whole = _target_of(_words(text))
    if whole is None and " " in text:
        # "Bitrate kbps", "Key frame s": the last word may be the unit.
        text, _, last = text.rpartition(" ")
        unit = last.lower()
        whole = _target_of(_words(text))
        if whole is not None and _factor(whole, unit) == 0:
            whole = None
    target = whole or ""
    if target == "picture" and unit in EXTRA_TARGETS[MEGAPIXELS][1]:
        target, unit = MEGAPIXELS, ""
    if target == "key_frame_s" and unit.startswith("frame"):
        target, unit = KEY_FRAMES, ""
    if not target and _words(heading) in _FIELD_OF["measured_mbps"].units:
        target, unit = "measured_mbps", _words(heading)  # the heading is just "kb/s"
    factor = _factor(target, unit)
    return Column(heading, target if factor else "", factor or 1.0, unit)


def _factor(target: str, unit: str) -> float:
    """The factor from a heading's unit to the field's own; 0 when the unit is not one of the field's."""
    if not unit or not target or target in EXTRA_TARGETS:
        return 1.0
    field = _FIELD_OF[target]
    if unit == field.unit.lower():
        return 1.0
    if field.units:
        return field.units.get(unit, 0.0)
    return 1.0


def _words(heading: str) -> str:
    return re.sub(r"[\s_]+", " ", heading.strip().lower()).strip(" .:#*")


def _target_of(words: str) -> str | None:
    return _targets().get(words)


@cache
def _targets() -> dict[str, str]:
    """What a heading may be called, and what is meant by it; where two share a name, the first has it."""
    targets: dict[str, str] = {}
    for target, (_, aliases) in EXTRA_TARGETS.items():
        targets.update(dict.fromkeys(aliases, target))
    for field in CAMERA_FIELDS:
        own = (field.id.replace("_", " "), field.heading.lower(), field.heading_with_unit.lower(), *field.aliases)
        for words in own:
            targets.setdefault(words, field.id)
    return targets


LOOKED_AT = 2000
"""So many rows show how a column writes its numbers."""

_OWN_HEADINGS = frozenset(field.heading_with_unit for field in CAMERA_FIELDS)


def read_cameras(
    table: RawTable, mapping: Mapping, job: Job, step: Callable[[float], None] = lambda share: None
) -> ImportResult:
    """Read every row by a mapping. A row with a cell that would make a wrong camera is left out and told.

    ``step`` is told the share that is read, and may raise to stop.
    """
    cameras: list[dict[str, Any]] = []
    updates: dict[str, Update] = {}
    problems: list[Problem] = []
    left_out: list[tuple[str, ...]] = []
    known, ids = 0, list[str]()
    id_at = next((at for at, column in enumerate(mapping.columns) if column.target == ID), None)
    held = {(place.recorder, place.channel) for camera in job.cameras for place in camera.registered}
    start = 1 if mapping.has_headings else 0
    whose = _CameraMatch(job, mapping, table.rows[start:])
    for row, number in zip(table.rows[start:], table.numbers[start:], strict=True):
        if number % 50 == 0:
            step(min(1.0, number / table.numbers[-1]))
        there, known_by = whose.row(row)
        known += there is not None
        if there is not None and mapping.known_rows == "leave out":
            continue
        camera = there if there is not None and mapping.known_rows == "update" else None
        fields, troubles = _read_row(row, number, mapping, job, len(cameras) + 1, held, camera)
        if camera is not None and camera.id in updates:
            troubles.append(Problem(number, "row", "", f"an earlier row describes {camera.name} too", False))
        problems += troubles
        if any(not trouble.row_kept for trouble in troubles):
            left_out.append(row)
        elif camera is not None:
            updates[camera.id] = _update(camera, known_by, fields, job)
        elif len(cameras) + len(job.cameras) >= MOST_CAMERAS:
            problems.append(Problem(number, "row", "", f"a job holds at most {MOST_CAMERAS:,} cameras", False))
            left_out.append(row)
        else:
            cameras.append(fields)
            ids.append(row[id_at].strip() if id_at is not None else "")
    return ImportResult(tuple(cameras), tuple(problems), tuple(left_out), tuple(updates.values()), known, tuple(ids))


def _update(camera: Camera, known_by: str, fields: dict[str, Any], job: Job) -> Update:
    other = {name: value for name, value in fields.items() if getattr(camera, name) != value}
    after = changed(camera, **other) if other else camera
    words = tuple(
        f"{field.heading}: {field.show(camera, job) or 'empty'} → {field.show(after, job) or 'empty'} {field.unit}".rstrip()
        for field in CAMERA_FIELDS
        if other and field.show(camera, job) != field.show(after, job)
    )
    return Update(camera.id, known_by, other, words)


class _CameraMatch:
    """Which camera of the job a row is about: by its id there, its MAC address, its serial, or its name."""

    def __init__(self, job: Job, mapping: Mapping, rows: Sequence[Sequence[str]]) -> None:
        self._at = {column.target: at for at, column in enumerate(mapping.columns) if column.target}
        self._keys: list[tuple[str, str, Callable[[str], str], dict[str, Camera]]] = []
        for target, words, key in _KNOWN_BY:
            if target not in self._at:
                continue
            times = Counter(key(str(getattr(camera, target))) for camera in job.cameras)
            in_list = Counter(key(row[self._at[target]]) for row in rows)
            # What two cameras share, or two rows, tells neither.
            own = {
                told: camera
                for camera in job.cameras
                if (told := key(str(getattr(camera, target)))) and times[told] == 1 and in_list[told] == 1
            }
            self._keys.append((target, words, key, own))

    def row(self, row: Sequence[str]) -> tuple[Camera | None, str]:
        """The camera of a row, and by what it is known; None for a new one."""
        for target, words, key, own in self._keys:
            camera = own.get(key(row[self._at[target]]))
            if camera is not None:
                return camera, words
        return None, ""


def _as_mac(text: str) -> str:
    try:
        return mac_address(text)
    except ValueError:
        return ""


_KNOWN_BY: tuple[tuple[str, str, Callable[[str], str]], ...] = (
    (ID, "its ID", str.strip),
    ("mac_address", "its MAC address", _as_mac),
    ("serial", "its serial", lambda text: text.strip().casefold()),
    ("name", "its name", lambda text: text.strip().casefold()),
)


_SOFT = frozenset({"schedule", "recorder", "channel", "scene", "subnet"})
"""Fields that may name something the job does not have (yet): the camera is taken without them."""


class _RowReading:
    """A camera as the cells of its row make it, and what is wrong with them."""

    def __init__(self, number: int, mapping: Mapping, job: Job, camera: Camera) -> None:
        self._number, self._mapping, self._job, self._camera = number, mapping, job, camera
        self.fields: dict[str, Any] = {}
        self.problems: list[Problem] = []

    def take(self, texts: dict[str, tuple[Column, str]]) -> None:
        """Take cells by target; all are checked at once, which is what makes a long list quick."""
        read: dict[str, dict[str, Any]] = {}
        for target, (column, text) in texts.items():
            try:
                read[target] = _values(target, text, column, self._camera, self._job)
            except (RefusedInput, ValueError) as error:
                self._refuse(target, texts, error.problem if isinstance(error, RefusedInput) else str(error))
        while read:
            new = {name: value for values in read.values() for name, value in values.items()}
            try:
                self._camera = changed(self._camera, **new)
            except RefusedInput as error:
                name = error.path.partition(".")[0].partition("[")[0]
                named = next((target for target in read if name in read[target]), None)
                # What is refused for two cells together is put down to the later one.
                wrong = named or list(read)[-1]
                del read[wrong]
                self._refuse(wrong, texts, error.problem)
            else:
                self.fields.update(new)
                return

    def _refuse(self, target: str, texts: dict[str, tuple[Column, str]], problem: str) -> None:
        column, text = texts[target]
        self.problems.append(Problem(self._number, column.heading, text, problem, target in _SOFT))


def _read_row(
    row: Sequence[str],
    number: int,
    mapping: Mapping,
    job: Job,
    at: int,
    held: set[tuple[str, int]],
    there: Camera | None = None,
) -> tuple[dict[str, Any], list[Problem]]:
    """The fields that a row gives, of a new camera or of one that is there: then without those that it says as they are."""
    cells = {
        column.target: (column, row[index])
        for index, column in enumerate(mapping.columns)
        if column.target and not (there is not None and _says_the_same(column.target, row[index], there, job))
    }
    reading = _RowReading(number, mapping, job, there or Camera(id="new", name=f"Camera {at}"))
    fields, problems = reading.fields, reading.problems
    reading.take(
        {
            target: (column, text)
            for target, (column, text) in cells.items()
            if text and target not in (ID, WIDTH, HEIGHT, KEY_FRAMES, "recorder", "channel")
        }
    )
    later = {}
    if WIDTH in cells and HEIGHT in cells and cells[WIDTH][1] and cells[HEIGHT][1]:
        later["picture"] = (cells[WIDTH][0], f"{cells[WIDTH][1]}×{cells[HEIGHT][1]}")
    # The frame rate is known by now, which key frames counted in frames need.
    if KEY_FRAMES in cells and cells[KEY_FRAMES][1]:
        later[KEY_FRAMES] = cells[KEY_FRAMES]
    if later:
        reading.take(later)
    if mapping.asks_when and "measured_mbps" in fields:
        fields["measured_when"] = mapping.measured_when
        fields.setdefault("measured_min", mapping.measured_min)
    if there is not None and ("recorder" in cells or "channel" in cells):
        at_column = {column.target: (column, row[index]) for index, column in enumerate(mapping.columns)}
        cells |= {target: at_column[target] for target in ("recorder", "channel") if target in at_column}
        held = held - {(place.recorder, place.channel) for place in there.registered}
    if "recorder" in cells and cells["recorder"][1]:
        channel = cells.get("channel", (cells["recorder"][0], ""))
        problems += _register(cells["recorder"], channel, number, fields, job, held)
    return fields, problems


def _says_the_same(target: str, text: str, camera: Camera, job: Job) -> bool:
    """Whether a cell holds what the list that this program wrote had there: read again it could lose what has no column."""
    if target in EXTRA_TARGETS:
        return False
    field = _FIELD_OF[target]
    return text in (field.show(camera, job), str(getattr(camera, target, None)))


def _values(target: str, text: str, column: Column, camera: Camera, job: Job) -> dict[str, Any]:
    if target in NUMERIC and column.marks is not None:
        text = with_point(text, column.marks.decimal)
    if target == MEGAPIXELS:
        # The unit stands in the heading, or in the cells.
        return _FIELD_OF["picture"].parse(text if text[-1:].isalpha() else f"{text} MP", camera, job)
    if target == KEY_FRAMES:
        frames = _FIELD_OF["fps"].parse(text, camera, job)["fps"]
        return {"key_frame_s": frames / camera.fps}
    field = _FIELD_OF[target]
    values = field.parse(text, camera, job)
    if column.factor != 1.0 and feet_in_m(text) is None:
        values = {
            key: value * column.factor if isinstance(value, int | float) else value for key, value in values.items()
        }
    return values


def _register(
    recorder: tuple[Column, str],
    channel: tuple[Column, str],
    number: int,
    fields: dict[str, Any],
    job: Job,
    held: set[tuple[str, int]],
) -> list[Problem]:
    """Recorders by name with their channels; without a channel the next one not yet given in the job or this table."""
    field: DeviceField = _FIELD_OF["recorder"]
    try:
        ids = [place.recorder for place in field.parse(recorder[1], Camera(id="new", name="new"), job)["registered"]]
    except RefusedInput as error:
        return [Problem(number, recorder[0].heading, recorder[1], error.problem, True)]
    given = [part.strip() for part in channel[1].split(",") if part.strip()]
    if given and (len(given) != len(ids) or not all(part.isascii() and part.isdigit() for part in given)):
        problem = f"{channel[1]!r} is not a channel for {count(len(ids), 'recorder')}"
        return [Problem(number, channel[0].heading, channel[1], problem, True)]
    places = []
    for index, recorder_id in enumerate(ids):
        number_given = int(given[index][:9]) if given else _next_free(recorder_id, held)
        if not 1 <= number_given <= 1024:
            return [Problem(number, channel[0].heading, channel[1], "a channel must be 1 to 1024", True)]
        held.add((recorder_id, number_given))
        places.append(Registration(recorder=recorder_id, channel=number_given))
    fields["registered"] = tuple(places)
    return []


def _next_free(recorder_id: str, held: set[tuple[str, int]]) -> int:
    channel = 1
    while (recorder_id, channel) in held and channel < 1024:
        channel += 1
    return channel
