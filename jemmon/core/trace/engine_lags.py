"""How fast an engine's RPM follows what is done to it: nobody knows beforehand, so that each lag has its likelihood."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

# lags to try [s], the usual one and the spread of its logarithm: blades of wood or metal, short or long (common practice)
_LAGS_S = (0.18, 0.25, 0.33, 0.43, 0.56, 0.73, 0.95, 1.25)
_USUAL_LAG_S, _LAG_SPREAD = 0.5, 0.5
# of a large propeller, whose type says about how slow: two of one type differ by blades and hub (common practice)
_SLOW_SCALE, _LARGE_LAGS_S, _LARGE_LAG_SPREAD = 2.0, (*_LAGS_S, 1.6), 0.25
# of a rotor, which slows so slowly that no dwell tells how: the type's own, closely; or seldom far less, where
# the engine runs without it (common practice; how seldom is our own choice)
ROTOR_SCALE, _OWN_LAGS, _OWN_LAG_S, _OWN_LAG_SPREAD = 6.0, (0.81, 0.87, 0.93, 0.97, 1.0, 1.04, 1.1, 1.2), 0.27, 0.05
_WITHOUT_ROTOR, _SELDOM = (0.17, 0.24, 0.34), 0.002
# hot air comes through the intake with a lag of its own [s]
_AIR_LAGS_S, _USUAL_AIR_S, _AIR_SPREAD, _AIR_LATE_S = (0.5, 0.8, 1.3, 2.0, 3.2, 5.0, 8.0, 12.0), 1.0, 0.9, 1.3
# in lags of the engine: how long before its half a fall had begun at most, and after the half of its return it has settled, of an
# exponential (arithmetic); what air adds to the first [s] (common practice)
BEGUN_LAGS, _SETTLED_LAGS, _AIR_BEGUN_S = 0.8, 3.0, 1.0


@dataclass(frozen=True, slots=True)
class Lags:
    """Lags to try [s] and how likely each is (shape (lags,)); `hot_air` are those of the air, behind the engine's `engine_s`."""

    each_s: np.ndarray
    weight: np.ndarray
    hot_air: bool = False
    engine_s: float = 0.0

    @classmethod
    def usual(cls, lag_scale: float) -> "Lags":
        """Return what is known before: of a light propeller little, of a large one more, of a rotor much. `lag_scale` is against a
        light propeller."""
        if lag_scale < _SLOW_SCALE:
            return cls._spread(np.array(_LAGS_S), _USUAL_LAG_S, _LAG_SPREAD)
        if lag_scale < ROTOR_SCALE:
            return cls._spread(np.array(_LARGE_LAGS_S), lag_scale * _OWN_LAG_S, _LARGE_LAG_SPREAD)
        with_rotor = cls._spread(np.array(_OWN_LAGS) * lag_scale * _OWN_LAG_S, lag_scale * _OWN_LAG_S, _OWN_LAG_SPREAD)
        without_s, seldom = np.array(_WITHOUT_ROTOR) * lag_scale * _OWN_LAG_S, np.full(len(_WITHOUT_ROTOR), _SELDOM)
        return cls(np.append(without_s, with_rotor.each_s), np.append(seldom, with_rotor.weight * (1 - seldom.sum())))

    @classmethod
    def of_hot_air(cls, engine: "Lags") -> "Lags":
        """Return those of hot air, behind an engine whose own are known."""
        made = cls._spread(np.array(_AIR_LAGS_S), _USUAL_AIR_S, _AIR_SPREAD)
        return replace(made, hot_air=True, engine_s=engine.of_engine_s)

    @classmethod
    def _spread(cls, each_s: np.ndarray, usual_s: float, spread: float) -> "Lags":
        weight = np.exp(-0.5 * (np.log(each_s / usual_s) / spread) ** 2)
        return cls(each_s, weight / weight.sum())

    def given(self, says: Sequence[np.ndarray]) -> "Lags":
        """Return them with what other falls of the same engine say (likelihoods, each of shape (lags,))."""
        weight = (
            self.weight * np.prod([one / max(one.max(), 1e-300) for one in says], axis=0) if len(says) else self.weight
        )
        return replace(self, weight=weight / weight.sum()) if weight.sum() > 0 else self

    @property
    def of_engine_s(self) -> float:
        """The likeliest lag of the engine itself [s]."""
        return self.engine_s if self.hot_air else float(np.exp(self.weight @ np.log(self.each_s)))

    @property
    def begun_s(self) -> float:
        """How long before its half a fall had begun [s]."""
        return BEGUN_LAGS * self.of_engine_s + (_AIR_BEGUN_S if self.hot_air else 0.0)

    @property
    def settled_s(self) -> float:
        """How long after the half of its return a fall has come back [s]."""
        return _SETTLED_LAGS * self.of_engine_s

    @property
    def comes_slowly(self) -> bool:
        """Whether hot air, and not a rotor, may be what is seen to come slowly."""
        return self.hot_air and self.engine_s < ROTOR_SCALE * _OWN_LAG_S

    @property
    def late_s(self) -> np.ndarray:
        """How late the needle shows the cause at most [s] (lags,): half of the way down, and for air the lever and the door too."""
        return _AIR_LATE_S + 0.8 * self.engine_s + self.each_s if self.hot_air else 0.7 * self.each_s + 0.05
