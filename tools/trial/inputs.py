"""Mutate every kind of input that the program reads: blindly, and by its grammar. Whatever comes out is read, or refused in
one sentence, within its bounds of time and memory.

Every input comes from a seed, so that one that fails can be made again: ``--only KIND --seed N:AT``.
"""

from __future__ import annotations

import os
import random
import resource
import signal
import tempfile
import time
from pathlib import Path

from tools.trial.forked import forked, kill
from tools.trial.kinds import KINDS, Kind
from tools.trial.report import Failures, Row

from eager_lens.core.errors import EagerLensError

MOST_S, MOST_MB, MOST_CHARACTERS = 10.0, 500, 900
LONGEST_BYTES = 2**22
MOST_QUIET_S = 120.0
"""A child that says nothing for so long waits for something that never comes. One that works too long is ended by a clock of its
own work: what other processes take of the machine is no fault of a reader's."""
BATCH = 40
"""Inputs that one child reads; it tells which one it is at, so that the one that ends it is known."""


def mutated_inputs(count: int, seed: int, only: str = "") -> list[Row]:
    """So many inputs in all, over all kinds by their weight; a row a kind."""
    kinds = [kind for kind in KINDS if not only or kind.name == only]
    whole = sum(kind.weight for kind in kinds)
    rows = []
    for kind in kinds:
        wanted = max(BATCH, round(count * kind.weight / whole))
        rows.append(_tried(kind, wanted, seed))
    return rows


def _tried(kind: Kind, count: int, seed: int) -> Row:
    failures = Failures()
    taken = most_mb = 0
    most_s = 0.0
    with tempfile.TemporaryDirectory(prefix="trial-") as name:
        folder = Path(name)
        seeds = kind.seeds(folder)
        at = 0
        while at < count:
            done, outcome = _batch(kind, seeds, folder, seed, at, min(BATCH, count - at))
            for number, how, seconds, mb in done:
                most_s, most_mb = max(most_s, seconds), max(most_mb, mb)
                taken += how == "taken"
                if how not in ("taken", "refused"):
                    failures.add(f"{kind.name} {seed}:{number}: {how}")
            at = done[-1][0] + 1 if done else at
            if outcome:
                failures.add(f"{kind.name} {seed}:{at}: {outcome}")
                at += 1
    measured = f"{taken:,} taken; most {most_s:.1f} s, {most_mb} MB"
    return Row(f"inputs: {kind.name}", count, failures.count, failures.first, measured)


Done = tuple[int, str, float, int]


def _batch(kind: Kind, seeds: list[bytes], folder: Path, seed: int, begins: int, length: int) -> tuple[list[Done], str]:
    """What became of some inputs in one child; and how the child ended if it did not read them all."""
    reading, writing = os.pipe()

    def work() -> None:
        os.close(reading)
        for number in range(begins, begins + length):
            data = mutant(kind, seeds, seed, number)
            os.write(writing, f"at {number}\n".encode())
            begun = time.process_time()
            signal.setitimer(signal.ITIMER_VIRTUAL, MOST_S + 2)
            how = outcome_of(kind, data, folder)
            signal.setitimer(signal.ITIMER_VIRTUAL, 0)
            peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss // 1000
            os.write(writing, f"done {number} {time.process_time() - begun:.3f} {peak} {how[:300]}\n".encode())

    child = forked(work, MOST_MB)
    os.close(writing)
    done: list[Done] = []
    last = begins - 1
    with os.fdopen(reading, "rb", buffering=0) as results:
        os.set_blocking(results.fileno(), False)
        text, heard = b"", time.monotonic()
        while True:
            part = results.read()
            if part:
                text, heard = text + part, time.monotonic()
            elif part == b"" or time.monotonic() - heard > MOST_QUIET_S:
                break
            else:
                time.sleep(0.002)
    hung = time.monotonic() - heard > MOST_QUIET_S
    if hung:
        kill(child)
        status = 0
    else:
        _, status = os.waitpid(child, 0)
    for line in text.decode("utf-8", "replace").splitlines():
        words = line.split(" ", 4)
        if words[0] == "at":
            last = int(words[1])
        elif words[0] == "done" and len(words) == 5:
            how = words[4] if float(words[2]) <= MOST_S else f"took {words[2]} s"
            done.append((int(words[1]), how, float(words[2]), int(words[3])))
    if len(done) == length:
        return done, ""
    if done and done[-1][0] >= last:
        return done, ""
    if hung:
        return done, f"no word for {MOST_QUIET_S:g} s"
    if os.WIFSIGNALED(status) and os.WTERMSIG(status) == signal.SIGVTALRM:
        return done, f"no answer within {MOST_S:g} s of work"
    ended = f"by {signal.Signals(os.WTERMSIG(status)).name}" if os.WIFSIGNALED(status) else "by itself"
    return done, f"the reader ended {ended}"


def outcome_of(kind: Kind, data: bytes, folder: Path) -> str:
    """``taken``, ``refused``, or what is wrong with how it was read."""
    path = folder / f"input-{os.getpid()}{kind.ending}"
    path.write_bytes(data)
    try:
        kind.read(path)
    except EagerLensError as error:
        text = str(error)
        if len(text) > MOST_CHARACTERS or "Traceback" in text or not text.strip():
            return f"its message has {len(text):,} characters"
        return "refused"
    except MemoryError:
        return f"MemoryError at {MOST_MB} MB"
    except BaseException as error:  # noqa: BLE001  (that there is one is what is looked for)
        import traceback

        frame = traceback.extract_tb(error.__traceback__)[-1]
        return f"{type(error).__name__} in {Path(frame.filename).name}:{frame.lineno}: {str(error)[:80]!r}"
    finally:
        path.unlink(missing_ok=True)
    return "taken"


def mutant(kind: Kind, seeds: list[bytes], seed: int, number: int) -> bytes:
    """The input of a number: the seeds themselves first, then one that was changed, by grammar in half of the cases."""
    if number < len(seeds):
        return seeds[number]
    chance = random.Random(f"{kind.name}:{seed}:{number}")
    data = chance.choice(seeds)
    if kind.spoil is not None and chance.random() < 0.5:
        data = kind.spoil(data, chance)
        if chance.random() < 0.8:
            return data
    for _ in range(chance.choice((1, 1, 2, 5, 20))):
        # Cut each time: what is doubled and doubled again would fill the child's memory before anything is read.
        data = _blind(data, chance, seeds)[:LONGEST_BYTES]
    return data


def _blind(data: bytes, chance: random.Random, seeds: list[bytes]) -> bytes:
    at, end = sorted(chance.randrange(len(data) + 1) for _ in range(2))
    how = chance.randrange(9)
    if how == 0:
        return data[:at]
    if how == 1:
        return data[:at] + data[end:]
    if how == 2:
        many = chance.choice((1, 2, 50))
        return data[:end] + data[at:end] * (many if len(data) < LONGEST_BYTES // 8 else 1) + data[end:]
    if how == 3:
        return data[:at] + chance.randbytes(chance.choice((1, 4, 64))) + data[at:]
    if how == 4:
        other = chance.choice(seeds)
        return data[:at] + other[chance.randrange(len(other) + 1) :]
    if how == 5:
        return data[:at] + chance.choice(TOKENS) + data[at:]
    if how == 6:
        return data[:at] + chance.choice(TOKENS) + data[min(len(data), at + chance.choice((1, 2, 8))) :]
    spoiled = bytearray(data)
    for _ in range(chance.choice((1, 3, 30))):
        if spoiled:
            spoiled[chance.randrange(len(spoiled))] ^= 1 << chance.randrange(8)
    return bytes(spoiled)


TOKENS = (
    *(b"\0", b"\xff\xfe", b"\xef\xbb\xbf", b'"', b"'", b"\\", b"\\u0000", b"\\ud800", b"{", b"}", b"[" * 200, b"]"),
    *(b",", b";", b"\t", b"\r\n", b"\n" * 500, b" " * 5000, b"-", b"1e999", b"-1", b"NaN", b"Infinity", b"0" * 400),
    *(
        b"9" * 5000,
        b"null",
        b"true",
        b"=1+1",
        b"<img src=x>",
        b"%s%n",
        b"../../etc/passwd",
        "\u202e漢\U0001f600".encode(),
    ),
)
