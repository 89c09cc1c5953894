"""Properties that are tried on many inputs."""

from hypothesis import HealthCheck, settings


def tried(times):
    """Try a property so many times: with the same inputs at each run, however slow the machine of the day is."""
    return settings(max_examples=times, deadline=None, derandomize=True, suppress_health_check=[HealthCheck.too_slow])
