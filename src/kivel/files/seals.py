"""A mark in an exported file by which it is known that Kivel wrote it and nobody has edited it since.

Writers put `BLANK_SEAL` where their format has room for a remark; the digest of the whole file takes its place. Other
programs pass over it. What has no room (CSV) is not known again, and not replaced of Kivel's own accord.
"""

from __future__ import annotations

import re
from pathlib import Path

import xxhash

from kivel.core.errors import KivelError
from kivel.files.safety import file_bytes

__all__ = ["BLANK_SEAL", "is_sealed", "sealed"]

_MARK = "kivel-digest:"
BLANK_SEAL = f"{_MARK}{'0' * 32}"
_SEAL = re.compile(rb"kivel-digest:([0-9a-f]{32})")
_MOST_BYTES = 1 << 30


def sealed(content: bytes) -> bytes:
    """
    >>> sealed(b"a { } /* " + BLANK_SEAL.encode() + b" */")
    b'a { } /* kivel-digest:0cb0209fa3f5c236ddfa86658b067d78 */'
    """
    blank = BLANK_SEAL.encode()
    return content.replace(blank, f"{_MARK}{xxhash.xxh3_128_hexdigest(content)}".encode(), 1)


def is_sealed(path: Path) -> bool:
    """Whether a file is as it was when it was sealed."""
    try:
        content = file_bytes(path, most=_MOST_BYTES)
    except KivelError:
        return False
    found = _SEAL.search(content)
    if found is None:
        return False
    blank = content[: found.start()] + BLANK_SEAL.encode() + content[found.end() :]
    return sealed(blank) == content
