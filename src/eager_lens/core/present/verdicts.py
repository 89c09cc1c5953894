"""Each stage's answer in one sentence, with a line of the facts behind it."""

from collections import Counter
from typing import NamedTuple

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.figures.devices import Trait, days_words, promise_words
from eager_lens.core.assess.figures.proof import failed_tests, progress
from eager_lens.core.assess.figures.whole_job import tightest_recorder
from eager_lens.core.assess.finding import Severity, names_listed
from eager_lens.core.assess.limits import CHANNEL_M, keeps
from eager_lens.core.assess.rules.feeding import POWER_OVER, POWERED_PORTS, SUPPLY_OVER, UNFED
from eager_lens.core.assess.rules.registering import has_no_recorder
from eager_lens.core.assess.rules.runs import has_long_cable, has_weak_run, is_over_class
from eager_lens.core.assess.rules.schedule import is_never_recorded
from eager_lens.core.reference.roles import ROLE_RECORDS
from eager_lens.core.sizing.disk import disk_space_gb
from eager_lens.core.units import count, days_figure, figure
from eager_lens.core.validation import at_most


class Verdict(NamedTuple):
    """The sentence, and the line of facts behind it. ``is_good``: it says that all of the stage is well, which a fault of it
    would belie; one that answers a question of its own (the days) stands whatever else is wrong."""

    sentence: str
    facts: str
    is_good: bool = False


def address_faults(assessment: Assessment) -> int:
    """How many findings say that an address cannot work."""
    return sum(finding.kind.colours == "addresses" for finding in assessment.findings)


_POWER_FAULTS = (POWER_OVER, SUPPLY_OVER, POWERED_PORTS)
_RUN_FAULTS: tuple[Trait, ...] = (has_weak_run, is_over_class)


def wiring(assessment: Assessment) -> Verdict:
    """The verdict of wiring."""
    job = assessment.job
    if not assessment.facts.devices:
        return Verdict(
            "Nothing is listed yet", "Import a camera list, paste one from a spreadsheet, or type in cameras."
        )
    places = {device.place for device in assessment.facts.devices if device.place}
    listed = f"{count(len(job.cameras), 'camera')} on {count(len(job.recorders), 'recorder')}"
    if places:
        listed += f", in {count(len(places), 'place')}"
    facts = assessment.facts
    failing = {c.id for trait in _RUN_FAULTS for c in facts.having(trait)}
    failing |= {c.id for c in facts.having(has_long_cable) if not at_most(c.cable_m or 0.0, CHANNEL_M)}
    known = sum(camera.cable_m is not None for camera in job.cameras)
    loose, is_good = len(job.cameras) - len(facts.topology.wiring.hangs_on), False
    over = [finding for finding in assessment.findings if finding.kind in _POWER_FAULTS]
    if over:
        # It turns cameras off by itself, more of them than any single run.
        sentence = over[0].title
    elif failing:
        sentence = (
            f"{count(len(failing), 'cable run')} too long or too thin for "
            f"{'its camera' if len(failing) == 1 else 'their cameras'}"
        )
    elif job.links and loose:
        sentence = f"{loose} of {count(len(job.cameras), 'camera')} are not connected yet"
    elif unfed := sum(len(finding.subjects) for finding in assessment.findings if finding.kind == UNFED):
        sentence = f"{unfed} of {count(len(job.cameras), 'camera')} have no power source yet"
    elif job.links:
        sentence, is_good = f"Every device has power, and every link carries its load: {listed}", True
    elif job.cameras and not job.recorders:
        sentence = f"{count(len(job.cameras), 'camera')} and no recorder yet"
    elif job.cameras and known == len(job.cameras):
        sentence, is_good = f"Every cable run reaches its camera with enough voltage: {listed}", True
    else:
        sentence, is_good = listed, True
    roles = Counter(device.role for device in job.network)
    besides = [count(number, role, ROLE_RECORDS[role].plural) for role, number in roles.items()]
    lengths = f"; cable lengths known for {known} of {len(job.cameras)} cameras" if known < len(job.cameras) else ""
    others = f"besides {', '.join(besides)}" if besides else "no switch or router is listed yet"
    return Verdict(sentence, f"{listed}; {others}{lengths}.", is_good)


def sizing(assessment: Assessment) -> Verdict:
    """The verdict of sizing."""
    job, facts = assessment.job, assessment.facts
    asked = job.retention.least_days
    if not job.cameras:
        return Verdict("No camera to size yet", "Import, paste or type in cameras; the figures follow at once.")
    if not job.recorders:
        return Verdict(
            "Cameras without a recorder keep nothing",
            f"They produce {figure(assessment.whole.stored_gb_per_day)} GB a day.",
        )
    rated = [(r, facts.recorder_figures[r.id]) for r in job.recorders]
    bad = [r.name for r, got in rated if got.trouble]
    tightest = tightest_recorder(facts)
    days = facts.recorder_figures[tightest.id].promised_days if tightest else None
    if bad:
        sentence = f"{names_listed(bad)} {'has' if len(bad) == 1 else 'have'} no usable storage"
    elif tightest is None or days is None:
        sentence = "Nothing is recorded yet"
    elif not keeps(days, asked):
        sentence = promise_words(tightest.name, days, asked)
    else:
        sentence = f"{figure(asked)} days can be promised; {tightest.name} keeps {days_figure(days)}"
    parts = []
    for recorder, got in rated[:3]:
        words = days_words(got.mean_days, got.keeps)
        kept = f"{words} days expected" if got.keeps == "days" else f"{words} days" if got.trouble else words
        parts.append(f"{recorder.name}: {figure(got.usable_tb)} TB, {figure(got.gb_per_day)} GB a day, {kept}")
    more = f"; {len(rated) - 3} more" if len(rated) > 3 else ""
    return Verdict(sentence, "; ".join(parts) + more + ".")


def addresses(assessment: Assessment) -> Verdict:
    """The verdict of addresses."""
    facts, job = assessment.facts, assessment.job
    if not job.subnets:
        return Verdict("No subnet yet to take addresses from", "Add the site's subnet, its gateway and its DHCP pool.")
    faults, without = address_faults(assessment), len(facts.without_address)
    if not facts.devices:
        sentence = "No device to address yet"
    elif faults:
        sentence = f"{count(faults, 'address fault')} would keep devices from being found"
    elif without:
        sentence = f"{count(without, 'device')} still without an address"
    else:
        managed = sum(device.wants_address for device in facts.devices)
        sentence = f"All {count(managed, 'device')} have an address"
    is_good = bool(facts.devices) and not faults and not without
    rooms = [f"{plan.cidr} has {figure(facts.free_hosts[plan.id], 9)} free addresses" for plan in job.subnets[:3]]
    return Verdict(sentence, "; ".join(rooms) + ".", is_good)


def bench(assessment: Assessment) -> Verdict:
    """The verdict of the bench."""
    facts, job = assessment.facts, assessment.job
    if not job.recorders:
        return Verdict("No recorder to register cameras on", "Add a recorder with its channels and incoming limit.")
    without = len(facts.having(has_no_recorder))
    if without:
        sentence = (
            f"{without} of {count(len(job.cameras), 'camera')} {'has' if without == 1 else 'have'} no recorder yet"
        )
    elif job.cameras:
        sentence = f"All {count(len(job.cameras), 'camera')} are registered"
    else:
        sentence = "No camera to register yet"
    is_good = bool(job.cameras) and not without
    parts = [
        f"{r.name}: {len(facts.cameras_on[r.id])} of {r.channels} channels, "
        f"{figure(facts.recorder_figures[r.id].incoming_mbps)} of {figure(r.incoming_limit_mbps)} Mb/s"
        for r in job.recorders[:3]
    ]
    busier = " in the busier half of the day" if parts else ""
    return Verdict(sentence, "; ".join(parts) + f"{busier}.", is_good)


def schedule(assessment: Assessment) -> Verdict:
    """The verdict of schedule."""
    facts, job = assessment.facts, assessment.job
    if not job.schedules:
        return Verdict(
            "No schedule yet, so nothing is recorded", "Add a schedule, and paint the hours in which cameras record."
        )
    silent = len(facts.having(is_never_recorded))
    if silent:
        sentence = f"{count(silent, 'camera')} would record nothing"
    else:
        used = {camera.schedule for camera in job.cameras}
        sentence = f"{count(len(used), 'schedule serves', 'schedules serve')} {count(len(job.cameras), 'camera')}"
    if not job.cameras:
        sentence = "No camera has a schedule yet"
    mean, stored = assessment.whole.recorded_h_per_day, assessment.whole.stored_gb_per_day
    facts_line = f"A camera records {figure(mean)} h a day on average; all together store {figure(stored)} GB a day."
    return Verdict(sentence, facts_line, bool(job.cameras) and not silent)


def motion(assessment: Assessment) -> Verdict:
    """The verdict of motion."""
    facts = assessment.facts
    moving = [figures for figures in facts.camera_figures.values() if figures.motion_h_per_day > 0]
    if not moving:
        return Verdict("No camera records on motion", "Paint motion hours on the Schedule page to use it.")
    watched = sum(figures.motion_h_per_day for figures in moving)
    kept = sum(figures.motion_h_per_day * figures.motion_share for figures in moving)
    sentence = f"Motion recording skips {figure(100 * (1 - kept / watched), 2)} % of its hours"
    saved = sum(disk_space_gb(figures.rate_mbps, figures.left_out_h_per_day, 1) for figures in moving)
    facts_line = f"{count(len(moving), 'camera')}; {figure(saved)} GB a day less than continuous recording."
    return Verdict(sentence, facts_line, is_good=True)


def proof(assessment: Assessment) -> Verdict:
    """The verdict of the proof."""
    done, total = progress(assessment.facts)
    failed = len(failed_tests(assessment.facts))
    still_open = sum(snag.state == "open" for snag in assessment.job.snags)
    if not total:
        return Verdict("Nothing to test yet", "Acceptance tests appear here for each device of the job.")
    if failed:
        sentence = f"{count(failed, 'test')} failed, {done} of {total} passed"
    elif done == total:
        sentence = f"All {total} acceptance tests passed"
    else:
        sentence = f"{done} of {total} acceptance tests passed"
    snags = f"{count(still_open, 'snag is', 'snags are')} open. " if still_open else ""
    return Verdict(sentence, f"{snags}Test on site after mounting; each result keeps name, time and measured value.")


def handover(assessment: Assessment) -> Verdict:
    """The verdict of the handover."""
    if not assessment.job.cameras:
        return Verdict("Nothing to hand over yet", "The papers are filled from the other pages.")
    faults = sum(finding.severity is Severity.FAULT for finding in assessment.findings)
    warnings = sum(finding.severity is Severity.WARNING for finding in assessment.findings)
    left = sum(finding.severity is Severity.TODO for finding in assessment.findings)
    done, tests = progress(assessment.facts)
    if faults or warnings:
        sentence = f"The papers would show {count(faults, 'fault')} and {count(warnings, 'warning')}"
    elif left:
        sentence = f"{count(left, 'to-do')} left in the plan"
    elif done < tests:
        sentence = f"The plan is complete; {tests - done} of {count(tests, 'test')} still to be done"
    else:
        sentence = "The papers are ready to hand over"
    return Verdict(sentence, "Open points are on a separate sheet, each with what to do about it.")
