"""A practice drawn by its code: the job, the hidden fault, the complaint, and the site on which it is looked for."""

from __future__ import annotations

from functools import lru_cache
from random import Random
from typing import NamedTuple

from eager_lens.core.assess.assessment import Assessment, assess
from eager_lens.core.errors import RefusedInput
from eager_lens.core.fault_finder.faulty_site import inject_faults
from eager_lens.core.fault_finder.for_job import traits_of_fault
from eager_lens.core.fault_finder.site_view import SiteView, look_again
from eager_lens.core.fault_finder.symptoms import symptoms_of
from eager_lens.core.job.model import Camera, Job, changed
from eager_lens.core.job.rehearsal import Rehearsal
from eager_lens.core.practice.lessons import Lesson, PracticeCode, all_lessons, code_from, lesson_of
from eager_lens.core.practice.small_job import small_job
from eager_lens.core.simulation.site import Site
from eager_lens.core.virtual_site.faults import NETWORK_SHOWS

MOST_DRAWS = 60
NAME_BEGINS = "Practice "
UNTOLD = "not-found"
"""What no customer notices: that a search list lacks something."""
OWN_TOPICS = ("bridge",)
"""Topics whose small job has a radio link."""


class Drill(NamedTuple):
    """A practice.

    Attributes:
        job: with a rehearsal that carries the code, and stands where the customer rings. camera: id of the one that it is about.
        faults: hidden, by their names. symptom: what the customer sees.
    """

    code: PracticeCode
    lesson: Lesson
    job: Job
    camera: str
    faults: tuple[str, ...]
    symptom: str

    @property
    def complaint(self) -> str:
        """What the customer says."""
        name = next(one.name for one in self.job.cameras if one.id == self.camera)
        return all_lessons().complaints[self.symptom].format(camera=name)

    @property
    def shows_on_network(self) -> bool:
        """Whether stand-ins on a network show it, so that it can be looked for with one's own tools."""
        return all(fault in NETWORK_SHOWS for fault in self.faults)


@lru_cache(maxsize=8)
def drill_of(text: str) -> Drill:
    """The practice of a code; the same code gives the same one everywhere.

    Raises:
        RefusedInput: for what is no code.
    """
    code = code_from(text)
    lesson = lesson_of(code.topic)
    rng = Random(str(code))
    job = small_job(code.seed, code.topic in OWN_TOPICS, f"{NAME_BEGINS}{code}")
    assessment = assess(job)
    for _ in range(MOST_DRAWS):
        faults = rng.choice(lesson.faults[code.level])
        camera = rng.choice(job.cameras)
        put = inject_faults(assessment, camera, faults, Random(str(code)))
        if put is not None and put.symptom != UNTOLD:
            rehearsal = Rehearsal(practice=str(code), now_s=put.at.site.now_s)
            return Drill(code, lesson, changed(job, rehearsal=rehearsal), camera.id, faults, put.symptom)
    raise RefusedInput("practice", f"{code} has no fault that would show in its job; use another number")


def site_of_practice(assessment: Assessment, text: str) -> Site:
    """The site of a practice as it is when the customer rings; its event log tells nothing yet.

    Raises:
        RefusedInput: when the job is not the one of the practice any more.
    """
    drill = drill_of(text)
    camera = assessment.facts.by_device_id.get(drill.camera)
    put = None
    if isinstance(camera, Camera):
        put = inject_faults(assessment, camera, drill.faults, Random(str(drill.code)))
    if put is None:
        raise RefusedInput("practice", "the job is no longer that of the practice; undo the changes, or start it again")
    put.at.site.log_lines.clear()
    return put.at.site


def complaint_now(assessment: Assessment, site: Site, drill: Drill) -> str:
    """What the customer would still say; empty when nothing is wrong with the camera any more."""
    camera = assessment.facts.by_device_id.get(drill.camera)
    if not isinstance(camera, Camera) or drill.camera not in site.units:
        return drill.complaint
    look_again(site)
    found = symptoms_of(SiteView(site, site.units[drill.camera], camera), traits_of_fault(assessment, camera))
    if drill.symptom in found:
        return drill.complaint
    said = [one for one in found if one != UNTOLD]
    return all_lessons().complaints[said[0]].format(camera=camera.name) if said else ""
