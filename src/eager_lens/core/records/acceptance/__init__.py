"""Acceptance tests against the plan: planned values, tolerances, verdicts, walks, readings of drives, pixels on a target."""
