"""The steps of a recorder besides its first set-up: firmware, drives, schedules, users; and at the end its backup."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

from eager_lens.core.job.model import NetworkDevice, Recorder
from eager_lens.core.runbook import checks
from eager_lens.core.runbook.ground import Ground
from eager_lens.core.runbook.step_list import (
    BACKUP_S,
    LEAD_S,
    SCHEDULE_S,
    SCHEDULES_S,
    STORAGE_S,
    UPDATE_S,
    USERS_S,
)
from eager_lens.core.runbook.steps import Step, place_of
from eager_lens.core.simulation.parts import Unit
from eager_lens.core.units import count, figure


def recorder_steps(ground: Ground, recorder: Recorder) -> Iterator[Step]:
    """What a recorder is set to at its own monitor, before any camera is registered."""
    unit = ground.units[recorder.id]
    base = Step(
        key="",
        phase="recorder",
        device_id=recorder.id,
        title="",
        see="",
        hands_s=0,
        wait_s=0,
        actions=(),
        check=partial(checks.is_there, recorder.id),
        after=(f"{recorder.id}/set-up",),
        tools=(f"{recorder.id} monitor",),
        place=recorder.place,
    )
    if unit.firmware != unit.profile.firmware_now:
        yield base._replace(
            key=f"{recorder.id}/update",
            title=f"Update {recorder.name} to firmware {unit.profile.firmware_now}",
            see="It restarts by itself, and shows the new firmware",
            hands_s=UPDATE_S,
            wait_s=unit.profile.update_s,
            caution="Keep its power on until the update has finished",
        )
    erase = (
        f"; erase after {figure(recorder.erase_after_days)} days"
        if recorder.erase_after_days is not None
        else "; erase nothing by age"
    )
    spares = f" and {count(recorder.hot_spares, 'hot spare')}" if recorder.hot_spares else ""
    yield base._replace(
        key=f"{recorder.id}/storage",
        title=f"Put the drives of {recorder.name} together",
        see="All drives healthy; the usable space is as planned",
        hands_s=STORAGE_S,
        type_in=f"{count(recorder.drives, 'drive')} of {figure(recorder.drive_tb)} TB as {recorder.raid_level}{spares}{erase}",
        caution="Making an array erases the drives",
    )
    weeks = {schedule.id: schedule.name for schedule in ground.job.schedules}
    own = [camera for camera in ground.job.cameras if any(place.recorder == recorder.id for place in camera.registered)]
    names = dict.fromkeys(weeks[camera.schedule] for camera in own if camera.schedule in weeks)
    if names:
        yield base._replace(
            key=f"{recorder.id}/schedules",
            title=f"Enter the recording schedules on {recorder.name}",
            see="Each channel shows its week",
            hands_s=SCHEDULES_S + SCHEDULE_S * len(own),
            type_in="; ".join(list(names)[:4]) + (f" and {len(names) - 4} more" if len(names) > 4 else ""),
        )
    yield base._replace(
        key=f"{recorder.id}/users",
        title=f"Give the customer a user of their own on {recorder.name}",
        see="It may look and play back, and change nothing",
        hands_s=USERS_S,
        type_in="a name and a password that the customer chooses; rights to look and to play back only",
    )


def end_steps(ground: Ground, before: tuple[str, ...]) -> Iterator[Step]:
    """What comes when all else is done: settings saved to files, and only then the way to the internet."""
    recorders = [ground.units[recorder.id] for recorder in ground.job.recorders]
    routers = [one for one in ground.units.values() if one.role == "router"]
    for unit in (*recorders, *routers):
        is_recorder = unit.role == "recorder"
        base = _at_end(unit, before)
        yield base._replace(
            key=f"{unit.id}/backup",
            title=f"Save the settings of {unit.name} to a file",
            see="The file, with the handover papers",
            caution="It holds passwords: keep it where they are kept" if is_recorder else "",
            tools=(f"{unit.id} monitor",) if is_recorder else ("laptop",),
        )
        if isinstance(unit.device, NetworkDevice) and unit.device.wan_port:
            yield base._replace(
                key=f"{unit.id}/wan",
                title=f"Connect the WAN lead of {unit.name}",
                see="Its page shows that it is connected; nothing is forwarded from outside",
                hands_s=LEAD_S,
                caution="Only when no device has its default password any more, and no port is forwarded to one",
            )


def _at_end(unit: Unit, before: tuple[str, ...]) -> Step:
    return Step(
        key="",
        phase="end",
        device_id=unit.id,
        title="",
        see="",
        hands_s=BACKUP_S,
        wait_s=0,
        actions=(),
        check=partial(checks.is_there, unit.id),
        after=before,
        place=place_of(unit),
    )
