"""Where the heat goes in rich mixtures, against an equilibrium calculation.

`cantera` with its GRI-3.0 mechanism; the fuel is a mixture of propane and ethylene with H/C = 2.2, near avgas.
Conditions: reactants at 298.15 K and 1 atm, products' composition frozen at the equilibrium of 1,700 K, enthalpies
above 298.15 K with water as vapour.
"""

import cantera as ct
import numpy as np
import pytest

from jemmon.core.bench.combustion import (
    HEAT_PER_KG_AIR_J,
    exhaust_gas_enthalpy,
    exhaust_gas_temperature,
    unburnt_heat,
)

# propane C3H8 and ethylene C2H4 in the share that gives H/C = 2.2: (8a + 4b) / (3a + 2b) = 2.2 at b = 3.5 a
FUEL = "C3H8:1.0, C2H4:3.5"
FROZEN_K = 1700.0
COOL_K = 298.15


def frozen_gas(equivalence_ratio: float) -> ct.Solution:
    gas = ct.Solution("gri30.yaml")
    gas.set_equivalence_ratio(equivalence_ratio, FUEL, "O2:1, N2:3.76")
    gas.TP = FROZEN_K, ct.one_atm
    gas.equilibrate("TP")
    return gas


def chemical_heat_j_per_kg(gas: ct.Solution) -> float:
    """Heat that the gas could still give by burning out to CO2 and water vapour, from enthalpies of formation."""
    burn_out = {"CO": 283.0e6, "H2": 241.8e6, "CH4": 802.3e6}  # J/kmol, NIST values
    moles = {name: gas[name].X[0] for name in burn_out}
    return sum(moles[name] * heat for name, heat in burn_out.items()) / gas.mean_molecular_weight


def uneven_unburnt_heat_j_per_kg_air(equivalence_ratio: float, scatter: float = 0.08) -> float:
    """Average the equilibrium over a charge that is uneven inside the cylinder (Gauss-Hermite, 9 points)."""
    points, weights = np.polynomial.hermite_e.hermegauss(9)
    mixtures = equivalence_ratio + scatter * points
    heats = [chemical_heat_j_per_kg(frozen_gas(phi)) * (1 + 0.0667 * phi) for phi in mixtures]
    return float(np.dot(weights, heats) / weights.sum())


@pytest.mark.parametrize("equivalence_ratio", [0.75, 0.9, 1.0, 1.1, 1.2, 1.3, 1.4, 1.5])
def test_unburnt_heat_against_equilibrium(equivalence_ratio):
    """Within 5 % of the fuel's heat; the rest is what walls and crevices quench, 1 to 2.5 % (Heywood, from memory)."""
    excess = unburnt_heat(equivalence_ratio) - uneven_unburnt_heat_j_per_kg_air(equivalence_ratio)
    assert 0.0 <= excess / (HEAT_PER_KG_AIR_J * equivalence_ratio) <= 0.05


@pytest.mark.parametrize("equivalence_ratio", [1.2, 1.3, 1.4, 1.5])
def test_unburnt_heat_of_rich_mixtures_grows_as_equilibrium_says(equivalence_ratio):
    """Between two rich mixtures the quenched part cancels: within 5 % of the equilibrium's growth from 1.1."""
    ours = unburnt_heat(equivalence_ratio) - unburnt_heat(1.1)
    theirs = uneven_unburnt_heat_j_per_kg_air(equivalence_ratio) - uneven_unburnt_heat_j_per_kg_air(1.1)
    assert ours == pytest.approx(theirs, rel=0.05)


@pytest.mark.parametrize("equivalence_ratio", [0.75, 0.8, 0.9, 1.0, 1.1, 1.2, 1.3, 1.4, 1.5])
@pytest.mark.parametrize("temperature_k", [900.0, 1100.0, 1300.0])
def test_enthalpy_of_exhaust_gas(equivalence_ratio, temperature_k):
    """Within 5 % of the frozen equilibrium composition at exhaust temperatures."""
    gas = frozen_gas(equivalence_ratio)
    gas.TP = temperature_k, None
    hot = gas.enthalpy_mass
    gas.TP = COOL_K, None
    theirs = hot - gas.enthalpy_mass
    assert exhaust_gas_enthalpy(temperature_k, equivalence_ratio) == pytest.approx(theirs, rel=0.05)


@pytest.mark.parametrize("equivalence_ratio", [0.8, 1.0, 1.4])
def test_exhaust_temperature_is_the_inverse_of_its_enthalpy(equivalence_ratio):
    for temperature_k in np.linspace(400, 1500, 7):
        enthalpy = exhaust_gas_enthalpy(temperature_k, equivalence_ratio)
        assert exhaust_gas_temperature(enthalpy, equivalence_ratio) == pytest.approx(temperature_k, rel=1e-9)
