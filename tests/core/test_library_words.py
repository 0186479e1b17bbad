"""What the shipped lists say: the words of the trade, one reason each, no figure without its mark, and nothing that a kind must not
lack."""

import re

import pytest

from tests.core.builders import PROFILES
from tests.core.test_words import NOT_SAID, said_wrong

A_UNIT = re.compile(r"(?<![\d|{])\b\d[\d,.]*\s?(°F|°C|psi|inHg|kt|mph)\b")
# by ../shared/lists.md: a few of the items of each phase that no list may lack, and those of a kind
ALL = {"walk_round", "oil_quantity", "fuel_dipped", "harness", "papers", "breakers", "master_on", "beacon", "clear", "oil_pressure",
       "avionics", "altimeter", "transponder", "briefing", "time_off", "landing_weather", "fuel_l", "lights_a", "loads_off",
       "master_off", "log", "last_look"}  # fmt: skip
KIND = {
    "a-trainer": {"cold_prime", "heat_check", "idle", "heat_f"},
    "b-tourer": {"gear_emergency", "gyro_pump", "oxygen", "static", "cowl_open", "pump_l", "ga_power", "level_off"},
    "d-twin": {"cold_prime", "trims", "greens", "xfeed_on", "feather"},
    "e-rotor": {"rotor_brake", "clutch_out_s", "friction_test", "vne_day", "gov_check"},
    "f-radial": {"energise", "cold_prime", "firewall", "gyros", "intercooler", "nose_pin"},
    "g-vee": {"wobble", "blower_check", "gear_pump", "drop_tank", "pitch_lock", "rad_open", "power_l"},
    "h-geared": {"lanes_on", "backup_pump", "strobe_h", "prop_auto", "parachute_pin", "lanes_off"},
    "i-turbo": {"fuel_counter", "oxygen", "xfeed_on", "autopilot_test"},
    "j-glass": {"standby_test", "screens_boot", "engine_page", "two_batteries", "reversion", "mix_check"},
    "k-hover": {"heli_valve", "mix_cut", "mixture_in", "friction_test", "clutch_out_s"},
    "l-field": {"stick_aft", "mix_field", "mix_best", "cabin_doors"},
    "m-mixed": {"mags", "fuel_on"},
    "n-amphib": {
        "hull",
        "bilge",
        "life_jackets",
        "wobble_on",
        "six_blades",
        "ballast",
        "gear_l_water",
        "gear_l_land",
        "induction_t",
    },
}
EVERYONE = pytest.mark.parametrize("profile", PROFILES.values(), ids=list(PROFILES))


@EVERYONE
def test_it_is_said_in_the_words_of_the_trade(profile):
    texts = [t for i in profile.items.values() for t in (i.challenge, i.response, i.why, i.caution or "")]
    texts += [step for drill in profile.body["emergency"] for step in drill["steps"]]
    wrong = [text for text in texts for pattern in NOT_SAID if said_wrong(text, pattern)]
    assert not wrong


@EVERYONE
def test_figures_have_marks_that_follow_the_pilots_units(profile):
    texts = [t for i in profile.items.values() for t in (i.response, i.why)]
    texts += [step for drill in profile.body["emergency"] for step in drill["steps"]]
    assert not [text for text in texts if A_UNIT.search(text)]


@EVERYONE
def test_nothing_is_missing_that_its_kind_works_through(profile):
    has = {item.of for item in profile.items.values()}
    assert (ALL | KIND[profile.id]) - has == set()


def test_no_list_of_the_high_field_says_rich():
    field = PROFILES["l-field"]
    said = [item.response for item in field.items.values() if item.challenge.startswith("Mixture")]
    assert said
    assert not [words for words in said if words == "Rich" or words.startswith("Rich,")]


@EVERYONE
def test_each_system_has_its_emergency_card(profile):
    titles = {drill["title"] for drill in profile.body["emergency"]}
    assert {
        "Fire while starting",
        "Carbon monoxide",
        "Alternator fails",
        "Oil pressure low",
        "Electrical fire, smoke",
    } <= titles
    assert sum(drill.get("when") == "power_loss" for drill in profile.body["emergency"]) == 1
    kind = profile.engine["propeller"]
    assert ("Runaway propeller" in titles) == (kind == "constant_speed")
    assert ("Governor fails" in titles) == (kind == "rotor")
    assert ("Engine fails after lift-off" in titles) == (len(profile.engines) == 2)


def has(profile):
    """Which systems a type has, by its levers, tanks and lists; what is named in a text is the pattern."""
    levers, items = set(profile.bench["levers"]), {item.of for item in profile.items.values()}
    rotor = profile.engine["propeller"] == "rotor"
    return {
        r"pump on|pump off|fuel pump": bool(levers & {"pump", "backup_pump"}),
        r"carburettor.heat": "carb_heat" in levers,
        r"alternate air": "alt_air" in items,
        r"the propeller|propeller lever": "prop" in levers,
        r"feather": len(profile.engines) == 2,
        r"gear handle": "gear_down" in items or "gear_l" in items or "gear_l_land" in items,
        r"crossfeed": "crossfeed" in levers,
        r"mixture": "mixture" in levers,
        r"fullest tank": len(profile.body["fuel"]["tanks"]) > 1,
        r"boost.control": "boost_auto" in items,
        r"standby.battery": "standby_test" in items,
        r"quadrant|glide": not rotor,
        r"autorotat|collective": rotor,
    }


@EVERYONE
def test_no_text_names_a_control_that_the_type_has_not(profile):
    """A confusion with a lever that is not there, or a drill that asks for one, is worse than none."""
    texts = [t for i in profile.items.values() for t in (i.challenge, i.response, i.where or "", i.mistaken_for or "")]
    texts += [step for drill in profile.body["emergency"] for step in drill["steps"]]
    texts += [step for phase in profile.phases for one in phase.lists for step in one.flow]
    absent = [pattern for pattern, is_there in has(profile).items() if not is_there]
    assert not [text for text in texts for pattern in absent if re.search(pattern, text, re.IGNORECASE)]
