"""The secret of this installation, with which seals are keyed; it lies outside the database, so that who has only that cannot make one."""

import hashlib
import hmac
import os
import secrets
from functools import lru_cache
from pathlib import Path

BYTES = 32


def secret_file() -> Path:
    """Where the secret lies: ``VOLMEK_SECRET_FILE``, else in the configuration folder of the user."""
    named = os.environ.get("VOLMEK_SECRET_FILE")
    if named:
        return Path(named)
    folder = os.environ.get("XDG_CONFIG_HOME") or str(Path.home() / ".config")
    return Path(folder) / "volmek" / "secret"


@lru_cache(maxsize=4)
def _secret(file: Path) -> bytes:
    try:
        return bytes.fromhex(file.read_text(encoding="ascii").strip())
    except FileNotFoundError:
        file.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
        made = secrets.token_bytes(BYTES)
        try:
            with os.fdopen(os.open(file, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "w", encoding="ascii") as out:
                out.write(made.hex() + "\n")
        except FileExistsError:  # another process was first
            return bytes.fromhex(file.read_text(encoding="ascii").strip())
        return made


def key_id() -> str:
    """Name of this installation's key; it tells nothing of the key itself."""
    return hashlib.sha256(b"volmek key " + _secret(secret_file())).hexdigest()[:16]


def keyed(text: str) -> str:
    """HMAC-SHA-256 of a text with this installation's key."""
    return hmac.new(_secret(secret_file()), text.encode(), hashlib.sha256).hexdigest()


def same(a: str, b: str) -> bool:
    """Two keyed digests are alike; takes as long whether they are or not."""
    return hmac.compare_digest(a, b)
