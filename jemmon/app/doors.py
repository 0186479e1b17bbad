"""The door for profiles: what comes through is complete, names only what there is, and its simulated engine can run."""

import json
import re
from collections.abc import Mapping
from typing import Any

from ..core.aircraft import Profile, profile_from_json
from ..core.base.errors import ProfileError
from ..core.judgement.registry import check_names
from ..feeds.bench import check_bench
from ..library.shipped import whole_profile

_NO_TEXT = re.compile("[\x00-\x1f\x7f\ud800-\udfff]")
_MOST_FIGURE = 10**15


def profile_from(body: Any) -> Profile:
    """Return the profile that this JSON describes.

    Raises:
        ProfileError: the first thing that is wrong, with its place in the file.
    """
    profile = profile_from_json(whole_profile(body))
    check_names(profile)
    check_bench(profile)
    return profile


def check_door(body: Mapping[str, Any]) -> None:
    """Raise ProfileError for the first thing that the door refuses in a profile that is being written."""
    _check_texts(body)
    profile_from(body)


def profile_from_text(data: bytes) -> Profile:
    """Return the profile in the bytes of a file. Raises ProfileError."""
    body = _read(data)
    _check_texts(body)
    return profile_from(body)


def body_from_text(data: bytes) -> dict[str, Any]:
    """Return the JSON of a profile that is being written, whatever is wrong with it. Raises ProfileError where it is none."""
    body = _read(data)
    if not isinstance(body, dict):
        raise ProfileError("What is being written is not a profile: it must be an object.")
    return body


def _read(data: bytes) -> Any:
    try:
        return json.loads(data, parse_constant=_refused)
    except (UnicodeDecodeError, ValueError, RecursionError) as error:
        words = str(error).encode("ascii", "backslashreplace").decode()[:160]
        raise ProfileError(f"This is not a profile: {words}") from error


def _check_texts(body: Any) -> None:
    """Raise ProfileError for a text that is none: half a character, or a control character such as a line's end in an id."""
    waiting: list[tuple[str, Any]] = [("", body)]
    while waiting:
        place, value = waiting.pop()
        if isinstance(value, str) and _NO_TEXT.search(value):
            raise ProfileError(f"{place}: {ascii(value)[:60]} holds a character that is none of a text.", place)
        if isinstance(value, int) and not isinstance(value, bool) and abs(value) > _MOST_FIGURE:
            raise ProfileError(f"{place}: a figure of so many digits is none of an aircraft.", place)
        if isinstance(value, dict):
            waiting += [(f"a name in {place or 'the profile'}", name) for name in value]
            waiting += [(f"{place}.{ascii(name)[1:-1][:40]}".lstrip("."), part) for name, part in value.items()]
        elif isinstance(value, list):
            waiting += [(f"{place}[{number}]", part) for number, part in enumerate(value)]


def _refused(word: str) -> None:
    raise ValueError(f"{word} is not a figure")
