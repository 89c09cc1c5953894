"""``./eager-lens perf``: the benchmarks, or those of one field."""

from __future__ import annotations

import argparse
import sys

from eager_lens.core.errors import EagerLensError


def main() -> int:
    """Measure what was asked for."""
    parser = argparse.ArgumentParser(prog="eager-lens perf", description=__doc__)
    parser.add_argument("--json", action="store_true")
    parser.add_argument("--motion", action="store_true", help="those of motion only")
    parser.add_argument("--tuning", action="store_true", help="tune a rule in all ten scenes instead; some minutes")
    parser.add_argument("--site", action="store_true", help="the stand-ins and the site check instead; some minutes")
    parser.add_argument("--faults", action="store_true", help="the fault finder on simulated sites instead")
    parser.add_argument("--seed", type=int, default=18, help="of --faults: what draws them (default 18)")
    parser.add_argument("--handover", action="store_true", help="event log, field sheet and pack instead")
    given = parser.parse_args()
    try:
        return _measured(given)
    except EagerLensError as error:
        print(f"eager-lens: {error}", file=sys.stderr)
        return 2


def _measured(given: argparse.Namespace) -> int:
    if given.faults:
        from tools.perf.faults import faults

        return faults(given.seed)
    if given.handover:
        from tools.perf.handover import handover

        return handover()
    if given.site:
        from tools.perf.site import site

        return site()
    if given.tuning:
        from tools.perf.motion import tuning

        return tuning()
    from tools.perf.benchmarks import run

    return run(as_json=given.json, only_motion=given.motion)


if __name__ == "__main__":
    sys.exit(main())
