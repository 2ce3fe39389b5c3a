"""Random choices that are the same everywhere: by a seed and the number of the instance, never off the end."""

from __future__ import annotations

from hashlib import blake2b
from itertools import count

__all__ = ["drawn"]

_RANGE = 1 << 64


def drawn(items: int, *, seed: int, instance: int, purpose: str) -> int:
    """A number from 0 to `items` - 1, each as likely as any other.

    Parameters
    ----------
    purpose : str
        What is picked for: picks for different things do not depend on one another.

    Notes
    -----
    64 bits of BLAKE2b (RFC 7693) over purpose, seed and instance; what would favour the first numbers is picked again.
    """
    # what lies above would make the first numbers likelier
    fair = _RANGE - _RANGE % items
    for attempt in count():
        text = f"{purpose}\0{seed}\0{instance}\0{attempt}"
        value = int.from_bytes(blake2b(text.encode(), digest_size=8).digest())
        if value < fair:
            return value % items
    raise AssertionError("no fair pick among infinitely many")
