"""A profile that a school shares: lists that are locked, and a pilot's own items added to them."""

from collections.abc import Mapping, Sequence
from typing import Any

from ..base.errors import ProfileError

_OWN = "own_"


def with_additions(body: Mapping[str, Any], added: Mapping[str, Sequence[Mapping[str, Any]]]) -> dict[str, Any]:
    """Return a profile's JSON with a pilot's own items, by the id of the list that they end; those of a list that
    there is no more are left out."""
    taken = {item["id"] for phase in body["phases"] for one in phase["lists"] for item in one["items"]}

    def own(item: Mapping[str, Any]) -> dict[str, Any]:
        name = base = f"{_OWN}{item['id']}"[:40]
        number = 2
        while name in taken:
            name, number = f"{base[:36]}_{number}", number + 1
        taken.add(name)
        return {**item, "id": name}

    phases = [
        {
            **phase,
            "lists": [
                {**one, "items": [*one["items"], *(own(item) for item in added.get(one["id"], ()))]}
                for one in phase["lists"]
            ],
        }
        for phase in body["phases"]
    ]
    return {**body, "phases": phases}


def check_locked(before: Mapping[str, Any], after: Mapping[str, Any]) -> None:
    """Raise ProfileError where a list that is locked differs: only its lock may be lifted, by itself, in a version of its own."""
    now = {one["id"]: one for phase in after["phases"] for one in phase["lists"]}
    for phase in before["phases"]:
        for one in phase["lists"]:
            if "locked" not in one:
                continue
            kept = now.get(one["id"])
            if kept is None or _bare(kept) != _bare(one):
                raise ProfileError(
                    f"The list {one['title']!r} is locked by {one['locked']}. Unlock it, save that, and change it then; or put "
                    "your own items on top of it.",
                    one["id"],
                )


def _bare(one: Mapping[str, Any]) -> dict[str, Any]:
    return {key: value for key, value in one.items() if key != "locked"}
