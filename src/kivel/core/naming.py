"""Names as programs in other languages take them."""

from __future__ import annotations

import re
from collections.abc import Iterable

__all__ = ["identifier", "identifiers"]


def identifier(name: str, default: str) -> str:
    """A name in lower case, of letters, digits and single underscores, a letter first.

    >>> identifier("Night moth--2!", "sheet"), identifier("4 ways", "sheet"), identifier("\\u00e9", "sheet")
    ('night_moth_2', 's4_ways', 'sheet')
    """
    plain = re.sub(r"[^a-z0-9]+", "_", name.lower()).strip("_") or default
    return plain if plain[0].isalpha() else f"{default[0]}{plain}"


def identifiers(names: Iterable[str], default: str) -> list[str]:
    """One for each name, no two alike.

    >>> identifiers(["to land", "to-land", "to_land_2"], "clip")
    ['to_land', 'to_land_2', 'to_land_2_2']
    """
    taken: list[str] = []
    for name in names:
        plain = found = identifier(name, default)
        number = 2
        while found in taken:
            found = f"{plain}_{number}"
            number += 1
        taken.append(found)
    return taken
