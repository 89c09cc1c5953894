"""The steps of a camera: plugged in, set up with its address, updated, its settings made, registered on its recorders."""

from __future__ import annotations

from functools import partial

from eager_lens.core.addressing.ipv4 import address_text, subnet_of
from eager_lens.core.assess.figures.stream_words import cap_words_of, stream_words
from eager_lens.core.job.model import Camera
from eager_lens.core.runbook import checks
from eager_lens.core.runbook.ground import Ground, typed
from eager_lens.core.runbook.step_list import (
    PLUG_S,
    PROGRAM_REGISTER_S,
    PROGRAM_RULE_S,
    PROGRAM_SET_UP_S,
    PROGRAM_SETTINGS_S,
    REGISTER_S,
    RULE_S,
    SET_UP_S,
    SETTINGS_S,
    SETTLES_S,
    UPDATE_S,
    StepList,
)
from eager_lens.core.runbook.steps import Blocked, Step, StepAction, place_of
from eager_lens.core.simulation.channels import not_taken, same_maker
from eager_lens.core.simulation.parts import Unit
from eager_lens.core.units import count
from eager_lens.core.values.motion_rule import MotionRule


def taken_by_its_port(unit: Unit, recorder: Unit) -> Step:
    """A camera on one of the recorder's own ports, which the recorder takes by itself."""
    return Step(
        key=f"{unit.id}/plug",
        phase="camera",
        device_id=unit.id,
        title=f"Connect {unit.name} to {recorder.name}, and let the recorder add it",
        see=f"Its picture appears on a channel of {recorder.name} by itself",
        hands_s=PLUG_S,
        wait_s=unit.profile.start_s + 2 * SETTLES_S,
        after=(f"{recorder.id}/set-up",),
        actions=(StepAction("plug", unit.id),),
        check=partial(checks.receives, recorder.id, unit.id),
        under_way=partial(checks.starts_for, unit.id),
        place=place_of(unit),
    )


def camera_steps(ground: Ground, found: StepList, unit: Unit, after: tuple[str, ...]) -> list[str]:
    """Put the steps of a camera that is set up by hand into the list; their keys."""
    camera = unit.device
    assert isinstance(camera, Camera)
    plugged = found.add(_plug(ground, unit, after))
    set_up = found.add(_set_up(ground, unit, camera, plugged))
    used = [plugged, set_up]
    ready = set_up
    if unit.firmware != unit.profile.firmware_now:
        ready = found.add(_update(unit, camera, set_up))
        used.append(ready)
    hearing = _hearing(ground, found, unit, camera)
    settings = found.add(_settings(ground, unit, camera, [recorder for _, recorder in hearing], ready))
    used.append(settings)
    if camera.motion_rule is not None and camera.motion_rule_on:
        used.append(found.add(_rule(unit, camera, settings)))
    for channel, recorder in hearing:
        if refusal := not_taken(recorder, unit, 0.0):
            found.blocked.append(Blocked(unit.id, refusal, "bench"))
        else:
            wait_for = (settings, f"{recorder.id}/set-up", *found.bridge_keys)
            used.append(found.add(_register(unit, camera, recorder, channel, wait_for)))
    return used


def _plug(ground: Ground, unit: Unit, after: tuple[str, ...]) -> Step:
    cables = [cable for cable in ground.site.cables_of(unit) if cable.medium != "radio"]
    ends = " and ".join(ground.units[cable.far_end(unit.id)[0]].name for cable in cables)
    by_lead = unit.feeding.lead != "cable"
    actions = [StepAction("plug", unit.id)] if cables else []
    if unit.feeding.lead == "unit":
        actions.append(StepAction("power on", unit.feeding.unit_id))
    if by_lead:
        actions.append(StepAction("power on", unit.id))
    shared = ground.shared_address(unit)
    own = address_text(unit.sides[0].address)
    return Step(
        key=f"{unit.id}/plug",
        phase="camera",
        device_id=unit.id,
        title=f"Connect {unit.name}" + (f" into {ends}" if ends else "") + (" and give it power" if by_lead else ""),
        see=f"Its lights; in the search list as …{unit.last_four} after about {unit.profile.start_s:.0f} s",
        hands_s=PLUG_S,
        wait_s=unit.profile.start_s,
        after=(*after, *ground.powered_after(unit)),
        actions=tuple(actions),
        check=partial(checks.runs, unit.id),
        under_way=partial(checks.starts_for, unit.id),
        caution=f"No other device with the default address {own} may have power now" if shared else "",
        takes=shared,
        place=place_of(unit),
    )


def _set_up(ground: Ground, unit: Unit, camera: Camera, plugged: str) -> Step:
    plan, zone = ground.subnets[camera.subnet], ground.job.time_zone
    address = {"address": f"{camera.address}/{subnet_of(plan.cidr).prefix}", "gateway": plan.gateway}
    to_type, after = typed(camera.address, plan), [plugged]
    router = next((one for one in ground.reserving() if ground.is_reserved_by(camera, one)), None)
    if router is not None:
        address, to_type = {"way": "lease"}, f"set it to DHCP; the router assigns {camera.address}"
        after.append(f"{router.id}/reserve")
    return Step(
        key=f"{unit.id}/set-up",
        phase="camera",
        device_id=unit.id,
        title=f"Set {camera.name} up and give it {camera.address}",
        see=f"A search shows …{unit.last_four} at {camera.address}; write the address on its label",
        hands_s=SET_UP_S,
        wait_s=5,
        after=tuple(after),
        actions=(
            StepAction("set up", unit.id, {"new": "own", "zone": zone}),
            StepAction("address", unit.id, {**address, "password": "own"}),
        ),
        check=partial(checks.has_address, unit.id, camera.address),
        under_way=partial(checks.asks_lease_for, unit.id),
        type_in=f"find …{unit.last_four}; new password; zone {zone}; {to_type}",
        caution="Never keep the default password",
        tools=("laptop",),
        frees=ground.shared_address(unit),
        program_s=PROGRAM_SET_UP_S + unit.profile.start_s if takes_program(unit) else 0.0,
    )


def takes_program(unit: Unit) -> bool:
    """Whether the program can set a device over the network as it comes out of its box."""
    return unit.profile.open_protocol_on


def _rule(unit: Unit, camera: Camera, after: str) -> Step:
    rule = camera.motion_rule or MotionRule()
    zones = count(len(rule.zones), "zone") if rule.zones else "everywhere"
    line = ", a line to cross" if rule.line is not None else ""
    return Step(
        key=f"{unit.id}/rule",
        phase="camera",
        device_id=unit.id,
        title=f"Set the motion rule of {camera.name}, and its privacy masks",
        see="It tells motion when somebody walks by, and not when leaves move",
        hands_s=RULE_S,
        wait_s=0,
        after=(after,),
        actions=(),
        check=partial(checks.is_there, unit.id),
        type_in=f"sensitivity {rule.sensitivity:g} of 100, {zones}{line}, smallest {rule.smallest_m:g} m; masks over "
        "what nobody may record, such as a neighbour's window",
        tools=("laptop",),
        program_s=PROGRAM_RULE_S if takes_program(unit) else 0.0,
    )


def _update(unit: Unit, camera: Camera, set_up: str) -> Step:
    return Step(
        key=f"{unit.id}/update",
        phase="camera",
        device_id=unit.id,
        title=f"Update {camera.name} to firmware {unit.profile.firmware_now}",
        see="It restarts by itself; a search shows the new firmware",
        hands_s=UPDATE_S,
        wait_s=unit.profile.update_s + unit.profile.start_s,
        after=(set_up,),
        actions=(StepAction("update", unit.id, {"password": "own"}),),
        check=partial(checks.is_updated, unit.id),
        under_way=partial(checks.starts_for, unit.id),
        caution="Keep its power on until the update has finished",
        tools=("laptop",),
    )


def _hearing(ground: Ground, found: StepList, unit: Unit, camera: Camera) -> list[tuple[int, Unit]]:
    """The recorders that hear a camera, each with the channel that it takes there; what hears nothing is noted."""
    placed = [
        (place.channel, ground.units[place.recorder]) for place in camera.registered if place.recorder in ground.units
    ]
    if not placed:
        why = "no recorder is planned for it, so nothing records it"
        found.blocked.append(Blocked(unit.id, why, "bench"))
    hearing = [one for one in placed if ground.is_heard(unit, one[1])]
    for _, recorder in (one for one in placed if one not in hearing):
        found.blocked.append(Blocked(unit.id, f"no link joins its network with that of {recorder.name}", "wiring"))
    return hearing


def _settings(ground: Ground, unit: Unit, camera: Camera, hearing: list[Unit], after: str) -> Step:
    zone = ground.job.time_zone
    by_own_protocol = bool(hearing) and all(same_maker(one, unit) for one in hearing)
    server = ground.recorder_address(hearing[0], unit) if hearing else ""
    actions = [StepAction("time", unit.id, {"server": server, "zone": zone, "password": "own"})]
    if not by_own_protocol:
        actions.append(StepAction("open protocol", unit.id, {"new": "own", "password": "own"}))
    if camera.event_target:
        actions.append(StepAction("target", unit.id, {"address": camera.event_target, "password": "own"}))
    return Step(
        key=f"{unit.id}/settings",
        phase="camera",
        device_id=unit.id,
        title=f"On the page of {camera.name}: stream and time server"
        + ("" if by_own_protocol else ", open protocol on, with its own user"),
        see="Its clock agrees with the recorder's; its bit rate is below the maximum"
        if cap_words_of(camera)
        else "Its clock agrees with the recorder's",
        hands_s=SETTINGS_S,
        wait_s=15,
        after=(after,),
        actions=tuple(actions),
        check=partial(checks.settings_made, unit.id, server, not by_own_protocol),
        under_way=partial(checks.asks_time_for, unit.id),
        type_in=f"main stream {stream_words(camera)}; time server {server or 'from the laptop, once'}, zone {zone}"
        + ("" if by_own_protocol else "; a user and a password for the open protocol"),
        tools=("laptop",),
        program_s=PROGRAM_SETTINGS_S if takes_program(unit) else 0.0,
    )


def _register(unit: Unit, camera: Camera, recorder: Unit, channel: int, after: tuple[str, ...]) -> Step:
    own = same_maker(recorder, unit)
    values = {
        "address": camera.address,
        "channel": str(channel),
        "protocol": "own" if own else "open",
        "password": "own",
        "name": camera.name,
        "camera": unit.id,
    }
    protocol = "the maker's own protocol" if own else "the open protocol, its own user"
    return Step(
        key=f"{unit.id}/{recorder.id}",
        phase="camera",
        device_id=unit.id,
        title=f"Add {camera.name} on channel {channel} of {recorder.name}",
        see=f"After a refresh, channel {channel} receives",
        hands_s=REGISTER_S,
        wait_s=SETTLES_S,
        after=after,
        actions=(StepAction("add", recorder.id, values),),
        check=partial(checks.receives, recorder.id, unit.id),
        under_way=partial(checks.looks_for, recorder.id, camera.address),
        type_in=f"{camera.address}, {protocol}, name “{camera.name}”",
        tools=(f"{recorder.id} monitor",),
        place=place_of(recorder),
        program_s=PROGRAM_REGISTER_S if takes_program(unit) and takes_program(recorder) else 0.0,
    )
