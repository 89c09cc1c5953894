"""Files of version 1 open, whatever they use, and are what they were."""

import json
import unittest
from pathlib import Path

from eager_lens.core.job.edits import set_assumed, set_each, set_fields, with_parts
from eager_lens.core.job.file import job_from_text, job_text
from eager_lens.core.job.migrations import VERSION, migrated
from tests.support import demo_job

FILES = Path(__file__).parents[2] / "data" / "jobs"


def read(name):
    return (FILES / f"{name}-version-1.lens.json").read_text("utf-8")


class FromVersionOne(unittest.TestCase):
    def test_the_demo_of_version_1_is_the_demo_of_today(self):
        text = read("demo").replace("Days always, nights on movement", "Days continuous, nights on motion")
        old, new = job_from_text(text), demo_job()
        # When and for how long a rate was measured was not said then; it stood for day and night.
        for ids, fields in (
            (["cam-26"], {"measured_when": "night", "measured_min": 30}),
            ([next(one.id for one in new.cameras if one.name == "Kiosk till")], {"measured_min": 2880}),
            (["cam-22", "cam-23"], {"quality": "medium"}),
            (["cam-36"], {"quality": "low"}),
            (["rec-1"], {"drive_tb": 8.0, "incoming_limit_mbps": 256.0}),
        ):
            old = set_fields(ids, "As it is today", **fields).apply(old)
        # What a camera is in and on, and what was proved since, had no place in it.
        placed = {one.id: {"housing": one.housing, "fixed_to": one.fixed_to} for one in new.cameras}
        old = set_each("As it is today", placed).apply(old)
        old = set_assumed("What is assumed today", **new.assumed.model_dump()).apply(old)
        proved = {name: getattr(new, name) for name in ("mounting", "checks", "walks", "fill_readings", "snags")}
        self.assertEqual(old.checks, new.checks[: len(old.checks)])
        # Its makes were delivered with their open protocol off, and its recorders without an address.
        self.assertEqual(with_parts(old, drive_offers=new.drive_offers, make_profiles=new.make_profiles, **proved), new)

    def test_a_job_that_uses_every_field_keeps_every_value(self):
        """Whatever was not at its default in version 1 is not at its default now: nothing was dropped on the way."""
        old = json.loads(read("every-field"))
        job = job_from_text(read("every-field"))
        camera, recorder, router = job.cameras[0], job.recorders[0], job.network[0]
        self.assertEqual(
            (camera.mac_address, camera.address_assignment, camera.rate_control, camera.poe_class, camera.power_input),
            ("02:4c:00:00:00:1f", "static from a lease", "capped VBR", 4, "24 V AC"),
        )
        self.assertEqual(
            (camera.schedule, camera.pre_recording_s, camera.post_recording_s, camera.substream_mbps),
            ("week-1", 6, 18, 0.7),
        )
        self.assertEqual((camera.kept_between_events, camera.kept_when_off), ("substream", "key frames"))
        self.assertEqual(
            (camera.motion_rule_on, camera.motion_rule.sensitivity, camera.event_tcp_port), (False, 35, 8080)
        )
        self.assertEqual(
            (camera.input_pre_recording_s, camera.input_post_recording_s, camera.surge_protected), (3, 30, True)
        )
        self.assertEqual((recorder.raid_level, recorder.hot_spares, recorder.poe_ports), ("raid5", 1, 8))
        self.assertEqual((recorder.attachment, recorder.camera_interface_subnet), ("recorder PoE ports", "lan-2"))
        self.assertEqual((recorder.pre_recording_memory_mb, recorder.fetches_substreams), (256, True))
        self.assertEqual((router.device_type, router.viewed_streams, router.views_main_streams), ("own-1", 9, True))
        self.assertEqual([one.address_assignment for one in job.network], ["DHCP reservation", "by the recorder"])
        modes = [span.mode for span in job.schedules[0].plan.mon]
        self.assertEqual(modes, ["continuous", "motion", "alarm input", "motion or alarm", "off"])
        self.assertEqual(job.schedules[0].alarms.tue[0].mode, "continuous")
        self.assertEqual((job.exceptions[0].schedule, job.exceptions[0].instead_of), ("week-1", "week-1"))
        self.assertEqual((job.device_types[0].poe_ports, job.device_types[0].viewed_streams), (2, 4))
        self.assertEqual((job.power_units[0].poe_class, job.make_profiles[0].make), (4, "Quillmark"))
        self.assertEqual((job.rehearsal.actions[0].do, job.commissioning[0].outcome), ("power on", "skipped"))
        self.assertEqual((job.checks[0].check, job.rules[0].rule.kinds), ("motion", ("person",)))
        now = json.loads(job_text(job))
        for one in now["recorders"]:
            del one["erase_after_days"], one["largest_drive_tb"]  # not in files of before
        for one in now["cameras"]:
            del one["measured_when"], one["measured_min"], one["measured_at"], one["housing"], one["fixed_to"]
            del one["cap_assumed"]
        for one in (*now["recorders"], *now["cameras"], *now["network"]):
            del one["certificate_sha256"]
        for one in now["checks"]:
            del one["measured"], one["how"], one["photos"]
            del one["withdrawn_at"], one["withdrawn_by"], one["withdrawn_why"]
        for one in now["links"]:
            del one["surge_protected"], one["aggregated"]
        for one in now["network"]:
            del one["spanning_tree"]
        for one in now["make_profiles"]:
            for name in ("default_password", "user_name", "http_port", "rtsp_port"):
                del one[name]
            del one["main_stream_path"], one["substream_path"]
        del now["activity"]["day_memory"], now["assumed"]["latitude_deg"]
        del old["activity"]["seed"]
        self.assertEqual(sum(map(len, leaves(old))), sum(map(len, leaves(now))))

    def test_what_is_written_is_of_today_and_read_back(self):
        text = job_text(job_from_text(read("every-field")))
        self.assertEqual(json.loads(text)["version"], VERSION)
        self.assertEqual(job_from_text(text), job_from_text(read("every-field")))

    def test_what_is_not_shaped_as_expected_is_left_to_the_reader(self):
        for odd in (
            {"cameras": 5},
            {"weeks": [7, {"plan": [], "alarms": {"mon": 3}}]},
            {"rehearsal": []},
            {"seasons": [None]},
        ):
            with self.subTest(odd):
                self.assertIsInstance(migrated(odd, 1), dict)


def leaves(document):
    """The rows of all lists: as many keys must come out as went in."""
    return [row for value in document.values() if isinstance(value, list) for row in value]


if __name__ == "__main__":
    unittest.main()
