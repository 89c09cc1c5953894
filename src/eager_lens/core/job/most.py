"""Limits of a job. Separate from the job's model, because file readers need only these."""

MOST_CAMERAS = 20_000
MOST_OTHERS = 5_000
