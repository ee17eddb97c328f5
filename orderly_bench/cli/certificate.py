"""The lab's own certificate for its network: made once, printed with its fingerprint and a code to scan."""

from __future__ import annotations

import argparse
import ipaddress
import os
import sys
from datetime import UTC, datetime, timedelta
from pathlib import Path

from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import ExtendedKeyUsageOID, NameOID

from orderly_bench.core.messages.words import dated, tell

#: Phones refuse certificates that hold for longer.
HOLDS = timedelta(days=398)
RENEWED_BEFORE = timedelta(days=30)


def run(arguments: argparse.Namespace) -> int:
    """Make it where there is none that fits, and print address, fingerprint and code."""
    folder = Path(arguments.folder)
    cert, key = (
        (Path(arguments.cert), Path(arguments.key)) if arguments.cert else (folder / "cert.pem", folder / "key.pem")
    )
    if not arguments.cert and not fits(cert, arguments.host, datetime.now(UTC)):
        make(folder, arguments.host, datetime.now(UTC))
    try:
        print(told(cert, f"https://{arguments.host}:{arguments.port}"))
        serialization.load_pem_private_key(key.read_bytes(), None)
    except (OSError, ValueError, TypeError) as error:
        print(
            f"Certificate or key can't be read ({error}). Give both as PEM files without a password.", file=sys.stderr
        )
        return 1
    return 0


def _names(host: str) -> x509.SubjectAlternativeName:
    try:
        return x509.SubjectAlternativeName([x509.IPAddress(ipaddress.ip_address(host))])
    except ValueError:
        return x509.SubjectAlternativeName([x509.DNSName(host)])


def make(folder: Path, host: str, now: datetime) -> None:
    """A certificate of the lab's own for an address or name, with a new key, both readable by their owner alone."""
    key = ec.generate_private_key(ec.SECP256R1())
    name = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, f"Orderly Bench at {host}"[:64])])
    made = (
        x509.CertificateBuilder()
        .subject_name(name)
        .issuer_name(name)
        .public_key(key.public_key())
        .serial_number(x509.random_serial_number())
        .not_valid_before(now - timedelta(minutes=5))
        .not_valid_after(now + HOLDS)
        .add_extension(_names(host), critical=False)
        .add_extension(x509.BasicConstraints(ca=True, path_length=0), critical=True)
        .add_extension(x509.ExtendedKeyUsage([ExtendedKeyUsageOID.SERVER_AUTH]), critical=False)
        .sign(key, hashes.SHA256())
    )
    folder.mkdir(parents=True, exist_ok=True, mode=0o700)
    private = key.private_bytes(
        serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, serialization.NoEncryption()
    )
    for file, content in (("key.pem", private), ("cert.pem", made.public_bytes(serialization.Encoding.PEM))):
        path = folder / file
        path.unlink(missing_ok=True)
        path.touch(mode=0o600)
        path.write_bytes(content)


def fits(cert: Path, host: str, now: datetime) -> bool:
    """Whether there is one for this address that holds for a while yet."""
    if not cert.exists() or not os.access(cert, os.R_OK):
        return False
    try:
        found = x509.load_pem_x509_certificate(cert.read_bytes())
        names = found.extensions.get_extension_for_class(x509.SubjectAlternativeName).value
    except (ValueError, x509.ExtensionNotFound):
        return False
    return names == _names(host) and found.not_valid_after_utc - now > RENEWED_BEFORE


def told(cert: Path, address: str) -> str:
    """Address, fingerprint and a code to scan, for the terminal."""
    import io

    import segno

    found = x509.load_pem_x509_certificate(cert.read_bytes())
    print_of = found.fingerprint(hashes.SHA256()).hex().upper()
    pairs = ":".join(print_of[i : i + 2] for i in range(0, len(print_of), 2))
    square = io.StringIO()
    segno.make(address, error="l", micro=False).terminal(square, compact=True, border=2)
    until = dated(found.not_valid_after_utc, "%d %B %Y")
    phones = tell("For phones on this network: {address}", address=address)
    proof = tell("Certificate until {until}, SHA-256 {pairs}", until=until, pairs=pairs)
    return f"\n  {phones}\n  {proof}\n\n{square.getvalue()}"
