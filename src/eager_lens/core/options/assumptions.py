"""Everything that is assumed, in one list: value, default, range, why, and its share in the spread of days kept."""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import NamedTuple

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.figures.power import DRIVE_W, FEEDING_SHARE
from eager_lens.core.assess.figures.rates import MEASURED_SPREAD
from eager_lens.core.assess.figures.whole_job import tightest_recorder
from eager_lens.core.job.model import Activity, Assumptions, Recorder, SubnetPlan
from eager_lens.core.job.place import latitude_of
from eager_lens.core.options.promise import Source, shares_by_source
from eager_lens.core.power.ups import PEUKERT, RATED_H
from eager_lens.core.reference.caps import caps_source
from eager_lens.core.reference.false_alarms import false_alarms_source
from eager_lens.core.reference.stream_fit import stream_fit
from eager_lens.core.reference.streams import stream_assumptions
from eager_lens.core.sizing.drive_life import UNREADABLE_PER_BIT
from eager_lens.core.units import figure


class Assumption(NamedTuple):
    """One assumption.

    Attributes:
        topic: what it is about. words: what is assumed.
        value, usual: as text with the unit, as the job has it and as the program has it unless somebody says otherwise.
        span: between what it lies in 8 of 10 cases, or may lie; empty where nothing is known.
        why: where it comes from.
        share: its part (0 to 1) in the variance of days kept at the recorder; None where it does not count there.
    """

    id: str
    topic: str
    words: str
    value: str
    usual: str
    span: str
    why: str
    share: float | None = None


def decisive(assessment: Assessment) -> tuple[Assumption, ...]:
    """All assumptions, with shares at the recorder that can promise fewest days."""
    tightest = tightest_recorder(assessment.facts)
    return assumptions(assessment, None if tightest is None else tightest.id)


def assumptions(assessment: Assessment, recorder_id: str | None) -> tuple[Assumption, ...]:
    """All assumptions of a job, with shares in the spread of one recorder's days; those with the largest share come first, the
    others follow by topic."""
    job = assessment.job
    shares = shares_by_source(assessment, recorder_id) if recorder_id is not None else {}
    recorder = assessment.facts.recorders.get(recorder_id or "")
    found = [
        *_of_rates(job.assumed, shares),
        _of_caps(),
        *_of_days(job.activity, job.assumed, latitude_of(job), shares),
        *(() if recorder is None else _of_drives(recorder)),
        *_of_power(),
        *(one for subnet in job.subnets if subnet.pool_first for one in _of_leases(subnet)),
    ]
    return tuple(sorted(found, key=lambda one: -(one.share or 0.0)))


def _percent(share: float) -> str:
    return f"{figure(100 * share)} %"


def _of_rates(own: Assumptions, shares: dict[Source, float]) -> Iterator[Assumption]:
    table, usual, topic = stream_assumptions(), Assumptions(), "Bit rates"
    fits = stream_fit().codecs
    yield Assumption(
        *("quality", topic, "Quality scale: quantiser at medium"),
        *(figure(table.crf["medium"]), figure(table.crf["medium"]), f"± {figure(table.quality_step)}"),
        "every maker has its own scale; the middle is chosen so that rates match usual planning",
        shares.get("quality"),
    )
    low, _, high = table.noise_kept
    yield Assumption(
        *("noise", topic, "Noise that a camera does not filter"),
        *(_percent(own.noise_kept_share), _percent(usual.noise_kept_share), f"{figure(100 * low)} to {_percent(high)}"),
        "cameras filter noise differently; matters most at night",
        shares.get("noise"),
    )
    low, _, high = table.encoder_factor
    yield Assumption(
        *("encoder", topic, "Camera encoders, compared with those measured"),
        *(f"{figure(own.encoder_factor)} ×", f"{figure(usual.encoder_factor)} ×", f"{figure(low)} to {figure(high)} ×"),
        "hardware encoders are simpler than those measured; set to match usual planning",
        shares.get("encoder"),
    )
    yield Assumption(
        *("h265", topic, "Saving of H.265 over H.264 at equal quality"),
        *(_percent(own.h265_saved_share), _percent(usual.h265_saved_share)),
        f"{figure(100 * own.h265_saved_least_share)} to {_percent(own.h265_saved_most_share)}",
        table.codecs["h265"].why,
        shares.get("h265"),
    )
    span = f"{figure(table.low)} to {figure(table.high)} ×"
    yield Assumption(
        *("kind of view", topic, "Views of one kind, compared with the drawn scene", "1 ×", "1 ×", span),
        f"kinds are drawn scenes; a still of the real view leaves {_percent(table.still_leaves)} of this spread, a clip none",
        shares.get("kind of view"),
    )
    yield Assumption(
        *("model", topic, "The bit-rate model itself", "1 ×", "1 ×"),
        f"{figure(fits['h264'].low)} to {figure(fits['h264'].high)} ×",
        "error on scenes that were not used for the fit, H.264",
        shares.get("model"),
    )
    yield Assumption(
        *("read", topic, "Rates measured, entered or set", "1 ×", "1 ×"),
        f"{figure(MEASURED_SPREAD[0])} to {figure(MEASURED_SPREAD[1])} ×",
        f"a reading is one moment; entered rates count {figure(table.low)} to {figure(table.high)} ×, CBR is exact",
        shares.get("read"),
    )
    yield Assumption(
        *("shared", topic, "Error common to all estimates of a codec", _percent(table.shared_share)),
        *(_percent(table.shared_share), "", "of their variance, because all use the same encoder and filter"),
    )


def _of_caps() -> Assumption:
    usual = "by picture and view"
    return Assumption(
        *("caps", "Bit rates", "Maximum bit rate of a new camera", usual, usual, "1 to 2 Mb/s at 1080p"), caps_source()
    )


def _of_days(
    own: Activity, rates: Assumptions, latitude: float | None, shares: dict[Source, float]
) -> Iterator[Assumption]:
    usual, topic = Activity(), "Days"
    yield Assumption(
        *("days", topic, "Events, from day to day"),
        *(_percent(own.day_spread), _percent(usual.day_spread), "10 to 60 %"),
        "counts of people and vehicles; count events for some days to be sure",
        shares.get("days"),
    )
    yield Assumption(
        *("motion", topic, "Motion triggers: events and false alarms", "1 ×", "1 ×", "1/3 to 3 ×"),
        false_alarms_source(),
        shares.get("motion"),
    )
    yield Assumption(
        *("memory", topic, "Events: correlation of a day with the next"),
        *(_percent(own.day_memory), _percent(usual.day_memory), "20 to 70 %"),
        "counts of people and vehicles, days of the week taken out",
    )
    yield Assumption(
        *("dark", topic, "Share of the day that is dark, over the year"),
        *(_percent(rates.dark_share), _percent(Assumptions().dark_share), "41 to 50 %"),
        "to the end of civil twilight, for latitudes up to 60°; indoors, while the lamps are off",
    )
    where = "unknown: all nights equally long" if latitude is None else f"{figure(latitude)}°"
    yield Assumption(
        *("latitude", topic, "Latitude, for longer nights in winter", where, "the time zone's town", ""),
        "from the table of time zones, unless entered",
    )


def _of_drives(recorder: Recorder) -> Iterator[Assumption]:
    usual, topic = Recorder(id="usual", name="usual"), f"Drives of {recorder.name}"
    bits = f"10^{round(-math.log10(UNREADABLE_PER_BIT))}"
    yield Assumption(
        *("failures", topic, "Drives that fail in a year", _percent(recorder.drive_failures_per_year)),
        *(_percent(usual.drive_failures_per_year), "1 to 5 %"),
        "published counts of large numbers of drives; more when hot or old",
    )
    yield Assumption(
        *("unreadable", topic, "Bits read per unreadable bit", bits),
        *(bits, "10^14 to 10^16", "the least that makers guarantee; see the data sheet"),
    )
    yield Assumption(
        *("rebuild", topic, "Rebuild speed while recording", f"{figure(recorder.rebuild_mb_per_s)} MB/s"),
        *(
            f"{figure(usual.rebuild_mb_per_s)} MB/s",
            "30 to 200 MB/s",
            "half or less of the drive's speed; ask the maker",
        ),
    )
    yield Assumption(
        *("rated", topic, "Drive workload rating a year", f"{figure(recorder.drive_rated_tb_per_year)} TB"),
        *(f"{figure(usual.drive_rated_tb_per_year)} TB", "55 to 550 TB", "the drive's data sheet"),
    )
    yield Assumption(
        *("reserve", topic, "Space that the recorder uses itself", _percent(recorder.reserve_share)),
        *(_percent(usual.reserve_share), "2 to 10 %", "system, index, file system; the recorder shows the rest"),
    )


def _of_power() -> Iterator[Assumption]:
    share, watts, topic = _percent(FEEDING_SHARE), f"{figure(DRIVE_W)} W", "Power"
    yield Assumption(
        *("feeding", topic, "Efficiency of PoE supplies", share, share, "80 to 95 %"),
        "power supplies at part load; the switch's data sheet",
    )
    yield Assumption(
        *("drive-power", topic, "Power draw of a drive", watts, watts, "5 to 9 W"),
        "3.5 inch drives while they write; the data sheet",
    )
    yield Assumption(
        *("peukert", topic, "Rate effect of a lead-acid battery", f"{PEUKERT:g}", f"{PEUKERT:g}", "1.1 to 1.25"),
        f"Peukert's law from the {figure(RATED_H)} h rate; the UPS maker's table of minutes comes first",
    )


def _of_leases(subnet: SubnetPlan) -> Iterator[Assumption]:
    usual, topic = SubnetPlan(id="usual", name="usual", cidr="172.22.40.0/24"), f"DHCP pool of {subnet.name}"
    yield Assumption(
        *(f"in-use-{subnet.id}", topic, "Leases in use", figure(subnet.leases_in_use), figure(usual.leases_in_use), ""),
        "the router's list shows it",
    )
    yield Assumption(
        *(f"new-{subnet.id}", topic, "New devices a month"),
        *(figure(subnet.new_leases_per_month), figure(usual.new_leases_per_month), "0 to 50"),
        "visitors' phones; every free address is equally likely. A server that checks first leases no address that answers",
    )
