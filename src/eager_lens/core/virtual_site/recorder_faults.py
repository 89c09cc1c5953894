"""Faults of a camera's recorder and of remote viewing."""

from __future__ import annotations

from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.model import Recorder
from eager_lens.core.reference.streams import Codec
from eager_lens.core.simulation.clocks import set_clock
from eager_lens.core.simulation.parts import Entry, Unit
from eager_lens.core.simulation.site import Site
from eager_lens.core.virtual_site.fault import Fault
from eager_lens.core.virtual_site.network_faults import recorder_of_unit

BEHIND_S = 37 * 60.0
OVER_SHARE = 1.1
SLOW_UPLOAD_MBPS = 0.2
KEPT_DAYS = 2.0


def _entry(site: Site, unit: Unit) -> tuple[Unit, int, Entry]:
    recorder = recorder_of_unit(site, unit)
    for place in getattr(unit.device, "registered", ()):
        if place.recorder == recorder.id and place.channel in recorder.entries:
            return recorder, place.channel, recorder.entries[place.channel]
    raise RefusedInput("fault", f"{recorder.name} has no entry for {unit.name}")


def _device(recorder: Unit) -> Recorder:
    assert isinstance(recorder.device, Recorder)
    return recorder.device


def _no_channel(site: Site, unit: Unit) -> str:
    recorder, channel, own = _entry(site, unit)
    others = [one for one in recorder.entries.values() if one is not own]
    if not others:
        raise RefusedInput("fault", f"{recorder.name} has no other camera")
    recorder.entries[channel] = Entry(others[0].address, "open", others[0].password, others[0].name)
    for free in range(1, _device(recorder).channels + 1):
        recorder.entries.setdefault(free, Entry(others[0].address, "open", others[0].password, others[0].name))
    return f"{recorder.name} has no channel for {unit.name}: all are taken"


def _old_entry(site: Site, unit: Unit) -> str:
    recorder, channel, own = _entry(site, unit)
    own.address ^= 64
    return f"channel {channel} of {recorder.name} looks for {unit.name} at an old address"


def _other_codec(site: Site, unit: Unit) -> str:
    recorder = recorder_of_unit(site, unit)
    codecs: tuple[Codec, ...] = ("mjpeg", "h265", "h264")
    codec = next((one for one in codecs if one not in _device(recorder).codecs), None)
    if unit.stream is None:
        raise RefusedInput("fault", f"{unit.name} sends no stream")
    if codec is not None:
        unit.stream.codec = codec
        return f"{unit.name} sends {codec}, which {recorder.name} does not take"
    unit.stream.width_px = int(1.2e6 * _device(recorder).largest_megapixels / unit.stream.height_px) + 1
    return f"{unit.name} sends a larger picture than {recorder.name} takes"


def _overload(site: Site, unit: Unit) -> str:
    recorder, channel, _ = _entry(site, unit)
    before = [one.from_unit for number, one in sorted(recorder.entries.items()) if number <= channel]
    streams = [stream for one in before if one in site.units and (stream := site.units[one].stream) is not None]
    total_mbps = sum(stream.rate_mbps for stream in streams)
    if not total_mbps:
        raise RefusedInput("fault", f"{recorder.name} receives nothing")
    times = OVER_SHARE * _device(recorder).incoming_limit_mbps / total_mbps
    for stream in streams:
        stream.rate_mbps, stream.peak_mbps = stream.rate_mbps * times, stream.peak_mbps * times
    return f"the cameras up to channel {channel} of {recorder.name} send {OVER_SHARE:g} times what it takes"


def _recorder_off(site: Site, unit: Unit) -> str:
    recorder = recorder_of_unit(site, unit)
    recorder.feeding.lead_in = False
    site.changed()
    site.settle()
    return f"the mains lead of {recorder.name} is out"


def _recorder_clock(site: Site, unit: Unit) -> str:
    recorder = recorder_of_unit(site, unit)
    recorder.clock.server = 0
    set_clock(site, recorder, -BEHIND_S)
    for one in site.units.values():
        if one.role == "camera" and one.clock.server in {side.address for side in recorder.sides}:
            set_clock(site, one, -BEHIND_S)
    return f"the clock of {recorder.name} is {BEHIND_S / 60:.0f} min behind, and its cameras follow it"


def _events_off(site: Site, unit: Unit) -> str:
    recorder = recorder_of_unit(site, unit)
    recorder.recording.takes_events = False
    return f"{recorder.name} takes no events"


def _schedule_gap(site: Site, unit: Unit) -> str:
    recorder, channel, own = _entry(site, unit)
    own.is_scheduled = False
    return f"the schedule of channel {channel} of {recorder.name} does not record at these hours"


def _drive_failed(site: Site, unit: Unit) -> str:
    recorder = recorder_of_unit(site, unit)
    recorder.recording.drives_work = False
    return f"{recorder.name} has no drive that works"


def _overwritten(site: Site, unit: Unit) -> str:
    recorder = recorder_of_unit(site, unit)
    recorder.recording.keeps_days = KEPT_DAYS
    return f"{recorder.name} keeps {KEPT_DAYS:g} days only"


def _viewed(site: Site) -> None:
    if not any(one.role == "router" for one in site.units.values()):
        raise RefusedInput("fault", "nobody can watch this site from outside: it has no router")


def _no_internet(site: Site, unit: Unit) -> str:
    _viewed(site)
    site.outside.has_internet = False
    return "the site has no internet"


def _no_gateway(site: Site, unit: Unit) -> str:
    _viewed(site)
    recorder = recorder_of_unit(site, unit)
    if not recorder.sides[0].gateway:
        raise RefusedInput("fault", f"{recorder.name} has no gateway by the plan either")
    recorder.sides[0].gateway = 0
    return f"{recorder.name} has no gateway"


def _relay_off(site: Site, unit: Unit) -> str:
    _viewed(site)
    site.outside.relay_on = False
    return "remote access is off at the recorder, or for another code"


def _viewer_password(site: Site, unit: Unit) -> str:
    _viewed(site)
    site.outside.viewer_may = False
    return "the viewer's password is an old one"


def _slow_upload(site: Site, unit: Unit) -> str:
    _viewed(site)
    site.outside.upload_mbps = SLOW_UPLOAD_MBPS
    return f"the line of the site sends {SLOW_UPLOAD_MBPS:g} Mb/s"


RECORDER_FAULTS = (
    Fault("no-channel", "its recorder has no channel for it", _no_channel, on_network=False),
    Fault("old-entry", "its recorder looks for it at an old address", _old_entry),
    Fault("other-codec", "its recorder does not take its stream", _other_codec, on_network=False),
    Fault("overload", "its recorder gets more than it takes", _overload, on_network=False),
    Fault("recorder-off", "its recorder is off", _recorder_off),
    Fault("recorder-clock", "its recorder's clock is 37 minutes behind", _recorder_clock),
    Fault("events-off", "its recorder takes no events", _events_off),
    Fault("schedule-gap", "its schedule does not record", _schedule_gap, on_network=False),
    Fault("drive-failed", "its recorder's drives failed", _drive_failed, on_network=False),
    Fault("overwritten", "its recorder keeps two days only", _overwritten, on_network=False),
    Fault("no-internet", "the site has no internet", _no_internet, on_network=False),
    Fault("no-gateway", "its recorder has no gateway", _no_gateway, on_network=False),
    Fault("relay-off", "remote access is off", _relay_off, on_network=False),
    Fault("viewer-password", "the viewer's password is an old one", _viewer_password, on_network=False),
    Fault("slow-upload", "the line of the site is slow", _slow_upload, on_network=False),
)
