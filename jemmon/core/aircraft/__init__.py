"""The aircraft profile: everything that is particular to one type, checked, with where each figure comes from."""

from .profile import Check, Item, LeanTarget, Limit, Phase, Profile, PutBack, Reading, profile_from_json

__all__ = ["Check", "Item", "LeanTarget", "Limit", "Phase", "Profile", "PutBack", "Reading", "profile_from_json"]
