"""What the questions of the fault finder call the parts around a device: the names and addresses of its job."""

from __future__ import annotations

from eager_lens.core.addressing.ipv4 import address_number, address_text
from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.figures.sides import right_target
from eager_lens.core.fault_finder.groups import recorder_of
from eager_lens.core.job.make_profiles import profile_of
from eager_lens.core.job.model import Camera, Device
from eager_lens.core.planning.addressing import free_from_end
from eager_lens.core.units import figure


def names_of(assessment: Assessment, device: Device) -> dict[str, str]:
    """What the questions call the parts around a device; what is not planned is said to be unknown."""
    job, facts = assessment.job, assessment.facts
    links = facts.topology.wiring.links_at.get(device.id, [])
    other, port = links[0].far_end(device.id) if links else ("", 0)
    recorder = recorder_of(job, device)
    names = {
        "device": device.name,
        "address": device.address or "its address (none is planned)",
        "mac": device.mac_address or "the MAC address on its label",
        "switch": facts.name(other) if other else "the switch",
        "port": str(port) if port else "(not noted)",
        "recorder": recorder.name if recorder is not None else "the recorder",
        "recorder_address": recorder.address if recorder is not None and recorder.address else "the recorder",
        "incoming_mbps": f"{figure(recorder.incoming_limit_mbps)} Mb/s" if recorder is not None else "what it takes",
        "channel": "of this device",
        "target": "the recorder's address and port",
        "power_w": "what it takes",
        "rate_mbps": "what is",
        "laptop": _laptop_words(assessment, device),
        "stream": f"{device.name}'s stream",
        "other_port": _other_port(assessment, device, other),
    }
    if isinstance(device, Camera):
        names["power_w"] = f"{figure(device.power_w)} W"
        if device.address:
            profile = profile_of(device.make, job.make_profiles)
            names["stream"] = f"rtsp://{device.address}:{profile.rtsp_port}/{profile.main_stream_path}"
        if device.registered:
            names["channel"] = str(device.registered[0].channel)
        if device.id in facts.camera_figures:
            names["rate_mbps"] = f"{figure(facts.camera_figures[device.id].night_mbps)} Mb/s"
        if recorder is not None and (target := right_target(recorder, device)):
            tcp_port = f", port {recorder.event_tcp_port}" if recorder.event_tcp_port else ""
            names["target"] = f"{target}{tcp_port}"
    return names


def _laptop_words(assessment: Assessment, device: Device) -> str:
    """The address that a laptop beside a device takes: one of its subnet that nobody holds."""
    plan = assessment.facts.subnets.get(device.subnet)
    held = {address_number(one.address) for one in assessment.facts.devices if one.address}
    free = free_from_end(plan, held) if plan is not None else None
    return address_text(free) if free else "an address of the same subnet"


def _other_port(assessment: Assessment, device: Device, host: str) -> str:
    """Another port of what a device hangs on, with whose it is: one that is known to be good while that one comes."""
    facts = assessment.facts
    for link in facts.topology.wiring.links_at.get(host, []):
        far, port = link.far_end(host)[0], link.a_port if link.a == host else link.b_port
        if port and far != device.id and isinstance(facts.by_device_id.get(far), Camera):
            return f"port {port}, of {facts.name(far)}"
    return "one that is known to be good"
