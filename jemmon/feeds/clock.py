"""The clock that flight time follows: it never goes back, and goes on while the machine sleeps."""

import time

_CLOCK = getattr(time, "CLOCK_BOOTTIME", time.CLOCK_MONOTONIC)


def steady_s() -> float:
    """Return seconds [s] since some moment; sleep of the machine is time too, where the system tells it."""
    return time.clock_gettime(_CLOCK)
