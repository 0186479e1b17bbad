"""How each verdict is made, in a pilot's words: what is measured, what each word rests on, and where that comes from.

The page of methods and the tap on a verdict show these; docs/method.md has the same for those who carry the code on."""

from dataclasses import dataclass
from typing import Any

from ..aircraft import Profile
from ..trace.finding import INCOMPLETE, LOOK, STOP, UNKNOWN, WITHIN

_PRACTICE, _TYPE = "common practice", "type"
_ICE_BULLETIN = "published: FAA SAIB CE-09-35"


@dataclass(frozen=True, slots=True)
class Rule:
    """One verdict: its word, what it is given for, and the source of that."""

    verdict: str
    given_for: str
    source: str


@dataclass(frozen=True, slots=True)
class Method:
    """How one kind of finding is made. `limits` names the profile's limits that it uses, those that the profile has."""

    kind: str
    title: str
    measured: str
    rules: tuple[Rule, ...]
    limits: tuple[str, ...] = ()

    def to_json(self, profile: Profile | None = None) -> dict[str, Any]:
        """Return plain data, with the figures of one aircraft where a profile is given."""
        known = profile.limits if profile else {}
        return {
            "kind": self.kind,
            "title": self.title,
            "measured": self.measured,
            "rules": [{"verdict": r.verdict, "given_for": r.given_for, "source": r.source} for r in self.rules],
            "limits": [
                {"name": name, "value": known[name].value, "source": known[name].source, "note": known[name].note}
                for name in self.limits
                if name in known
            ],
        }


_NOT_BACK = Rule(INCOMPLETE, "the end of the check was not seen: it proves nothing", _PRACTICE)

METHODS: tuple[Method, ...] = (
    Method(
        "start",
        "Start",
        "It has fired when RPM passes the type's firing speed, and runs when it stays there. Oil pressure counts from that "
        "moment to the type's least. The bus is read while cranking, and again from 20 s after it fired.",
        (
            Rule(WITHIN, "oil pressure inside its time", _TYPE),
            Rule(STOP, "oil pressure late, or none when its time is over", _TYPE),
            Rule(LOOK, "the starter turned longer than its limit", _TYPE),
            Rule(LOOK, "the bus falls too far while cranking, or nothing charges afterwards", _TYPE),
            Rule(INCOMPLETE, "it stopped before oil pressure showed", _PRACTICE),
            Rule(UNKNOWN, "there is no oil-pressure reading", _PRACTICE),
        ),
        (
            "oil_pressure_min_psi",
            "oil_pressure_time_s",
            "oil_pressure_time_cold_s",
            "starter_on_max_s",
            "volts_crank_min_v",
            "volts_charging_min_v",
            "alt2_within_s",
        ),
    ),
    Method(
        "warm_up",
        "Warm-up",
        "From the first fire to the first high power: a third more than the speed of its first minute, held for 4 s. The "
        "oil temperature then is held against the type's gate.",
        (
            Rule(WITHIN, "the oil has passed the gate", _TYPE),
            Rule(LOOK, "power came up before the oil passed the gate", _TYPE),
            Rule(UNKNOWN, "no oil temperature, or no gate", _PRACTICE),
        ),
        ("oil_t_runup_min_f",),
    ),
    Method(
        "mag_check",
        "Magnetos",
        "A drop is the settled RPM on both before it, minus the settled RPM on one side; before, fall and return are fitted "
        "at once with the engine's own lag, so that it need not be waited for. The plus-or-minus is what the fit leaves "
        "open and the gusts; it covers the truth in more than nine of ten (docs/benchmarks.md). The switch names the sides; "
        "without it they are first and second until a tap names them. A second or less on one side is a slip, no check.",
        (
            Rule(WITHIN, "both drops and their difference inside the limits, and back on both", _TYPE),
            Rule(
                STOP,
                "a drop beyond its limit. Rough, or one EGT falls: a plug on that side. Smooth: late timing, or "
                "mixture",
                _TYPE,
            ),
            Rule(
                STOP,
                "no drop on one side: the other magneto is not going off, and may be live with the switch off: "
                "stay clear of the propeller",
                _PRACTICE,
            ),
            Rule(STOP, "RPM below 45 % of before: the engine quits on that side", _PRACTICE),
            Rule(
                LOOK,
                "one EGT falls while the others rise: the plug of that cylinder on that side. One that neither "
                "rises nor falls ran on this side alone before: its other plug",
                _PRACTICE,
            ),
            Rule(LOOK, "rough by the pilot's word", _PRACTICE),
            Rule(LOOK, "the two drops differ by more than the limit", _TYPE),
            Rule(LOOK, "back on both, RPM is not what it was; or the check was made far from the type's speed", _TYPE),
            Rule(INCOMPLETE, "one side only, or not seen back on both", _PRACTICE),
            Rule(UNKNOWN, "RPM stays and every EGT rises: a governor holds RPM and hides the drop", _PRACTICE),
        ),
        (
            "mag_drop_max_rpm",
            "mag_drop_max_left_rpm",
            "mag_drop_max_right_rpm",
            "mag_drop_max_pct",
            "mag_drop_min_rpm",
            "mag_difference_max_rpm",
            "mag_restored_within_rpm",
            "runup_rpm",
            "runup_band_rpm",
        ),
    ),
    Method(
        "carb_heat_check",
        "Carburettor heat",
        "The same fit, with a lag of its own for the air: RPM before, hot, and cold again.",
        (
            Rule(WITHIN, "RPM falls when hot and comes back when cold", _TYPE),
            Rule(STOP, "it hardly falls: the door may not move", _TYPE),
            Rule(LOOK, "RPM recovers while hot, or ends above what it was: there was ice", _ICE_BULLETIN),
            Rule(LOOK, "it falls too much, or does not come back", _TYPE),
            _NOT_BACK,
        ),
        ("carb_heat_drop_min_rpm", "carb_heat_drop_max_rpm", "carb_heat_ice_gain_rpm", "carb_heat_restored_within_rpm"),
    ),
    Method(
        "prop_cycle",
        "Propeller",
        "Each cycle of the lever: how far RPM falls and how fast, whether it comes back, how far oil pressure dips. Cycles "
        "within half a minute are one check. Oil pressure that does not dip is told and not judged: electric hubs show none.",
        (
            Rule(WITHIN, "RPM falls and comes back", _PRACTICE),
            Rule(LOOK, "less than 50 RPM: the pitch does not change", _PRACTICE),
            Rule(
                LOOK,
                "more than 2.8 s to four fifths of the fall: the oil in the hub is cold, or the governor is slow",
                _PRACTICE,
            ),
            Rule(LOOK, "in fine pitch again, RPM is not within 50 of what it was", _PRACTICE),
            _NOT_BACK,
        ),
    ),
    Method(
        "feather_check",
        "Feathering",
        "How fast RPM falls with the lever in feather, how low it gets, and whether it comes back.",
        (
            Rule(WITHIN, "it falls at the type's pace (else 200 RPM a second) and comes back", _TYPE),
            Rule(LOOK, "slower: too slow to feather a dead engine in time", _TYPE),
            Rule(LOOK, "below half of its speed before the lever came out, or not back", _PRACTICE),
            _NOT_BACK,
        ),
        ("feather_check_rpm", "feather_fall_min_rpm_s"),
    ),
    Method(
        "alternator_check",
        "Alternator",
        "The bus before, with the alternator off, and on again.",
        (
            Rule(WITHIN, "the bus falls by 0.6 V at least and charges again", _TYPE),
            Rule(LOOK, "it does not fall: the alternator gave nothing before", _PRACTICE),
            Rule(LOOK, "it does not charge again", _TYPE),
            _NOT_BACK,
        ),
        ("volts_charging_min_v", "volts_max_v"),
    ),
    Method(
        "mixture_check",
        "Mixture",
        "How far fuel flow falls and EGT rises when the mixture is leaned on the ground.",
        (
            Rule(WITHIN, "fuel flow falls and EGT rises: the mixture answers", _PRACTICE),
            Rule(LOOK, "it hardly answers: control or cable", _PRACTICE),
            _NOT_BACK,
        ),
    ),
    Method(
        "gauges",
        "Gauges",
        "The median of the last 14 s at run-up speed, against the type's ranges.",
        (
            Rule(WITHIN, "every gauge in its range", _TYPE),
            Rule(STOP, "oil pressure below its range", _TYPE),
            Rule(LOOK, "suction, bus or fuel pressure outside; oil pressure above, with warm oil", _TYPE),
        ),
        (
            "suction_min_inhg",
            "suction_max_inhg",
            "volts_charging_min_v",
            "volts_max_v",
            "oil_pressure_min_psi",
            "oil_pressure_max_psi",
            "fuel_pressure_min_psi",
            "fuel_pressure_max_psi",
        ),
    ),
    Method(
        "run_up_heat",
        "Temperature",
        "After 90 s and more at run-up speed: how near the hottest head (else coolant, oil) is to the figure to act on, and "
        "how fast it rises.",
        (Rule(LOOK, "within 15 °F of it and rising by more than 4 °F a minute", _TYPE),),
        ("cht_act_f", "coolant_t_max_f", "oil_t_max_f"),
    ),
    Method(
        "clutch",
        "Clutch",
        "From the clutch to the first turn of the rotor.",
        (Rule(WITHIN, "the rotor turns in time", _TYPE), Rule(STOP, "it does not", _TYPE)),
        ("clutch_s",),
    ),
    Method(
        "freewheel_check",
        "Freewheel",
        "How far engine and rotor part in the 6 s after the throttle is chopped.",
        (
            Rule(WITHIN, "by 3 % and more: the freewheel lets go", _PRACTICE),
            Rule(STOP, "they stay together: no autorotation", _PRACTICE),
        ),
    ),
    Method(
        "governor_check",
        "Governor",
        "What the engine is brought to after the governor is switched on.",
        (
            Rule(WITHIN, "within 3 % of the type's figure", _TYPE),
            Rule(LOOK, "farther off", _PRACTICE),
        ),
        ("rpm_pct_max_pct",),
    ),
    Method(
        "idle_check",
        "Idle",
        "The median from 2 s after the throttle closed, on the ground.",
        (
            Rule(WITHIN, "in the type's range", _TYPE),
            Rule(LOOK, "below or above it", _TYPE),
            Rule(STOP, "the engine stops", _PRACTICE),
        ),
        ("idle_min_rpm", "idle_max_rpm"),
    ),
    Method(
        "power_check",
        "Full power",
        "The median of RPM from 3 s after full throttle, for 8 s at the most and below 35 kt: held on the brakes or rolling.",
        (
            Rule(WITHIN, "in the type's static range", _TYPE),
            Rule(STOP, "below: the engine does not make its power", _TYPE),
            Rule(LOOK, "above: needle, propeller or governor", _TYPE),
        ),
        ("static_min_rpm", "static_max_rpm"),
    ),
    Method(
        "shutdown_check",
        "Idle mixture",
        "How far RPM rises before the engine dies, when the mixture is cut off slowly at idle.",
        (
            Rule(WITHIN, "10 to 50 RPM", _PRACTICE),
            Rule(LOOK, "less: the idle mixture is lean; more: it is rich", _PRACTICE),
            Rule(UNKNOWN, "cut off too quickly to read", _PRACTICE),
        ),
    ),
    Method(
        "lean",
        "Leaning",
        "The EGT of every cylinder is fitted against fuel flow at once, each with a peak of its own, all with one lag of the "
        "probe. The first to peak is the leanest cylinder: rich of peak counts from it, lean of peak from the last. Where the "
        "mixture ends is read from the last seconds of fuel flow.",
        (
            Rule(WITHIN, "the mixture rests where its power allows it", _TYPE),
            Rule(
                LOOK,
                "at peak above 65 % power, or lean of it above what the type allows (else 75 %), 3 % granted",
                _TYPE,
            ),
            Rule(
                LOOK,
                "less than 75 °F rich of peak above that power, or less than 35 °F at any: the hottest heads",
                _PRACTICE,
            ),
            Rule(LOOK, "lean of peak with cylinders that peak more than 0.5 gal/h apart", _PRACTICE),
            Rule(LOOK, "at peak, and the power is not known", _PRACTICE),
            Rule(UNKNOWN, "no cylinder was seen to pass its peak", _PRACTICE),
        ),
        ("lean_power_max_pct", "lean_spread_max_gph"),
    ),
    Method(
        "exceedance",
        "Beyond a limit",
        "A limit passed for 3 s and more by more than a needle's own play, on an engine that has run for a minute; each "
        "cylinder by itself; oil pressure above its limit only with warm oil.",
        (
            Rule(
                STOP,
                "RPM, rotor, manifold pressure, head, turbine, coolant or oil temperature above; oil pressure below",
                _TYPE,
            ),
            Rule(LOOK, "oil pressure, fuel pressure or the bus above", _TYPE),
        ),
        (
            "rpm_max",
            "rpm_pct_max_pct",
            "rotor_max_pct",
            "map_max_inhg",
            "cht_max_f",
            "tit_max_f",
            "coolant_t_max_f",
            "oil_t_max_f",
            "oil_pressure_min_psi",
            "oil_pressure_max_psi",
            "fuel_pressure_max_psi",
            "volts_max_v",
        ),
    ),
    Method(
        "trend",
        "Trends",
        "The last figure of each kind and flight; drops brought to the type's run-up RPM in proportion, full throttle to the "
        "standard day (Gagg and Farrar 1934). Slope and level by the medians of all pairs (Theil and Sen), chance by Mann and "
        "Kendall. Never on fewer than five flights.",
        (
            Rule(
                LOOK,
                "a slope that chance does not make, in two flights running, passes the limit in twelve flights or fewer",
                "published: Theil 1950, Sen 1968, Mann 1945, Kendall 1948",
            ),
            Rule(LOOK, "three flights in a row far from at least eight before, for the worse", _PRACTICE),
        ),
    ),
)


def methods(profile: Profile | None = None) -> list[dict[str, Any]]:
    """Return all methods as plain data; with a profile, those of other kinds of aircraft are kept: a record may hold them."""
    return [method.to_json(profile) for method in METHODS]
