"""Copies without addresses: each way of writing one, planted in each text of a job, is in no file of the copy."""

import datetime
import io
import re
import unittest

import openpyxl
import pypdfium2
from icalendar import Calendar

from eager_lens.core.assess.assessment import assess
from eager_lens.core.job.model import ScheduleException, changed
from eager_lens.core.job.proof import Check, Snag
from eager_lens.core.outgoing.handover.left_out import WithoutAddresses
from eager_lens.core.outgoing.handover.modes import MODE_RECORDS, MODES
from eager_lens.core.outgoing.handover.pack import PackPlan, pack_files
from tests.support import camera, job_with, one_in, recorder, week_of

OWN, MAC = "172.22.40.55", "02:5b:1e:a0:01:0c"
FORMS = (
    OWN,
    "CAM_172.22.40.55",
    "cam172.22.40.55x",
    "172-22-40-55",
    "172_22_40_55",
    "172 . 22 . 40 . 55",
    "172.022.040.055",
    "http://172.22.40.55:8080/live",
    "172.22.40.0/24",
    "8.8.8.8",
    "10-4-0-7",
    "１７２．２２．４０．５５",
    "fe80::5b:1eff:fea0:10c",
    "[2001:db8::7]",
    MAC,
    MAC.upper(),
    "02-5b-1e-a0-01-0c",
    "025b.1ea0.010c",
    "025b1ea0010c",
    "CAM025B1EA0010C",
    "02 5b 1e a0 01 0c",
    "2:5b:1e:a0:1:c",
    "aa:bb:cc:dd:ee:ff",
    "aabbccddeeff",
)
HARMLESS = (
    "Tel. 0441 632960123",
    "441632960123",
    "08:00:30",
    "8:00 to 18:30",
    "2026-11-20",
    "3 × 8 TB, 1.5 m",
    "channels 1 2 3 4 5 6",
    "Firmware 2.1.4",
    "20-11-26",
    "Decade 1920 facade",
    "12.95 W of 15.4",
)


def planted(text):
    """A job with a text in every place that somebody types into."""
    short = text[:150]
    cameras = [
        camera(
            at,
            name=f"{short} {at}",
            place=short,
            make=short,
            note=short,
            address=address,
            mac_address=mac,
            purpose="observe",
        )
        for at, address, mac in ((1, OWN, MAC), (2, "172.22.40.56", ""))
    ]
    job = job_with(cameras, [recorder(1, name=f"R {short}", place=short, make=short)])
    week = changed(week_of(), name=f"W {short}")
    exception = ScheduleException(
        id="ex-1",
        name=f"E {short}",
        first=datetime.date(2026, 12, 24),
        last=datetime.date(2026, 12, 26),
        schedule=week.id,
    )
    check = Check(device="cam-1", check="label", outcome="passed", by=short, at="2026-11-20T10:00", value=short)
    snag = Snag(id="snag-1", device="cam-1", text=short, owner=short, outcome=short, opened_by=short)
    head = dict.fromkeys(("name", "customer", "site", "prepared_by", "contact", "note"), short)
    return changed(job, schedules=(week,), exceptions=(exception,), checks=(check,), snags=(snag,), **head)


def texts_of(name, data):
    """All that somebody can read in a file."""
    if name.endswith(".pdf"):
        document = pypdfium2.PdfDocument(data)
        yield from (page.get_textpage().get_text_range() for page in document)
        yield from map(str, document.get_metadata_dict().values())
    elif name.endswith(".xlsx"):
        book = openpyxl.load_workbook(io.BytesIO(data))
        for sheet in book:
            yield sheet.title
            yield from (str(cell) for row in sheet.iter_rows(values_only=True) for cell in row if cell is not None)
    elif name.endswith(".ics"):
        yield from (str(value) for part in Calendar.from_ical(data).walk() for value in part.values())
        yield re.sub(r"\r\n[ \t]", "", data.decode())
    else:
        yield data.decode("utf-8", "replace")


def squeezed(text):
    return re.sub(r"[\s\u00ad]+", "", text).lower()


class LeftOut(unittest.TestCase):
    def test_each_form_in_each_place(self):
        for form in one_in(4, FORMS):
            job = planted(form)
            assessment = assess(job)
            for mode in MODES:
                if not MODE_RECORDS[mode].without_addresses:
                    continue
                files = pack_files(assessment, PackPlan(mode, datetime.date(2026, 12, 1)))
                for name, data in files.items():
                    for text in (name, *texts_of(name, data)):
                        with self.subTest(form=form, mode=mode, file=name):
                            bare = (
                                form.removeprefix("CAM_").removeprefix("CAM").removeprefix("http://").removesuffix("x")
                            )
                            bare = bare.removeprefix("cam").partition(":8080")[0].strip("[]").partition("/24")[0]
                            self.assertNotIn(squeezed(bare), squeezed(text))

    def test_what_is_no_address_stays(self):
        bare = WithoutAddresses(job_with([camera(1, mac_address=MAC)]))
        for text in HARMLESS:
            self.assertEqual(bare.text(text), text)

    def test_copies_for_those_who_need_them_keep_theirs(self):
        files = pack_files(assess(planted("plain")), PackPlan("as built", datetime.date(2026, 12, 1)))
        html = next(data for name, data in files.items() if name.endswith(".html")).decode()
        self.assertIn(OWN, html)
        self.assertIn(MAC, html)
