"""From what a customer says to a whole job: no fault, no warning, the days promised; and what cannot be is refused."""

import datetime
import random
import unittest

from eager_lens.core.assess.assessment import assess
from eager_lens.core.assess.figures.devices import life_of, misses_purpose
from eager_lens.core.assess.finding import Severity
from eager_lens.core.enquiry.build import ASSUMED, build, job_for
from eager_lens.core.enquiry.enquiry import Enquiry, PlaceWanted, view_kinds
from eager_lens.core.enquiry.storage import NoDrives
from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.file import job_from_text, job_text
from eager_lens.core.job.model import new_job
from eager_lens.core.planning.attaching import ATTACHMENTS
from eager_lens.core.reference.streams import stream_assumptions
from tests.support import repeats

WORKS = Enquiry(
    name="Works",
    places=(
        PlaceWanted(name="Office", views={"door": 2, "corridor": 3, "room": 2}),
        PlaceWanted(name="Canteen", distance_m=30, views={"till": 1}),
        PlaceWanted(name="Yard", distance_m=80, views={"yard": 3, "gate": 1}),
        PlaceWanted(name="Shed", distance_m=40, other_building=True, views={"store": 4}),
    ),
    least_days=31,
)


def said(**fields):
    return WORKS.model_copy(update=fields)


def needs(job):
    """Faults and warnings, by code."""
    return [finding.code for finding in assess(job).findings if finding.severity > Severity.NOTE]


def open_points(enquiry, job):
    """What the questions cannot settle: what licensed people do, and who tells the time where nothing leads outside."""
    leaving = {"outdoor-runs"} if any(one.outdoor for one in (*job.cameras, *job.links)) else set()
    return leaving | (set() if enquiry.internet else {"time-server"})


def at_random(source):
    kinds = list(view_kinds())
    places = tuple(
        PlaceWanted(
            name=f"Place {at}",
            distance_m=0 if at == 0 else source.choice([0, 10, 40, 70, 150, 400]),
            other_building=at > 0 and source.random() < 0.3,
            views={kind: source.choice([0, 1, 2, 3, 8]) for kind in source.sample(kinds, source.randint(1, 6))},
        )
        for at in range(source.randint(1, 6))
    )
    return Enquiry(
        places=places,
        least_days=source.choice([7.0, 14.0, 31.0, 90.0]),
        most_days=source.choice([None, 200.0]),
        record=source.choice(["continuous", "by hours", "motion"]),
        opens_min=source.choice([0, 480, 1200]),
        closes_min=source.choice([300, 1080, 1440]),
        closed=source.choice([(), (datetime.date(2026, 12, 25),)]),
        redundancy=source.random() < 0.7,
        internet=source.random() < 0.7,
        attachment=source.choice(ATTACHMENTS),
    )


class Built(unittest.TestCase):
    def test_whatever_is_wanted_has_no_fault_and_no_warning_and_keeps_its_days(self):
        built = 0
        for seed in range(repeats(20, 80)):
            enquiry = at_random(random.Random(seed))
            try:
                job = job_for(enquiry)
            except RefusedInput:
                continue
            built += 1
            with self.subTest(seed=seed, attachment=enquiry.attachment):
                self.assertLessEqual(set(needs(job)), open_points(enquiry, job))
                self.assertEqual(len(job.cameras), enquiry.cameras)
                for recorder in job.recorders:
                    got = assess(job).recorder(recorder.id)
                    self.assertGreaterEqual(got.promised_days or 1e9, enquiry.least_days)
                    self.assertLessEqual(life_of(recorder, got).written_tb_per_year, recorder.drive_rated_tb_per_year)
                    self.assertTrue(got.drives_that_may_fail or not enquiry.redundancy)
        self.assertGreater(built, repeats(13, 55), "most enquiries can be met")

    def test_every_way_of_attaching_is_what_was_asked(self):
        for attachment in ATTACHMENTS:
            job = job_for(said(attachment=attachment))
            with self.subTest(attachment):
                self.assertEqual(needs(job), ["outdoor-runs"])
                (recorder,) = job.recorders
                self.assertEqual(recorder.attachment, attachment)
                fed = sum(recorder.id in (link.a, link.b) and link.a.startswith("cam-") for link in job.links)
                self.assertEqual(fed > 0, "PoE ports" in attachment)

    def test_far_places_and_other_buildings_have_a_switch_of_their_own_on_fibre(self):
        job = job_for(WORKS)
        switches = {device.place: device for device in job.network if device.role == "switch"}
        self.assertEqual(set(switches), {"Office", "Yard", "Shed"})
        fibre = {link.length_m: link.outdoor for link in job.links if link.medium == "fibre"}
        self.assertEqual(fibre, {80: False, 40: True})
        runs = {camera.place: camera.cable_m for camera in job.cameras}
        self.assertEqual(runs, {"Office": 25, "Canteen": 55, "Yard": 40, "Shed": 25})

    def test_each_view_serves_its_purpose_and_is_noted_as_assumed(self):
        job = job_for(said(places=(PlaceWanted(name="All", views=dict.fromkeys(view_kinds(), 1)),)))
        for camera, kind in zip(job.cameras, view_kinds().values(), strict=True):
            with self.subTest(kind.id):
                self.assertEqual((camera.purpose, camera.scene), (kind.purpose, kind.scene))
                self.assertFalse(misses_purpose(camera))
                self.assertIn("assumed", camera.note)
                self.assertEqual(camera.motion_rule.kinds, kind.kinds)
                self.assertIn(kind.scene, stream_assumptions().scenes)
        self.assertTrue(all(words in job.note for words in ASSUMED))

    def test_hours_days_and_closures_become_schedules_and_exceptions(self):
        job = job_for(said(opens_min=480, closes_min=1080, closed=(datetime.date(2026, 12, 25),)))
        modes = [(span.start, span.end, span.mode) for span in job.schedules[0].plan.mon]
        self.assertEqual(modes, [(0, 480, "motion"), (480, 1080, "continuous"), (1080, 1440, "motion")])
        self.assertEqual([span.mode for span in job.schedules[0].plan.sat], ["motion"])
        (closed,) = job.exceptions
        self.assertEqual((closed.name, closed.yearly, closed.schedule), ("Closed on 25 December", True, "week-2"))
        over_midnight = job_for(said(opens_min=1200, closes_min=300)).schedules[0].plan.mon
        self.assertEqual([span.mode for span in over_midnight], ["continuous", "motion", "continuous"])

    def test_it_is_one_step_that_keeps_who_prepares_it(self):
        mine = new_job().model_copy(update={"prepared_by": "WA", "time_zone": "Europe/London"})
        edit = build(WORKS)
        job = edit.apply(mine)
        self.assertEqual(
            (job.prepared_by, job.time_zone, edit.label), ("WA", "Europe/London", "Create Works from the enquiry")
        )
        self.assertEqual(job_from_text(job_text(job)), job)


class Refused(unittest.TestCase):
    def test_nothing_wanted(self):
        with self.assertRaisesRegex(RefusedInput, "there are no views yet"):
            job_for(Enquiry(places=(PlaceWanted(name="Hall", views={"door": 0}),)))

    def test_two_places_of_one_name_and_more_than_a_call(self):
        twins = (PlaceWanted(name="Yard", views={"yard": 1}), PlaceWanted(name="yard", views={"gate": 1}))
        with self.assertRaisesRegex(RefusedInput, "two places are called"):
            job_for(said(places=twins))
        many = tuple(PlaceWanted(name=f"Hall {at}", views={"room": 200}) for at in range(6))
        with self.assertRaisesRegex(RefusedInput, "more than 1,000"):
            job_for(said(places=many))

    def test_the_recorder_stands_in_the_first_place_even_without_a_view_there(self):
        places = (PlaceWanted(name="Office"), PlaceWanted(name="Yard", distance_m=200, views={"yard": 2}))
        job = job_for(said(places=places))
        self.assertEqual((job.recorders[0].place, needs(job)), ("Office", ["outdoor-runs"]))

    def test_more_days_than_drives_hold(self):
        with self.assertRaisesRegex(NoDrives, "enter fewer days"):
            job_for(said(least_days=3000, record="continuous"))

    def test_more_cameras_than_one_recorders_ports(self):
        many = (PlaceWanted(name="Hall", views={"room": 90}),)
        self.assertEqual(needs(job_for(said(places=many))), [])
        with self.assertRaisesRegex(RefusedInput, "ports of only one"):
            job_for(said(places=many, attachment="recorder PoE ports"))


if __name__ == "__main__":
    unittest.main()
