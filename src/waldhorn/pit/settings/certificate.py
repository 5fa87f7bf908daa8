"""The certificate a pit is reached under on the local network: one of its own, made beside its store when first needed.

Nobody vouches for it; whoever joins compares its fingerprint with the one that the keeper's screen shows.
"""

import ipaddress
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path

from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import ExtendedKeyUsageOID, NameOID

from waldhorn.core.base.errors import InputError
from waldhorn.store.engine import whole_or_not

LASTS = timedelta(days=397)  # the longest that browsers take
RENEWED = timedelta(days=14)  # before it ends


@dataclass(frozen=True, slots=True)
class Certificate:
    """The files of a certificate and its key, and its SHA-256 fingerprint in pairs of hexadecimal digits."""

    file: Path
    key: Path
    fingerprint: str


def of_files(file: Path, key: Path) -> Certificate:
    """One that somebody brought; raises InputError where it cannot be read."""
    try:
        known = x509.load_pem_x509_certificate(file.read_bytes())
        serialization.load_pem_private_key(key.read_bytes(), None)
    except (OSError, ValueError, TypeError) as error:
        raise InputError("tls", f"{file}, {key}: no certificate and key as PEM: {error}") from error
    return Certificate(file, key, _fingerprint(known))


def of_pit(store: Path, addresses: Sequence[str], now: datetime) -> Certificate:
    """The one of this pit, made where there is none or it ends soon, for these addresses; raises InputError."""
    file, key = (store.with_name(f"{store.name}.{name}.pem") for name in ("certificate", "key"))
    try:
        known = x509.load_pem_x509_certificate(file.read_bytes())
        if known.not_valid_after_utc - RENEWED > now and key.exists():
            return Certificate(file, key, _fingerprint(known))
    except (OSError, ValueError):
        pass  # none yet, or none that can be read
    try:
        return _made(file, key, addresses, now)
    except OSError as error:
        raise InputError("tls", f"{file}: cannot be written: {error.strerror}") from error


def _made(file: Path, key: Path, addresses: Sequence[str], now: datetime) -> Certificate:
    private = ec.generate_private_key(ec.SECP256R1())
    name = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, "Waldhorn pit")])
    named = [x509.IPAddress(ipaddress.ip_address(a)) for a in addresses]
    made = (
        x509.CertificateBuilder()
        .subject_name(name)
        .issuer_name(name)
        .public_key(private.public_key())
        .serial_number(x509.random_serial_number())
        .not_valid_before(now.astimezone(UTC) - timedelta(days=1))  # the clocks of a pit differ
        .not_valid_after(now.astimezone(UTC) + LASTS)
        .add_extension(x509.SubjectAlternativeName(named), critical=False)
        .add_extension(x509.BasicConstraints(ca=False, path_length=None), critical=True)
        .add_extension(x509.ExtendedKeyUsage([ExtendedKeyUsageOID.SERVER_AUTH]), critical=False)
        .sign(private, hashes.SHA256())
    )
    secret = private.private_bytes(
        serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, serialization.NoEncryption()
    )
    for path, content in ((key, secret), (file, made.public_bytes(serialization.Encoding.PEM))):
        with whole_or_not(path) as aside:
            aside.touch(0o600)
            aside.write_bytes(content)
    return Certificate(file, key, _fingerprint(made))


def _fingerprint(certificate: x509.Certificate) -> str:
    return certificate.fingerprint(hashes.SHA256()).hex(":", 1).upper()
