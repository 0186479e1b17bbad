"""Two magnetos, one plug of each in every cylinder: which spark, and what one plug alone costs.

A ground lead that is open lets its magneto fire on when the switch would stop it: position L grounds the right one.
"""

from numba import njit

from .deposits import missed_share

OFF, LEFT, RIGHT, BOTH = 0, 1, 2, 3
_SPARK_FROM_RPM = 45.0


@njit
def spark_share(switch, rpm, left, s, f, cylinder):
    """Return the share of sparks (0 to 1) that this cylinder's left or right plug gives."""
    clean = 1.0 - missed_share(s.fouled_left[cylinder] if left else s.fouled_right[cylinder])
    if rpm < _SPARK_FROM_RPM:
        return 0.0
    if left:
        wanted = switch == LEFT or switch == BOTH or f.open_ground_left >= 0.5
        return wanted * clean * (1.0 - f.dead_magneto_left) * (1.0 - f.dead_plug_left[cylinder])
    wanted = switch == RIGHT or switch == BOTH or f.open_ground_right >= 0.5
    return wanted * clean * (1.0 - f.dead_magneto_right) * (1.0 - f.dead_plug_right[cylinder])


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
    work = (
        both
        + left_only * (p.one_plug_left_work - 0.10 * f.late_timing_left)
        + right_only * (p.one_plug_right_work - 0.10 * f.late_timing_right)
    ) / fires
    wall = (both + (left_only + right_only) * p.one_plug_wall_heat) / fires
    return fires, work, wall
