"""An engine, its induction and its propeller, from published relations; every engine drawn is another one.

Air: compressible flow through the throttle (Heywood, appendix C, by its usual ellipse), volumetric efficiency, speed-density.
Power: indicated work of the air less a friction that stays, which is Gagg and Farrar's law of altitude; temperature by SAE
J1349 with an exponent drawn between 0.4 and 1.0. Work against mixture after Taylor's curves. Propeller: torque by the square of
speed, falling with advance. Inertia from the blades' mass and length.
"""

from dataclasses import dataclass, field
from math import exp, pi, sqrt

import numpy as np
from scipy.signal import lfilter

AIR_GAS_J_KG_K, STANDARD_K, STANDARD_PA = 287.05, 288.15, 101_325.0  # ICAO Doc 7488
INHG_PA = 3386.39
STOICHIOMETRIC = 1 / 14.9  # fuel to air of aviation gasoline, by mass (from memory; ASTM D910 gives the fuel)
FUEL_KG_PER_GALLON = 0.72 * 3.7854  # ASTM D910 gives no density; about 0.72 kg/L (cp)
CRITICAL = 0.528
STEP_S = 0.05


def standard_air(palt_ft: float, isa_off_k: float = 0.0) -> tuple[float, float]:
    """Return (pressure [Pa], temperature [K]) at a pressure altitude [ft]. ICAO Doc 7488, troposphere."""
    metres = palt_ft * 0.3048
    return STANDARD_PA * (1 - 2.25577e-5 * metres) ** 5.25588, STANDARD_K - 0.0065 * metres + isa_off_k


@dataclass
class Engine:
    """One engine, warm. Speeds in RPM, temperatures in kelvin, pressures in pascal, fuel in US gal/h."""

    rng: np.random.Generator
    cylinders: int
    governed: bool
    has_heat: bool
    inertia_scale: float = 1.0
    throttle: float = 0.3
    mixture: float = 1.0
    heat: float = 0.0
    pitch: float = 0.0  # 0 on the fine stop, 1 coarse, on the ground
    side: str = "BOTH"
    governs_at_rpm: float | None = None
    palt_ft: float = 500.0
    isa_off_k: float = 0.0
    tas_ms: float = 0.0
    ice: float = 0.0
    fuel_share: float = 1.0
    work_share: float = 1.0
    burns_share: float = 1.0
    lost: dict[str, float] = field(default_factory=dict)  # share of the work that one magneto alone loses, by side

    def __post_init__(self) -> None:
        rng = self.rng
        self.displacement_m3 = self.cylinders * float(rng.uniform(1.15e-3, 1.6e-3))
        self.fills = float(rng.uniform(0.8, 0.9))
        self.temperature_exponent = float(rng.uniform(0.4, 1.0))
        self.rich_phi = float(rng.uniform(1.25, 1.5))
        self.rated_rpm = float(rng.uniform(2400, 2800))
        self.lever_bend = float(rng.uniform(0.7, 1.8))  # fuel flow against lever, not a line
        self.heat_k, self.heat_s = float(rng.uniform(15, 60)), float(rng.uniform(1, 15))
        self.heat_loss = float(rng.uniform(0, 0.06))
        self.best_phi = float(rng.uniform(1.08, 1.2))
        blade_kg, blade_m = float(rng.uniform(2.0, 5.0)), float(rng.uniform(0.82, 0.98))
        blades = int(rng.choice([2, 2, 3]))
        # a tapered blade, its mass towards the hub: about a fifth of m r2 (a rod has a third)
        self.inertia = self.inertia_scale * (blades * blade_kg * blade_m**2 / 5 + 0.15)
        self.warm_k = 0.0  # of the carburettor air above outside
        self.rpm, self.propeller_k, self.friction_nm = 1000.0, 1.0, 0.0
        self._fit()

    def _fit(self) -> None:
        """Set friction and propeller so that wide open on the ground it turns a little less than rated."""
        turns = 0.93 * self.rated_rpm
        torque = self._indicated_nm(turns, 1.0, 1.0)[0]
        self.friction_nm = torque * 0.132 / 1.132  # Gagg and Farrar 1934
        density = STANDARD_PA / AIR_GAS_J_KG_K / STANDARD_K
        self.propeller_k = (torque - self.friction_nm) / (density * (turns * pi / 30) ** 2)

    @property
    def outside(self) -> tuple[float, float]:
        """(pressure [Pa], temperature [K]) outside."""
        return standard_air(self.palt_ft, self.isa_off_k)

    def phi(self) -> float:
        """Return the fuel-air equivalence ratio, before it is divided among the cylinders."""
        kelvin = self.outside[1]
        metered = self.rich_phi * self.mixture**self.lever_bend * self.fuel_share
        return metered * (sqrt((kelvin + self.warm_k) / kelvin) if self.has_heat else 1.0)

    def phi_lever(self, phi: float) -> float:
        """Return the mixture lever that gives this ratio now."""
        return float(np.clip((phi / (self.phi() / self.mixture**self.lever_bend)) ** (1 / self.lever_bend), 0.01, 1.0))

    def _air(self, rpm: float, opening: float) -> tuple[float, float]:
        """Return (manifold pressure [Pa], air flow [kg/s]): what the throttle passes is what the cylinders take."""
        pressure, kelvin = self.outside
        pressure *= 1 - self.heat_loss * self.heat * self.has_heat
        warm = kelvin + self.warm_k
        swallows = self.fills * self.displacement_m3 * rpm / 120
        swallows *= (warm / STANDARD_K) ** (1 - self.temperature_exponent)
        per_pa = swallows / (AIR_GAS_J_KG_K * warm)
        widest = (
            1.75 * self.fills * self.displacement_m3 * self.rated_rpm / 120 * STANDARD_PA / AIR_GAS_J_KG_K / STANDARD_K
        )
        passes = widest * opening * (1 - self.ice) * pressure / STANDARD_PA * sqrt(STANDARD_K / warm)
        a, b = passes, per_pa * pressure
        share = a / max(b, 1e-12)
        if share > CRITICAL:  # b x = a sqrt(1 - ((x - c) / (1 - c))^2)
            c, d = CRITICAL, 1 - CRITICAL
            p, q, r = b * b + a * a / d**2, -2 * a * a * c / d**2, a * a * (c * c / d**2 - 1)
            share = (-q + sqrt(max(q * q - 4 * p * r, 0.0))) / (2 * p)
        return share * pressure, per_pa * share * pressure

    def opening(self) -> float:
        """The throttle's open area, as a share."""
        return 0.03 + 0.97 * self.throttle**1.6

    def _indicated_nm(self, rpm: float, opening: float, work: float) -> tuple[float, float, float]:
        """Return (torque of the gas [N m], manifold pressure [Pa], air flow [kg/s])."""
        rpm = max(rpm, 60.0)
        pressure, air = self._air(rpm, opening)
        phi = self.phi()
        off = phi - self.best_phi
        shape = max(1 - (1.7 if off < 0 else 0.9) * off * off, 0.0)  # Taylor's curves, read roughly
        if phi < 0.55 or phi > 1.9:
            shape = 0.0
        return 0.3 * 43.5e6 * STOICHIOMETRIC * air * shape * work / (rpm * pi / 30), pressure, air

    def _work(self) -> float:
        return (
            self.work_share
            * self.burns_share
            * (1 - self.lost.get(self.side, 0.0))
            * (0.0 if self.side == "OFF" else 1.0)
        )

    def _net_nm(self, rpm: float, gust_ms: float = 0.0) -> float:
        pressure, kelvin = self.outside
        density = pressure / AIR_GAS_J_KG_K / kelvin
        omega = rpm * pi / 30
        advance = (self.tas_ms + gust_ms) / (max(rpm, 100.0) / 60 * 1.9) / 1.1
        loads = self.propeller_k * density * omega**2 * (1 + 0.9 * self.pitch) * max(1 - 0.85 * advance**2, -0.3)
        return self._indicated_nm(rpm, self.opening(), self._work())[0] - self.friction_nm - loads

    def settled_rpm(self) -> float:
        """Return the speed at which it settles as the levers stand; with a governor that holds, that one's."""
        low, high = 200.0, 3600.0
        for _ in range(36):
            middle = (low + high) / 2
            low, high = (middle, high) if self._net_nm(middle) > 0 else (low, middle)
        free = (low + high) / 2
        return min(free, self.governs_at_rpm) if self.governs_at_rpm else free

    def settle(self) -> None:
        """Bring speed and warm air to where they end."""
        self.warm_k = self.heat_k * self.heat * self.has_heat
        self.rpm = self.settled_rpm()

    def set_speed(self, rpm: float) -> None:
        """Set the throttle at which it settles at this speed."""
        low, high = 0.0, 1.0
        for _ in range(30):
            self.throttle = (low + high) / 2
            low, high = (self.throttle, high) if self.settled_rpm() < rpm else (low, self.throttle)
        self.settle()

    def lose_on(self, side: str, drop_rpm: float) -> None:
        """Make one magneto alone cost so many RPM, settled, where the throttle stands now."""
        was, base = self.side, self.settled_rpm()
        low, high = 0.0, 0.9
        self.side = side
        for _ in range(30):
            self.lost[side] = (low + high) / 2
            low, high = (self.lost[side], high) if base - self.settled_rpm() < drop_rpm else (low, self.lost[side])
        self.side = was

    def lag_s(self) -> float:
        """Return the time constant with which speed follows, where it is now."""
        slope = (self._net_nm(self.rpm + 10) - self._net_nm(self.rpm - 10)) / (20 * pi / 30)
        return self.inertia / max(-slope, 1e-6)

    def advance(self, gust_ms: float = 0.0) -> dict[str, float]:
        """Run on for one step; return what is true then."""
        target = self.heat_k * self.heat * self.has_heat
        self.warm_k += (target - self.warm_k) * (1 - exp(-STEP_S / self.heat_s))
        if self.heat > 0.5 and self.ice > 0:
            self.ice *= exp(-STEP_S / 4.0)
        accelerates = self._net_nm(self.rpm, gust_ms) / self.inertia
        rpm = max(self.rpm + accelerates * 30 / pi * STEP_S, 0.0)
        if self.governs_at_rpm and rpm > self.governs_at_rpm - 15:
            rpm = self.rpm + (self.governs_at_rpm - self.rpm) * (1 - exp(-STEP_S / 0.7))
        self.rpm = rpm
        torque, pressure, air = self._indicated_nm(max(rpm, 60.0), self.opening(), self._work())
        burns = air * STOICHIOMETRIC * self.phi() / FUEL_KG_PER_GALLON * 3600
        brake_w = (torque - self.friction_nm) * rpm * pi / 30
        return {"rpm": rpm, "map_inhg": pressure / INHG_PA, "ff_gph": burns, "phi": self.phi(), "brake_w": brake_w}


def dryden(rng: np.random.Generator, steps: int, length_m: float, speed_ms: float, sigma_ms: float) -> np.ndarray:
    """Return gusts along the wind [m/s] (shape (steps,)): Dryden's spectrum, of first order (MIL-F-8785C)."""
    keep = exp(-STEP_S * speed_ms / length_m)
    shocks = rng.standard_normal(steps) * sigma_ms * sqrt(1 - keep * keep)
    first = sigma_ms * float(rng.standard_normal())
    return np.asarray(lfilter([1.0], [1.0, -keep], shocks, zi=[keep * first])[0])
