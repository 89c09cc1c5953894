"""`practice`: the lessons, the job of one, and for the trainer what is hidden in it."""

from __future__ import annotations

import argparse

from eager_lens.cli.locale import reader_for
from eager_lens.core.assess.assessment import assess
from eager_lens.core.assess.model_changes import figures_of
from eager_lens.core.job.file import write_job
from eager_lens.core.outgoing.handover.convert import require_free
from eager_lens.core.practice.account import account_of, hidden_text
from eager_lens.core.practice.drill import drill_of, site_of_practice
from eager_lens.core.practice.lessons import LEVELS, all_lessons
from eager_lens.core.units import numbers_as


def practice(arguments: argparse.Namespace) -> int:
    """List the lessons, or tell of one by its code; returns the exit status."""
    if arguments.list or not arguments.code:
        for lesson in all_lessons().lessons:
            print(f"{lesson.id:8} {lesson.title}. {lesson.before}")
        print(
            "A code is topic, level and number, such as night-2-4711. "
            + "; ".join(f"{a}: {b}" for a, b in LEVELS.items())
        )
        return 0
    drill = drill_of(arguments.code)
    print(f"{drill.lesson.title}. {drill.lesson.before}\nThe customer: {drill.complaint}")
    if arguments.job is not None:
        require_free(arguments.job, arguments.replace)
        write_job(arguments.job, drill.job, None, force=arguments.replace, figures=figures_of(assess(drill.job)))
        print(f"Written: {arguments.job}")
    if arguments.reveal:
        assessment = assess(drill.job)
        rehearsal = drill.job.rehearsal
        assert rehearsal is not None, "a practice contains its rehearsal"
        print()
        with numbers_as(reader_for(arguments).style):
            account = account_of(assessment, site_of_practice(assessment, arguments.code), rehearsal, drill)
            print(hidden_text(account), end="")
    return 0
