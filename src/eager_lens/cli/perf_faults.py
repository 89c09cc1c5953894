"""``perf --faults``: the fault finder on simulated sites, against a fixed order of the same tests."""

from __future__ import annotations

import statistics
import time
from collections.abc import Sequence
from random import Random

from eager_lens.assets import asset
from eager_lens.cli.perf import job_of
from eager_lens.core.assess.assessment import Assessment, assess
from eager_lens.core.enquiry.build import job_for
from eager_lens.core.enquiry.enquiry import Enquiry, PlaceWanted, view_kinds
from eager_lens.core.fault_finder.for_job import job_case
from eager_lens.core.fault_finder.inference import proposals
from eager_lens.core.fault_finder.trials import FaultTrial, trials
from eager_lens.core.job.file import job_from_text

SITES, FAULTS, SEED = 12, 1000, 18
BANDS = ((0.0, 0.5), (0.5, 0.8), (0.8, 0.9), (0.9, 1.01))
PLACES = ("Office", "Hall", "Yard", "Shed")


def some_sites(many: int, seed: int) -> list[Assessment]:
    """The demo job, and others as the questions of a first call make them."""
    rng = Random(seed)
    found = [assess(job_from_text(asset("demo", "brindlemoor.lens.json").read_text("utf-8")))]
    while len(found) < many:
        places = tuple(
            PlaceWanted(
                name=name,
                distance_m=rng.choice((0, 30, 80)),
                other_building=name == "Shed" and rng.random() < 0.5,
                views={kind: rng.randint(1, 4) for kind in rng.sample(sorted(view_kinds()), 2)},
            )
            for name in PLACES[: rng.randint(1, len(PLACES))]
        )
        enquiry = Enquiry(
            name=f"Site {len(found)}",
            places=places,
            attachment=rng.choice(("LAN", "camera interface", "recorder PoE ports")),
            internet=rng.random() < 0.7,
        )
        found.append(assess(job_for(enquiry)))
    return found


def faults() -> int:
    """Print the measurements."""
    sites = some_sites(SITES, SEED)
    begun = time.perf_counter()
    right = list(trials(sites, SEED, FAULTS))
    took_s = time.perf_counter() - begun
    _tell("every answer right", right)
    _tell("5 % of the answers wrong", list(trials(sites, SEED, FAULTS, wrong=0.05)))
    fixed = list(trials(sites, SEED, FAULTS, fixed=True))
    _tell("a fixed order of the same tests", fixed)
    ratio = _median_minutes(right) / _median_minutes(fixed)
    print(f"median minutes against the fixed order: {ratio:.2f} (aim 0.50 or less)")
    print(f"{FAULTS:,} faults on {SITES} sites in {took_s:.0f} s")
    _calibration([*right, *trials(sites, SEED + 1, FAULTS, wrong=0.1)])
    _next_test()
    return 0


def _median_minutes(made: Sequence[FaultTrial]) -> float:
    return statistics.median(one.minutes for one in made)


def _tell(words: str, made: Sequence[FaultTrial]) -> None:
    first = sum(one.is_first for one in made) / len(made)
    three = sum(one.is_among_three for one in made) / len(made)
    tests = statistics.median(one.tests for one in made)
    print(
        f"{words}: the cause first {first:.1%}, among three {three:.1%}, "
        f"median {_median_minutes(made):g} min, {tests:g} tests"
    )
    for fault in sorted({one.fault for one in made}):
        of_it = [one for one in made if one.fault == fault]
        missed = [one for one in of_it if not one.is_first]
        if missed:
            named = statistics.mode(one.named[0] for one in missed)
            print(f"  {fault}: {len(missed)} of {len(of_it)} not first; oftenest named instead: {named}")


def _calibration(made: Sequence[FaultTrial]) -> None:
    for low, high in BANDS:
        inside = [one for one in made if low <= one.chance < high]
        if inside:
            held = sum(one.is_first for one in inside) / len(inside)
            print(f"given {low:.0%} to {min(high, 1):.0%}: right in {held:.0%} of {len(inside)}")


def _next_test() -> None:
    assessment = assess(job_of(1000))
    camera = assessment.job.cameras[500]
    begun = time.perf_counter()
    found = job_case(assessment, camera, "no-picture")
    case_ms = (time.perf_counter() - begun) * 1e3
    begun = time.perf_counter()
    proposals(found.case, ())
    print(f"1,000 cameras: case {case_ms:.0f} ms, next test {(time.perf_counter() - begun) * 1e3:.1f} ms (aim 50)")
