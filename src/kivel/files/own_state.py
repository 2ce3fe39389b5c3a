"""Proof that this user wrote something: digests with a key that nobody else has.

What Kivel keeps for itself lies beside people's files, and so travels with them: in a clone, an archive, on a shared
disk. It is believed only with such a digest, whatever it says.

The key is the environment's `KIVEL_STATE_KEY`, for a team or CI that shares what is kept; else one that is made once
for each user, in the user's own state folder (XDG Base Directory Specification). Where neither can be had, the key
lasts as long as the process, and nothing is believed from run to run.
"""

from __future__ import annotations

import contextlib
import os
import stat
import sys
from pathlib import Path

from kivel.core.errors import KivelError
from kivel.core.named_tuples import NamedTuple

try:
    from _blake2 import blake2b  # hashlib loads OpenSSL as well, a tenth of a small sheet's time
except ImportError:  # another Python than CPython
    from hashlib import blake2b

__all__ = ["VARIABLE", "StateKey", "blake2b", "is_own", "own_mark", "state_key"]

VARIABLE = "KIVEL_STATE_KEY"
_SHORTEST = 16
_SECRET_BYTES = 32
_MARK_BYTES = 16
_OWN_ONLY = os.O_RDONLY | getattr(os, "O_NOFOLLOW", 0) | getattr(os, "O_NONBLOCK", 0) | getattr(os, "O_CLOEXEC", 0)
_keys: dict[tuple[str | None, str], StateKey] = {}


class StateKey(NamedTuple):
    """A secret; `lacks` says why it does not outlast this process, None where it does."""

    secret: bytes
    lacks: str | None = None


def own_mark(purpose: str, content: bytes, *, key: StateKey | None = None) -> str:
    """Return the keyed digest of `content`: 32 hexadecimal digits.

    BLAKE2b with a key (RFC 7693). One purpose (16 characters at most) never proves anything for another. Whoever marks
    thousands of lines asks for the key once.
    """
    secret = (key or state_key()).secret
    return blake2b(content, digest_size=_MARK_BYTES, key=secret, person=purpose.encode()).hexdigest()


def is_own(purpose: str, content: bytes, mark: str, *, key: StateKey | None = None) -> bool:
    """Whether `mark` is what `own_mark` gives."""
    return own_mark(purpose, content, key=key) == mark


def state_key() -> StateKey:
    """Return the key of this user.

    Raises
    ------
    KivelError
        If `KIVEL_STATE_KEY` is too short to be a secret.
    """
    given, path = os.environ.get(VARIABLE) or None, _key_path()
    if (given, path) not in _keys:
        _keys[given, path] = _given_key(given) if given else _kept_key(Path(path))
    return _keys[given, path]


def _given_key(text: str) -> StateKey:
    if len(text) < _SHORTEST:
        raise KivelError(f"must have at least {_SHORTEST} characters; write a long random text", where=VARIABLE)
    return StateKey(blake2b(os.fsencode(text), digest_size=_SECRET_BYTES).digest())


def _key_path() -> str:
    """The file that holds the user's key."""
    fallback = os.path.join("~", ".local", "state")
    if sys.platform == "win32":
        base = os.environ.get("LOCALAPPDATA", fallback)
    else:
        base = os.environ.get("XDG_STATE_HOME", "")
        base = base if os.path.isabs(base) else fallback  # as the specification asks for
    return os.path.join(os.path.expanduser(base), "kivel", "state-key")


def _kept_key(path: Path) -> StateKey:
    try:
        try:
            return StateKey(_read_key(path))
        except FileNotFoundError:
            _make_key(path)
            return StateKey(_read_key(path))
    except (OSError, ValueError) as error:
        reason = (error.strerror if isinstance(error, OSError) else None) or str(error)
        return StateKey(os.urandom(_SECRET_BYTES), f"{path.as_posix()}: {reason}")


def _read_key(path: Path) -> bytes:
    """Raise `ValueError` for a file that others might have written, or may read."""
    descriptor = os.open(path, _OWN_ONLY)
    try:
        found = os.fstat(descriptor)
        if not stat.S_ISREG(found.st_mode):
            raise ValueError("is not a file; remove it")
        if hasattr(os, "geteuid") and (found.st_uid != os.geteuid() or stat.S_IMODE(found.st_mode) & 0o077):
            raise ValueError("must be yours and readable by nobody else (chmod 600)")
        secret = bytes.fromhex(os.read(descriptor, 4 * _SECRET_BYTES).decode("ascii", "replace"))
    finally:
        os.close(descriptor)
    if len(secret) != _SECRET_BYTES:
        raise ValueError("is damaged; remove it, and Kivel makes a new key")
    return secret


def _make_key(path: Path) -> None:
    """Make the file at once with all that it holds, or not at all: two commands may begin at the same time."""
    path.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
    beside = path.with_name(f"{path.name}.{os.urandom(8).hex()}")
    try:
        descriptor = os.open(beside, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
        with open(descriptor, "wb") as file:
            file.write(os.urandom(_SECRET_BYTES).hex().encode() + b"\n")
            file.flush()
            os.fsync(descriptor)
        with contextlib.suppress(FileExistsError):  # another was first
            _named(beside, path)
    finally:
        beside.unlink(missing_ok=True)


def _named(beside: Path, path: Path) -> None:
    try:
        os.link(beside, path)
    except FileExistsError:
        raise
    except OSError:  # no hard links here
        os.rename(beside, path)
