"""The secret of a second factor as it is kept: encrypted with a key that is not in the database.

The key is drawn from the installation's own secret by HKDF (RFC 5869); the cipher is Fernet of the cryptography package.
"""

from __future__ import annotations

from base64 import urlsafe_b64encode

from cryptography.fernet import Fernet, InvalidToken
from cryptography.hazmat.primitives.hashes import SHA256
from cryptography.hazmat.primitives.kdf.hkdf import HKDF

#: What every sealed text begins with: the version of its form.
SEALED = "gAAAA"


def _cipher(own_secret: str) -> Fernet:
    drawn = HKDF(SHA256(), 32, salt=None, info=b"orderly bench, second factor").derive(own_secret.encode())
    return Fernet(urlsafe_b64encode(drawn))


def sealed(secret: str, own_secret: str) -> str:
    """A secret as it is kept; ``own_secret`` is the installation's."""
    return _cipher(own_secret).encrypt(secret.encode()).decode()


def opened(kept: str, own_secret: str) -> str | None:
    """The secret that was kept; None when it was sealed by another installation. One kept before sealing is taken as it is."""
    if not kept.startswith(SEALED):
        return kept
    try:
        return _cipher(own_secret).decrypt(kept.encode()).decode()
    except InvalidToken:
        return None
