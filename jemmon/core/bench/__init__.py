"""The simulated engine: levers and air in, instruments out. It knows nothing of screens, threads or clocks.

A mean-value model (no crank-angle detail), stepped at 50 Hz by one compiled function, the same for one engine and for a
batch, so that a seed gives the same engine whatever else runs beside it. SI units inside; the instruments speak the
units of the trace. docs/bench.md draws how the parts hang together.
"""

from .bench import Bench, Sensors
from .faults import FAULTS, fault_names
from .layout import ACTIONS, LEVERS, channel_names, lever_names
from .script import BenchScript, run_script

__all__ = [
    "ACTIONS",
    "FAULTS",
    "LEVERS",
    "Bench",
    "BenchScript",
    "Sensors",
    "channel_names",
    "fault_names",
    "lever_names",
    "run_script",
]
