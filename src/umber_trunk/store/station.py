"""A station's key: made at first use, private in the user's state folder. It names the station, not who works there.

What is signed is the chain of a log: how many entries, the last one's seal, of which harness. Who has the file alone
can rewrite and re-chain it, and can't sign; who has the key can. A lost key, a new computer, another user: each is
another key, and noted.
"""

from __future__ import annotations

import json
import os
from dataclasses import dataclass
from functools import cached_property
from pathlib import Path

from cryptography.exceptions import InvalidSignature
from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey, Ed25519PublicKey
from cryptography.hazmat.primitives.serialization import (
    Encoding,
    NoEncryption,
    PrivateFormat,
    PublicFormat,
    load_pem_private_key,
)
from platformdirs import user_state_path

from umber_trunk.store.files import StoreError, put_whole, read_text, read_whole

MARK = b"umber trunk log\0"
SHORT = 16
"""How many of a key's letters tell it from others at a glance."""


@dataclass(frozen=True)
class Station:
    """This station: its name and its key."""

    name: str
    private: Ed25519PrivateKey

    @cached_property
    def key(self) -> str:
        """Its public key, as hex."""
        return _public(self.private)

    def sign(self, harness: str, entries: int, seal: str, what: str) -> str:
        """Its signature over a chain, as hex."""
        return self.private.sign(_message(harness, entries, seal, what)).hex()


MOST_KEY, MOST_KNOWN = 10_000, 10_000_000


def folder() -> Path:
    """Where keys are kept."""
    return user_state_path("umber-trunk")


def this_station() -> Station:
    """This user's station; its key is made at first use. StoreError where it can't be read or kept."""
    path = folder() / "station-key.pem"
    data = read_whole(path, MOST_KEY) if os.path.lexists(path) else None
    if data is None:
        return new_key()
    try:
        private = load_pem_private_key(data, None)
    except ValueError as why:
        raise StoreError.of("store.stations-key-is-damaged", path=path) from why
    if not isinstance(private, Ed25519PrivateKey):
        raise StoreError.of("store.no-stations-key", path=path)
    key = _public(private)
    return Station(known_stations().get(key, "") or _unnamed(key), private)


def new_key() -> Station:
    """A new key for this station; the one before is kept beside it under its own name. StoreError where it can't be
    kept."""
    path, private = folder() / "station-key.pem", Ed25519PrivateKey.generate()
    try:
        path.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
        if path.exists():
            n = next(n for n in range(1, 10_000) if not path.with_name(f"station-key-old-{n}.pem").exists())
            path.rename(path.with_name(f"station-key-old-{n}.pem"))
    except OSError as why:
        raise StoreError.of(
            "store.stations-key-cant-be-kept", parent=path.parent, why=(why.strerror or "a fault").lower()
        ) from why
    try:
        put_whole(
            path, private.private_bytes(Encoding.PEM, PrivateFormat.PKCS8, NoEncryption()), fresh=True, private=True
        )
    except StoreError:
        if path.exists():
            return this_station()  # another window made it just now
        raise
    return Station(_unnamed(_public(private)), private)


def _unnamed(key: str) -> str:
    """What a station is called until somebody names it: nothing of its machine goes out with what it signs."""
    return f"station {key[:4]}"


def known_stations() -> dict[str, str]:
    """Key → name of the stations this user knows, this one's own names among them."""
    path = folder() / "stations.json"
    try:
        data = json.loads(read_text(path, MOST_KNOWN)) if path.exists() else {}
        return {str(key): str(name)[:80] for key, name in data.items()}
    except (StoreError, ValueError, AttributeError):
        return {}


def know(key: str, name: str) -> None:
    """Notes a station as known."""
    put = known_stations() | {key: name}
    folder().mkdir(parents=True, exist_ok=True, mode=0o700)
    put_whole(folder() / "stations.json", (json.dumps(put, ensure_ascii=False, indent=1) + "\n").encode(), private=True)


def signed_well(key: str, harness: str, entries: int, seal: str, what: str, signature: str) -> bool:
    """Whether a signature over a chain is that key's."""
    try:
        public = Ed25519PublicKey.from_public_bytes(bytes.fromhex(key))
        public.verify(bytes.fromhex(signature), _message(harness, entries, seal, what))
    except (InvalidSignature, ValueError):
        return False
    return True


def _public(private: Ed25519PrivateKey) -> str:
    return private.public_key().public_bytes(Encoding.Raw, PublicFormat.Raw).hex()


def _message(harness: str, entries: int, seal: str, what: str) -> bytes:
    return MARK + json.dumps([harness, entries, seal, what], ensure_ascii=False, separators=(",", ":")).encode()
