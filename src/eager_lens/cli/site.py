"""`site`: the job's devices as stand-ins, until it is ended."""

from __future__ import annotations

import argparse
import asyncio
import contextlib
import json
import os
import secrets
import signal
import sys
import time
from pathlib import Path
from typing import TYPE_CHECKING, NamedTuple

import platformdirs

from eager_lens.core.errors import RefusedInput
from eager_lens.onsite.here import SiteHere, noted, notes_folder
from eager_lens.onsite.namespaces import NotAllowed, in_user_namespace, leave_for_a_new_network, network_of

if TYPE_CHECKING:
    from eager_lens.core.job.model import Job
    from eager_lens.core.simulation.site import Site
    from eager_lens.onsite.stand_ins.running import RunningSite

# What loads numpy starts threads, and a network of one's own is to be had before that only: the rest is imported later.


class Folders(NamedTuple):
    """Where notes of running sites are left, and where encoded streams are kept."""

    notes: Path
    loops: Path


def run_site(arguments: argparse.Namespace) -> int:
    """Run the site of a job; returns the exit status."""
    if arguments.list_faults:
        from eager_lens.core.virtual_site.faults import NETWORK_SHOWS

        for fault in NETWORK_SHOWS.values():
            print(f"{fault.name:18} {fault.words}")
        return 0
    folders = Folders(notes_folder(), Path(platformdirs.user_cache_dir("eager-lens")) / "loops")
    in_namespaces, why_not = False, "asked for"
    if not arguments.loopback:
        try:
            leave_for_a_new_network()
            in_namespaces = True
        except NotAllowed as error:
            why_not = f"this account cannot create a network namespace: {error.strerror}"
    return _run(arguments, folders, in_namespaces, why_not)


def _run(arguments: argparse.Namespace, folders: Folders, in_namespaces: bool, why_not: str) -> int:
    from eager_lens.core.assess.assessment import assess
    from eager_lens.core.virtual_site.as_set import out_of_the_box
    from eager_lens.core.virtual_site.commissioned import commissioned
    from eager_lens.core.virtual_site.faults import inject_by_name, named_device
    from eager_lens.core.virtual_site.stand_in import described, stand_in_password

    passwords = _passwords() if arguments.passwords else {}
    if arguments.practice:
        job, site = _practice(arguments.practice)
        faults: tuple[str, ...] = ()
    else:
        job = _job(arguments.job)
        site = (out_of_the_box if arguments.out_of_box else commissioned)(assess(job))
        faults = inject_by_name(site, arguments.fault)
    site_password = f"Rehearse-{secrets.token_hex(3)}"
    whole = described(site, stand_in_password(site_password, passwords))
    if arguments.only:
        kept = {named_device(site, text).id for text in arguments.only}
        whole = whole._replace(
            stand_ins=tuple(one for one in whole.stand_ins if one.id in kept),
            dark={one: why for one, why in whole.dark.items() if one in kept},
        )
    if arguments.start is not None:
        whole = whole._replace(stand_ins=tuple(one._replace(restart_s=arguments.start) for one in whole.stand_ins))
    if not whole.stand_ins:
        raise RefusedInput("job", "none of its devices would run: add devices, addresses and power first")
    from eager_lens.onsite.stand_ins.running import RunningSite

    begun_s = time.time()
    running = RunningSite(whole, in_namespaces, folders.loops)
    names = {device.id: device.name for device in job.devices()}
    job_path = str(arguments.job.resolve()) if arguments.job and str(arguments.job) != "-" else ""
    note = SiteHere(
        os.getpid(), "namespaces" if in_namespaces else "loopback", job_path, site_password, {}, faults, begun_s, 0
    )
    try:
        return asyncio.run(_until_ended(arguments, running, note, folders.notes, names, why_not))
    finally:
        running.close()


def _practice(code: str) -> tuple[Job, Site]:
    """The job and the site of a practice; its fault stays hidden, the complaint is said."""
    from eager_lens.core.assess.assessment import assess
    from eager_lens.core.practice.drill import drill_of, site_of_practice

    drill = drill_of(code)
    if not drill.shows_on_network:
        raise RefusedInput(
            "practice", f"{drill.code} shows only in the rehearsal, not on a network; use another number or topic"
        )
    print(f"{drill.lesson.title}. {drill.lesson.before}\nThe customer: {drill.complaint}", file=sys.stderr)
    return drill.job, site_of_practice(assess(drill.job), code)


def _job(path: Path | None) -> Job:
    from eager_lens.assets import asset
    from eager_lens.core.job.file import job_from_text, read_job

    if path is not None and str(path) == "-":
        return job_from_text(sys.stdin.readline())
    return read_job(path or asset("demo", "brindlemoor.lens.json")).job


def _passwords() -> dict[str, str]:
    try:
        given = json.loads(sys.stdin.readline())
    except ValueError:
        given = None
    if not isinstance(given, dict) or not all(isinstance(one, str) for one in given.values()):
        raise RefusedInput("passwords", "standard input must be one line of JSON: device ids with their passwords")
    return given


async def _until_ended(
    arguments: argparse.Namespace,
    running: RunningSite,
    note: SiteHere,
    notes: Path,
    names: dict[str, str],
    why_not: str,
) -> int:
    ended = asyncio.Event()
    loop = asyncio.get_running_loop()
    for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
        loop.add_signal_handler(number, ended.set)
    if arguments.until_closed:
        # Whoever started this holds the other end: it closes however that one ends.
        loop.add_reader(sys.stdin, lambda: None if os.read(sys.stdin.fileno(), 4096) else ended.set())
    try:
        await running.start()
        note = note._replace(left_out=running.left_out, network=network_of("self"))
        with noted(note, notes):
            if arguments.json:
                print(note.as_json(), flush=True)
            else:
                _say(note, len(running.devices), names, why_not)
            with contextlib.suppress(TimeoutError):
                await asyncio.wait_for(ended.wait(), arguments.seconds)
    finally:
        await running.stop()
    return 0


def _say(site: SiteHere, many: int, names: dict[str, str], why_not: str) -> None:
    print(
        f"{many} stand-ins ready after {time.time() - site.begun_s:.1f} s. Ctrl+C stops them and leaves nothing behind."
    )
    if site.mode == "namespaces":
        own = " --user --preserve-credentials" if in_user_namespace() else ""
        print(
            f"To be the laptop on this network, run in another terminal:  nsenter --target {site.pid}{own} --net bash"
        )
    else:
        print(
            f"On loopback addresses ({why_not}): 172.22.40.55 is 127.22.40.55. MAC addresses (ARP), two devices on one address "
            "and other subnets cannot be simulated this way."
        )
        from eager_lens.onsite.loopback import as_open_port

        if as_open_port(80) != 80:
            print(f"Ports below 1024 are moved up by 20000: HTTP at {as_open_port(80)}, RTSP at {as_open_port(554)}.")
    print(f"User “installer”, password “{site.password}”, unless another was given for the device.")
    for words in site.faults:
        print(f"Fault: {words}.")
    for device_id, why in site.left_out.items():
        print(f"Not running: {names.get(device_id, device_id)}: {why}.")
    sys.stdout.flush()
