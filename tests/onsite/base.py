"""A small site for tests on sockets: cameras that are quick to encode, on one switch with a router and a recorder."""

import asyncio
import json
import os
import shutil
import subprocess
import sys
import tempfile
import time
import unittest
from pathlib import Path

from eager_lens.core.job.file import job_text
from eager_lens.core.job.model import Link, NetworkDevice
from tests.support import camera, job_with, lan, recorder

ROOT = Path(__file__).resolve().parents[2]
QUIET_S = 1.5
SMALL = {
    "codec": "h264",
    "width_px": 320,
    "height_px": 176,
    "fps": 10,
    "key_frame_s": 1,
    "measured_mbps": 0.4,
    "substream_mbps": 0.1,
    "make": "Quillmark B4",
}


def small_job(many=4, per_camera=(), **fields):
    """A job that is right: router, recorder, a PoE switch, and so many cameras, each fed by its port."""
    more = list(per_camera) + [{}] * many
    cameras = [
        camera(at + 1, serial=f"QU-{at + 1}", mac_address=f"02:5b:1e:00:01:{at + 1:02x}", **{**SMALL, **more[at]})
        for at in range(many)
    ]
    network = (
        NetworkDevice(
            id="net-1",
            name="Router",
            role="router",
            subnet="lan-1",
            address="172.22.40.1",
            mac_address="02:5b:1e:00:00:01",
            ports=4,
            poe_ports=0,
        ),
        NetworkDevice(
            id="net-2",
            name="Switch",
            subnet="lan-1",
            address_assignment="unmanaged",
            ports=48,
            poe_ports=44,
            budget_w=2000,
        ),
    )
    links = [
        Link(id="link-r", a="net-1", a_port=1, b="net-2", b_port=47),
        Link(id="link-n", a="rec-1", a_port=1, b="net-2", b_port=48),
    ]
    links += [Link(id=f"link-{at}", a=one.id, b="net-2", b_port=at) for at, one in enumerate(cameras, 1)]
    base = {
        "cameras": cameras,
        "recorders": (recorder(event_tcp_port=7500, mac_address="02:5b:1e:00:00:10", channels=64),),
        "network": network,
        "links": tuple(links),
        "subnets": (lan(leases_in_use=0, new_leases_per_month=0),),
    }
    return job_with(**{**base, **fields})


def environment(folder):
    """What a command of the program is started with: its own runtime folder and cache."""
    runtime = Path(folder) / "run"
    runtime.mkdir(mode=0o700, exist_ok=True)
    return {
        **os.environ,
        "PYTHONPATH": str(ROOT / "src"),
        "XDG_RUNTIME_DIR": str(runtime),
        "XDG_CACHE_HOME": str(Path(folder) / "cache"),
    }


def wait_encoded(folder, seconds=120):
    """Wait until the streams of a site that was started with ``environment(folder)`` are encoded: none came for a while."""
    loops = Path(folder) / "cache" / "eager-lens" / "loops"
    begun, seen, since = time.monotonic(), -1, time.monotonic()
    while time.monotonic() - begun < seconds:
        many = len(list(loops.glob("*.loop")))
        if many != seen:
            seen, since = many, time.monotonic()
        elif many and time.monotonic() - since > QUIET_S:
            return
        time.sleep(0.1)


class SiteProcess:
    """``eager-lens site`` at work, until ``stop``. ``note`` is what it said when it was ready."""

    def __init__(self, job, folder, *words):
        self.folder = Path(folder)
        self.path = self.folder / "job.lens.json"
        self.path.write_text(job_text(job), "utf-8")
        self.process = subprocess.Popen(
            [sys.executable, "-m", "eager_lens", "site", str(self.path), "--json", "--until-closed", *words],
            stdin=subprocess.PIPE,
            stdout=subprocess.PIPE,
            stderr=subprocess.PIPE,
            text=True,
            env=environment(folder),
        )
        line = self.process.stdout.readline()
        if not line:
            raise AssertionError(f"the site did not start: {self.process.stderr.read()}")
        self.note = json.loads(line)

    def check(self, *words):
        """``eager-lens check-site`` on it, as parsed JSON, with its exit status."""
        given = ["--here", "--yes", "--json", *words]
        done = subprocess.run(
            [sys.executable, "-m", "eager_lens", "check-site", str(self.path), *given],
            capture_output=True,
            text=True,
            env=environment(self.folder),
            timeout=400,
            check=False,
        )
        if done.returncode not in (0, 1):
            raise AssertionError(done.stderr)
        return {**json.loads(done.stdout), "status": done.returncode}

    def command(self, name, *words):
        """A command of the program on it, by its name, at work."""
        return subprocess.Popen(
            [sys.executable, "-m", "eager_lens", name, str(self.path), "--here", *words],
            stdin=subprocess.DEVNULL,
            stdout=subprocess.PIPE,
            stderr=subprocess.PIPE,
            text=True,
            env=environment(self.folder),
        )

    def inside(self, *words, timeout=150):
        """A command of the system as the laptop on the site's network: status, output, errors."""
        enter = ["nsenter", "--target", str(self.process.pid), "--net"]
        if os.geteuid() != 0:
            enter += ["--user", "--preserve-credentials"]
        done = subprocess.run([*enter, *words], capture_output=True, text=True, timeout=timeout, check=False)
        return done.returncode, done.stdout, done.stderr

    def stop(self):
        """End it; its exit status."""
        self.process.stdin.close()
        status = self.process.wait(20)
        for stream in (self.process.stdout, self.process.stderr):
            stream.close()
        return status


class OnSite(unittest.TestCase):
    """Tests on one site that is started once for all of them, when its streams are encoded: a busy machine takes its time."""

    words = ()

    @classmethod
    def job(cls):
        return small_job()

    @classmethod
    def setUpClass(cls):
        super().setUpClass()
        holder = tempfile.TemporaryDirectory()
        cls.addClassCleanup(holder.cleanup)
        cls.folder = Path(holder.name)
        cls.site = SiteProcess(cls.job(), cls.folder, *cls.words)
        cls.addClassCleanup(cls.site.stop)
        wait_encoded(cls.folder)


class InNamespaces(OnSite):
    """The same, where network namespaces are allowed; skipped by name where they are not."""

    @classmethod
    def setUpClass(cls):
        super().setUpClass()
        if cls.site.note["mode"] != "namespaces":
            raise unittest.SkipTest("this account may have no network namespaces")


def needs(*programs):
    """Skip a test, by the name of what is missing, where a program of the system is not installed."""
    missing = [program for program in programs if shutil.which(program) is None]
    return unittest.skipIf(missing, f"not installed: {', '.join(missing)}")


def run(work, seconds=120):
    """Run a coroutine to its end, within a time."""

    async def within():
        async with asyncio.timeout(seconds):
            return await work

    return asyncio.run(within())
