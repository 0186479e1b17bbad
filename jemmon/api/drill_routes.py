"""Drills: the list, one begun, its debrief, its moment flown again."""

from datetime import UTC, datetime

from flask import Blueprint, current_app
from werkzeug.exceptions import Conflict

from ..app.hangar import Hangar
from ..app.own_engines import OwnEnginePage
from ..app.practice import (
    BegunDrill,
    DrillsPage,
    begin_again,
    begin_drill,
    debrief_of,
    drills_page,
)
from ..core.drills.debrief import Debrief
from ..core.screen.frame import Frame
from .bodies import DrillAgain, DrillFlight, DrillsAsked, FitEngine
from .contract import route

bp = Blueprint("drills", __name__, url_prefix="/api")


def _hangar() -> Hangar:
    hangar: Hangar = current_app.extensions["hangar"]
    return hangar


@route(bp, "GET", "/drills", query=DrillsAsked, answer=DrillsPage)
def list_drills(query: DrillsAsked) -> DrillsPage:
    """All drills, with what a pilot flew of them and what comes back when."""
    hangar = _hangar()
    return drills_page(hangar.database, hangar.profiles, query.pilot, datetime.now(UTC).date())


@route(bp, "POST", "/drills/<drill_id>/flights", body=DrillFlight, answer=Frame, statuses=(201,), fails=(409,))
def begin_drill_flight(drill_id: str, body: DrillFlight) -> Frame:
    """Begin a drill: a flight on the simulated engine in which something may happen."""
    hangar = _hangar()
    on = hangar.profile(body.aircraft) if body.aircraft else None
    return _begun(begin_drill(drill_id, body.seed, hangar.profiles, on), body.id, body.pilot)


@route(bp, "POST", "/flights/<flight_id>/again", body=DrillAgain, answer=Frame, statuses=(201,), fails=(409,))
def fly_again(flight_id: str, body: DrillAgain) -> Frame:
    """Fly a drill again from a moment of it: a new flight that names the first; nothing of that one changes."""
    return _begun(begin_again(_hangar().database, flight_id, body.from_s), body.id, body.pilot)


def _begun(drill: BegunDrill, flight_id: str, pilot: str) -> Frame:
    hangar = _hangar()
    profile = hangar.profile(drill.drill.aircraft)
    if profile.bench is None:
        raise Conflict(f"{profile.registration} has no simulated engine.")
    return hangar.begin(flight_id, profile, pilot, "bench", 1, drill=drill).frame()


@route(bp, "GET", "/flights/<flight_id>/debrief", answer=Debrief, fails=(409, 503))
def show_debrief(flight_id: str) -> Debrief:
    """What is said after a drill: the one thing to do differently, the score by skill, and one timeline."""
    live = _hangar().live
    if live is not None and live.flight.id == flight_id:
        if not live.state.ended:
            raise Conflict("This drill is going on; end it first.")
        live.write_now()
    return debrief_of(_hangar().database, flight_id)


@route(bp, "GET", "/aircraft/<profile_id>/own-engine", answer=OwnEnginePage)
def show_own_engine(profile_id: str) -> OwnEnginePage:
    """The simulated engine fitted to this aircraft's flights, with what is left between them; nothing is changed."""
    hangar = _hangar()
    return hangar.own_engines.page(hangar.profile(profile_id))


@route(bp, "POST", "/aircraft/<profile_id>/own-engine", body=FitEngine, answer=OwnEnginePage, fails=(409, 503))
def fit_own_engine(profile_id: str, body: FitEngine) -> OwnEnginePage:
    """Let the fitted engine count for practice, as a version of the aircraft; flights keep the one that they were flown with."""
    hangar = _hangar()
    profile = hangar.own_engines.keep(hangar.profile(profile_id), body.who)
    hangar.profiles[profile.id] = profile
    return hangar.own_engines.page(profile)
