"""Power: percent of rated by table and by fuel flow, what to set for it, the order of levers, ratings on a clock."""

from .levers import lever_steps, map_allowed_inhg, pressure_ahead
from .percent import PowerReading, mixture_share, power_by_flow_pct, power_by_table_pct, read_power
from .settings import Setting, full_throttle_inhg, settings_for

__all__ = [
    "PowerReading",
    "Setting",
    "full_throttle_inhg",
    "lever_steps",
    "map_allowed_inhg",
    "mixture_share",
    "power_by_flow_pct",
    "power_by_table_pct",
    "pressure_ahead",
    "read_power",
    "settings_for",
]
