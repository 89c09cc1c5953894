"""Which acceptance tests a job needs, and how far they are."""

from __future__ import annotations

from collections.abc import Mapping
from functools import lru_cache
from weakref import WeakKeyDictionary

from eager_lens.core.assess.figures.facts import Facts
from eager_lens.core.job.model import Camera, Device, NetworkDevice, Recorder
from eager_lens.core.job.proving import latest_checks
from eager_lens.core.reference.acceptance import ACCEPTANCE_TESTS, SITE, AcceptanceTest


def tests_on(facts: Facts, device: Device) -> tuple[AcceptanceTest, ...]:
    """The tests that a device needs, in the order in which they are made."""
    if isinstance(device, Camera):
        unit, link = facts.fed_by_unit.get(device.id), facts.topology.wiring.feeders.get(device.id)
        return _camera_tests(
            bool(device.purpose),
            device.motion_rule_on,
            facts.camera_figures[device.id].motion_h_per_day > 0,
            device.poe_class is not None or unit is not None,
            unit is not None and unit.kind == "supply",
            link is not None and link.medium != "radio",
        )
    if isinstance(device, Recorder):
        keeps = facts.recorder_figures[device.id].usable_tb > 0
        return tuple(test for test in _of("recorder") if keeps or test.id not in ("days", "drives"))
    return _network_tests(facts, device)


@lru_cache(maxsize=256)
def _camera_tests(
    purpose: bool, rule: bool, on_motion: bool, powered: bool, supplied: bool, wired: bool
) -> tuple[AcceptanceTest, ...]:
    needs = {
        "density": purpose,
        "motion": rule,
        "chain": on_motion,
        "power": powered,
        "voltage": supplied,
        "link": wired,
    }
    return tuple(test for test in _of("camera") if needs.get(test.id, True))


def _network_tests(facts: Facts, device: Device) -> tuple[AcceptanceTest, ...]:
    if not isinstance(device, NetworkDevice):
        return ()
    tests = _of(device.role)
    if not device.wants_address:
        tests = tuple(test for test in tests if test.id not in ("label", "credentials"))
    if device.role == "bridge" and not any(
        link.medium == "radio" for link in facts.topology.wiring.links_at.get(device.id, ())
    ):
        tests = tuple(test for test in tests if test.id != "rssi")
    return tests


@lru_cache(maxsize=16)
def _of(tested: str) -> tuple[AcceptanceTest, ...]:
    return tuple(test for test in ACCEPTANCE_TESTS if tested in test.on)


def site_tests(facts: Facts) -> tuple[AcceptanceTest, ...]:
    """The tests of the site as a whole: remote viewing only where a line to the internet is planned."""
    if not facts.job.cameras:
        return ()
    online = any(device.upload_mbps is not None for device in facts.job.network)
    return tuple(test for test in _of(SITE) if online or test.id != "remote")


_ALL: WeakKeyDictionary[Facts, dict[str, tuple[AcceptanceTest, ...]]] = WeakKeyDictionary()


def tests_by_device(facts: Facts) -> Mapping[str, tuple[AcceptanceTest, ...]]:
    """The tests of each device, in the order of the job; worked out once for all who ask."""
    if facts not in _ALL:
        _ALL[facts] = {device.id: tests_on(facts, device) for device in facts.devices}
    return _ALL[facts]


_KNOWN: WeakKeyDictionary[Facts, tuple[int, int]] = WeakKeyDictionary()
"""Several views ask after each edit."""


def progress(facts: Facts) -> tuple[int, int]:
    """Tests passed, of all that the job needs. A result that no longer belongs to anything counts for nothing."""
    if facts not in _KNOWN:
        _KNOWN[facts] = _counted(facts)
    return _KNOWN[facts]


def _counted(facts: Facts) -> tuple[int, int]:
    needed = tests_by_device(facts)
    total = len(site_tests(facts)) + sum(map(len, needed.values()))
    passed = 0
    for (device_id, test_id), check in latest_checks(facts.job).items():
        tests = site_tests(facts) if device_id == SITE else needed.get(device_id, ())
        passed += check.outcome == "passed" and any(test.id == test_id for test in tests)
    return passed, total


def failed_tests(facts: Facts) -> list[tuple[str, str]]:
    """Device and test of each that stands as failed, where both are still in the job."""
    return [
        pair
        for pair, check in latest_checks(facts.job).items()
        if check.outcome == "failed" and (pair[0] == SITE or pair[0] in facts.by_device_id)
    ]
