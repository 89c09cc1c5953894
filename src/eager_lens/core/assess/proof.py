"""The checks that are made on every camera after mounting, and how far they are."""

from typing import NamedTuple

from eager_lens.core.job.model import Job


class CheckKind(NamedTuple):
    """One kind of check: its id in the job file, its short name, how it is made, and the value noted with it."""

    id: str
    label: str
    how: str
    value: str


CHECKS: tuple[CheckKind, ...] = (
    CheckKind("picture", "Live picture", "The picture is there, sharp, aimed and the right way up.", "what is seen"),
    CheckKind(
        "clip", "Clip found", "A recorded clip is found by its time, on the recorder's and your own clock.", "the time"
    ),
    CheckKind("motion", "Walk test", "Walk through the view; the motion rule catches it.", "how many of the walks"),
    CheckKind(
        "night",
        "Night picture",
        "After dark, lamps as at night, infrared on: the subject can be told.",
        "what can be told",
    ),
    CheckKind(
        "label",
        "Label",
        "Name, address and MAC address on the device are those of the plan.",
        "the last four digits",
    ),
    CheckKind(
        "stream",
        "Stream",
        "It opens with the device's own password, at the planned codec, resolution and frame rate.",
        "what is sent",
    ),
    CheckKind("clock", "Clock", "Its clock agrees with the recorder's and yours, within 5 s.", "seconds off"),
)


def progress(job: Job) -> tuple[int, int]:
    """Checks passed, of all checks on all cameras."""
    cameras = {camera.id for camera in job.cameras}
    kinds = {check.id for check in CHECKS}
    passed = sum(mark.outcome == "passed" and mark.device in cameras and mark.check in kinds for mark in job.checks)
    return passed, len(cameras) * len(CHECKS)
