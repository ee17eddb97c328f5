"""The lab's own certificate for its network: made once, printed with its fingerprint and a code to scan."""

from __future__ import annotations

import argparse
import ipaddress
import os
import socket
import sys
from datetime import UTC, datetime, timedelta
from pathlib import Path

from cryptography import x509
from cryptography.exceptions import InvalidSignature
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import ExtendedKeyUsageOID, NameOID

from orderly_bench.core.messages.translation import dated
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.formats.fingerprint import fingerprint

#: Phones refuse certificates that hold for longer.
HOLDS = timedelta(days=398)
RENEWED_BEFORE = timedelta(days=30)
#: What phones install, once.
AUTHORITY = "authority.pem"
AUTHORITY_HOLDS = timedelta(days=3650)


def run(arguments: argparse.Namespace) -> int:
    """Make it where there is none that fits, and print address, fingerprint and code."""
    folder = Path(arguments.folder)
    cert, key = (
        (Path(arguments.cert), Path(arguments.key)) if arguments.cert else (folder / "cert.pem", folder / "key.pem")
    )
    if not arguments.cert and not fits(cert, arguments.host, datetime.now(UTC)):
        make(folder, arguments.host, datetime.now(UTC))
    try:
        shown = cert if arguments.cert else folder / AUTHORITY
        print(how_to_trust(shown, f"https://{arguments.host}:{arguments.port}"))
        serialization.load_pem_private_key(key.read_bytes(), None)
    except (OSError, ValueError, TypeError) as error:
        print(
            f"Certificate or key can't be read ({error}). Give both as PEM files without a password.", file=sys.stderr
        )
        return 1
    return 0


def names_of(host: str) -> list[str]:
    """The address, and the names of this machine, which stay when an address changes."""
    own = socket.gethostname().split(".")[0]
    return list(dict.fromkeys([host, own, f"{own}.local"]))


def _names(host: str) -> x509.SubjectAlternativeName:
    return x509.SubjectAlternativeName([_as_name(one) for one in names_of(host)])


def _as_name(host: str) -> x509.GeneralName:
    try:
        return x509.IPAddress(ipaddress.ip_address(host))
    except ValueError:
        return x509.DNSName(host)


def authority(folder: Path, now: datetime) -> tuple[x509.Certificate, ec.EllipticCurvePrivateKey]:
    """The lab's own authority, made once and kept when addresses change: each phone installs it once."""
    cert, key = folder / AUTHORITY, folder / "authority-key.pem"
    try:
        found = x509.load_pem_x509_certificate(cert.read_bytes())
        own = serialization.load_pem_private_key(key.read_bytes(), None)
        if isinstance(own, ec.EllipticCurvePrivateKey) and found.not_valid_after_utc - now > HOLDS:
            return found, own
    except (OSError, ValueError, TypeError):
        pass
    own = ec.generate_private_key(ec.SECP256R1())
    name = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, f"Orderly Bench, {socket.gethostname()}"[:64])])
    made = _begun(name, name, own.public_key(), now, AUTHORITY_HOLDS)
    made = made.add_extension(x509.BasicConstraints(ca=True, path_length=0), critical=True)
    usage = x509.KeyUsage(False, False, False, False, False, True, True, False, False)
    found = made.add_extension(usage, critical=True).sign(own, hashes.SHA256())
    _write(folder, {"authority-key.pem": _private(own), AUTHORITY: found.public_bytes(serialization.Encoding.PEM)})
    return found, own


def make(folder: Path, host: str, now: datetime) -> None:
    """A certificate by the lab's own authority for an address or name, with a new key, readable by their owner alone."""
    of, own = authority(folder, now)
    key = ec.generate_private_key(ec.SECP256R1())
    name = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, f"Orderly Bench at {host}"[:64])])
    made = (
        _begun(name, of.subject, key.public_key(), now, HOLDS)
        .add_extension(_names(host), critical=False)
        .add_extension(x509.BasicConstraints(ca=False, path_length=None), critical=True)
        .add_extension(x509.ExtendedKeyUsage([ExtendedKeyUsageOID.SERVER_AUTH]), critical=False)
        .sign(own, hashes.SHA256())
    )
    chain = b"".join(one.public_bytes(serialization.Encoding.PEM) for one in (made, of))
    _write(folder, {"key.pem": _private(key), "cert.pem": chain})


def _begun(
    subject: x509.Name, issuer: x509.Name, key: ec.EllipticCurvePublicKey, now: datetime, holds: timedelta
) -> x509.CertificateBuilder:
    return (
        x509.CertificateBuilder()
        .subject_name(subject)
        .issuer_name(issuer)
        .public_key(key)
        .serial_number(x509.random_serial_number())
        .not_valid_before(now - timedelta(minutes=5))
        .not_valid_after(now + holds)
    )


def _private(key: ec.EllipticCurvePrivateKey) -> bytes:
    return key.private_bytes(
        serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, serialization.NoEncryption()
    )


def _write(folder: Path, files: dict[str, bytes]) -> None:
    folder.mkdir(parents=True, exist_ok=True, mode=0o700)
    for file, content in files.items():
        path = folder / file
        path.unlink(missing_ok=True)
        path.touch(mode=0o600)
        path.write_bytes(content)


def fits(cert: Path, host: str, now: datetime) -> bool:
    """Whether there is one for this address, by the authority that stands, that holds for a while yet."""
    if not cert.exists() or not os.access(cert, os.R_OK):
        return False
    try:
        found = x509.load_pem_x509_certificate(cert.read_bytes())
        names = found.extensions.get_extension_for_class(x509.SubjectAlternativeName).value
        found.verify_directly_issued_by(x509.load_pem_x509_certificate((cert.parent / AUTHORITY).read_bytes()))
    except (OSError, ValueError, TypeError, InvalidSignature, x509.ExtensionNotFound):
        return False
    return names == _names(host) and found.not_valid_after_utc - now > RENEWED_BEFORE


def how_to_trust(cert: Path, address: str) -> str:
    """Address, fingerprint and a code to scan, for the terminal."""
    import io

    import segno

    found = x509.load_pem_x509_certificate(cert.read_bytes())
    pairs = fingerprint(cert.read_bytes())
    square = io.StringIO()
    segno.make(address, error="l", micro=False).terminal(square, compact=True, border=2)
    until = dated(found.not_valid_after_utc, "%d %B %Y")
    phones = _("For phones on this network: {address}", address=address)
    proof = _("Certificate until {until}, SHA-256 {pairs}", until=until, pairs=pairs)
    return f"\n  {phones}\n  {proof}\n\n{square.getvalue()}"
