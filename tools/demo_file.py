"""``python -m tools.demo_file``: the demo job's file written anew: a job got a field, or its figures changed."""

from __future__ import annotations

from eager_lens.assets import asset
from eager_lens.core.job.file import job_from_text, job_text


def main() -> None:
    """Read it and write what comes of it."""
    path = asset("demo", "brindlemoor.lens.json")
    path.write_text(job_text(job_from_text(path.read_text("utf-8"))), "utf-8")


if __name__ == "__main__":
    main()
