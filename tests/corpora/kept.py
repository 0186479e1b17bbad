"""Traces of the simulated engine that many tests read, made once and kept until the bench, the profile or the maker changes."""

import hashlib
import inspect
import os
from collections.abc import Callable
from functools import lru_cache
from pathlib import Path

import numpy as np

import jemmon
from jemmon.core.aircraft import Profile
from jemmon.core.trace import Trace

_FOLDER = Path(__file__).parents[2] / ".stamps" / "traces"


@lru_cache(maxsize=1)
def _bench_hash() -> bytes:
    bench = Path(jemmon.__file__).parent / "core" / "bench"
    return b"".join(path.read_bytes() for path in sorted(bench.glob("*.py")))


def kept_trace(profile: Profile, make: Callable[[Profile], Trace]) -> Trace:
    """Return `make(profile)`, from the disk where it was made before."""
    source = inspect.getsource(inspect.getmodule(make) or make).encode()
    name = hashlib.sha256(b"|".join([_bench_hash(), profile.content_hash.encode(), source])).hexdigest()[:24]
    path = _FOLDER / f"{profile.id}-{make.__name__}-{name}.npz"
    if path.exists():
        with np.load(path, allow_pickle=False) as kept:
            columns = {
                key[2:]: kept[key].astype(object) if key[0] == "w" else kept[key] for key in kept.files if key != "t"
            }
            return Trace(kept["t"], columns)
    trace = make(profile)
    _FOLDER.mkdir(parents=True, exist_ok=True)
    words = {name: values.dtype.kind != "f" for name, values in trace.columns.items()}
    arrays = {f"{'w' if words[k] else 'f'}:{k}": v.astype(str) if words[k] else v for k, v in trace.columns.items()}
    half = path.with_suffix(f".{os.getpid()}.npz")
    np.savez(half, t=trace.time_s, **arrays)
    half.replace(path)
    return trace
