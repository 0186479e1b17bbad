"""The door for profiles: what comes through is complete, names only what there is, and its simulated engine can run."""

import json
from typing import Any

from ..core.aircraft import Profile, profile_from_json
from ..core.base.errors import ProfileError
from ..core.judgement.registry import check_names
from ..feeds.bench import check_bench


def profile_from(body: Any) -> Profile:
    """Return the profile that this JSON describes.

    Raises:
        ProfileError: the first thing that is wrong, with its place in the file.
    """
    profile = profile_from_json(body)
    check_names(profile)
    check_bench(profile)
    return profile


def profile_from_text(data: bytes) -> Profile:
    """Return the profile in the bytes of a file. Raises ProfileError."""
    try:
        body = json.loads(data, parse_constant=_refused)
    except (UnicodeDecodeError, ValueError, RecursionError) as error:
        raise ProfileError(f"This is not a profile: {str(error)[:160]}") from error
    return profile_from(body)


def _refused(word: str) -> None:
    raise ValueError(f"{word} is not a figure")
