"""Two magnetos, one plug of each in every cylinder: which spark, and what one plug alone costs.

A ground lead that is open lets its magneto fire on when the switch would stop it: position L grounds the right one.
"""

from numba import njit

from .deposits import missed_share

OFF, LEFT, RIGHT, BOTH = 0, 1, 2, 3
_SPARK_FROM_RPM = 45.0
# what ten degrees of timing do (size 1): on one plug late costs a tenth of the torque and early gains a little; on both less
# (common practice)
_LATE_COSTS, _LATE_COSTS_BOTH, _LATE_COOLS = 0.10, 0.06, 0.08
_EARLY_GAINS, _EARLY_HEATS = 0.02, 0.10
_LEAKS_FROM_PA, _LEAKS_FULLY_PA = 6.5e4, 4.6e4  # 12,000 and 20,000 ft


@njit
def leaks_aloft(outside_pa, manifold_pa):
    """Return how much a distributor that leaks fires across in thin air: all of its fault at 20,000 ft and full power."""
    thin = min(max((_LEAKS_FROM_PA - outside_pa) / (_LEAKS_FROM_PA - _LEAKS_FULLY_PA), 0.0), 1.0)
    return thin * min(max(manifold_pa / 8e4, 0.0), 1.0)


@njit
def spark_share(switch, rpm, left, is_cranked, aloft, s, f, cylinder):
    """Return the share of sparks (0 to 1) that this cylinder's left or right plug gives; `aloft` as `leaks_aloft` says."""
    if rpm < _SPARK_FROM_RPM:
        return 0.0
    impulse = 1.0 - f.weak_impulse * is_cranked
    if left:
        wanted = switch == LEFT or switch == BOTH or f.open_ground_left >= 0.5
        clean = (1.0 - missed_share(s.fouled_left[cylinder])) * (1.0 - missed_share(s.leaded_left[cylinder]))
        magneto = (1.0 - f.dead_magneto_left) * (1.0 - f.distributor_left * aloft) * impulse
        return wanted * clean * magneto * (1.0 - f.dead_plug_left[cylinder])
    wanted = switch == RIGHT or switch == BOTH or f.open_ground_right >= 0.5
    clean = (1.0 - missed_share(s.fouled_right[cylinder])) * (1.0 - missed_share(s.leaded_right[cylinder]))
    magneto = (1.0 - f.dead_magneto_right) * (1.0 - f.distributor_right * aloft) * impulse
    return wanted * clean * magneto * (1.0 - f.dead_plug_right[cylinder])


@njit
def early(left, right, f):
    """Return how early the first spark of a charge comes, 0 to 1, of the magnetos that fire."""
    return max(f.early_timing_left * (left > 0.0), f.early_timing_right * (right > 0.0))


@njit
def switch_position(c):
    """Return the ignition switch; two lanes count as left (A) and right (B)."""
    lanes = (c.lane_a > 0.5) + 2.0 * (c.lane_b > 0.5)
    return max(c.mag, lanes)


@njit
def firing(left, right, f, p):
    """Return (share of cycles that fire, their work against two plugs, their wall heat against two plugs)."""
    both = left * right
    left_only = left * (1.0 - right)
    right_only = right * (1.0 - left)
    fires = both + left_only + right_only
    if fires <= 0.0:
        return 0.0, 1.0, 1.0
    late = min(f.late_timing_left, f.late_timing_right)  # with two plugs the earlier one leads
    work = (
        both * (1.0 - _LATE_COSTS_BOTH * late)
        + left_only * (p.one_plug_left_work - _LATE_COSTS * f.late_timing_left + _EARLY_GAINS * f.early_timing_left)
        + right_only * (p.one_plug_right_work - _LATE_COSTS * f.late_timing_right + _EARLY_GAINS * f.early_timing_right)
    ) / fires
    wall = (both * (1.0 - _LATE_COOLS * late) + (left_only + right_only) * p.one_plug_wall_heat) / fires
    return fires, work, wall * (1.0 + _EARLY_HEATS * early(left, right, f))
