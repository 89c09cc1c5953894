"""Properties that are tried on many inputs."""

from hypothesis import HealthCheck, settings

from tests.support import repeats


def tried(times):
    """Try a property so many times, a third of them unless the run is a whole one: with the same inputs at each run, however
    slow the machine of the day is."""
    return settings(
        max_examples=repeats(max(1, times // 3), times),
        deadline=None,
        derandomize=True,
        suppress_health_check=[HealthCheck.too_slow],
    )
