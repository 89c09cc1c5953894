"""The two sides of a recorder: toward everything else, and toward cameras on a network of their own."""

from __future__ import annotations

from eager_lens.core.job.model import Camera, Recorder

TWO_SIDED = ("recorder PoE ports", "camera interface")
"""How cameras are attached where a recorder has a side of its own for them."""


def right_target(recorder: Recorder, camera: Camera) -> str:
    """Where a camera's events have to go: the recorder's address on the camera's side; empty while it has none."""
    if recorder.attachment in TWO_SIDED and recorder.camera_interface_address and camera.subnet != recorder.subnet:
        return recorder.camera_interface_address
    return recorder.address
