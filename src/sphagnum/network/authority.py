"""The workshop's own authority, made once, and the certificate it signs for this machine; limited to this machine's own names."""

from __future__ import annotations

import contextlib
import hashlib
import ipaddress
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import NamedTuple

from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import ExtendedKeyUsageOID, NameOID

from ..exchange.files import write_whole
from .addresses import LOOPBACK, PRIVATE

FOLDER = "authority"
STAYS = timedelta(days=3650)
LEAF_STAYS = timedelta(days=397)
"""Browsers take no longer ones."""
RENEWED = timedelta(days=30)
"""So long before its end a certificate is made anew."""


class Kept(NamedTuple):
    """Where the certificates and the key of this machine lie, the SHA-256 of the authority's certificate as it is shown, and
    whether the authority was ``made`` just now."""

    authority: Path
    leaf: Path
    key: Path
    sha256: str
    made: bool


def kept(data: Path, names: tuple[str, ...], addresses: tuple[str, ...], now: datetime | None = None) -> Kept:
    """The authority of a data folder and a certificate for names and addresses, each made where it is not there, is near its
    end, or is not for all of them.

    An authority vouches only for the names it was made with and for private addresses; a machine that is called otherwise needs
    another, and phones trust it anew.
    """
    now = now or datetime.now(UTC)
    folder = data / FOLDER
    folder.mkdir(parents=True, exist_ok=True, mode=0o700)
    own, own_key = folder / "authority.crt", folder / "authority.key"
    leaf, leaf_key = folder / "machine.crt", folder / "machine.key"
    found, key = _read(own), _read_key(own_key)
    made = found is None or key is None or found.not_valid_after_utc < now + LEAF_STAYS or not set(names) <= _permitted(found)
    if found is None or key is None or made:
        key = ec.generate_private_key(ec.SECP256R1())
        found = _authority(key, names, now)
        write_whole({own_key: _pem(key), own: found.public_bytes(serialization.Encoding.PEM)})
    current = _read(leaf)
    if (made or current is None or _read_key(leaf_key) is None or current.not_valid_after_utc < now + RENEWED
            or current.not_valid_before_utc > now or _vouched(current) != {*names, *addresses}):
        of_leaf = ec.generate_private_key(ec.SECP256R1())
        signed = _leaf(of_leaf, found, key, names, addresses, now)
        write_whole({leaf_key: _pem(of_leaf), leaf: signed.public_bytes(serialization.Encoding.PEM)})
    digest = hashlib.sha256(found.public_bytes(serialization.Encoding.DER)).hexdigest().upper()
    return Kept(own, leaf, leaf_key, ":".join(digest[i : i + 2] for i in range(0, len(digest), 2)), made)


def _pem(key: ec.EllipticCurvePrivateKey) -> bytes:
    return key.private_bytes(serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, serialization.NoEncryption())


def _read(file: Path) -> x509.Certificate | None:
    with contextlib.suppress(OSError, ValueError):
        return x509.load_pem_x509_certificate(file.read_bytes())
    return None


def _read_key(file: Path) -> ec.EllipticCurvePrivateKey | None:
    with contextlib.suppress(OSError, ValueError, TypeError):
        key = serialization.load_pem_private_key(file.read_bytes(), None)
        return key if isinstance(key, ec.EllipticCurvePrivateKey) else None
    return None


def _permitted(authority: x509.Certificate) -> set[str]:
    with contextlib.suppress(x509.ExtensionNotFound):
        named = authority.extensions.get_extension_for_class(x509.NameConstraints).value.permitted_subtrees or []
        return {n.value for n in named if isinstance(n, x509.DNSName)}
    return set()


def _vouched(leaf: x509.Certificate) -> set[str]:
    with contextlib.suppress(x509.ExtensionNotFound):
        found = leaf.extensions.get_extension_for_class(x509.SubjectAlternativeName).value
        return {*found.get_values_for_type(x509.DNSName), *map(str, found.get_values_for_type(x509.IPAddress))}
    return set()


def _named(name: str) -> x509.Name:
    return x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, name[:64])])


def _usage(**used: bool) -> x509.KeyUsage:
    every = dict.fromkeys(("digital_signature", "content_commitment", "key_encipherment", "data_encipherment", "key_agreement",
                           "key_cert_sign", "crl_sign", "encipher_only", "decipher_only"), False)
    return x509.KeyUsage(**{**every, **used})


def _begun(subject: x509.Name, issuer: x509.Name, key: ec.EllipticCurvePublicKey, now: datetime,
           stays: timedelta) -> x509.CertificateBuilder:
    return (x509.CertificateBuilder().subject_name(subject).issuer_name(issuer).public_key(key)
            .serial_number(x509.random_serial_number()).not_valid_before(now - timedelta(hours=1)).not_valid_after(now + stays)
            .add_extension(x509.SubjectKeyIdentifier.from_public_key(key), False))


def _authority(key: ec.EllipticCurvePrivateKey, names: tuple[str, ...], now: datetime) -> x509.Certificate:
    subject = _named(f"Sphagnum of {names[0]}, {now:%Y-%m-%d}")
    permitted: list[x509.GeneralName] = [x509.DNSName(n) for n in names]
    permitted += [x509.IPAddress(ipaddress.ip_network(n)) for n in (*LOOPBACK, *PRIVATE)]
    return (_begun(subject, subject, key.public_key(), now, STAYS)
            .add_extension(x509.BasicConstraints(True, 0), True)
            .add_extension(_usage(key_cert_sign=True, crl_sign=True), True)
            .add_extension(x509.NameConstraints(permitted, None), True)
            .sign(key, hashes.SHA256()))


def _leaf(key: ec.EllipticCurvePrivateKey, authority: x509.Certificate, by: ec.EllipticCurvePrivateKey, names: tuple[str, ...],
          addresses: tuple[str, ...], now: datetime) -> x509.Certificate:
    vouched: list[x509.GeneralName] = [x509.DNSName(n) for n in names]
    vouched += [x509.IPAddress(ipaddress.ip_address(a)) for a in addresses]
    return (_begun(_named(names[0]), authority.subject, key.public_key(), now, LEAF_STAYS - timedelta(hours=2))
            .add_extension(x509.AuthorityKeyIdentifier.from_issuer_public_key(by.public_key()), False)
            .add_extension(x509.BasicConstraints(False, None), True)
            .add_extension(_usage(digital_signature=True), True)
            .add_extension(x509.ExtendedKeyUsage([ExtendedKeyUsageOID.SERVER_AUTH]), False)
            .add_extension(x509.SubjectAlternativeName(vouched), False)
            .sign(by, hashes.SHA256()))
