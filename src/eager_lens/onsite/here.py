"""What is known of a site that runs on this computer: a note in the account's own runtime folder while it runs."""

from __future__ import annotations

import contextlib
import json
import warnings
from collections.abc import Iterator
from pathlib import Path
from typing import Literal, NamedTuple

import platformdirs

from eager_lens.core.files import PRIVATE, write_whole
from eager_lens.onsite.namespaces import network_of

Mode = Literal["namespaces", "loopback"]


class SiteHere(NamedTuple):
    """A site that runs here.

    Attributes:
        pid: its process, which is in the network of the laptop. mode: where its devices are.
        job: the job file's path, empty for the demo. user, password: who may log in at every stand-in whose own password was
            not given; it is good for this site only, and ends with it.
        left_out: by device id, why it does not run. faults: what was put on it, in words. begun_s: when, since 1970.
        network: the number of its network namespace. A process number is given again when its process is gone; this tells
            that what has it now is the same site, and not some process in the network of this computer.
    """

    pid: int
    mode: Mode
    job: str
    password: str
    left_out: dict[str, str]
    faults: tuple[str, ...]
    begun_s: float
    network: int

    def __repr__(self) -> str:
        """Without the password, wherever it may be printed."""
        return f"SiteHere({self.pid}, {self.mode}, {self.job!r})"

    def as_json(self) -> str:
        """As one line of JSON."""
        return json.dumps(self._asdict())

    @classmethod
    def from_json(cls, text: str) -> SiteHere:
        """Out of one line of JSON.

        Raises:
            ValueError: when it is none, or another.
        """
        values = json.loads(text)
        try:
            return cls(
                int(values["pid"]),
                "namespaces" if values["mode"] == "namespaces" else "loopback",
                str(values["job"]),
                str(values["password"]),
                {str(name): str(why) for name, why in values["left_out"].items()},
                tuple(map(str, values["faults"])),
                float(values["begun_s"]),
                int(values["network"]),
            )
        except (KeyError, TypeError, AttributeError) as error:
            raise ValueError("no note of a site") from error


def notes_folder() -> Path:
    """Where the notes of this account are. To be asked for before the process is another user in a namespace of its own."""
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")  # without a session there is no such folder; one below /tmp stands in
        return Path(platformdirs.user_runtime_dir("eager-lens")) / "sites"


@contextlib.contextmanager
def noted(site: SiteHere, folder: Path) -> Iterator[None]:
    """Leave a note of a site in a folder while it runs."""
    path = folder / f"{site.pid}.json"
    path.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
    write_whole(path, site.as_json().encode(), PRIVATE, PRIVATE)
    try:
        yield
    finally:
        path.unlink(missing_ok=True)


def sites_here() -> list[SiteHere]:
    """The sites that run here, the latest first; notes of those that ended are taken away."""
    found = []
    for path in notes_folder().glob("*.json"):
        try:
            site = SiteHere.from_json(path.read_text("utf-8"))
        except (OSError, ValueError):
            continue
        if runs(site):
            found.append(site)
        else:
            path.unlink(missing_ok=True)
    return sorted(found, key=lambda one: -one.begun_s)


def runs(site: SiteHere) -> bool:
    """Whether a site runs: its process is there, in the network that is noted, and that is not the network of this one."""
    try:
        network = network_of(site.pid)
    except OSError:
        return False
    return network == site.network and (site.mode == "loopback" or network != network_of("self"))
