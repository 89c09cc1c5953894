"""What people type into cells: understood, or refused with the reason."""

import unittest

from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.fields import CAMERA_FIELDS, NETWORK_FIELDS, RECORDER_FIELDS, field_named
from eager_lens.core.job.model import Registration, changed
from tests.support import camera, demo_job, job_with, recorder, switch


class Typing(unittest.TestCase):
    def setUp(self):
        self.job = job_with([camera(1), camera(2)], recorders=[recorder(1), recorder(2, name="Shed")])

    def typed(self, field_id, text, fields=CAMERA_FIELDS, device=None):
        return field_named(fields, field_id).parse(text, device or self.job.cameras[0], self.job)

    def test_understood(self):
        no_clip = {"measured_low_mbps": None, "measured_high_mbps": None, "measured_from": ""}
        for field_id, text, values in (
            ("picture", "2688×1520", {"width_px": 2688, "height_px": 1520}),
            ("picture", " 1920 x 1080 px", {"width_px": 1920, "height_px": 1080}),
            ("picture", "1080p", {"width_px": 1920, "height_px": 1080}),
            ("fps", "12,5", {"fps": 12.5}),
            ("fps", "12 fps", {"fps": 12}),
            ("codec", "h.265", {"codec": "h265"}),
            ("codec", "HEVC", {"codec": "h265"}),
            ("codec", "avc", {"codec": "h264"}),
            ("codec", "Motion JPEG", {"codec": "mjpeg"}),
            ("quality", "hi", {"quality": "high"}),
            ("scene", "Busy concourse or queue", {"scene": "concourse"}),
            ("scene", "yard-dark", {"scene": "yard-dark"}),
            ("measured_mbps", "", {"measured_mbps": None, **no_clip}),
            ("measured_mbps", "3.4 Mb/s", {"measured_mbps": 3.4, **no_clip}),
            ("schedule", "round the clock", {"schedule": "week-1"}),
            ("schedule", "", {"schedule": ""}),
            ("cable_m", "30", {"cable_m": 30}),
            ("cable_m", "100 ft", {"cable_m": 30.48}),
            ("cable_m", "", {"cable_m": None}),
            ("name", "  Gate ", {"name": "Gate"}),
            ("awg", "23", {"awg": 23}),
            ("cable_material", "cca", {"cable_material": "cca"}),
            ("cable_material", "CCA", {"cable_material": "cca"}),
            ("outdoor", "y", {"outdoor": True}),
            ("outdoor", "", {"outdoor": False}),
            ("poe_class", "class 4", {"poe_class": 4}),
            ("poe_class", "none", {"poe_class": None}),
            ("power_w", "8,5 W", {"power_w": 8.5}),
        ):
            with self.subTest(field=field_id, text=text):
                got = self.typed(field_id, text)
                self.assertEqual(got.keys(), values.keys())
                for key, value in values.items():
                    self.assertAlmostEqual(got[key], value) if isinstance(value, float) else self.assertEqual(
                        got[key], value
                    )

    def test_refused_with_what_is_allowed(self):
        for field_id, text, words in (
            ("picture", "large", "width × height"),
            ("picture", "1920", "width × height"),
            ("fps", "fast", "not a number"),
            ("fps", "1,200", "ambiguous"),
            ("codec", "h266", "H.264, H.265, MJPEG"),
            ("schedule", "Sunday", "Round the clock"),
            ("scene", "yard", "not in the list"),
            ("recorder", "Attic", "Shed"),
            ("channel", "one", "not a channel number"),
            ("channel", "0", "1 to 1024"),
            ("channel", "1, 2", "enter 1 channel"),
            ("cable_m", "long", "a length in m"),
            ("outdoor", "perhaps", "yes, no"),
            ("poe_class", "big", "0 to 8"),
        ):
            with self.subTest(field=field_id, text=text), self.assertRaises(RefusedInput) as caught:
                self.typed(field_id, text)
            self.assertIn(words, str(caught.exception))

    def test_recorders_by_name_keep_their_channels(self):
        got = self.typed("recorder", "Recorder 1, Shed", device=self.job.cameras[1])["registered"]
        self.assertEqual(got[0], Registration(recorder="rec-1", channel=2))
        self.assertEqual(got[1].recorder, "rec-2")
        self.assertEqual(self.typed("recorder", "")["registered"], ())

    def test_recorder_fields(self):
        device = self.job.recorders[0]
        self.assertEqual(self.typed("reserve_share", "7,5 %", RECORDER_FIELDS, device), {"reserve_share": 0.075})
        self.assertEqual(self.typed("raid_level", "RAID 6", RECORDER_FIELDS, device), {"raid_level": "raid6"})
        self.assertEqual(self.typed("codecs", "h265, MJPEG", RECORDER_FIELDS, device), {"codecs": ("h265", "mjpeg")})
        self.assertEqual(changed(device, **self.typed("drives", "4", RECORDER_FIELDS, device)).drives, 4)

    def test_a_recorder_is_no_kind_of_network_device(self):
        with self.assertRaises(RefusedInput):
            self.typed("role", "recorder", NETWORK_FIELDS, switch())


class ThereAndBack(unittest.TestCase):
    def test_what_a_field_shows_it_also_reads(self):
        job = demo_job()
        kinds = ((job.cameras, CAMERA_FIELDS), (job.recorders, RECORDER_FIELDS), (job.network, NETWORK_FIELDS))
        for device, fields in ((device, fields) for devices, fields in kinds for device in devices):
            for field in fields:
                with self.subTest(device=device.id, field=field.id):
                    values = field.parse(field.show(device, job), device, job)
                    for key, value in values.items():
                        self.assertEqual(value, getattr(device, key))


if __name__ == "__main__":
    unittest.main()
