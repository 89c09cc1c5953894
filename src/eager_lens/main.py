"""The command line: which command, and how its errors end. Loads a command's code only when it is called."""

from __future__ import annotations

import argparse
import sys
from collections.abc import Sequence
from pathlib import Path

from eager_lens import __version__
from eager_lens.core.errors import EagerLensError

BAD_INPUT = 2


def main(words: Sequence[str] | None = None) -> int:
    """Run a command; returns the exit status. Errors meant for people are one sentence on standard error."""
    given = list(sys.argv[1:] if words is None else words)
    if not given:
        given = ["open"]
    try:
        arguments = _parser().parse_args(given)
        status: int = arguments.run(arguments)
    except EagerLensError as error:
        print(f"eager-lens: {error}", file=sys.stderr)
        return BAD_INPUT
    except BrokenPipeError:
        sys.stderr.close()
        return 1
    except KeyboardInterrupt:
        return 130
    return status


def _parser() -> argparse.ArgumentParser:
    from eager_lens.cli import calc, job

    parser = argparse.ArgumentParser(
        prog="eager-lens", description="A commissioning desk for jobs of cameras and recorders."
    )
    parser.add_argument("--version", action="version", version=f"eager-lens {__version__}")
    commands = parser.add_subparsers(dest="command", required=True, metavar="COMMAND")
    opening = commands.add_parser("open", help="open the window, on a job or on the start page (the default)")
    opening.add_argument("job", nargs="?", type=Path)
    opening.add_argument("--for", dest="seconds", type=float, help=argparse.SUPPRESS)
    opening.set_defaults(run=_open)
    demo = commands.add_parser("demo", help="open the window on a fresh copy of the demo job")
    demo.add_argument("--for", dest="seconds", type=float, metavar="SECONDS", help="end by itself after so long")
    demo.set_defaults(run=_demo)
    shots = commands.add_parser("shots", help="draw each main view of the demo job into PNG files")
    shots.add_argument("--out", type=Path, default=Path("docs/screenshots"))
    shots.add_argument("--only", metavar="NAME")
    shots.set_defaults(run=_shots)
    perf = commands.add_parser("perf", help="the benchmarks, as ratios against a reference of the same run")
    perf.add_argument("--json", action="store_true")
    perf.set_defaults(run=_perf)
    commands.add_parser("test", help="run the tests (from a checkout)").set_defaults(run=_not_here)
    commands.add_parser("check", help="run the linters (from a checkout)").set_defaults(run=_not_here)
    job.add_to(commands)
    calc.add_to(commands)
    return parser


def _open(arguments: argparse.Namespace) -> int:
    from eager_lens.desk.start import open_window

    return open_window(job_path=arguments.job, seconds=arguments.seconds)


def _demo(arguments: argparse.Namespace) -> int:
    from eager_lens.desk.start import open_window

    return open_window(demo=True, seconds=arguments.seconds)


def _shots(arguments: argparse.Namespace) -> int:
    from eager_lens.desk.shots import draw_shots

    return draw_shots(arguments.out, arguments.only)


def _perf(arguments: argparse.Namespace) -> int:
    from eager_lens.cli.perf import run

    return run(as_json=arguments.json)


def _not_here(arguments: argparse.Namespace) -> int:
    print(f"eager-lens: {arguments.command} runs in a checkout of the project, by ./eager-lens", file=sys.stderr)
    return BAD_INPUT
