"""`practice`: the lessons, the job of one, and for the trainer what is hidden in it."""

from __future__ import annotations

import argparse

from eager_lens.core.assess.assessment import assess
from eager_lens.core.errors import RefusedInput
from eager_lens.core.files import write_whole
from eager_lens.core.job.file import job_text
from eager_lens.core.practice.account import account_of, hidden_text
from eager_lens.core.practice.drill import drill_of, site_of_practice
from eager_lens.core.practice.lessons import LEVELS, all_lessons


def practice(arguments: argparse.Namespace) -> int:
    """List the lessons, or tell of one by its code; returns the exit status."""
    if arguments.list or not arguments.code:
        for lesson in all_lessons().lessons:
            print(f"{lesson.id:8} {lesson.title}. {lesson.before}")
        print(
            "A code is topic, level and a number, as night-2-4711. " + "; ".join(f"{a}: {b}" for a, b in LEVELS.items())
        )
        return 0
    drill = drill_of(arguments.code)
    print(f"{drill.lesson.title}. {drill.lesson.before}\nThe customer: {drill.complaint}")
    if arguments.job is not None:
        if arguments.job.exists() and not arguments.replace:
            raise RefusedInput("job", f"{arguments.job} is there already; --replace writes over it")
        write_whole(arguments.job, job_text(drill.job).encode())
        print(f"Written: {arguments.job}")
    if arguments.reveal:
        assessment = assess(drill.job)
        rehearsal = drill.job.rehearsal
        assert rehearsal is not None, "a practice carries its rehearsal"
        print()
        print(
            hidden_text(account_of(assessment, site_of_practice(assessment, arguments.code), rehearsal, drill)), end=""
        )
    return 0
