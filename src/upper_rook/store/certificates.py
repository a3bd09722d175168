"""
The workshop's own certificate authority, and the server's certificate that it signs.

Made at first use and kept in a folder of the app's data that only its owner reads. The authority may sign for names
and addresses of private networks only, so that a key that was stolen is of no use elsewhere (RFC 5280, 4.2.1.10).
"""

import ipaddress
import os
import socket
from collections.abc import Iterable
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import NamedTuple

import ifaddr
from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import ExtendedKeyUsageOID, NameOID

_AUTHORITY_LASTS = timedelta(days=3650)
_LASTS = timedelta(days=90)
_RENEWED_BEFORE = timedelta(days=30)
_SLACK = timedelta(hours=1)
"""Clocks of devices are off by some minutes."""
_PRIVATE = ("10.0.0.0/8", "172.16.0.0/12", "192.168.0.0/16", "169.254.0.0/16", "127.0.0.0/8", "fc00::/7", "fe80::/10")
_CA, _CA_KEY, _CERT, _KEY = "authority.pem", "authority.key", "server.pem", "server.key"

Address = ipaddress.IPv4Address | ipaddress.IPv6Address


class Certificates(NamedTuple):
    """The files that a server needs, and what devices are to trust."""

    authority: Path
    certificate: Path
    key: Path
    fingerprint: str
    """SHA-256 of the authority's certificate, as devices show it."""


def certificates(folder: Path, names: tuple[str, ...]) -> Certificates:
    """
    The workshop's certificates for `names` (host names and addresses), made or renewed where need be.

    Raises OSError where the folder can't be written, ValueError for what is there and can't be read.
    """
    folder.mkdir(mode=0o700, parents=True, exist_ok=True)
    folder.chmod(0o700)
    authority, authority_key = _authority(folder, names)
    # One that it may not sign for would spoil the others too.
    names = tuple(name for name in names if _may_sign(authority, name))
    if not _serves(folder / _CERT, authority, names):
        key = ec.generate_private_key(ec.SECP256R1())
        _write(folder / _KEY, _plain(key), 0o600)
        _write(folder / _CERT, _signed(key, names, authority, authority_key).public_bytes(_PEM), 0o644)
    digest = authority.fingerprint(hashes.SHA256()).hex(":").upper()
    return Certificates(folder / _CA, folder / _CERT, folder / _KEY, digest)


_PEM = serialization.Encoding.PEM


def _plain(key: ec.EllipticCurvePrivateKey) -> bytes:
    return key.private_bytes(_PEM, serialization.PrivateFormat.PKCS8, serialization.NoEncryption())


def _write(file: Path, data: bytes, mode: int) -> None:
    """In place of what was there, wholly or not at all, and never readable by others in between."""
    part = file.with_name(f"{file.name}.part")
    part.unlink(missing_ok=True)
    with os.fdopen(os.open(part, os.O_CREAT | os.O_EXCL | os.O_WRONLY, mode), "wb") as opened:
        opened.write(data)
        opened.flush()
        os.fsync(opened.fileno())
    part.replace(file)


def _authority(folder: Path, names: tuple[str, ...]) -> tuple[x509.Certificate, ec.EllipticCurvePrivateKey]:
    if (folder / _CA).exists() and (folder / _CA_KEY).exists():
        key = serialization.load_pem_private_key((folder / _CA_KEY).read_bytes(), None)
        known = x509.load_pem_x509_certificate((folder / _CA).read_bytes())
        if not isinstance(key, ec.EllipticCurvePrivateKey) or key.public_key() != known.public_key():
            raise ValueError(f"{folder / _CA_KEY} is not the key of {folder / _CA}")
        if known.not_valid_after_utc > datetime.now(UTC) + _LASTS:
            return known, key
    key = ec.generate_private_key(ec.SECP256R1())
    called = x509.Name(
        [x509.NameAttribute(NameOID.COMMON_NAME, f"Upper Rook, workshop on {socket.gethostname()[:30]}")]
    )
    hosts = [name for name in names if _as_address(name) is None]
    # An address of this machine that is no private one stands by itself.
    own = [str(address) for name in names if (address := _as_address(name)) and not _is_within(address, _PRIVATE)]
    permitted = [
        *(x509.DNSName(host) for host in dict.fromkeys((*hosts, "localhost", "local"))),
        *(x509.IPAddress(ipaddress.ip_network(text)) for text in (*_PRIVATE, *own)),
    ]
    made = (
        _begun(called, called, key.public_key(), _AUTHORITY_LASTS)
        .add_extension(x509.BasicConstraints(ca=True, path_length=0), critical=True)
        .add_extension(_usage(signs=True), critical=True)
        .add_extension(x509.NameConstraints(permitted_subtrees=permitted, excluded_subtrees=None), critical=True)
        .add_extension(x509.SubjectKeyIdentifier.from_public_key(key.public_key()), critical=False)
        .sign(key, hashes.SHA256())
    )
    _write(folder / _CA_KEY, _plain(key), 0o600)
    _write(folder / _CA, made.public_bytes(_PEM), 0o644)
    return made, key


def _begun(
    subject: x509.Name, issuer: x509.Name, key: ec.EllipticCurvePublicKey, lasts: timedelta
) -> x509.CertificateBuilder:
    now = datetime.now(UTC)
    builder = x509.CertificateBuilder().subject_name(subject).issuer_name(issuer).public_key(key)
    return (
        builder.serial_number(x509.random_serial_number()).not_valid_before(now - _SLACK).not_valid_after(now + lasts)
    )


def _usage(*, signs: bool) -> x509.KeyUsage:
    return x509.KeyUsage(
        digital_signature=not signs,
        content_commitment=False,
        key_encipherment=False,
        data_encipherment=False,
        key_agreement=False,
        key_cert_sign=signs,
        crl_sign=signs,
        encipher_only=False,
        decipher_only=False,
    )


def _as_address(name: str) -> Address | None:
    try:
        return ipaddress.ip_address(name.strip("[]"))
    except ValueError:
        return None


def _is_within(address: Address, networks: Iterable[str]) -> bool:
    return any(address in ipaddress.ip_network(network) for network in networks)


def _may_sign(authority: x509.Certificate, name: str) -> bool:
    """Whether an authority's constraints cover a name or an address."""
    permitted = authority.extensions.get_extension_for_class(x509.NameConstraints).value.permitted_subtrees or []
    address = _as_address(name)
    if address is not None:
        return _is_within(address, (str(name.value) for name in permitted if isinstance(name, x509.IPAddress)))
    hosts = [name.value for name in permitted if isinstance(name, x509.DNSName)]
    return any(name == host or name.endswith(f".{host}") for host in hosts)


def _alternatives(names: tuple[str, ...]) -> list[x509.GeneralName]:
    found = ((name, _as_address(name)) for name in names)
    return [x509.IPAddress(address) if address else x509.DNSName(text) for text, address in found]


def _signed(
    key: ec.EllipticCurvePrivateKey,
    names: tuple[str, ...],
    authority: x509.Certificate,
    authority_key: ec.EllipticCurvePrivateKey,
) -> x509.Certificate:
    subject = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, "Upper Rook")])
    return (
        _begun(subject, authority.subject, key.public_key(), _LASTS)
        .add_extension(x509.SubjectAlternativeName(_alternatives(names)), critical=False)
        .add_extension(x509.BasicConstraints(ca=False, path_length=None), critical=True)
        .add_extension(_usage(signs=False), critical=True)
        .add_extension(x509.ExtendedKeyUsage([ExtendedKeyUsageOID.SERVER_AUTH]), critical=False)
        .add_extension(x509.AuthorityKeyIdentifier.from_issuer_public_key(authority_key.public_key()), critical=False)
        .sign(authority_key, hashes.SHA256())
    )


def _serves(file: Path, authority: x509.Certificate, names: tuple[str, ...]) -> bool:
    """Whether a certificate is there that is of this authority, for these names, and good for a while."""
    try:
        known = x509.load_pem_x509_certificate(file.read_bytes())
        known.verify_directly_issued_by(authority)
        told = known.extensions.get_extension_for_class(x509.SubjectAlternativeName).value
    except Exception:
        return False
    lasts = known.not_valid_after_utc > datetime.now(UTC) + _RENEWED_BEFORE
    return lasts and set(told) == set(_alternatives(names))


def own_names() -> tuple[str, ...]:
    """The names and addresses under which this machine is found on its networks."""
    host = socket.gethostname()
    found = [host, f"{host}.local" if "." not in host else host, "localhost", "127.0.0.1"]
    for family, far in ((socket.AF_INET, "10.255.255.255"), (socket.AF_INET6, "fd00::1")):
        # Nothing is sent: the socket only tells which address would be used.
        with socket.socket(family, socket.SOCK_DGRAM) as probe:
            try:
                probe.connect((far, 9))
                found.append(probe.getsockname()[0])
            except OSError:
                continue
    # A bench with two networks is found on both. An IPv6 address comes with its scope; one of a link alone is no name.
    told = (ip.ip if isinstance(ip.ip, str) else ip.ip[0] for adapter in ifaddr.get_adapters() for ip in adapter.ips)
    found += [text for text in told if text != "::1" and not ipaddress.ip_address(text).is_link_local]
    return tuple(dict.fromkeys(text for text in found if text))
