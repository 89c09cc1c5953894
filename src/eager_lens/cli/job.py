"""``assess``, ``convert`` and ``schema``: what can be done with a job file without a window."""

from __future__ import annotations

import argparse
import json
import sys
from typing import Any

from eager_lens.cli.locale import reader_for
from eager_lens.core.assess.assessment import Assessment, assess
from eager_lens.core.assess.finding import Severity
from eager_lens.core.incoming.number_marks import Decimal
from eager_lens.core.job.file import ENDING, job_schema
from eager_lens.core.options.assumptions import decisive
from eager_lens.core.outgoing.handover.convert import Options, convert, load
from eager_lens.core.present.readout import readings
from eager_lens.core.present.stages import STAGE_WORDS, STAGES, verdict_of
from eager_lens.core.units import PLAIN, numbers_as


def run_assess(arguments: argparse.Namespace) -> int:
    """Print figures and findings; 1 when something needs attention."""
    loaded = load(arguments.job)
    for trouble in loaded.troubles:
        print(trouble, file=sys.stderr)
    assessment = assess(loaded.job)
    if arguments.json:
        # Scripts read this, so numbers are written as JSON whatever the locale.
        print(json.dumps(as_json(assessment), indent=2, ensure_ascii=False, allow_nan=False))
    else:
        reader = reader_for(arguments)
        with numbers_as(reader.style):
            print(as_text(assess(loaded.job) if reader.style is not PLAIN else assessment))
    worst = assessment.worst()
    return 1 if not loaded.is_whole or (worst is not None and worst > Severity.NOTE) else 0


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
        lines.append("no findings")
    return "\n".join(lines)


def run_convert(arguments: argparse.Namespace) -> int:
    """Convert a file; what could not be taken is told on standard error. 1 where rows were left out, or numbers guessed."""
    decimal: Decimal | None = {"point": ".", "comma": ",", None: None}[arguments.decimal]
    options = Options(arguments.replace, _ending(arguments.from_ending), _ending(arguments.to_ending), decimal)
    reader = reader_for(arguments)
    with numbers_as(reader.style):
        loaded = convert(arguments.source, arguments.target, reader, options)
    for words in (*loaded.troubles, *filter(None, [loaded.hint])):
        print(words, file=sys.stderr)
    return 0 if loaded.is_whole else 1


def _ending(text: str) -> str:
    """A kind as people write it: csv, .csv, json."""
    bare = text.strip().lower().removeprefix(".")
    return ENDING if bare in ("json", ENDING.removeprefix(".")) else f".{bare}" if bare else ""


def run_schema(arguments: argparse.Namespace) -> int:
    """Print the schema."""
    print(json.dumps(job_schema(), indent=2, ensure_ascii=False))
    return 0
