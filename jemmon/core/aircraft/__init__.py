"""The aircraft profile: everything that is particular to one type, checked, with where each figure comes from."""

from .lists import Checklist, Condition, Item, Measure, Phase, PutBack, Reading
from .profile import LeanTarget, Limit, Profile, profile_from_json

__all__ = [
    "Checklist",
    "Condition",
    "Item",
    "LeanTarget",
    "Limit",
    "Measure",
    "Phase",
    "Profile",
    "PutBack",
    "Reading",
    "profile_from_json",
]
