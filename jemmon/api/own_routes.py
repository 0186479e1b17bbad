"""An aircraft of one's own: made from a kind, written in drafts, saved in versions, signed; its lists as text, its panel."""

from collections.abc import Mapping
from dataclasses import fields
from datetime import date

from flask import Blueprint, Response, current_app, request
from werkzeug.exceptions import NotFound

from ..app import workshop
from ..app.doors import body_from_text
from ..app.files import utc_now
from ..app.hangar import Hangar
from ..app.panel_photo import MOST_BYTES, photo_from
from ..app.paper import CardAsked, card_pdf
from ..app.profile_page import page_of
from ..app.workshop import Answers, Saying, Told, VersionNotKept
from ..core.aircraft import Profile
from ..core.aircraft.balance import LoadingSheet, loading_sheet
from ..core.aircraft.list_text import lists_as_text
from ..core.hearing.tap import Tap
from ..core.hearing.wav import MOST_BYTES as MOST_SOUND_BYTES
from ..core.screen.aircraft import ProfilePage, aircraft_line
from ..core.screen.editing import EditPage
from ..core.screen.heard import HeardPage, heard_page
from ..core.screen.own import (
    BalancePage,
    DifferencesPage,
    PanelPage,
    QuestionsPage,
    Spot,
    VersionsPage,
    balance_page,
    controls_of,
    is_found,
    questions_page,
)
from ..core.screen.today import DayAsked, TodayPage, today_page
from ..store import aircraft, panels
from .answers import DraftKept, ListsTaken, MatchedLine, OwnItemsKept, ProfileTaken, Touched
from .bodies import (
    AnswersTold,
    AnswerTold,
    BackToVersion,
    CardAskedFor,
    Compared,
    HearingAsked,
    LoadingTold,
    NewAircraft,
    OwnItems,
    PilotAsked,
    SaveVersion,
    SignLimits,
    SpotsTold,
    TextAsked,
    TodayAsked,
    TouchAsked,
)
from .contract import route

bp = Blueprint("own", __name__, url_prefix="/api/aircraft/<profile_id>")
_MOST_DRAFT_BYTES = 8_000_000
_FAILS = (503,)


def _hangar() -> Hangar:
    hangar: Hangar = current_app.extensions["hangar"]
    return hangar


def _counts(profile: Profile) -> Profile:
    """Let a profile count in this application from now on."""
    _hangar().profiles[profile.id] = profile
    return profile


@route(bp, "GET", "/questions", answer=QuestionsPage)
def show_questions(profile_id: str) -> QuestionsPage:
    """What a new aircraft of this kind is asked for, each with its place in a handbook."""
    return questions_page(_hangar().profile(profile_id))


@route(bp, "POST", "/answers", body=AnswersTold, answer=Answers)
def check_answers(profile_id: str, body: AnswersTold) -> Answers:
    """What is to be said of answers while they are typed: what is wrong, what is still needed, what is left unjudged."""
    return workshop.checked_answers(_hangar().profile(profile_id), _told(body.answers))


def _told(answers: Mapping[str, AnswerTold]) -> dict[str, Told]:
    return {name: Told(value=one.value, choice=one.choice) for name, one in answers.items()}


@route(bp, "POST", "/own", body=NewAircraft, answer=ProfileTaken, statuses=(201,), fails=_FAILS)
def make_aircraft(profile_id: str, body: NewAircraft) -> ProfileTaken:
    """Make an aircraft of one's own from this kind. What is not answered is left unjudged."""
    hangar = _hangar()
    told = _told(body.answers)
    taken = [name for known in hangar.profiles.values() for name in (known.registration, known.id)]
    kind = hangar.profile(profile_id)
    profile = _counts(workshop.new_aircraft(hangar.database, kind, body.name, body.registration, told, taken))
    return ProfileTaken(aircraft=aircraft_line(profile), content_hash=profile.content_hash)


@route(bp, "GET", "/edit", answer=EditPage)
def show_editor(profile_id: str) -> EditPage:
    """What is being written: the draft, or what counts, with the form's fields, the menus, the library and what is wrong."""
    hangar = _hangar()
    return workshop.edit_page_of(hangar.database, hangar.profile(profile_id))


@route(bp, "PUT", "/draft", body=dict, answer=DraftKept, fails=_FAILS, is_raw=True, most_bytes=_MOST_DRAFT_BYTES)
def keep_draft(profile_id: str) -> DraftKept:
    """Keep what is being written, whatever is wrong with it, and say what is."""
    hangar = _hangar()
    body = body_from_text(request.get_data())
    profile = hangar.profile(profile_id)
    wrong = workshop.keep_draft(hangar.database, profile, body)
    return DraftKept(is_draft=body != profile.body, wrong=wrong)


@route(bp, "DELETE", "/draft", answer=EditPage, fails=_FAILS)
def drop_draft(profile_id: str) -> EditPage:
    """Forget what was being written."""
    hangar = _hangar()
    profile = hangar.profile(profile_id)
    workshop.drop_draft(hangar.database, profile)
    return workshop.edit_page_of(hangar.database, profile)


@route(bp, "GET", "/versions", answer=VersionsPage)
def show_versions(profile_id: str) -> VersionsPage:
    """Every version of an aircraft, the newest first."""
    hangar = _hangar()
    return workshop.versions_page_of(hangar.database, hangar.profile(profile_id))


@route(bp, "POST", "/versions", body=SaveVersion, answer=VersionsPage, fails=_FAILS)
def save_version(profile_id: str, body: SaveVersion) -> VersionsPage:
    """Let the draft count from now on, as a version with a note. Flights keep the one that they were flown with."""
    hangar = _hangar()
    saying = Saying(note=body.note, who=body.who)
    others = [one.registration for known, one in hangar.profiles.items() if known != profile_id]
    profile = _counts(workshop.save(hangar.database, hangar.profile(profile_id), saying, others))
    return workshop.versions_page_of(hangar.database, profile)


@route(bp, "POST", "/versions/<int:number>/back", body=BackToVersion, answer=VersionsPage, fails=_FAILS)
def back_to_version(profile_id: str, number: int, body: BackToVersion) -> VersionsPage:
    """Let an older version count again."""
    hangar = _hangar()
    try:
        profile = _counts(workshop.back_to(hangar.database, hangar.profile(profile_id), number, body.who))
    except VersionNotKept as error:
        raise NotFound(str(error)) from error
    return workshop.versions_page_of(hangar.database, profile)


@route(bp, "GET", "/differences", query=Compared, answer=DifferencesPage)
def show_differences(profile_id: str, query: Compared) -> DifferencesPage:
    """What differs between two versions, line by line; 0 is the draft."""
    hangar = _hangar()
    try:
        lines = workshop.compared(hangar.database, hangar.profile(profile_id), query.before, query.after)
    except VersionNotKept as error:
        raise NotFound(str(error)) from error
    return DifferencesPage(before=query.before, after=query.after, lines=lines)


@route(bp, "POST", "/signatures", body=SignLimits, answer=ProfilePage, fails=_FAILS)
def sign_limits(profile_id: str, body: SignLimits) -> ProfilePage:
    """Keep that figures were held against the handbook, by whom and on which day; another figure is unsigned again."""
    hangar = _hangar()
    profile = hangar.profile(profile_id)
    workshop.sign_limits(hangar.database, profile, body.limits, body.who, date.today().isoformat())
    return page_of(hangar.database, profile)


@route(bp, "GET", "/lists.md", gives="text/markdown")
def export_lists(profile_id: str) -> Response:
    """The lists as Markdown: headings, `challenge | response`, the reason indented; read in again they are the same."""
    profile = _hangar().profile(profile_id)
    headers = {"Content-Disposition": f'attachment; filename="{profile.id}.md"'}
    return Response(lists_as_text(profile.body), mimetype="text/markdown", headers=headers)


@route(bp, "POST", "/lists", body=TextAsked, answer=ListsTaken, fails=_FAILS)
def take_lists(profile_id: str, body: TextAsked) -> ListsTaken:
    """Put lists that were pasted as text into the draft, and say how each line was matched."""
    hangar = _hangar()
    taken = workshop.take_text(hangar.database, hangar.profile(profile_id), body.text, body.instead)
    lines = tuple(MatchedLine(line=one.line, matched=one.how) for one in taken.found)
    return ListsTaken(lines=lines, wrong=taken.wrong)


@route(bp, "GET", "/additions", query=PilotAsked, answer=OwnItemsKept)
def show_additions(profile_id: str, query: PilotAsked) -> OwnItemsKept:
    """A pilot's own items behind the lists of an aircraft that others fly too."""
    return _own_items(_hangar().profile(profile_id), query.pilot)


def _own_items(profile: Profile, pilot: str) -> OwnItemsKept:
    lists = workshop.own_items_of(_hangar().database, profile, pilot)
    return OwnItemsKept(aircraft=aircraft_line(profile), lists=lists)


@route(bp, "PUT", "/additions", body=OwnItems, answer=OwnItemsKept, fails=_FAILS)
def put_additions(profile_id: str, body: OwnItems) -> OwnItemsKept:
    """Keep a pilot's own items at the end of a list; none takes them away."""
    hangar = _hangar()
    profile = hangar.profile(profile_id)
    items = [
        {"id": f"{number + 1}", "challenge": one.challenge, "response": one.response, "why": one.why}
        for number, one in enumerate(body.items)
    ]
    workshop.put_own_items(hangar.database, profile, body.pilot, body.in_list, items)
    return _own_items(profile, body.pilot)


@route(bp, "GET", "/card.pdf", query=CardAskedFor, gives="application/pdf")
def print_card(profile_id: str, query: CardAskedFor) -> Response:
    """The aircraft's card for paper: lists, run-up blanks, prime and power, emergency on the back, the version in the foot."""
    hangar = _hangar()
    profile = hangar.profile(profile_id)
    with hangar.database.reading() as db:
        versions = aircraft.versions_of(db, profile.id)
    version = f"version {versions[0].number}" if versions else "as it ships"
    asked = CardAsked(
        size=query.size, large=query.large, night=query.night, version=version, day=date.today().isoformat()
    )
    headers = {"Content-Disposition": f'inline; filename="{profile.id}-{query.size}.pdf"'}
    return Response(card_pdf(profile, asked), mimetype="application/pdf", headers=headers)


@route(bp, "GET", "/today", query=TodayAsked, answer=TodayPage)
def show_today(profile_id: str, query: TodayAsked) -> TodayPage:
    """The numbers of today: runway and wind, the air, static RPM, manifold pressure at full throttle, the limit of the day."""
    told = {f.name: getattr(query, f.name) for f in fields(query)}
    own = DayAsked(**{f.name: told.pop(f.name) for f in fields(DayAsked)})
    return today_page(_hangar().profile(profile_id), told, own)


@route(bp, "GET", "/balance", answer=BalancePage)
def show_balance(profile_id: str) -> BalancePage:
    """What the handbook says of the loading: stations, arms, envelope."""
    return balance_page(_hangar().profile(profile_id))


@route(bp, "POST", "/balance", body=LoadingTold, answer=LoadingSheet)
def work_out_balance(profile_id: str, body: LoadingTold) -> LoadingSheet:
    """A loading worked out: take-off, landing and without fuel, what is against it, and the ballast that would bring it inside."""
    profile = _hangar().profile(profile_id)
    if profile.balance is None:
        raise NotFound(f"The profile of {profile.registration} says nothing of its loading. Add it under Change.")
    return loading_sheet(profile.balance, body.loads_kg, body.burned_kg)


@route(
    *(bp, "POST", "/hearing"),
    query=HearingAsked,
    body=bytes,
    answer=HeardPage,
    takes="application/octet-stream",
    is_raw=True,
    most_bytes=MOST_SOUND_BYTES,
)
def hear_recording(profile_id: str, query: HearingAsked) -> HeardPage:
    """RPM by ear from a recording and one reading of the needle. The sound is held in memory only and forgotten at once."""
    return heard_page(_hangar().profile(profile_id), request.get_data(), Tap(at_s=query.at_s, rpm=query.rpm))


@route(bp, "GET", "/panel", answer=PanelPage)
def show_panel(profile_id: str) -> PanelPage:
    """The panel: whether there is a photo, where each control is on it, and which controls the lists name."""
    return _panel_of(_hangar().profile(profile_id))


def _panel_of(profile: Profile) -> PanelPage:
    hangar = _hangar()
    with hangar.database.reading() as db:
        size, spots = panels.photo_size(db, profile.id), panels.spots_of(db, profile.id)
    return PanelPage(
        aircraft=aircraft_line(profile),
        width=size[0] if size else None,
        height=size[1] if size else None,
        spots=tuple(Spot(control=name, x=x, y=y) for name, (x, y) in spots.items()),
        controls=controls_of(profile),
    )


@route(bp, "GET", "/panel.jpg", gives="image/jpeg")
def show_photo(profile_id: str) -> Response:
    """The photo of the panel."""
    hangar = _hangar()
    profile = hangar.profile(profile_id)
    with hangar.database.reading() as db:
        photo = panels.photo_of(db, profile.id)
    if photo is None:
        raise NotFound(f"{profile.registration} has no photo of its panel.")
    return Response(photo.jpeg, mimetype="image/jpeg")


@route(
    *(bp, "PUT", "/panel.jpg"),
    body=bytes,
    answer=PanelPage,
    takes="application/octet-stream",
    fails=_FAILS,
    is_raw=True,
    most_bytes=MOST_BYTES,
)
def put_photo(profile_id: str) -> PanelPage:
    """Keep a photo of the panel, at most 8 MB; it is written anew without what the camera wrote into it."""
    hangar = _hangar()
    profile = hangar.profile(profile_id)
    photo = photo_from(request.get_data())
    with hangar.database.writing() as db:
        panels.put_photo(db, profile.id, photo, utc_now())
    return _panel_of(profile)


@route(bp, "DELETE", "/panel", answer=PanelPage, fails=_FAILS)
def drop_photo(profile_id: str) -> PanelPage:
    """Forget the photo and its spots."""
    hangar = _hangar()
    profile = hangar.profile(profile_id)
    with hangar.database.writing() as db:
        panels.drop_photo(db, profile.id)
    return _panel_of(profile)


@route(bp, "GET", "/panel/touch", query=TouchAsked, answer=Touched)
def judge_touch(profile_id: str, query: TouchAsked) -> Touched:
    """Whether a touch of the drill is on the control that was asked for."""
    hangar = _hangar()
    profile = hangar.profile(profile_id)
    with hangar.database.reading() as db:
        size, spots = panels.photo_size(db, profile.id), panels.spots_of(db, profile.id)
    if size is None or query.control not in spots:
        raise NotFound(f"{query.control!r} is not marked on a photo of {profile.registration}.")
    x, y = spots[query.control]
    return Touched(found=is_found(Spot(control=query.control, x=x, y=y), query.x, query.y, size))


@route(bp, "PUT", "/panel/spots", body=SpotsTold, answer=PanelPage, fails=_FAILS)
def put_spots(profile_id: str, body: SpotsTold) -> PanelPage:
    """Keep where each control is on the photo, in the place of all before."""
    hangar = _hangar()
    profile = hangar.profile(profile_id)
    with hangar.database.writing() as db:
        panels.put_spots(db, profile.id, {one.control: (one.x, one.y) for one in body.spots})
    return _panel_of(profile)
