"""A certificate for the shop's network, made on the spot: an authority of the shop's own, and a page signed by it.

A device that trusts the authority once trusts the page for good, whatever address the desk has next week. The authority
can vouch for addresses of a house network only (RFC 5280, name constraints), so that its key, should it ever get out,
is of no use for anything else.
"""

from __future__ import annotations

import ipaddress
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from pathlib import Path

from cryptography import x509
from cryptography.exceptions import InvalidSignature
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import ExtendedKeyUsageOID, NameOID

from adhaero.core.house_network import HOUSE_NETWORKS
from adhaero.store.private_file import write_private

AUTHORITY_FOR = timedelta(days=3650)
PAGE_FOR = timedelta(days=397)
"""Browsers refuse pages whose certificate is good for longer (398 days)."""
RENEW_BEFORE = timedelta(days=30)


@dataclass(frozen=True)
class Secured:
    """The file with the page's key and certificate, and the certificate (PEM) of the authority that a device trusts."""

    page: Path
    authority: bytes


_Made = tuple[ec.EllipticCurvePrivateKey, x509.Certificate]


def _write(path: Path, made: _Made) -> None:
    """Key and certificate in one file, so that no broken-off write leaves two that do not belong together."""
    key = made[0].private_bytes(
        serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, serialization.NoEncryption()
    )
    write_private(path, key + made[1].public_bytes(serialization.Encoding.PEM))


def _read(path: Path) -> _Made | None:
    """What a file holds; ``None`` where it is not there, or no such file."""
    try:
        data = path.read_bytes()
        key, certificate = serialization.load_pem_private_key(data, None), x509.load_pem_x509_certificate(data)
    except (OSError, ValueError):
        return None
    return (key, certificate) if isinstance(key, ec.EllipticCurvePrivateKey) else None


def _named(text: str) -> x509.Name:
    return x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, text)])


def _usage(*, signs_others: bool) -> x509.KeyUsage:
    return x509.KeyUsage(
        digital_signature=not signs_others, key_cert_sign=signs_others, crl_sign=signs_others, key_encipherment=False,
        content_commitment=False, data_encipherment=False, key_agreement=False, encipher_only=False,
        decipher_only=False,
    )  # fmt: skip


def _authority(host: str, now: datetime) -> _Made:
    key = ec.generate_private_key(ec.SECP256R1())
    name = _named(f"Adhaero on {host}"[:64])
    within: list[x509.GeneralName] = [x509.IPAddress(ipaddress.ip_network(n)) for n in HOUSE_NETWORKS]
    within += [x509.DNSName("local"), x509.DNSName(host), x509.DNSName("localhost")]
    return key, (
        x509.CertificateBuilder()
        .subject_name(name)
        .issuer_name(name)
        .public_key(key.public_key())
        .serial_number(x509.random_serial_number())
        .not_valid_before(now - timedelta(days=1))
        .not_valid_after(now + AUTHORITY_FOR)
        .add_extension(x509.BasicConstraints(ca=True, path_length=0), critical=True)
        .add_extension(_usage(signs_others=True), critical=True)
        .add_extension(x509.NameConstraints(within, None), critical=True)
        .add_extension(x509.SubjectKeyIdentifier.from_public_key(key.public_key()), critical=False)
        .sign(key, hashes.SHA256())
    )


def _page(authority: _Made, names: Sequence[x509.GeneralName], now: datetime) -> _Made:
    signing, signer = authority
    key = ec.generate_private_key(ec.SECP256R1())
    return key, (
        x509.CertificateBuilder()
        .subject_name(_named("Adhaero"))
        .issuer_name(signer.subject)
        .public_key(key.public_key())
        .serial_number(x509.random_serial_number())
        .not_valid_before(now - timedelta(days=1))
        .not_valid_after(now + PAGE_FOR)
        .add_extension(x509.SubjectAlternativeName(names), critical=False)
        .add_extension(x509.BasicConstraints(ca=False, path_length=None), critical=True)
        .add_extension(_usage(signs_others=False), critical=True)
        .add_extension(x509.ExtendedKeyUsage([ExtendedKeyUsageOID.SERVER_AUTH]), critical=False)
        .add_extension(x509.AuthorityKeyIdentifier.from_issuer_public_key(signing.public_key()), critical=False)
        .sign(signing, hashes.SHA256())
    )


def _is_good(page: _Made | None, names: Sequence[x509.GeneralName], authority: _Made, now: datetime) -> bool:
    """Whether a stored page is for all these names, for long enough, and signed by the authority that there is."""
    if page is None:
        return False
    try:
        page[1].verify_directly_issued_by(authority[1])
        has = page[1].extensions.get_extension_for_class(x509.SubjectAlternativeName).value
    except (ValueError, TypeError, InvalidSignature, x509.ExtensionNotFound):
        return False
    return set(names) <= set(has) and page[1].not_valid_after_utc > now + RENEW_BEFORE


def certificate(folder: Path, host: str, addresses: Sequence[str], now: datetime) -> Secured:
    """A certificate for the page at these addresses (IPv4) and at the names of this computer.

    What is there already and still good is used again; the authority stays as long as it is good, since every device
    would have to be told about another one.
    """
    folder.mkdir(mode=0o700, parents=True, exist_ok=True)
    names: list[x509.GeneralName] = [x509.DNSName(n) for n in (host, f"{host}.local", "localhost")]
    names += [x509.IPAddress(ipaddress.ip_address(a)) for a in (*addresses, "127.0.0.1")]
    authority = _read(folder / "authority.pem")
    if authority is None or authority[1].not_valid_after_utc < now + PAGE_FOR:
        authority = _authority(host, now)
        _write(folder / "authority.pem", authority)
    if not _is_good(_read(folder / "page.pem"), names, authority, now):
        _write(folder / "page.pem", _page(authority, names, now))
    return Secured(folder / "page.pem", authority[1].public_bytes(serialization.Encoding.PEM))
