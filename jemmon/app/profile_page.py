"""A profile's page with who has signed its figures."""

from ..core.aircraft import Profile
from ..core.screen.aircraft import ProfilePage, profile_page
from ..library.shipped import shipped_profiles
from ..store.aircraft import signatures_of
from ..store.database import Database


def page_of(database: Database, profile: Profile) -> ProfilePage:
    """Return one aircraft in plain view, with the signatures that hold."""
    with database.reading() as db:
        signed = {one.limit: (one.who, one.signed_on) for one in signatures_of(db, profile)}
    return profile_page(profile, shipped_profiles().get(profile.id), signed)
