"""Ways out that change a setting: lens or resolution, codec, transmitter power, which of two addresses."""

from __future__ import annotations

import math
from collections.abc import Iterator

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.figures.devices import misses_purpose, placing_of
from eager_lens.core.assess.finding import Finding
from eager_lens.core.assess.limits import USUAL_EIRP_DBM
from eager_lens.core.assess.rules.addressing import plan_for
from eager_lens.core.job.edits import Edit, set_each, set_fields
from eager_lens.core.job.model import Camera, changed
from eager_lens.core.job.wiring import set_link
from eager_lens.core.optics.lens import LENSES_MM
from eager_lens.core.reference.resolutions import sizes_like
from eager_lens.core.units import count, figure
from eager_lens.core.validation import at_most


def _cameras(finding: Finding, assessment: Assessment) -> list[Camera]:
    found = (assessment.facts.by_device_id.get(subject) for subject in finding.subjects)
    return [device for device in found if isinstance(device, Camera)]


def serve_purpose(finding: Finding, assessment: Assessment) -> Iterator[Edit]:
    """The shortest lens, or the smallest picture, that serves a camera's purpose where it hangs."""
    facts = assessment.facts
    for camera in _cameras(finding, assessment)[:1]:
        longer = (changed(camera, focal_mm=mm) for mm in LENSES_MM if mm > camera.focal_mm)
        lens = next((one for one in longer if not misses_purpose(one)), None)
        seen = None if lens is None else placing_of(lens)
        if lens is not None and seen is not None:
            words = f"{figure(lens.focal_mm)} mm lens for {camera.name}: picture {figure(seen.width_m)} m wide there"
            yield set_fields([camera.id], words, focal_mm=lens.focal_mm)
        takers = [facts.recorders[one.recorder] for one in camera.registered if one.recorder in facts.recorders]
        most = min((recorder.largest_megapixels for recorder in takers), default=math.inf)
        larger = (size for size in sizes_like(camera.width_px, camera.height_px) if size[0] > camera.width_px)
        sizes = sorted(size for size in larger if at_most(size[0] * size[1] / 1e6, most))
        for wide, high in sizes:
            if not misses_purpose(changed(camera, width_px=wide, height_px=high)):
                yield set_fields([camera.id], f"{wide} × {high} px for {camera.name}", width_px=wide, height_px=high)
                break


def smaller_picture(finding: Finding, assessment: Assessment) -> Iterator[Edit]:
    """The largest picture of the same shape that the recorder takes."""
    facts = assessment.facts
    recorder = next((facts.recorders[one] for one in finding.subjects if one in facts.recorders), None)
    if recorder is None:
        return
    values = {}
    for camera in _cameras(finding, assessment):
        like = sizes_like(camera.width_px, camera.height_px)
        sizes = [(wide, high) for wide, high in like if at_most(wide * high / 1e6, recorder.largest_megapixels)]
        if sizes:
            wide, high = max(sizes)
            values[camera.id] = {"width_px": wide, "height_px": high}
    if values:
        yield set_each(f"Highest resolution that {recorder.name} takes, on {count(len(values), 'camera')}", values)


def another_codec(finding: Finding, assessment: Assessment) -> Iterator[Edit]:
    """A codec that every recorder of the cameras takes, the one that stores less first."""
    facts, cameras = assessment.facts, _cameras(finding, assessment)
    held = {place.recorder for camera in cameras for place in camera.registered} & facts.recorders.keys()
    whom = cameras[0].name if len(cameras) == 1 else count(len(cameras), "camera")
    for codec, words in (("h265", "H.265"), ("h264", "H.264")):
        if all(codec in facts.recorders[one].codecs for one in held) and any(one.codec != codec for one in cameras):
            yield set_fields([camera.id for camera in cameras], f"{words} on {whom}", codec=codec)


def usual_power(finding: Finding, assessment: Assessment) -> Iterator[Edit]:
    """The transmitter at the usual limit of its band."""
    for link in assessment.job.links:
        plan = link.radio
        if {link.a, link.b} == set(finding.subjects) and plan is not None:
            usual = [most for low, high, most in USUAL_EIRP_DBM if low <= plan.frequency_ghz <= high]
            if usual:
                dbm = usual[0] - max(plan.tx_gain_dbi, plan.rx_gain_dbi)
                yield set_link([link.id], f"Transmit at {figure(dbm)} dBm", radio=changed(plan, tx_dbm=dbm))


def other_twin(finding: Finding, assessment: Assessment) -> Iterator[Edit]:
    """A new address for each device that shares one; the person decides which is right."""
    for subject in finding.subjects[:4]:
        yield plan_for(frozenset({subject}), f"New address for {assessment.facts.name(subject)}")
