"""Aircraft: which there are, a profile's plain view, and profiles in and out as JSON."""

from flask import Blueprint, Response, current_app, request
from werkzeug.exceptions import Conflict

from ..app.hangar import Hangar
from ..app.profile_page import page_of
from ..app.services import NotShipped, Why, change_limit, restore_shipped, starts_of, take_profile, trends_of
from ..core.aircraft import Profile
from ..core.aircraft.profile import canonical_json
from ..core.power.plan import plan
from ..core.screen.aircraft import (
    AircraftList,
    MethodsPage,
    PlanPage,
    ProfilePage,
    StartsPage,
    TrendsPage,
    aircraft_line,
    methods_page,
)
from ..core.screen.lists import Named
from ..feeds.practice_faults import faults_of
from ..store import flights
from .answers import FaultList, ProfileTaken
from .bodies import BackToShipped, ChangedLimit, PlanAsked, ProfileAsked, UseAsked
from .contract import route

bp = Blueprint("aircraft", __name__, url_prefix="/api")
_USUAL_CRUISE_FT = 5000.0


def _hangar() -> Hangar:
    hangar: Hangar = current_app.extensions["hangar"]
    return hangar


@route(bp, "GET", "/aircraft", answer=AircraftList)
def list_aircraft() -> AircraftList:
    """All known aircraft."""
    hangar = _hangar()
    known = tuple(aircraft_line(profile) for profile in hangar.profiles.values())
    not_read = tuple(aircraft_line(profile) for profile in hangar.not_read)
    with hangar.database.reading() as db:
        last = tuple(flights.last_flown(db))
    return AircraftList(aircraft=known, not_read=not_read, damage=hangar.damage, last=last)


@route(bp, "GET", "/aircraft/<profile_id>", answer=ProfilePage)
def show_aircraft(profile_id: str) -> ProfilePage:
    """One aircraft in plain view: every limit with its source, every list with its items, what is put back."""
    return _page(_hangar().profile(profile_id))


def _page(profile: Profile) -> ProfilePage:
    return page_of(_hangar().database, profile)


@route(bp, "POST", "/aircraft/<profile_id>/limits/<name>", body=ChangedLimit, answer=ProfilePage, fails=(503,))
def set_limit(profile_id: str, name: str, body: ChangedLimit) -> ProfilePage:
    """Let another figure count as a limit of this aircraft, with its source, the reason and who says so. Flights keep the profile
    that they were flown with."""
    hangar = _hangar()
    why = Why(source=body.source, reason=body.reason, who=body.who)
    profile = change_limit(hangar.database, hangar.profile(profile_id), name, body.value, why)
    hangar.profiles[profile.id] = profile
    return _page(profile)


@route(bp, "POST", "/aircraft/<profile_id>/shipped", body=BackToShipped, answer=ProfilePage, fails=(409, 503))
def back_to_shipped(profile_id: str, body: BackToShipped) -> ProfilePage:
    """Bring a limit of this aircraft, or its whole profile, back to what ships."""
    hangar = _hangar()
    try:
        profile = restore_shipped(hangar.database, hangar.profile(profile_id), body.limit)
    except NotShipped as error:
        raise Conflict(str(error)) from error
    hangar.profiles[profile.id] = profile
    return _page(profile)


@route(bp, "GET", "/aircraft/<profile_id>/faults", answer=FaultList)
def show_faults(profile_id: str) -> FaultList:
    """What may be wrong with this aircraft's simulated engine, to practise with."""
    return FaultList(faults=faults_of(_hangar().profile(profile_id)))


@route(bp, "GET", "/aircraft/<profile_id>/starts", query=UseAsked, answer=StartsPage)
def show_starts(profile_id: str, query: UseAsked) -> StartsPage:
    """The starts of this aircraft: one row a start, and what book and advice say over the temperature."""
    hangar = _hangar()
    return starts_of(hangar.database, hangar.profile(profile_id), query.practice)


@route(bp, "GET", "/methods", answer=MethodsPage)
def show_methods() -> MethodsPage:
    """How each verdict is made, without the figures of an aircraft."""
    return methods_page()


@route(bp, "GET", "/aircraft/<profile_id>/methods", answer=MethodsPage)
def show_methods_of(profile_id: str) -> MethodsPage:
    """How each verdict is made, with the limits of this aircraft that it uses."""
    return methods_page(_hangar().profile(profile_id))


@route(bp, "GET", "/aircraft/<profile_id>/trends", query=UseAsked, answer=TrendsPage)
def show_trends(profile_id: str, query: UseAsked) -> TrendsPage:
    """Each figure of this aircraft over its flights, with its limit and what it does."""
    hangar = _hangar()
    return trends_of(hangar.database, hangar.profile(profile_id), query.practice)


@route(bp, "GET", "/aircraft/<profile_id>/plan", query=PlanAsked, answer=PlanPage)
def show_plan(profile_id: str, query: PlanAsked) -> PlanPage:
    """What to set for a power at an altitude, what full throttle still gives, and the climb there."""
    profile = _hangar().profile(profile_id)
    cruise_ft = profile.schedule.get("cruise_ft")
    palt_ft = (cruise_ft or _USUAL_CRUISE_FT) if query.palt_ft is None else query.palt_ft
    made = plan(profile, query.pct, palt_ft, query.oat_c, query.target or None, query.fuel_gal, query.wind_kt)
    targets = tuple(Named(id=t.id, title=t.name) for t in profile.lean_targets)
    return PlanPage(aircraft=aircraft_line(profile), targets=targets, cruise_ft=cruise_ft, plan=made)


@route(bp, "GET", "/aircraft/<profile_id>/profile.json", answer=dict)
def export_profile(profile_id: str) -> Response:
    """The profile as JSON in canonical form: read in again it is the same, byte for byte."""
    profile = _hangar().profile(profile_id)
    headers = {"Content-Disposition": f'attachment; filename="{profile.id}.json"'}
    return Response(canonical_json(profile.body), mimetype="application/json", headers=headers)


@route(
    *(bp, "POST", "/aircraft"),
    body=dict,
    query=ProfileAsked,
    answer=ProfileTaken,
    statuses=(201,),
    fails=(409, 503),
    is_raw=True,
)
def import_profile(query: ProfileAsked) -> ProfileTaken:
    """Read a profile in; refused whole, with the place, if anything in it is wrong. A flight keeps the one it began with. One that
    would take the place of an aircraft that ships is asked back (409), unless `replace` says that it may."""
    hangar = _hangar()
    profile = take_profile(hangar.database, request.get_data(), query.replace)
    hangar.profiles[profile.id] = profile
    return ProfileTaken(aircraft=aircraft_line(profile), content_hash=profile.content_hash)
