"""The digest that an exported file carries of itself, by which Kivel knows that nobody has edited it.

Writers put `BLANK_DIGEST` where their format has room for a remark, before any text of a user's. The digest of the
whole file takes its place, and other programs pass over it. Formats without room for one (CSV) need `--force`.
"""

from __future__ import annotations

import re
from pathlib import Path

from kivel.core.errors import KivelError
from kivel.files.file_digest import bytes_digest
from kivel.files.safety import file_bytes

__all__ = ["BLANK_DIGEST", "is_unedited", "with_own_digest"]

BLANK_DIGEST = f"xxh3-128:{'0' * 32}"
_DIGEST = re.compile(rb"xxh3-128:[0-9a-f]{32}")
_MOST_BYTES = 1 << 30


def with_own_digest(content: bytes) -> bytes:
    """Return a file's content with its digest in the first place that was left blank for it.

    >>> with_own_digest(b"a { } /* digest: " + BLANK_DIGEST.encode() + b" */")
    b'a { } /* digest: xxh3-128:bc7780beebdc0ef8ee1ea66f349156e0 */'
    """
    return content.replace(BLANK_DIGEST.encode(), bytes_digest(content).encode(), 1)


def is_unedited(path: Path) -> bool:
    """Whether a file is what `with_own_digest` gave."""
    try:
        content = file_bytes(path, most=_MOST_BYTES)
    except KivelError:
        return False
    found = _DIGEST.search(content)
    if found is None:
        return False
    blank = content[: found.start()] + BLANK_DIGEST.encode() + content[found.end() :]
    return with_own_digest(blank) == content
