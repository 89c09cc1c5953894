"""Jobs of all sorts: rates measured, entered and estimated, every kind of recording, redundancy, long runs, pools, proof."""

import random

from eager_lens.core.job.model import Link, PowerUnit, Registration, Retention, ScheduleException
from eager_lens.core.job.proof import Check
from eager_lens.core.reference.streams import QUALITIES, stream_assumptions
from tests.support import camera, job_with, lan, recorder, switch, week_of

RECORDERS = ("Alder", "Birch", "Cedar")
SWITCH = "Depot switch"
SUPPLY = "Door supply"
SUBNET = "Camera net"


def jobs(many, seed=14):
    """So many jobs, the same ones for a seed."""
    return [_job(random.Random(f"{seed}:{at}")) for at in range(many)]


def _job(chance):
    recorders = [_recorder(chance, at, name) for at, name in enumerate(RECORDERS[: chance.randint(1, 3)], 1)]
    cameras = [_camera(chance, at, len(recorders)) for at in range(1, chance.randint(3, 12))]
    depot = switch(1, name=SWITCH, ports=24, poe_ports=16, budget_w=chance.choice((60, 120, 250)))
    links = [
        Link(id=f"link-{one.id}", a=one.id, b="net-1", b_port=at, capacity_mbps=chance.choice((None, None, 10)))
        for at, one in enumerate(cameras, 1)
    ]
    links += [
        Link(id=f"link-{one.id}", a="net-1", a_port=16 + at, b=one.id, b_port=1, length_m=12)
        for at, one in enumerate(recorders, 1)
    ]
    fair = ScheduleException(id="ex-1", name="Fair", first="2026-06-01", last="2026-06-20", schedule="week-1")
    checks = tuple(
        Check(
            device=one.id, check="picture", outcome=chance.choice(("passed", "passed", "failed")), by="WA", value="seen"
        )
        for one in cameras
        if chance.random() < 0.3
    )
    supply = PowerUnit(id="unit-1", name=SUPPLY, budget_w=30, length_m=20, feeds=(cameras[0].id,))
    return job_with(
        cameras,
        recorders,
        subnets=(lan(name=SUBNET, leases_in_use=chance.choice((0, 20, 90))),),
        network=(depot,),
        links=tuple(links),
        power_units=(supply,) if chance.random() < 0.5 else (),
        schedules=(
            week_of(),
            week_of("motion", id="week-2", name="On motion"),
            week_of("motion", 7, 19, "week-3", "By day"),
        ),
        checks=checks,
        exceptions=(fair,) if chance.random() < 0.4 else (),
        retention=Retention(least_days=chance.choice((7, 14, 31)), most_days=chance.choice((None, 90))),
        time_zone=chance.choice(("Europe/London", "UTC", "Australia/Hobart")),
    )


def _recorder(chance, number, name):
    drives = chance.randint(2, 6)
    return recorder(
        number,
        name=name,
        drives=drives,
        bays=8,
        drive_tb=chance.choice((4, 8, 12, 18)),
        raid_level=chance.choice(("span", "raid5" if drives > 2 else "mirror")),
        incoming_limit_mbps=chance.choice((80, 160, 256)),
        erase_after_days=chance.choice((None, None, 60)),
    )


def _camera(chance, number, recorders):
    fields = {
        "name": f"View {number:02}",
        "scene": chance.choice(list(stream_assumptions().scenes)),
        "schedule": chance.choice(("week-1", "week-2", "week-3")),
        "events_per_h": chance.choice((0, 2, 6, 30)),
        "fps": chance.choice((6, 12, 25)),
        "quality": chance.choice(QUALITIES),
        "codec": chance.choice(("h264", "h265")),
        "rate_control": chance.choice(("VBR", "VBR", "smart codec")),
        "poe_class": chance.choice((2, 3, 4)),
        "power_w": chance.choice((4, 7, 12)),
        "cable_m": chance.choice((None, 18, 60, 95, 120)),
        "address": f"172.22.40.{chance.choice((39, 39, 110)) + number}",
        "focal_mm": chance.choice((2.8, 6)),
        "sensor_width_mm": 5.4,
        "target_m": chance.choice((8, 30)),
    }
    if chance.random() < 0.85:
        fields["registered"] = (Registration(recorder=f"rec-{chance.randint(1, recorders)}", channel=number),)
    else:
        fields["registered"] = ()
    made = camera(number, **fields)
    if chance.random() < 0.4:
        read = {"measured_mbps": chance.choice((0.8, 2.2, 4.0)), "measured_when": chance.choice(("", "day", "night"))}
        made = made.model_copy(update=read)
    return made
