"""Network namespaces of this process's own: networks that exist here only, and end with it (Linux, namespaces(7)).

A thread is in one of them at a time, and a socket stays in the one that it was opened in. This loads nothing large: a user
namespace is to be had only while the process has a single thread.
"""

from __future__ import annotations

import contextlib
import ctypes
import errno
import os
from collections.abc import Iterator
from pathlib import Path

CLONE_NEWUSER, CLONE_NEWNET = 0x1000_0000, 0x4000_0000
_OWN = "/proc/thread-self/ns/net"


class NotAllowed(OSError):
    """This computer lets this account have no network namespace."""


def _called(name: str, *arguments: int) -> None:
    libc = ctypes.CDLL(None, use_errno=True)
    if getattr(libc, name)(*arguments) != 0:
        number = ctypes.get_errno()
        raise NotAllowed(number, os.strerror(number))


def leave_for_a_new_network() -> None:
    """Put this process into a network of its own; without root, into a user namespace as well, in which it is root.

    Raises:
        NotAllowed: when the computer does not allow it; the process is where it was.
    """
    user, group = os.geteuid(), os.getegid()
    if user == 0:
        with contextlib.suppress(NotAllowed):
            _called("unshare", CLONE_NEWNET)
            return
    _called("unshare", CLONE_NEWUSER | CLONE_NEWNET)
    Path("/proc/self/setgroups").write_text("deny", "ascii")
    Path("/proc/self/uid_map").write_text(f"0 {user} 1", "ascii")
    Path("/proc/self/gid_map").write_text(f"0 {group} 1", "ascii")


def network_of(pid: int | str) -> int:
    """The number of the network namespace that a process is in.

    Raises:
        OSError: when there is no such process, or it is somebody else's.
    """
    return Path(f"/proc/{pid}/ns/net").stat().st_ino


def enter(pid: int, network: int) -> None:
    """Put this process into the network of another one of this account.

    Args:
        network: the number of the namespace that is meant. The number of a process that is gone may have been given to one
            in the network of this computer, where real devices are.

    Raises:
        NotAllowed: when that is not allowed, the other is gone, or it is in another network.
    """
    try:
        with (
            open(f"/proc/{pid}/ns/user", "rb") as user,  # noqa: PTH123
            open(f"/proc/{pid}/ns/net", "rb") as net,  # noqa: PTH123
        ):
            if os.fstat(net.fileno()).st_ino != network or network == network_of("self"):
                raise NotAllowed(errno.ESRCH, f"the process {pid} is no longer that of the stand-ins")
            with contextlib.suppress(NotAllowed):
                _called("setns", net.fileno(), CLONE_NEWNET)
                return
            _called("setns", user.fileno(), CLONE_NEWUSER)
            _called("setns", net.fileno(), CLONE_NEWNET)
    except FileNotFoundError as error:
        raise NotAllowed(error.errno or errno.ESRCH, f"the process {pid} has ended") from error


class Network:
    """A network namespace that is held open."""

    def __init__(self, number: int) -> None:
        self._number = number

    @property
    def fd(self) -> int:
        """The file descriptor that stands for it."""
        return self._number

    @classmethod
    def here(cls) -> Network:
        """The one that this thread is in."""
        return cls(os.open(_OWN, os.O_RDONLY | os.O_CLOEXEC))

    @classmethod
    def new(cls) -> Network:
        """A new, empty one; this thread stays where it is."""
        before = cls.here()
        try:
            _called("unshare", CLONE_NEWNET)
            return cls.here()
        finally:
            _called("setns", before.fd, CLONE_NEWNET)
            before.close()

    @contextlib.contextmanager
    def inside(self) -> Iterator[None]:
        """Be in it for a while; sockets that are opened meanwhile stay in it."""
        before = Network.here()
        _called("setns", self._number, CLONE_NEWNET)
        try:
            yield
        finally:
            _called("setns", before.fd, CLONE_NEWNET)
            before.close()

    def close(self) -> None:
        """Give it up; it ends with its last socket."""
        if self._number >= 0:
            os.close(self._number)
            self._number = -1


def in_user_namespace() -> bool:
    """Whether this process is in a user namespace, where not all users of the computer are mapped (user_namespaces(7))."""
    return Path("/proc/self/uid_map").read_text("ascii").split()[2] != "4294967295"
