"""Devices that have something in common which each should have for itself."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Iterable

from eager_lens.core.job.model import Device


def alike(devices: Iterable[Device], key: Callable[[Device], Hashable]) -> list[list[Device]]:
    """Groups of two or more devices with one key, in the devices' order; an empty key is nobody's."""
    groups: dict[Hashable, list[Device]] = {}
    for device in devices:
        if found := key(device):
            groups.setdefault(found, []).append(device)
    return [group for group in groups.values() if len(group) > 1]
