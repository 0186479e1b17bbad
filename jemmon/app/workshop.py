"""Making and changing an aircraft: a new one from a kind, drafts, versions, signatures, lists from text, a pilot's own items.

A draft may be wrong and counts for nothing; what is saved came through the door of profiles and is a version that stays.
"""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import asdict, dataclass
from typing import Any

from ..core.aircraft import Profile
from ..core.aircraft.additions import check_locked, with_additions
from ..core.aircraft.compare import Difference, differences
from ..core.aircraft.list_text import Match, lists_from_text
from ..core.aircraft.own import own_id, own_profile
from ..core.aircraft.problems import Wrong, wrong_in
from ..core.aircraft.questions import answered, by_id
from ..core.base.errors import ProfileError
from ..core.base.names import check_known
from ..core.screen.aircraft import aircraft_line
from ..core.screen.editing import EditPage, SignedLine, edit_page
from ..core.screen.own import OwnLine, OwnList, VersionLine, VersionsPage
from ..library.shipped import item_library, shipped_profiles, whole_profile
from ..store import aircraft as kept
from ..store.database import Database
from .doors import check_door, profile_from
from .files import utc_now

_SHIPPED_NOTE = "As it ships"
DRAFT = 0  # the number by which the draft is compared with versions, which begin at 1


class VersionNotKept(Exception):
    """There is no version of this number; the message says which there are."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Told:
    """An answer to a question: a figure in one of its unit's choices."""

    value: float
    choice: str = "us"


@dataclass(frozen=True, slots=True, kw_only=True)
class Saying:
    """What is said of a version, and who says it."""

    note: str
    who: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Answers:
    """Answers as they are typed: what is wrong with them by question, which are needed still, what is left unjudged."""

    wrong: tuple[Wrong, ...]
    needed: tuple[str, ...]
    not_judged: tuple[str, ...]


def checked_answers(kind: Profile, told: Mapping[str, Told]) -> Answers:
    """Return what is to be said of answers while they are typed."""
    questions, wrong = by_id(kind), []
    for given, one in told.items():
        try:
            check_known("An answer", given, questions, ProfileError)
            answered(questions[given], one.value, one.choice)
        except ProfileError as error:
            wrong.append(Wrong(place=given, rule=str(error), way_out="Look at the unit, or type it again."))
    rest = [one for one in questions.values() if one.id not in told]
    return Answers(
        wrong=tuple(wrong),
        needed=tuple(one.id for one in rest if one.needed),
        not_judged=tuple(one.title for one in rest if not one.needed),
    )


def new_aircraft(
    database: Database, kind: Profile, name: str, registration: str, told: Mapping[str, Told], taken: Sequence[str]
) -> Profile:
    """Make an aircraft from a kind and let it count. `taken` are the registrations that there are.

    Raises:
        ProfileError: an answer is out of its range or missing, or the registration is taken; its place is the question.
    """
    if registration in taken or own_id(registration) in taken:
        raise ProfileError(
            f"There is a {registration} already. Change that one, or give another registration.", "registration"
        )
    questions = by_id(kind)
    for given in told:
        check_known("An answer", given, questions, ProfileError)
    answers = {given: answered(questions[given], one.value, one.choice) for given, one in told.items()}
    profile = profile_from(own_profile(kind, name, registration, answers))
    with database.writing() as db:
        kept.put_aircraft(db, profile, utc_now(), note=f"Made from {kind.name}")
    return profile


def keep(database: Database, profile: Profile, saying: Saying) -> None:
    """Let a profile count from now on, as a version; before the first change of one that ships, that is kept as version 1."""
    ships = shipped_profiles().get(profile.id)
    with database.writing() as db:
        if ships is not None and ships.content_hash != profile.content_hash and not kept.versions_of(db, profile.id):
            kept.put_aircraft(db, ships, utc_now(), note=_SHIPPED_NOTE)
        kept.put_aircraft(db, profile, utc_now(), note=saying.note, who=saying.who)


def edit_page_of(database: Database, profile: Profile) -> EditPage:
    """Return what is being written for an aircraft: its draft where there is one, else what counts."""
    with database.reading() as db:
        draft = kept.draft_of(db, profile.id)
        versions = kept.versions_of(db, profile.id)
        signatures = kept.signatures_of(db, profile)
    body = dict(whole_profile(profile.body)) if draft is None else draft  # type: ignore[call-overload]
    return edit_page(
        profile,
        body,
        is_draft=draft is not None,
        version=versions[0].number if versions else 1,
        library=item_library(),
        wrong=() if draft is None else wrong_of(draft),
        signed=tuple(SignedLine(limit=s.limit, who=s.who, signed_on=s.signed_on) for s in signatures),
    )


def wrong_of(body: Mapping[str, Any]) -> tuple[Wrong, ...]:
    """Return what is wrong with a draft."""
    return wrong_in(body, check_door)


def keep_draft(database: Database, profile: Profile, body: Mapping[str, Any]) -> tuple[Wrong, ...]:
    """Keep what is being written, whatever is wrong with it, and return what is. Written back to what counts, the
    draft is dropped."""
    is_same = body == profile.body
    with database.writing() as db:
        if is_same:
            kept.drop_draft(db, profile.id)
        else:
            kept.put_draft(db, profile.id, body, utc_now())
    return () if is_same else wrong_of(body)


def drop_draft(database: Database, profile: Profile) -> None:
    """Forget what was being written."""
    with database.writing() as db:
        kept.drop_draft(db, profile.id)


def draft_profile(database: Database, profile: Profile) -> Profile:
    """Return the profile that is being written, to be tried. Raises ProfileError where something in it is wrong."""
    with database.reading() as db:
        draft = kept.draft_of(db, profile.id)
    return profile if draft is None else profile_from(draft)


def save(database: Database, profile: Profile, saying: Saying, taken: Collection[str] = ()) -> Profile:
    """Let the draft count from now on, as a version. `taken` are the registrations of the other aircraft.

    Raises:
        ProfileError: there is no draft, something in it is wrong, it is another aircraft's or has its registration,
            or a locked list differs.
    """
    with database.reading() as db:
        draft = kept.draft_of(db, profile.id)
    if draft is None:
        raise ProfileError("Nothing was changed: there is no draft to save.")
    made = profile_from(draft)
    if made.id != profile.id:
        raise ProfileError(f"This draft is {made.id!r}, not {profile.id!r}; an aircraft's id stays.", "id")
    if made.registration in taken:
        raise ProfileError(f"{made.registration} is another aircraft here. Give this one its own.", "registration")
    check_locked(profile.body, made.body)
    keep(database, made, saying)
    drop_draft(database, made)
    return made


def versions_page_of(database: Database, profile: Profile) -> VersionsPage:
    """Return the versions of an aircraft, the newest first; one that was never changed has what ships."""
    with database.reading() as db:
        versions = kept.versions_of(db, profile.id)
        has_draft = kept.draft_of(db, profile.id) is not None
    if not versions:
        versions = [kept.Version(number=1, content_hash=profile.content_hash, note=_SHIPPED_NOTE, who="", saved_utc="")]
    lines = tuple(VersionLine(**asdict(one), counts=place == 0) for place, one in enumerate(versions))
    return VersionsPage(aircraft=aircraft_line(profile), versions=lines, has_draft=has_draft)


def version_profile(database: Database, profile: Profile, number: int) -> Profile:
    """Return the profile of a version. Raises VersionNotKept where there is none of this number."""
    with database.reading() as db:
        versions = kept.versions_of(db, profile.id)
        if number in [one.number for one in versions]:
            return kept.profile_of_version(db, profile.id, number)
    if not versions and number == 1:
        return profile
    raise VersionNotKept(f"{profile.registration} has no version {number}; it has 1 to {len(versions) or 1}.")


def back_to(database: Database, profile: Profile, number: int, who: str) -> Profile:
    """Let an older version count again, as a new one. Raises VersionNotKept; ProfileError where today's rules refuse it."""
    older = version_profile(database, profile, number)
    if older.refused:
        raise ProfileError(f"Version {number} cannot count again: {older.refused}")
    keep(database, older, Saying(note=f"Back to version {number}", who=who))
    return older


def compared(database: Database, profile: Profile, before: int, after: int) -> tuple[Difference, ...]:
    """Return what differs between two versions; 0 is the draft. Raises VersionNotKept."""

    def body(number: int) -> Mapping[str, Any]:
        if number == DRAFT:
            with database.reading() as db:
                draft = kept.draft_of(db, profile.id)
            return profile.body if draft is None else draft
        return version_profile(database, profile, number).body

    return differences(body(before), body(after))


def sign_limits(database: Database, profile: Profile, limits: Sequence[str], who: str, day: str) -> None:
    """Keep that the figures which limits have now were held against the handbook. Raises ProfileError for one there is not."""
    for name in limits:
        check_known("The limit", name, profile.limits, ProfileError)
    with database.writing() as db:
        for name in limits:
            value = profile.limits[name].value
            kept.sign(db, profile.id, kept.Signature(limit=name, value=value, who=who, signed_on=day))


@dataclass(frozen=True, slots=True, kw_only=True)
class TextTaken:
    """Lists that were read from text into the draft: each line with how it was matched (kept, known, own), and what is wrong."""

    found: tuple[Match, ...]
    wrong: tuple[Wrong, ...]


def take_text(database: Database, profile: Profile, text: str, instead: bool = False) -> TextTaken:
    """Put the lists of a text into the draft, in the place of its own; `instead` of all lists of the phases that it names.

    Raises:
        ProfileError: nothing in it is a list.
    """
    with database.reading() as db:
        draft = kept.draft_of(db, profile.id)
    made = lists_from_text(text, profile.body if draft is None else draft, item_library(), instead)
    return TextTaken(found=made.found, wrong=keep_draft(database, profile, made.body))


def own_items_of(database: Database, profile: Profile, pilot: str) -> tuple[OwnList, ...]:
    """Return every list of an aircraft with what a pilot has added to it."""
    with database.reading() as db:
        added = kept.additions_of(db, profile.id, pilot)
    return tuple(
        OwnList(
            id=one["id"],
            title=one["title"],
            phase=phase["title"],
            locked=one.get("locked"),
            items=tuple(
                OwnLine(challenge=item["challenge"], response=item["response"], why=item["why"])
                for item in added.get(one["id"], ())
            ),
        )
        for phase in profile.body["phases"]
        for one in phase["lists"]
    )


def with_own_items(database: Database, profile: Profile, pilot: str) -> Profile:
    """Return the profile that a pilot flies: the shared one, with the pilot's own items behind its lists."""
    with database.reading() as db:
        added = kept.additions_of(db, profile.id, pilot)
    return profile_from(with_additions(profile.body, added)) if added else profile


def put_own_items(
    database: Database, profile: Profile, pilot: str, list_id: str, items: Sequence[Mapping[str, Any]]
) -> None:
    """Keep a pilot's own items behind a list. Raises ProfileError where there is no such list, or an item is wrong."""
    check_known(
        "The list", list_id, [one["id"] for phase in profile.body["phases"] for one in phase["lists"]], ProfileError
    )
    profile_from(with_additions(profile.body, {list_id: items}))
    with database.writing() as db:
        kept.put_addition(db, profile.id, pilot, list_id, items)
