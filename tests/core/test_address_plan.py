"""Address plans: the rules, and that a plan stays put when the list grows."""

import unittest

from hypothesis import given
from hypothesis import strategies as st

from eager_lens.core.addressing.ipv4 import address_number, address_text, mac_address, subnet_of
from eager_lens.core.catalogue import CALCULATORS
from eager_lens.core.errors import RefusedInput
from eager_lens.core.reference.roles import ROLES
from tests.core.test_vectors import broken_rule
from tests.properties import tried


def plan(devices, subnet="172.22.40.0/24", gateway="172.22.40.1", **more):
    answer = CALCULATORS["address-plan"].answer({"subnet": subnet, "gateway": gateway, "devices": devices, **more})
    return answer["addresses"]


def cams(number, start=1):
    return [{"id": f"c{n}", "role": "camera"} for n in range(start, start + number)]


class Stability(unittest.TestCase):
    def test_a_device_added_at_the_end_moves_nobody(self):
        devices = [{"id": "sw", "role": "switch"}, *cams(20)]
        before = plan(devices)
        for new in (
            {"id": "new", "role": "camera"},
            {"id": "new", "role": "router"},
            {"id": "new", "role": "camera", "keep": "172.22.40.77"},
        ):
            with self.subTest(new=new):
                after = plan([*devices, new])
                self.assertEqual({key: after[key] for key in before}, before)

    def test_a_keep_that_an_earlier_device_was_given_is_refused_by_name(self):
        devices = cams(5)
        taken = plan(devices)["c3"]
        with self.assertRaises(RefusedInput) as caught:
            plan([*devices, {"id": "late", "role": "camera", "keep": taken}])
        self.assertIn("late", str(caught.exception))
        self.assertIn("c3", str(caught.exception))

    def test_what_is_refused_with_two_devices_is_refused_with_more_behind_them(self):
        first = {"id": "first", "role": "camera"}
        held = plan([first], "10.0.0.0/29", "10.0.0.1")["first"]
        others = [n for n in range(2, 7) if f"10.0.0.{n}" != held]
        late = {"id": "late", "role": "camera", "keep": held}
        more = [{"id": f"k{n}", "role": "camera", "keep": f"10.0.0.{n}"} for n in others]
        for behind in range(len(more)):
            with self.subTest(behind), self.assertRaises(RefusedInput) as caught:
                plan([first, late, *more[:behind]], "10.0.0.0/29", "10.0.0.1")
            self.assertEqual(caught.exception.path, "devices[1].keep")
        self.assertEqual(len(plan([first, *more], "10.0.0.0/29", "10.0.0.1")), 5)

    def test_two_keeps_of_one_address_are_always_refused(self):
        devices = [
            {"id": "a", "role": "camera", "keep": "172.22.40.30"},
            {"id": "b", "role": "camera"},
            {"id": "c", "role": "camera", "keep": "172.22.40.30"},
            {"id": "d", "role": "camera"},
        ]
        with self.assertRaises(RefusedInput) as caught:
            plan(devices)
        self.assertIn("c", str(caught.exception))

    @tried(120)
    @given(
        st.integers(24, 29),
        st.lists(st.tuples(st.sampled_from(ROLES), st.one_of(st.none(), st.integers(0, 255))), max_size=14),
        st.one_of(st.none(), st.tuples(st.integers(0, 255), st.integers(0, 255))),
        st.lists(st.integers(0, 255), max_size=5),
    )
    def test_any_answer_keeps_the_rules_and_every_prefix_stays(self, prefix, wishes, pool, taken):
        size = 1 << (32 - prefix)
        base = address_number("10.44.8.0")
        text = lambda offset: address_text(base + offset % size)  # noqa: E731
        devices = [
            {"id": f"d{n}", "role": role, "keep": None if keep is None else text(keep)}
            for n, (role, keep) in enumerate(wishes)
        ]
        given_in = {
            "subnet": f"10.44.8.0/{prefix}",
            "gateway": text(size - 2),
            "pool": None if pool is None else [text(n) for n in sorted(n % size for n in pool)],
            "taken": [text(n) for n in taken],
        }
        before = None
        for length in range(len(devices) + 1):
            part = {**given_in, "devices": devices[:length]}
            try:
                got = CALCULATORS["address-plan"].answer(part)["addresses"]
            except RefusedInput:
                before = None
                continue
            self.assertIsNone(broken_rule(part, got))
            if before is not None:
                self.assertEqual({key: got[key] for key in before}, before)
            before = got


class Rules(unittest.TestCase):
    def test_roles_are_kept_together(self):
        got = plan([{"id": "r", "role": "recorder"}, *cams(3), {"id": "s", "role": "switch"}])
        self.assertEqual(got["c2"], address_text(address_number(got["c1"]) + 1))
        self.assertLess(address_number(got["s"]), address_number(got["r"]))
        self.assertLess(address_number(got["r"]), address_number(got["c1"]))

    def test_cameras_step_over_the_pool(self):
        got = plan(cams(100), pool=["172.22.40.60", "172.22.40.199"])
        self.assertFalse(any(60 <= int(text.rsplit(".")[-1]) <= 199 for text in got.values()))

    def test_a_wide_subnet_with_a_wide_pool_is_planned_at_once(self):
        got = plan(cams(5), "10.0.0.0/8", "10.0.0.1", pool=["10.0.0.2", "10.200.255.255"])
        self.assertEqual(len(set(got.values())), 5)
        self.assertGreater(min(map(address_number, got.values())), address_number("10.200.255.255"))

    def test_the_number_missing_is_told(self):
        for extra, missing in ((1, "1"), (9, "9")):
            with self.subTest(extra), self.assertRaises(RefusedInput) as caught:
                plan(cams(5 + extra), "10.0.0.0/29", "10.0.0.1")
            self.assertIn(f"{missing} of", str(caught.exception))

    def test_exactly_full_is_no_shortage(self):
        self.assertEqual(len(plan(cams(5), "10.0.0.0/29", "10.0.0.1")), 5)
        self.assertEqual(len(plan(cams(2), "10.0.0.0/30", None)), 2)

    def test_what_is_taken_elsewhere_costs_no_room(self):
        self.assertEqual(len(plan(cams(5), "10.0.0.0/29", "10.0.0.1", taken=["172.16.0.1", "10.0.0.1"])), 5)

    def test_keeps_that_cannot_be_are_refused_with_the_reason(self):
        cases = (
            ("172.22.40.0", "network"),
            ("172.22.40.255", "broadcast"),
            ("172.22.40.1", "gateway"),
            ("172.22.40.150", "pool"),
            ("172.22.40.9", "taken"),
            ("172.22.41.9", "outside"),
        )
        for keep, reason in cases:
            with self.subTest(reason), self.assertRaises(RefusedInput) as caught:
                plan(
                    [{"id": "door", "role": "camera", "keep": keep}],
                    pool=["172.22.40.100", "172.22.40.199"],
                    taken=["172.22.40.9"],
                )
            self.assertIn("door", str(caught.exception))
            self.assertIn(reason, str(caught.exception))

    def test_malformed_places_are_named(self):
        cases = (
            ({"subnet": "172.22.40.0"}, "subnet"),
            ({"subnet": "172.22.40.5/24"}, "172.22.40.0/24"),
            ({"subnet": "172.22.40.0/31"}, "/31"),
            ({"subnet": "172.22.40.0/255.255.255.0"}, "subnet"),
            ({"gateway": "172.22.40.0"}, "gateway"),
            ({"gateway": "172.22.040.1"}, "gateway"),
            ({"pool": ["172.22.40.9", "172.22.40.5"]}, "pool"),
            ({"pool": ["172.22.40.9"]}, "pool"),
            ({"pool": ["172.22.40.9", "172.22.41.1"]}, "pool[1]"),
            ({"taken": ["300.1.1.1"]}, "taken[0]"),
            ({"devices": [{"id": "", "role": "camera"}]}, "devices[0].id"),
            ({"devices": [{"id": 5, "role": "camera"}]}, "devices[0].id"),
            ({"devices": [{"id": "a", "role": "camera"}, {"id": "a", "role": "other"}]}, "devices[1].id"),
            ({"devices": [{"id": "a", "role": "camera", "keep": "10.0.0"}]}, "devices[0].keep"),
        )
        base = {"subnet": "172.22.40.0/24", "gateway": "172.22.40.1", "devices": []}
        for change, named in cases:
            with self.subTest(change=change), self.assertRaises(RefusedInput) as caught:
                CALCULATORS["address-plan"].answer({**base, **change})
            self.assertIn(named, str(caught.exception))


class Texts(unittest.TestCase):
    def test_addresses_are_read_strictly(self):
        for text in ("300.1.1.1", "1.2.3", "01.2.3.4", "1.2.3.4 ", "", "1.2.3.4.5", "١.2.3.4", "1.2.3.-4"):
            with self.subTest(text), self.assertRaises(ValueError):
                address_number(text)
        self.assertEqual(address_text(address_number("172.22.40.9")), "172.22.40.9")

    def test_masks(self):
        for cidr, mask, hosts in (
            ("172.22.40.0/24", "255.255.255.0", 254),
            ("10.0.0.0/8", "255.0.0.0", 16_777_214),
            ("10.44.8.4/30", "255.255.255.252", 2),
        ):
            with self.subTest(cidr):
                net = subnet_of(cidr)
                self.assertEqual((net.mask_text, net.hosts, net.prefix), (mask, hosts, int(cidr.split("/")[1])))

    def test_mac_addresses_in_any_usual_spelling(self):
        for text in ("02:5B:1E:00:00:40", "02-5b-1e-00-00-40", "025b.1e00.0040", "025b1e000040", " 02:5b:1e:00:00:40 "):
            with self.subTest(text):
                self.assertEqual(mac_address(text), "02:5b:1e:00:00:40")
        self.assertEqual(mac_address("  "), "")
        for text in ("02:5b:1e:00:00", "02:5b:1e:00:00:4g", "hello"):
            with self.subTest(text), self.assertRaises(ValueError):
                mac_address(text)


if __name__ == "__main__":
    unittest.main()
