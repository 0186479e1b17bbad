"""Lists composed from a library of items: a profile names an item and says only what differs for its type.

A reference is `"tow_bar"`, or `{"of": "master_on", "response": "On, volts at least 24"}`; its own `id` is that of the
library unless it gives another. It is unfolded before a profile is checked or kept, so that the stored body is whole and a
changed library never changes an old flight; `of` stays in the item as the name by which the library knows it.
"""

from collections.abc import Mapping
from typing import Any

from ..base.errors import ProfileError
from ..base.names import check_known

Library = Mapping[str, Mapping[str, Any]]
_FOR_LISTS_ONLY = ("id", "slot")  # its own name, and where in a flight it is done


def library_from_json(body: list[dict[str, Any]]) -> Library:
    """Return the items of a library by id. Raises ProfileError where two have one id."""
    library: dict[str, Mapping[str, Any]] = {}
    for row in body:
        if row["id"] in library:
            raise ProfileError(f"Two items of the library are named {row['id']!r}; each name is used once.")
        library[row["id"]] = row
    return library


def unfolded(body: object, library: Library) -> object:
    """Return a profile's JSON with every reference replaced by the item it names; what is not a profile comes back as it is.

    Raises:
        ProfileError: a reference to an item that the library has not, with the nearest that it has.
    """
    if not isinstance(body, dict) or not isinstance(body.get("phases"), list):
        return body
    return {**body, "phases": [_phase(phase, library) for phase in body["phases"]]}


def of_this_type(library: Library, body: Mapping[str, Any]) -> Library:
    """Return the library as this profile can hold it: without put-back pairs and phases that it has not."""
    known = {"away": body.get("put_backs", ()), "back": body.get("put_backs", ()), "gate": body.get("phases", ())}
    ids = {field: {row.get("id") for row in rows} for field, rows in known.items()}
    return {
        name: {key: value for key, value in row.items() if key not in ids or value in ids[key]}
        for name, row in library.items()
    }


def _phase(phase: Any, library: Library) -> Any:
    if not isinstance(phase, dict) or not isinstance(phase.get("lists"), list):
        return phase
    return {**phase, "lists": [_list(one, library) for one in phase["lists"]]}


def _list(one: Any, library: Library) -> Any:
    if not isinstance(one, dict) or not isinstance(one.get("items"), list):
        return one
    return {**one, "items": [_item(item, library) for item in one["items"]]}


def _item(item: Any, library: Library) -> Any:
    """Return an item in full. What a profile sets to null, the type has not: a lever, a place, a reading of the library's."""
    own: dict[str, Any] = {"of": item} if isinstance(item, str) else item
    if not isinstance(own, dict) or "challenge" in own and "why" in own or "of" not in own:
        return item
    name = str(own["of"])
    check_known("A reference of a list, `of`", name, library, ProfileError)
    shared = {key: value for key, value in library[name].items() if key not in _FOR_LISTS_ONLY}
    whole = {"id": name, **shared, **own}
    return {key: value for key, value in whole.items() if value is not None}
