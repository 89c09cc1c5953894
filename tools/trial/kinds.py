"""Kinds of input: seeds to begin with, a reader as the program calls it, and a way to spoil them by their grammar."""

from __future__ import annotations

import asyncio
import hashlib
import io
import json
import random
import struct
import zipfile
from collections.abc import Callable
from contextlib import closing, suppress
from datetime import datetime
from pathlib import Path
from typing import Any, NamedTuple
from unittest import mock

from tools.trial.open_protocol import protocol_answers, read_protocol_answer
from tools.trial.windows import demo_job

import eager_lens
from eager_lens.assets import asset
from eager_lens.core.assess.assessment import assess
from eager_lens.core.catalogue import CALCULATORS
from eager_lens.core.files import read_whole
from eager_lens.core.firm.entries import begin_with
from eager_lens.core.firm.lists import FirmLists, firm_text, read_firm
from eager_lens.core.incoming.calendars.reading import calendar_rows
from eager_lens.core.incoming.camera_import import guess_mapping, read_cameras
from eager_lens.core.incoming.price_list import price_list
from eager_lens.core.incoming.table_in import read_table
from eager_lens.core.incoming.workbook import workbook_rows
from eager_lens.core.job.file import ENDING, job_text, read_job
from eager_lens.core.job.model import Job
from eager_lens.core.job.prices import PartPrice
from eager_lens.core.job.proving import set_mounting_list
from eager_lens.core.outgoing.formats.calendar import calendar_bytes
from eager_lens.core.outgoing.formats.table_out import camera_table, csv_bytes, job_tables, xlsx_bytes
from eager_lens.core.records.event_log.entry import Event
from eager_lens.core.records.event_log.log_file import append, head_of
from eager_lens.core.records.event_log.merge import merge
from eager_lens.core.records.event_log.verify import entries_of, verify
from eager_lens.core.records.field_sheet.content import sheet_data
from eager_lens.core.records.field_sheet.handed_out import base_digest
from eager_lens.core.records.field_sheet.merging import merged_edit, merging
from eager_lens.core.records.field_sheet.saved import photo_bytes, read_field_file
from eager_lens.core.records.sealed.vault import Costs, Key, Vault, key_of, sealed, unsealed
from eager_lens.core.runbook.mounting import list_from_text, list_text, mounted_devices, steps_on, usual_steps
from eager_lens.core.scan.scan_list import scan_list
from eager_lens.core.site_check.readings import CheckRun, Heard
from eager_lens.core.site_check.run_file import read_runs
from eager_lens.core.site_check.verdicts import rows_of
from eager_lens.core.validation import parse_json
from eager_lens.onsite.bounded_http import Http
from eager_lens.onsite.check import page, stream
from eager_lens.onsite.digest import DigestLogin
from eager_lens.onsite.open_protocol.conversation import User
from eager_lens.onsite.open_protocol.discovery import (
    Announced,
    Search,
    announcement,
    answer_to,
    answers_of,
    search_of,
    search_text,
)
from eager_lens.onsite.open_protocol.endpoints import Endpoint
from eager_lens.onsite.open_protocol.reading import Wanted, read_device
from eager_lens.onsite.rtsp_client import BROKEN, RtspConversation, described
from eager_lens.onsite.stand_ins.dhcp import DhcpServer, Leases, asking_of
from eager_lens.onsite.stand_ins.gate import Gate
from eager_lens.onsite.stand_ins.rtsp import Bad, read_request

HOSTILE: tuple[Any, ...] = (
    *(None, True, False, 0, -1, 1, 0.5, 1e308, -1e308, 10**30, 2**63, float("nan"), float("inf"), "", "x" * 5000, "\0"),
    *(
        "\ud800",
        "\uffff",
        "<img src='file:///dev/zero'>",
        "=cmd()",
        "2026-13-45",
        "0001-01-01",
        "9999-12-31",
        "255.255.255.255",
    ),
    *(
        "172.22.40.0/33",
        "24:00",
        "-0",
        [],
        [[]],
        {},
        {"": 1},
        ["08:00", "07:00", "continuous"],
        [1] * 3000,
        "cam-1",
        "rec-1",
    ),
)


class Kind(NamedTuple):
    """A kind of input. ``weight`` is its share of all inputs; those that take long to read have a small one."""

    name: str
    ending: str
    weight: float
    seeds: Callable[[Path], list[bytes]]
    read: Callable[[Path], object]
    spoil: Callable[[bytes, random.Random], bytes] | None = None


# ---- JSON ----------------------------------------------------------------------------------------------------------


def spoil_json(data: bytes, chance: random.Random) -> bytes:
    """A JSON text with some values, keys or parts of it replaced, removed, doubled or put elsewhere."""
    try:
        document = json.loads(data)
    except (ValueError, RecursionError):
        return data
    for _ in range(chance.choice((1, 1, 1, 2, 4))):
        places = list(_places(document))
        if not places:
            break
        holder, key = chance.choice(places)
        how = chance.randrange(7)
        if how <= 2:
            holder[key] = chance.choice(HOSTILE)
        elif how == 3:
            del holder[key]
        elif how == 4 and isinstance(holder, list):
            holder.insert(key, holder[key])
        elif how == 4:
            holder[chance.choice(("id", "name", "extra", "\0", "x" * 300))] = holder[key]
        elif how == 5:
            other, there = chance.choice(places)
            if isinstance(other, list) and there >= len(other):
                continue
            holder[key] = other[there] if there in other or isinstance(other, list) else None
        elif isinstance(holder[key], int | float) and not isinstance(holder[key], bool):
            holder[key] = holder[key] * chance.choice((-1, 0, 1e-12, 1e12, 1.0000001))
    try:
        text = json.dumps(document, ensure_ascii=chance.random() < 0.5)
    except (ValueError, RecursionError):
        return data
    if chance.random() < 0.02:
        text = text.replace("{", '{"twin": 1, "twin": 2, ', 1)
    return text.encode("utf-8", "surrogatepass")


def _places(value: Any) -> list[tuple[Any, Any]]:
    found: list[tuple[Any, Any]] = []
    waiting = [value]
    while waiting and len(found) < 4000:
        here = waiting.pop()
        items = here.items() if isinstance(here, dict) else enumerate(here) if isinstance(here, list) else ()
        for key, inner in items:
            found.append((here, key))
            waiting.append(inner)
    return found


def _jobs(folder: Path) -> list[bytes]:
    return [asset("demo", f"brindlemoor{ENDING}").read_bytes(), job_text(Job()).encode()]


def _read_job(path: Path) -> object:
    """As opening does: read, then all figures and findings, then as it is written again."""
    job = read_job(path).job
    assess(job)
    return job_text(job)


def _calculations(folder: Path) -> list[bytes]:
    vectors = Path(eager_lens.__file__).parents[2] / "tests" / "data" / "vectors"
    found = []
    for path in sorted(vectors.glob("*.json")):
        for case in json.loads(path.read_text("utf-8"))[:12]:
            if "in" in case:
                found.append(json.dumps({"calculator": path.stem, "in": case["in"]}).encode())
    return found


def _calculate(path: Path) -> object:
    given = parse_json(path.read_bytes().decode("utf-8", "replace"))
    name = given.get("calculator") if isinstance(given, dict) else None
    calculator = CALCULATORS.get(name if isinstance(name, str) else "") or next(iter(CALCULATORS.values()))
    answer = calculator.answer(given.get("in") if isinstance(given, dict) else given)
    return json.dumps(answer, allow_nan=False)


_KEY: Key = key_of("trial", b"salt" * 4, Costs(2**14, 1, 1))


def _vaults(folder: Path) -> list[bytes]:
    return [sealed(Vault({"cam-1": "Secret-12"}), _KEY), sealed(Vault(), _KEY)]


def _read_vault(path: Path) -> object:
    return unsealed(read_whole(path, 2**24, "sealed file"), _KEY, path.name)


def _read_preferences(path: Path) -> object:
    from eager_lens.desk.preferences import load_preferences

    path.replace(path.with_name("preferences.json"))
    return load_preferences(path.parent)


def _read_left_work(path: Path) -> object:
    from eager_lens.desk.autosave import OWNER, left_work

    state = path.parent / f"state-{path.stem}"
    state.mkdir(exist_ok=True)
    (state / f"x{ENDING}").write_bytes(path.read_bytes())
    path.replace(state / f"x{OWNER}")
    found = left_work(state)
    assert len(found) == 1, "the copy is hidden"
    return found[0].kept_words()


# ---- tables --------------------------------------------------------------------------------------------------------

CELLS = (
    *(
        "",
        "x" * 6000,
        "=1+1",
        "\0",
        "1e999",
        "-5",
        "0,5",
        "1.296,5",
        "(",
        "Name (" + " " * 4000,
        " " * 5000 + "x",
        "24/7",
    ),
    *(
        "172.22.40.300",
        "02:00:00:00:00",
        "1920 x",
        "1920bb1080",
        "Mb/s",
        "key frame",
        "\ud7ff",
        "Rate, measured (kb/s)",
        "Channel",
    ),
)


def spoil_csv(data: bytes, chance: random.Random) -> bytes:
    """A table with cells, rows and columns changed."""
    rows = [line.split(",") for line in data.decode("utf-8", "replace").splitlines()] or [[""]]
    for _ in range(chance.choice((1, 2, 6))):
        row = chance.choice(rows)
        how = chance.randrange(5)
        if how == 0 and row:
            row[chance.randrange(len(row))] = chance.choice(CELLS)
        elif how == 1:
            row.insert(chance.randrange(len(row) + 1), chance.choice(CELLS))
        elif how == 2:
            rows.insert(chance.randrange(len(rows) + 1), row[:])
        elif how == 3:
            chance.shuffle(row)
        else:
            rows[0][:] = [chance.choice((cell, cell.upper(), f"{cell} (kbps)", f"{cell},,")) for cell in rows[0]]
    joint = chance.choice((",", ",", ";", "\t"))
    return "\n".join(joint.join(row) for row in rows).encode("utf-8", "replace")


def _camera_lists(folder: Path) -> list[bytes]:
    short = b"Name;Place;IP;Resolution;fps;Bitrate kbps\nGate;Yard;172.22.40.60;1920x1080;12,5;2048\n"
    return [csv_bytes(camera_table(demo_job())), short, b"\xff\xfe" + short.decode().encode("utf-16-le")]


def _import(path: Path) -> object:
    table = read_table(path)
    return read_cameras(table, guess_mapping(table), demo_job())


def _scans(folder: Path) -> list[bytes]:
    return [
        b"IP address,MAC address,Serial,Model\n172.22.40.60,02:4c:00:00:00:1f,S-1,Cam\n172.22.40.61,024c.0000.0020,,\n",
        b"172.22.40.60   02-4c-00-00-00-1f  camera\n172.22.40.61 02:4c:00:00:00:20\n",
    ]


def _prices(folder: Path) -> list[bytes]:
    return [b"Name,TB,Price (EUR)\nDrive A,8,199.90\nDrive B,16,399\n", b"Drive;Capacity (TB);Cost [GBP]\nA;4;80,5\n"]


def _workbooks(folder: Path) -> list[bytes]:
    return [xlsx_bytes(job_tables(demo_job())[:1]), xlsx_bytes(job_tables(Job()))]


def _read_workbook(path: Path) -> object:
    return workbook_rows(path.read_bytes(), path.name, 21_000, 200, step=lambda share: None)


def spoil_zip(data: bytes, chance: random.Random) -> bytes:
    """A workbook with one of its inner files changed, and packed again."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            parts = {name: archive.read(name) for name in archive.namelist()}
    except (zipfile.BadZipFile, ValueError, KeyError, OSError):
        return data
    name = chance.choice(list(parts))
    text = parts[name]
    at = chance.randrange(len(text) + 1)
    token = chance.choice(
        (b"<row>", b"<c r='XFD1048576'><v>1</v></c>", b"&lol;", b"<![CDATA[", b"\0", b"t='e'", b"9" * 400)
    )
    how = chance.randrange(4)
    if how == 0:
        parts[name] = text[:at]
    elif how == 1:
        parts[name] = text[:at] + token + text[at:]
    elif how == 2:
        del parts[name]
    else:
        parts[name] = text[:at] + text[at : at + 60] * 2000 + text[at:]
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for one, content in parts.items():
            # A part's date would be that of now, and the same seed another input.
            archive.writestr(zipfile.ZipInfo(one), content, zipfile.ZIP_DEFLATED)
    return out.getvalue()


# ---- calendars -----------------------------------------------------------------------------------------------------

CALENDAR_LINES = (
    *(
        "DTSTART:00010101T000000",
        "DTSTART:99991231T235959Z",
        "DTEND:00000000",
        "DURATION:P99999999D",
        "RRULE:FREQ=WEEKLY",
    ),
    *(
        "RRULE:FREQ=WEEKLY;INTERVAL=0;BYDAY=XX",
        "DTSTART;TZID=Mars/Olympus:20260101T080000",
        "BEGIN:VEVENT",
        "END:VCALENDAR",
    ),
    *(
        "SUMMARY:" + "x" * 5000,
        "RRULE:FREQ=YEARLY;UNTIL=bad",
        "DTSTART;VALUE=DATE:20260230",
        "DURATION:-PT1H",
        "X" * 300,
    ),
)


def spoil_lines(data: bytes, chance: random.Random) -> bytes:
    """A text of lines with lines changed, moved, doubled."""
    lines = data.decode("utf-8", "replace").splitlines()
    for _ in range(chance.choice((1, 2, 8))):
        at = chance.randrange(len(lines) + 1)
        how = chance.randrange(3)
        if how == 0 or not lines:
            lines.insert(at, chance.choice(CALENDAR_LINES))
        elif how == 1:
            del lines[at % len(lines)]
        else:
            lines[at % len(lines)] = chance.choice(CALENDAR_LINES)
    return "\r\n".join(lines).encode("utf-8")


def _calendars(folder: Path) -> list[bytes]:
    return [calendar_bytes(demo_job(), 2026)]


def _read_calendar(path: Path) -> object:
    return calendar_rows(path.read_bytes(), "Europe/London", 2026)


# ---- pictures ------------------------------------------------------------------------------------------------------


def _clips(ending: str) -> Callable[[Path], list[bytes]]:
    def made(folder: Path) -> list[bytes]:
        from eager_lens.core.clip.drawn import Drawn, write_clip

        drawn = Drawn(width_px=64, height_px=48, fps=10, duration_s=2)
        return [write_clip(folder / f"seed{ending}", drawn, quality=30).read_bytes()]

    return made


def _measure(path: Path) -> object:
    from eager_lens.core.clip.measure import measured

    return measured(path, 10.0)


def _stills(folder: Path) -> list[bytes]:
    from PIL import Image

    picture, found = Image.effect_noise((64, 48), 40), []
    for kind in ("PNG", "JPEG"):
        data = io.BytesIO()
        picture.save(data, kind)
        found.append(data.getvalue())
    return found


def _see(path: Path) -> object:
    from eager_lens.core.clip.still import measured_still

    return measured_still(path)


# ---- what devices answer ------------------------------------------------------------------------------------------------


SEARCHED = frozenset({"urn:uuid:1"})


def _searched(folder: Path) -> list[bytes]:
    device = Announced("02:5b:1e:00:01:01", "Hall doors", "Quillmark B4", "http://172.22.40.40:80/device")
    search = Search("urn:uuid:1", (), ())
    loose = answer_to(device._replace(is_loose=True), search)
    return [search_text()[1], answer_to(device, search), loose, announcement(device, "Hello")]


def _read_search(path: Path) -> object:
    data = path.read_bytes()
    return search_of(data), answers_of(data, SEARCHED)


def _rtsp(folder: Path) -> list[bytes]:
    login = b'Authorization: Digest username="u", realm="r", nonce="1-2", uri="x", response="3"\r\n'
    ask = b"DESCRIBE rtsp://172.22.40.40/main RTSP/1.0\r\nCSeq: 2\r\n" + login + b"\r\n"
    challenge = b'RTSP/1.0 401 Unauthorized\r\nCSeq: 1\r\nWWW-Authenticate: Digest realm="r", nonce="1"\r\n\r\n'
    sdp = b"v=0\r\nm=video 0 RTP/AVP 96\r\na=control:track1\r\n"
    described = b"RTSP/1.0 200 OK\r\nCSeq: 2\r\nContent-Length: " + str(len(sdp)).encode() + b"\r\n\r\n" + sdp
    return [ask, challenge + described, described]


def _read_rtsp(path: Path) -> object:
    """As a camera stand-in reads a request, and as the check reads an answer."""
    data = path.read_bytes()

    async def read() -> object:
        requests = asyncio.StreamReader()
        requests.feed_data(data)
        requests.feed_eof()
        found = None
        try:
            request = await read_request(requests)
            if request is not None:
                found = Gate("r", {"u": ("p",)}, 5, 1).admits(request.method, request.headers.get("authorization", ""))
        except Bad:
            found = None
        answers = asyncio.StreamReader()
        answers.feed_data(data)
        answers.feed_eof()
        sent = asyncio.StreamWriter(mock.Mock(), mock.Mock(_drain_helper=_nothing), None, asyncio.get_running_loop())
        try:
            talk = RtspConversation(answers, sent, DigestLogin("u", "p"))
            return found, described(await talk.ask("DESCRIBE", "rtsp://x/main"), "rtsp://x/main")
        except BROKEN as error:
            return found, type(error)

    return asyncio.run(read())


async def _nothing() -> None:
    return None


class _Hostile:
    """A device on loopback that answers whatever it is asked with the same bytes, and hangs up."""

    def __init__(self, answer: bytes) -> None:
        self._answer = answer

    async def __aenter__(self) -> int:
        self._server = await asyncio.start_server(self._serve, "127.0.0.1", 0)
        port: int = self._server.sockets[0].getsockname()[1]
        return port

    async def __aexit__(self, *_: object) -> None:
        self._server.close()

    async def _serve(self, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        with suppress(OSError, asyncio.IncompleteReadError, asyncio.LimitOverrunError):
            await reader.readuntil(b"\r\n\r\n")
            writer.write(self._answer)
            await writer.drain()
            # Half closed: a close with a question without_source_checks would tear the connection down before the answer is read.
            writer.write_eof()
            with suppress(asyncio.CancelledError):
                while await reader.read(65_536):
                    continue
            writer.close()


def _pages(folder: Path) -> list[bytes]:
    challenge = b'WWW-Authenticate: Digest realm="r", nonce="1", qop="auth", algorithm=SHA-256\r\n'
    wants = b"HTTP/1.1 401 x\r\n" + challenge + b"Content-Length: 0\r\n\r\n"
    page = b"<!doctype html><title>Hall</title>"
    date = b"Date: Mon, 02 Mar 2026 12:00:00 GMT\r\n"
    length = f"Content-Length: {len(page)}\r\n\r\n".encode()
    chunked = b"Transfer-Encoding: chunked\r\nContent-Encoding: gzip\r\n\r\n4\r\nabcd\r\n0\r\n\r\n"
    away = b"HTTP/1.1 302 x\r\nLocation: http://203.0.113.9/\r\n\r\n"
    ok = b"HTTP/1.1 200 OK\r\n" + date
    return [ok + length + page, wants, wants + ok + length + page, ok + chunked, away]


def _read_page(path: Path) -> object:
    """As the check looks at a device's page, and reads it by the open protocol there."""

    async def read() -> object:
        async with _Hostile(path.read_bytes()) as port:
            with closing(Http(answer_s=2.0)) as http:
                found = await page.look(http, f"http://127.0.0.1:{port}/")
                start, user = Endpoint("http", port, "/service"), User("installer", "Secret-12")
                return found, await read_device(http, "127.0.0.1", [start], user, Wanted(True, True, True))

    return asyncio.run(read())


def _streams(folder: Path) -> list[bytes]:
    sdp = b"v=0\r\nm=video 0 RTP/AVP 96\r\na=rtpmap:96 H264/90000\r\na=control:track1\r\n"

    def answer(number: int, body: bytes = b"", *headers: bytes) -> bytes:
        lines = (b"RTSP/1.0 200 OK", b"CSeq: %d" % number, b"Content-Length: %d" % len(body), *headers)
        return b"\r\n".join(lines) + b"\r\n\r\n" + body

    def packet(number: int, unit: bytes) -> bytes:
        rtp = struct.pack(">BBHII", 0x80, 0xE0, number, 7500 * number, 7) + unit
        return b"$\x00" + struct.pack(">H", len(rtp)) + rtp

    opened = answer(1, sdp) + answer(2, b"", b"Session: 7;timeout=60", b"Transport: RTP/AVP/TCP;interleaved=0-1")
    playing = answer(3, b"", b"Session: 7") + b"".join(packet(at, b"\x65" + bytes(900)) for at in range(40))
    return [opened + playing, opened, answer(1, sdp)]


def _read_stream(path: Path) -> object:
    """As the check reads a camera's streams."""

    async def turn() -> None:
        return None

    async def read() -> object:
        async with _Hostile(path.read_bytes()) as port:
            wanted = [stream.Wanted(Endpoint("rtsp", port, path), 0.05) for path in ("/main", "/sub")]
            return await stream.read_streams("127.0.0.1", DigestLogin("installer", "Secret-12"), wanted, turn)

    with mock.patch.object(stream, "OPEN_S", 0.5), mock.patch.object(stream, "SILENT_S", 0.5):
        return asyncio.run(read())


def _read_found(path: Path) -> object:
    """What a search brings, taken down as the check does and held against the plan."""
    assessment = assess(demo_job())
    addresses = [device.address for device in assessment.facts.devices if device.address]
    heard = []
    for address, one in zip(addresses, answers_of(path.read_bytes(), SEARCHED), strict=False):
        texts = {"name": one.name, "hardware": one.hardware, "told_mac": one.mac_address}
        heard.append(Heard(address=address, by=("search",), endpoints=(one.endpoint,), urls=one.urls, **texts))
    return rows_of(assessment, CheckRun(at="2026-03-02T12:00:00Z", heard=tuple(heard)))


def _leases(folder: Path) -> list[bytes]:
    head = b"\x01\x01\x06\x00abcd" + bytes(20) + b"\x02\x00\x00\x00\x00\x01" + bytes(202) + b"\x63\x82\x53\x63"
    return [head + b"\x35\x01\x01\xff", head + b"\x35\x01\x03\x32\x04\xac\x16\x28\x64\xff"]


def _read_lease(path: Path) -> object:
    asking = asking_of(path.read_bytes())
    server = DhcpServer(Leases(0xAC162864, 0xAC162870, {}, 60), 0xAC162801, 24)
    return None if asking is None else server.reply_to(asking)


def _runs(folder: Path) -> list[bytes]:
    stream = {"outcome": "opened", "codec": "h265", "fps": 12, "mean_mbps": 2, "read_s": 5}
    profile = {
        "token": "a",
        "codec": "h265",
        "width_px": 1920,
        "height_px": 1080,
        "fps": 12,
        "cap_mbps": 4,
        "key_frames": 24,
    }
    recording = {"token": "1", "address": "172.22.40.40", "state": "Active", "oldest": "2026-02-02T12:00:00Z"}
    told = {"profiles": [profile], "recordings": [recording], "identity": {"serial": "QU-3100"}}
    read = {
        "device": "cam-1",
        "address": "172.22.40.40",
        "login": "in",
        "main": stream,
        "clock_off_s": -3,
        "told": told,
    }
    heard = {"address": "172.22.40.40", "mac_addresses": ["02:5b:1e:00:00:40"], "by": ["ARP"]}
    run = {"at": "2026-03-02T12:00:00Z", "laptop": ["172.22.40.9/24"], "heard": [heard], "read": [read]}
    return [json.dumps(run).encode()]


def _read_runs(path: Path) -> object:
    """As the window does with the runs of a job: read, then shown beside the plan."""
    runs, problems = read_runs(path)
    assessment = assess(demo_job())
    return [rows_of(assessment, run) for run in runs], problems


# ---- what comes back from site ------------------------------------------------------------------------------------------


def _logs(folder: Path) -> list[bytes]:
    log, other = folder / "seed.log.jsonl", folder / "other.log.jsonl"
    now = datetime.fromisoformat("2026-11-20T12:00:00+01:00")
    events = [
        (Event("check", f"Label passed: Camera {at}", (f"cam-{at}",), {"outcome": "passed"}), now) for at in range(6)
    ]
    append(log, events, "WA", "trial")
    other.write_bytes(log.read_bytes())
    append(other, events[:1], "BF", "trial")
    append(log, events[:2], "WA", "trial")
    merge(log, other, now, "WA", "trial")
    return [log.read_bytes(), other.read_bytes()]


def _read_log(path: Path) -> object:
    """As the window does: verified, read, written on, and merged."""
    found = verify(path)
    entries = list(entries_of(path))
    append(path, [(Event("edit", "Set"), datetime.fromisoformat("2026-11-21T12:00:00+01:00"))], "WA", "trial")
    return found, entries, head_of(path)


def _field_files(folder: Path) -> list[bytes]:
    assessment = assess(demo_job())
    data = sheet_data(assessment, "2026-11-20T08:00", ("cam-1", "cam-2"), "00112233aabbccdd")
    check = {
        "id": "c-1",
        "device": "cam-1",
        "check": "label",
        "outcome": "failed",
        "by": "BF",
        "at": "2026-11-20T12:00:00",
    }
    tick = {"step": "cam-2/gland", "outcome": "done", "by": "BF", "at": "2026-11-20T12:00:00"}
    snag = {"id": "snag-f1", "device": "cam-2", "text": "hedge"}
    photo = "data:image/jpeg;base64,/9j/"
    head = {name: data[name] for name in ("format", "version", "job", "made_at", "base")}
    more = {"sheet": data["id"], "saved_at": "2026-11-20T13:00:00", "by": "BF", "photos": {"p-0011223344556677": photo}}
    return [json.dumps({**head, **more, "checks": [check], "ticks": [tick], "snags": [snag]}).encode()]


def _read_field_file(path: Path) -> object:
    """Read, held against the job, and taken in."""
    file = read_field_file(path)
    photos = {photo: hashlib.sha256(photo_bytes(address)).hexdigest() for photo, address in file.photos.items()}
    assessment = assess(demo_job())
    found = merging(assessment, file, base_digest(file.base))
    return job_text(merged_edit(found, {one.key: "sheet" for one in found.conflicts}, photos).apply(assessment.job))


def _mounting_lists(folder: Path) -> list[bytes]:
    return [list_text(usual_steps()[:9]).encode()]


def _read_mounting_list(path: Path) -> object:
    steps = list_from_text(path.read_bytes().decode("utf-8", "replace"))
    assessment = assess(set_mounting_list(steps).apply(demo_job()))
    return [steps_on(device, assessment) for device in mounted_devices(assessment.job)[:3]]


def _firms(folder: Path) -> list[bytes]:
    price = PartPrice(what="Network cable", price=0.5)
    lists = FirmLists(make_profiles=demo_job().make_profiles[:2], mounting_list=usual_steps()[:3], prices=(price,))
    return [firm_text(lists).encode()]


def _read_firm(path: Path) -> object:
    return job_text(begin_with(read_firm(path), demo_job()))


KINDS: tuple[Kind, ...] = (
    Kind("job files", ENDING, 22, _jobs, _read_job, spoil_json),
    Kind("calculator inputs", ".json", 24, _calculations, _calculate, spoil_json),
    Kind("camera lists", ".csv", 14, _camera_lists, _import, spoil_csv),
    Kind("scan lists", ".csv", 7, _scans, lambda path: scan_list(read_table(path)), spoil_csv),
    Kind("price lists", ".csv", 7, _prices, lambda path: price_list(read_table(path)), spoil_csv),
    Kind("workbooks", ".xlsx", 5, _workbooks, _read_workbook, spoil_zip),
    Kind("calendars", ".ics", 5, _calendars, _read_calendar, spoil_lines),
    Kind("sealed files", ".json", 5, _vaults, _read_vault, spoil_json),
    Kind("preferences", ".json", 3, lambda _: [b'{"dark": true, "recent": ["/a"]}'], _read_preferences, spoil_json),
    Kind("left work", ".json", 3, lambda _: [b'{"path": "/a", "name": "n", "stamp": ""}'], _read_left_work, spoil_json),
    Kind("clips, MP4", ".mp4", 1.5, _clips(".mp4"), _measure),
    Kind("clips, MKV", ".mkv", 1.5, _clips(".mkv"), _measure),
    Kind("clips, MPEG-TS", ".ts", 1, _clips(".ts"), _measure),
    Kind("stills", ".png", 1, _stills, _see),
    Kind("searches and answers", ".xml", 3, _searched, _read_search, spoil_lines),
    Kind("devices that a search finds", ".xml", 3, _searched, _read_found, spoil_lines),
    Kind("RTSP", ".txt", 4, _rtsp, _read_rtsp, spoil_lines),
    Kind("answers of the open protocol", ".xml", 6, protocol_answers, read_protocol_answer, spoil_lines),
    Kind("hostile pages, HTTP", ".txt", 3, _pages, _read_page, spoil_lines),
    Kind("hostile streams, RTSP", ".bin", 2, _streams, _read_stream),
    Kind("lease requests", ".bin", 1, _leases, _read_lease),
    Kind("site checks", ".jsonl", 3, _runs, _read_runs, spoil_json),
    Kind("event logs", ".jsonl", 4, _logs, _read_log, spoil_lines),
    Kind("field sheets", ".json", 5, _field_files, _read_field_file, spoil_json),
    Kind("mounting lists", ".json", 2, _mounting_lists, _read_mounting_list, spoil_json),
    Kind("firms' lists", ".json", 2, _firms, _read_firm, spoil_json),
)
