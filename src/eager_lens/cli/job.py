"""``assess``, ``convert`` and ``schema``: what can be done with a job file without a window."""

from __future__ import annotations

import argparse
import datetime
import json
import sys
from typing import Any

from eager_lens.core.assess.assessment import Assessment, assess
from eager_lens.core.assess.finding import Severity
from eager_lens.core.handover.convert import convert, load
from eager_lens.core.job.file import job_schema
from eager_lens.core.options.assumptions import decisive
from eager_lens.core.present.readout import readings
from eager_lens.core.present.stages import STAGE_WORDS, STAGES, verdict_of


def run_assess(arguments: argparse.Namespace) -> int:
    """Print figures and findings; 1 when something needs attention."""
    job, problems = load(arguments.job)
    for problem in problems:
        print(problem.sentence(), file=sys.stderr)
    assessment = assess(job)
    if arguments.json:
        print(json.dumps(as_json(assessment), indent=2, ensure_ascii=False, allow_nan=False))
    else:
        print(as_text(assessment))
    worst = assessment.worst()
    return 1 if worst is not None and worst > Severity.TODO else 0


def as_json(assessment: Assessment) -> dict[str, Any]:
    """Figures and findings as plain JSON values; names carry their units."""
    facts = assessment.facts
    return {
        "job": facts.job.name,
        "whole_job": assessment.whole._asdict(),
        "readout": [
            {
                "words": one.words,
                "figure": one.figure,
                "rest": one.rest,
                "severity": None if one.severity is None else one.severity.word,
            }
            for one in readings(assessment)
        ],
        "recorders": {recorder_id: figures._asdict() for recorder_id, figures in facts.recorder_figures.items()},
        "cameras": {camera_id: figures._asdict() for camera_id, figures in facts.camera_figures.items()},
        "assumptions": [one._asdict() for one in decisive(assessment)],
        "findings": [
            {
                "code": finding.code,
                "severity": finding.severity.word,
                "stage": finding.stage,
                "title": finding.title,
                "why": finding.why,
                "action": finding.action,
                "subjects": list(finding.subjects),
                "fix": finding.fix.label if finding.fix else None,
            }
            for finding in assessment.findings
        ],
        "accepted": [
            {"code": one.code, "subjects": list(one.subjects), "why": one.why, "by": one.by}
            for one in assessment.job.accepted
        ],
    }


def as_text(assessment: Assessment) -> str:
    """Verdicts and findings for reading in a terminal."""
    lines = [assessment.job.name, ""]
    for stage in STAGES:
        verdict = verdict_of(stage, assessment)
        lines += [f"{STAGE_WORDS[stage]:10} {verdict.sentence}", f"{'':10} {verdict.facts}"]
    lines.append("")
    for finding in assessment.findings:
        lines += [
            f"{finding.severity.word:6} {STAGE_WORDS[finding.stage]}: {finding.title}",
            f"{'':6} {finding.why}",
            f"{'':6} {finding.action}",
        ]
    if not assessment.findings:
        lines.append("nothing is open")
    return "\n".join(lines)


def run_convert(arguments: argparse.Namespace) -> int:
    """Convert a file; what could not be taken is told on standard error."""
    for problem in convert(arguments.source, arguments.target, datetime.date.today().isoformat()):
        print(problem.sentence(), file=sys.stderr)
    return 0


def run_schema(arguments: argparse.Namespace) -> int:
    """Print the schema."""
    print(json.dumps(job_schema(), indent=2, ensure_ascii=False))
    return 0
