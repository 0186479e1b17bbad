"""Figures near the one that is expected, so that a pilot by hand takes most of a run-up with one tap each."""

from ..aircraft import Profile

# how far a figure mostly lies from the expected one, and the steps that a needle is read to (common practice)
_AROUND_RPM = (0.0, -25.0, 25.0, -50.0, 50.0)
_BACK_RPM = (0.0, -10.0, 10.0, -25.0, 25.0)
_DROPS = 6
_READ_TO_RPM = 5.0


def near_figures(profile: Profile, check: str, field: str) -> tuple[float, ...]:
    """Return figures near the expected one of a field of a check [RPM], the likeliest first where they lie around one; of a drop
    and of a figure that comes back they are counted from the figure before (negative: below it). None where nothing is expected."""
    find = profile.find_limit
    if (check, field) in (("mag_check", "base_rpm"), ("carb_heat_check", "base_rpm")):
        expected = find("runup_rpm")
        return () if expected is None else tuple(expected + step for step in _AROUND_RPM)
    if field == "restored_rpm":
        return _BACK_RPM
    if field in ("left_rpm", "right_rpm"):
        most = find(f"mag_drop_max_{field}") or find("mag_drop_max_rpm")
        return _drops(most)
    if (check, field) == ("carb_heat_check", "low_rpm"):
        return _drops(find("carb_heat_drop_max_rpm"))
    if field == "idle_rpm":
        least, most = find("idle_min_rpm"), find("idle_max_rpm")
        return () if least is None or most is None else _between(least, most)
    return ()


def _drops(most: float | None) -> tuple[float, ...]:
    """Return drops up to the largest that is allowed, one step beyond it too: a figure is never taken for being offered."""
    return () if most is None else tuple(-_read(most * (n + 1) / (_DROPS - 1)) for n in range(_DROPS))


def _between(least: float, most: float) -> tuple[float, ...]:
    step = (most - least) / (_DROPS - 2)
    return tuple(_read(least + step * (n - 0.5)) for n in range(_DROPS))


def _read(value: float) -> float:
    return round(value / _READ_TO_RPM) * _READ_TO_RPM
