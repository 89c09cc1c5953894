"""``perf --faults``: the fault finder on simulated sites, against a fixed order of the same tests."""

from __future__ import annotations

import statistics
import time
from collections.abc import Sequence
from random import Random

from tools.perf.benchmarks import job_of

from eager_lens.assets import asset
from eager_lens.core.assess.assessment import Assessment, assess
from eager_lens.core.enquiry.build import job_for
from eager_lens.core.enquiry.enquiry import Enquiry, PlaceWanted, view_kinds
from eager_lens.core.fault_finder.for_job import LACKS, job_case
from eager_lens.core.fault_finder.inference import case_of, proposals
from eager_lens.core.fault_finder.optimum import drawn_case, expected_minutes
from eager_lens.core.fault_finder.simulated_searches import SimulatedSearch, trials
from eager_lens.core.fault_finder.table import usual_table
from eager_lens.core.job.file import job_from_text
from eager_lens.core.job.model import Job, PowerUnit, changed, role_of

SITES, FAULTS = 12, 1000
SMALL_CASES, SMALL_CAUSES, SMALL_TESTS = 200, 5, 5
BANDS = ((0.0, 0.5), (0.5, 0.8), (0.8, 0.9), (0.9, 1.01))
SUPPLY_SHARE, RADIO_SHARE, LONG_REACH_SHARE = 0.15, 0.3, 0.1
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
        found.append(assess(_varied(job_for(enquiry), found[0].job, rng)))
    return found


def _varied(job: Job, demo: Job, rng: Random) -> Job:
    """A job with what enquiries do not ask for: some cameras on a supply, some on long-reach ports, a radio link."""
    on_supply = [camera.id for camera in job.cameras if rng.random() < SUPPLY_SHARE]
    cameras = tuple(
        changed(camera, poe_class=None, power_input="12 V DC") if camera.id in on_supply else camera
        for camera in job.cameras
    )
    switches = {one.id for one in job.network if role_of(one) == "switch"}
    radio = next((link.radio for link in demo.links if link.radio is not None), None)
    links = []
    for link in job.links:
        ends = {link.a, link.b}
        if ends <= switches and rng.random() < RADIO_SHARE:
            link = changed(link, medium="radio", radio=radio)
        elif not ends <= switches and link.medium == "copper" and rng.random() < LONG_REACH_SHARE:
            link = changed(link, long_reach=True)
        links.append(link)
    units = (
        (PowerUnit(id="supply-1", name="Supply", budget_w=400, area_mm2=2.5, feeds=tuple(on_supply)),)
        if on_supply
        else ()
    )
    return changed(job, cameras=cameras, links=tuple(links), power_units=(*job.power_units, *units))


def faults(seed: int) -> int:
    """Print the measurements; ``seed`` draws sites and faults."""
    sites = some_sites(SITES, seed)
    begun = time.perf_counter()
    right = list(trials(sites, seed, FAULTS))
    took_s = time.perf_counter() - begun
    _tell("every answer right", right, each=True)
    wrong = list(trials(sites, seed, FAULTS, wrong=0.05))
    _tell("5 % of the answers wrong", wrong)
    fixed = list(trials(sites, seed, FAULTS, fixed=True))
    _tell("a fixed order of the same tests", fixed)
    ratio = _median_minutes(right) / _median_minutes(fixed)
    print(f"median minutes against the fixed order: {ratio:.2f} (aim 0.50 or less)")
    print(f"{FAULTS:,} faults on {SITES} sites in {took_s:.0f} s")
    _calibration("every answer right", right)
    _calibration("5 % wrong", wrong)
    _optimum(seed)
    _next_test()
    return 0


def _median_minutes(made: Sequence[SimulatedSearch]) -> float:
    return statistics.median(one.minutes for one in made)


def _tell(words: str, made: Sequence[SimulatedSearch], each: bool = False) -> None:
    _tell_line(words, made)
    for drawn in ("single", "pair", "group") if each else ():
        _tell_line(f"  {drawn}", [one for one in made if one.drawn == drawn])
    for fault in sorted({fault for one in made for fault in one.faults}) if each else ():
        of_it = [one for one in made if one.faults == (fault,)]
        missed = [one for one in of_it if not one.is_first]
        if missed:
            named = statistics.mode(one.named[0] for one in missed)
            print(f"  {fault}: {len(missed)} of {len(of_it)} not first; oftenest named instead: {named}")


def _tell_line(words: str, made: Sequence[SimulatedSearch]) -> None:
    first = sum(one.is_first for one in made) / len(made)
    three = sum(one.is_among_three for one in made) / len(made)
    tests = statistics.median(one.tests for one in made)
    print(
        f"{words}: {len(made):,}, the cause first {first:.1%}, among three {three:.1%}, "
        f"median {_median_minutes(made):g} min, {tests:g} tests"
    )


def _calibration(words: str, made: Sequence[SimulatedSearch]) -> None:
    """How often the likeliest cause was true, by how likely it was given, after each answer of each search."""
    given = [one for trial in made for one in trial.given]
    for low, high in BANDS:
        inside = [is_true for chance, is_true in given if low <= chance < high]
        if inside:
            print(
                f"{words}, given {low:.0%} to {min(high, 1):.0%}: right in {sum(inside) / len(inside):.0%} of {len(inside):,}"
            )


def _optimum(seed: int) -> None:
    """The order of tests against the best there is, on small cases of every symptom."""
    rng, table = Random(seed), usual_table()
    own_min = best_min = 0.0
    ratios = []
    for at in range(SMALL_CASES):
        symptom = table.symptoms[at % len(table.symptoms)].id
        whole = case_of(table, symptom, frozenset(LACKS))
        assert whole is not None
        small = drawn_case(whole, SMALL_CAUSES, SMALL_TESTS, rng)
        own, best = expected_minutes(small, exhaustive=False), expected_minutes(small, exhaustive=True)
        own_min, best_min = own_min + own, best_min + best
        ratios.append(own / best if best else 1.0)
    print(
        f"{SMALL_CASES} small cases ({SMALL_CAUSES} causes, {SMALL_TESTS} tests): {own_min / best_min:.3f} times the minutes of "
        f"the best order by exhaustive search, at most {max(ratios):.2f} (aim 1.15)"
    )


def _next_test() -> None:
    assessment = assess(job_of(1000))
    camera = assessment.job.cameras[500]
    begun = time.perf_counter()
    found = job_case(assessment, camera, "no-picture")
    case_ms = (time.perf_counter() - begun) * 1e3
    begun = time.perf_counter()
    proposals(found.case, ())
    print(f"1,000 cameras: case {case_ms:.0f} ms, next test {(time.perf_counter() - begun) * 1e3:.1f} ms (aim 50)")
