"""What the shipped lists hold, counted by phase and kind: `jemmon lists` prints it, docs/lists.md keeps it."""

from collections import Counter
from collections.abc import Mapping

from ..core.aircraft import Item, Profile
from ..core.aircraft.phases import PHASE_KINDS
from .shipped import item_library

_HEAD = """# What the lists hold

Made by `make made` from the shipped profiles: items by phase and kind, a twin's lists of each engine counted for both. The profiles
compose their lists from one library, `jemmon/library/items.json`, and say only what differs for their type.
"""


def lists_page(profiles: Mapping[str, Profile]) -> str:
    """Return docs/lists.md: a table of items by phase and kind, and how many of each kind the data carry."""
    kinds = [kind for kind in PHASE_KINDS if any(kind in _counted(profile) for profile in profiles.values())]
    names = list(profiles)
    rows = [["phase", *names], ["---"] * (len(names) + 1)]
    rows += [[PHASE_KINDS[kind].title, *(str(_counted(profiles[name])[kind]) for name in names)] for kind in kinds]
    rows += [["**all**", *(f"**{len(profile.items)}**" for profile in profiles.values())]]
    carried = [["what", *names], ["---"] * (len(names) + 1)]
    for title, holds in _CARRIED.items():
        carried += [[title, *(str(sum(map(holds, profile.items.values()))) for profile in profiles.values())]]
    library = item_library().values()
    said = (
        f"{len(library)} items in the library; {sum('where' in row for row in library)} say where the control is, "
        f"{sum('mistaken_for' in row for row in library)} also what it is mistaken for."
    )
    return "\n".join([_HEAD, *_table(rows), "", "## What carries them", "", said, "", *_table(carried), ""])


_CARRIED = {
    "data alone confirm it": lambda item: item.seen_is_enough,
    "a check, a clock or the start confirms it": lambda item: _is_followed(item),
    "data that contradict it open it again": lambda item: item.holds,
    "a needle or lever is shown beside it": lambda item: item.reading is not None,
    "where the control is": lambda item: item.where is not None,
}


def _is_followed(item: Item) -> bool:
    return not item.seen_is_enough and (item.check is not None or item.watch == "start")


def _counted(profile: Profile) -> Counter[str]:
    return Counter({phase.kind.name: 0 for phase in profile.phases}) + Counter(
        phase.kind.name for phase in profile.phases for _ in phase.items
    )


def _table(rows: list[list[str]]) -> list[str]:
    return [f"| {' | '.join(row)} |" for row in rows]
