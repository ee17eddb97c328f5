"""The fingerprint of a certificate as people compare it."""

from __future__ import annotations

from cryptography import x509
from cryptography.hazmat.primitives import hashes


def fingerprint(pem: bytes) -> str:
    """SHA-256 of a certificate's PEM, in pairs of hexadecimal digits."""
    digits = x509.load_pem_x509_certificate(pem).fingerprint(hashes.SHA256()).hex().upper()
    return ":".join(digits[i : i + 2] for i in range(0, len(digits), 2))
