"""A backup sealed with a passphrase: read back whole or refused, never in part.

The key is drawn by scrypt (RFC 7914; n 2^15, r 8, p 1) from the passphrase and 16 random bytes. The file is cut into pieces of 1 MiB, each
sealed by AES-256-GCM with its number and whether it is the last as its nonce: pieces can't be swapped, repeated or cut off (the STREAM
construction, Hoang, Reyhanitabar, Rogaway and Vizar 2015).
"""

from __future__ import annotations

import secrets
from typing import IO

from cryptography.exceptions import InvalidTag
from cryptography.hazmat.primitives.ciphers.aead import AESGCM
from cryptography.hazmat.primitives.kdf.scrypt import Scrypt

from orderly_bench.core.errors import InvalidInput, UnusableData
from orderly_bench.core.messages.translation import gettext as _

MAGIC = b"orderly-bench sealed 1\n"
PIECE, SALT, TAG = 1 << 20, 16, 16
SHORTEST = 12


def is_sealed(file: IO[bytes]) -> bool:
    """Whether a file begins as a sealed one does; its place is put back."""
    start = file.tell()
    found = file.read(len(MAGIC)) == MAGIC
    file.seek(start)
    return found


def check_passphrase(passphrase: str) -> str:
    """A passphrase that may seal.

    Raises
    ------
    InvalidInput
        Too short.
    """
    if len(passphrase) < SHORTEST:
        raise InvalidInput("passphrase", _("needs {n} characters or more; several words are best", n=str(SHORTEST)))
    return passphrase


def seal(plain: IO[bytes], out: IO[bytes], passphrase: str) -> None:
    """Write a file sealed."""
    salt = secrets.token_bytes(SALT)
    cipher = _cipher(check_passphrase(passphrase), salt)
    out.write(MAGIC + salt)
    number, piece = 0, plain.read(PIECE)
    while True:
        following = plain.read(PIECE)
        out.write(cipher.encrypt(_nonce(number, not following), piece, None))
        if not following:
            return
        number, piece = number + 1, following


def unseal(sealed: IO[bytes], out: IO[bytes], passphrase: str) -> None:
    """Write a sealed file open.

    Raises
    ------
    UnusableData
        Not sealed, another passphrase, or a file that was changed or cut off.
    """
    if sealed.read(len(MAGIC)) != MAGIC:
        raise UnusableData(_("this file is not sealed"), _("Restore it without a passphrase"))
    cipher = _cipher(passphrase, sealed.read(SALT))
    number, piece = 0, sealed.read(PIECE + TAG)
    while True:
        following = sealed.read(PIECE + TAG)
        try:
            out.write(cipher.decrypt(_nonce(number, not following), piece, None))
        except (InvalidTag, ValueError) as error:
            raise UnusableData(
                _("it does not open with this passphrase, or it was changed or cut off"),
                _("Take the passphrase it was sealed with, or an earlier backup"),
            ) from error
        if not following:
            return
        number, piece = number + 1, following


def _cipher(passphrase: str, salt: bytes) -> AESGCM:
    return AESGCM(Scrypt(salt=salt, length=32, n=1 << 15, r=8, p=1).derive(passphrase.encode()))


def _nonce(number: int, last: bool) -> bytes:
    return number.to_bytes(11, "big") + (b"\x01" if last else b"\x00")
