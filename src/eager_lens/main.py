"""The command line: which command, and how its errors end. Loads a command's code only when it is called."""

from __future__ import annotations

import argparse
import codecs
import io
import json
import sys
from collections.abc import Callable, Sequence
from pathlib import Path

from eager_lens import __version__
from eager_lens.core.errors import EagerLensError
from eager_lens.core.no_dumps import no_core_dumps

BAD_INPUT = 2
ESCAPED = "eager-lens-escaped"

FROM_A_CHECKOUT = {
    "test": "run the tests",
    "check": "run the linters",
    "perf": "run the benchmarks, as ratios to a reference of the same run",
    "shots": "draw the main views of the demo job as PNG files",
    "figures": "print figures on the structure of the code",
    "trial": "run a stress trial: kills, hostile inputs, random use",
}
"""What only the project's own launcher runs, out of ``tools`` and ``tests``."""


def _escaped(error: UnicodeError) -> tuple[str, int]:
    """Letters that an output cannot hold, as JSON writes them: what is printed as JSON stays JSON."""
    if not isinstance(error, UnicodeEncodeError):
        raise error
    return json.dumps(error.object[error.start : error.end])[1:-1], error.end


codecs.register_error(ESCAPED, _escaped)


def main(words: Sequence[str] | None = None) -> int:
    """Run a command; returns the exit status. Errors meant for people are one sentence on standard error."""
    no_core_dumps()
    for stream in (sys.stdout, sys.stderr):
        if isinstance(stream, io.TextIOWrapper):  # a terminal may know few letters; a name is no reason to fail
            stream.reconfigure(errors=ESCAPED)
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
    """All commands with their arguments. It loads nothing: what a command needs is loaded when it runs."""
    parser = argparse.ArgumentParser(
        prog="eager-lens", description="Plans, checks and documents the commissioning of cameras and recorders."
    )
    parser.add_argument("--version", action="version", version=f"eager-lens {__version__}")
    commands = parser.add_subparsers(dest="command", required=True, metavar="COMMAND", prog="eager-lens")

    def command(name: str, words: str, run: Callable[[argparse.Namespace], int]) -> argparse.ArgumentParser:
        made: argparse.ArgumentParser = commands.add_parser(name, help=words, description=words)
        made.set_defaults(run=run)
        return made

    opening = command("open", "open the window with a job or the start page (the default)", _open)
    opening.add_argument("job", nargs="?", type=Path)
    demo = command("demo", "open the window with a fresh copy of the demo job", _demo)
    for windowed in (opening, demo):
        windowed.add_argument(
            "--for", dest="seconds", type=float, metavar="SECONDS", help="end by itself after this time"
        )
        windowed.add_argument("--tell", action="store_true", help=argparse.SUPPRESS)
    assess = command("assess", "print all figures and findings of a job", _assess)
    assess.add_argument("job", type=Path)
    assess.add_argument("--json", action="store_true", help="as JSON")
    calc = command("calc", "run one calculator: a JSON object in, a JSON object out", _calc)
    calc.add_argument("name", nargs="?", help="which calculator")
    calc.add_argument("--list", action="store_true", help="list all calculators")
    calc.add_argument("--schema", action="store_true", help="print the JSON Schema of input and output")
    calc.add_argument("--lines", action="store_true", help="read JSON Lines, answer each with a line")
    calc.add_argument("--json", action="store_true", help="answer on one line (the default is indented)")
    _add_convert(command, assess)
    _add_site_commands(command)
    _add_log_commands(command)
    command("schema", "print the JSON Schema of the job file", _schema)
    command("install", "add menu entry, icon and file type for this user", _install)
    command("uninstall", "remove menu entry, icon and file type again", _uninstall)
    for name, words in FROM_A_CHECKOUT.items():
        command(name, f"{words} (from a checkout)", _not_here)
    return parser


def _add_convert(command: Callable[..., argparse.ArgumentParser], assess: argparse.ArgumentParser) -> None:
    """Between formats; and how texts that people read are written."""
    convert = command("convert", "convert between the open formats, by file ending", _convert)
    convert.add_argument("source", metavar="IN", type=Path, help="- for standard input")
    convert.add_argument("target", metavar="OUT", type=Path, help="- for standard output")
    convert.add_argument("--replace", action="store_true", help="overwrite an existing file")
    convert.add_argument("--from", dest="from_ending", default="", metavar="KIND", help="format of IN: json, csv, xlsx")
    convert.add_argument(
        "--to", dest="to_ending", default="", metavar="KIND", help="format of OUT: json, csv, xlsx, html, pdf"
    )
    convert.add_argument(
        "--decimal", choices=("point", "comma"), help="the decimal mark of the list, if its columns do not show it"
    )
    for worded in (assess, convert):
        worded.add_argument(
            "--locale", metavar="NAME", help="how numbers and dates are written (default: this computer's)"
        )


def _add_commission(command: Callable[..., argparse.ArgumentParser]) -> None:
    """Setting devices over the network."""
    words = "set the devices of a job as it plans them, over the network, and read back what they took"
    commission = command("commission", words, _commission)
    commission.add_argument("job", nargs="?", type=Path, help="the job (default: the demo job)")
    commission.add_argument("--here", action="store_true", help="set the stand-ins that run on this computer")
    commission.add_argument(
        "--only", action="extend", nargs="+", default=[], metavar="ID", help="set these devices only, by their ids"
    )
    commission.add_argument("--dry-run", action="store_true", help="look, print what would be set, and set nothing")
    commission.add_argument("--yes", action="store_true", help="set without asking")
    commission.add_argument(
        "--nearest",
        action="store_true",
        help="set the nearest that a device takes where it does not take what is planned",
    )
    commission.add_argument("--put-back", action="store_true", help="undo the last run: set what was read before it")
    commission.add_argument(
        "--ask-right",
        action="store_true",
        help="ask in a dialog for the right to tell devices on one address apart (see docs/commissioning.md)",
    )
    commission.add_argument("--passwords", action="store_true", help="ask for the passphrase of the job's sealed file")
    commission.add_argument(
        "--ledger", type=Path, metavar="FILE", help="where the state is kept (default: beside the job)"
    )
    commission.add_argument("--json", action="store_true", help="print plan and outcome as JSON")
    commission.add_argument("--locale", metavar="NAME", help="how numbers are written (default: this computer's)")


def _add_site_commands(command: Callable[..., argparse.ArgumentParser]) -> None:
    """The stand-ins of a site, and the check of one."""
    site = command("site", "run the job's devices as stand-ins on a network inside this computer", _site)
    site.add_argument("job", nargs="?", type=Path, help="the job (else the demo; - for a line on standard input)")
    site.add_argument("--for", dest="seconds", type=float, metavar="SECONDS", help="end by itself after this time")
    site.add_argument("--only", action="append", default=[], metavar="DEVICE", help="start only these devices")
    site.add_argument("--fault", action="append", default=[], metavar="NAME=DEVICE", help="put a fault on a device")
    site.add_argument(
        "--practice", metavar="CODE", default="", help="the small job of a practice code, with its hidden fault"
    )
    site.add_argument("--out-of-box", action="store_true", help="every device as it was delivered, to be set up")
    site.add_argument("--start", type=float, metavar="SECONDS", help="how long devices take to start again")
    site.add_argument("--list-faults", action="store_true", help="list all faults")
    site.add_argument("--loopback", action="store_true", help="on loopback addresses, without network namespaces")
    site.add_argument(
        "--passwords", action="store_true", help="read passwords by device id from standard input, as JSON"
    )
    site.add_argument("--json", action="store_true", help="print what runs as one line of JSON")
    site.add_argument("--until-closed", action="store_true", help="end when standard input is closed")
    practice = command("practice", "fault-finding practice: list the topics, or create the job of a code", _practice)
    practice.add_argument("code", nargs="?", default="", help="topic, level 1 to 3 and number, such as night-2-4711")
    practice.add_argument("--list", action="store_true", help="list all topics")
    practice.add_argument("--job", type=Path, metavar="FILE", help="write its job, which opens in the window")
    practice.add_argument("--replace", action="store_true", help="overwrite an existing file")
    practice.add_argument("--locale", metavar="NAME", help="how numbers are written (default: this computer's)")
    practice.add_argument(
        "--reveal", action="store_true", help="for the trainer: show the hidden fault and the quickest solution"
    )
    check_site = command(
        "check-site", "check every device of a job over the network, and list what differs", _check_site
    )
    check_site.add_argument("job", nargs="?", type=Path, help="the job (default: the demo job)")
    check_site.add_argument(
        "--here", action="store_true", help="check the site of stand-ins that runs on this computer"
    )
    check_site.add_argument("--what", action="store_true", help="print what would be sent, and send nothing")
    check_site.add_argument("--yes", action="store_true", help="start without asking")
    check_site.add_argument(
        "--only", action="extend", nargs="+", default=[], metavar="ID", help="check these devices only, by their ids"
    )
    check_site.add_argument("--without", action="append", default=[], metavar="PART", help="leave a part out")
    check_site.add_argument(
        "--default-passwords", action="store_true", help="try the make's default password if none is noted"
    )
    check_site.add_argument("--seconds", type=float, default=5.0, help="how long to read each stream (default 5)")
    check_site.add_argument("--passwords", action="store_true", help="ask for the passphrase of the job's sealed file")
    check_site.add_argument("--replace", action="store_true", help="overwrite an existing file")
    check_site.add_argument("--locale", metavar="NAME", help="how numbers are written (default: this computer's)")
    _add_commission(command)
    check_site.add_argument(
        "--out", type=Path, help="write the results to a file: .csv, .xlsx, or .jsonl for the whole run"
    )
    check_site.add_argument(
        "--since", type=Path, metavar="RUNS", help="print what changed since the latest run in a file"
    )
    check_site.add_argument("--json", action="store_true", help="print the run and its rows as JSON")


def _add_log_commands(command: Callable[..., argparse.ArgumentParser]) -> None:
    """What is done with an event log."""
    log = command("log", "verify, merge or sign event logs", _log)
    acts = log.add_subparsers(dest="act", required=True, metavar="ACT", prog="eager-lens log")
    verify = acts.add_parser("verify", help="exit code 0: whole; 1: changed (says where); 2: cannot be read")
    verify.add_argument("log", type=Path)
    verify.add_argument(
        "--anchor",
        action="append",
        default=[],
        metavar="ANCHOR",
        help="as on the handover sheet: number of entries and hash; of a merged log one of each log",
    )
    verify.add_argument("--photos", type=Path, metavar="FOLDER", help="compare the photos with their hashes in the log")
    verify.add_argument("--json", action="store_true")
    merge = acts.add_parser("merge", help="merge the entries of another log of the same job")
    merge.add_argument("log", type=Path)
    merge.add_argument("other", type=Path)
    key = acts.add_parser("key", help="create a key for the firm (Ed25519), protected by a passphrase")
    key.add_argument("key", type=Path)
    sign = acts.add_parser("sign", help="sign a log in its present state")
    sign.add_argument("log", type=Path)
    sign.add_argument("--key", type=Path, required=True)
    for signed in (merge, sign):
        signed.add_argument("--by", default="", help="name of the person")


def _open(arguments: argparse.Namespace) -> int:
    from eager_lens.desk.start import open_window

    return open_window(job_path=arguments.job, seconds=arguments.seconds, tell=arguments.tell)


def _demo(arguments: argparse.Namespace) -> int:
    from eager_lens.desk.start import open_window

    return open_window(demo=True, seconds=arguments.seconds, tell=arguments.tell)


def _assess(arguments: argparse.Namespace) -> int:
    from eager_lens.cli.job import run_assess

    return run_assess(arguments)


def _calc(arguments: argparse.Namespace) -> int:
    from eager_lens.cli.calc import run

    return run(arguments)


def _convert(arguments: argparse.Namespace) -> int:
    from eager_lens.cli.job import run_convert

    return run_convert(arguments)


def _site(arguments: argparse.Namespace) -> int:
    from eager_lens.cli.site import run_site

    return run_site(arguments)


def _practice(arguments: argparse.Namespace) -> int:
    from eager_lens.cli.practice import practice

    return practice(arguments)


def _commission(arguments: argparse.Namespace) -> int:
    from eager_lens.cli.commission import run_commission

    return run_commission(arguments)


def _check_site(arguments: argparse.Namespace) -> int:
    from eager_lens.cli.check_site import run_check_site

    return run_check_site(arguments)


def _log(arguments: argparse.Namespace) -> int:
    from eager_lens.cli import log

    run: Callable[[argparse.Namespace], int] = {
        "verify": log.run_verify,
        "merge": log.run_merge,
        "key": log.run_key,
        "sign": log.run_sign,
    }[arguments.act]
    return run(arguments)


def _schema(arguments: argparse.Namespace) -> int:
    from eager_lens.cli.job import run_schema

    return run_schema(arguments)


def _install(arguments: argparse.Namespace) -> int:
    from eager_lens.cli.install import run_install

    return run_install(arguments)


def _uninstall(arguments: argparse.Namespace) -> int:
    from eager_lens.cli.install import run_uninstall

    return run_uninstall(arguments)


def _not_here(arguments: argparse.Namespace) -> int:
    print(
        f"eager-lens: {arguments.command} works only in a checkout of the project, with ./eager-lens", file=sys.stderr
    )
    return BAD_INPUT
