"""An authority of this server's own, made at first start, and a certificate by it for the names it has at home.

The authority may vouch for home networks and this machine alone (RFC 5280, 4.2.1.10): a phone that trusts it trusts it
for nothing else.
"""

from __future__ import annotations

import datetime as dt
import ipaddress
import os
import re
import socket
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import ExtendedKeyUsageOID, NameOID

_NETWORKS = ("10.0.0.0/8", "172.16.0.0/12", "192.168.0.0/16", "127.0.0.0/8", "fc00::/7", "::1/128")
# What homes call their own machines (RFC 6762, RFC 8375); what has no dot is nobody's beyond a home.
_ENDINGS = ("local", "home.arpa", "lan", "localhost", "internal")
# Browsers take a server's certificate for at most 398 days.
_AUTHORITY_D, _SERVER_D, _RENEW_D = 3650, 390, 30


@dataclass(frozen=True)
class Papers:
    """Where the files lie: the authority's certificate and key, the server's."""

    folder: Path

    @property
    def authority(self) -> Path:
        """The authority's certificate: what a phone is given."""
        return self.folder / "authority.crt"

    @property
    def authority_key(self) -> Path:
        """Its key, which never leaves this machine."""
        return self.folder / "authority.key"

    @property
    def server(self) -> Path:
        """The server's certificate."""
        return self.folder / "server.crt"

    @property
    def server_key(self) -> Path:
        """Its key."""
        return self.folder / "server.key"


def papers(data: Path) -> Papers:
    """Give where the files lie in a data folder."""
    return Papers(folder=data / "tls")


def own_names() -> tuple[str, ...]:
    """Give the names and numbers under which this machine may be found at home, the likeliest first."""
    import ifaddr

    numbers = []
    for adapter in ifaddr.get_adapters():
        for item in adapter.ips:
            text = item.ip if isinstance(item.ip, str) else item.ip[0]
            number = ipaddress.ip_address(text.split("%")[0])
            if any(number in ipaddress.ip_network(net) for net in _NETWORKS if _same(net, number)):
                numbers.append(str(number))
    host = re.sub(r"[^a-z0-9-]", "-", socket.gethostname().split(".")[0].casefold()).strip("-")
    numbers.sort(key=lambda text: (":" in text, text.startswith("127."), text))
    names = [f"{host}.local", host] if host and host != "localhost" else []
    return tuple(dict.fromkeys([*numbers, *names, "localhost", "127.0.0.1"]))


def _same(network: str, number: ipaddress.IPv4Address | ipaddress.IPv6Address) -> bool:
    return ipaddress.ip_network(network).version == number.version


def make_sure(found: Papers, names: Sequence[str], now: dt.datetime | None = None) -> bool:
    """Make the authority where there is none, and the server's certificate where it is none for these names or runs
    out soon; says whether that was made anew. Keys may be read by this user alone.
    """
    moment = dt.datetime.now(dt.UTC) if now is None else now
    found.folder.mkdir(parents=True, exist_ok=True, mode=0o700)
    if not (found.authority.exists() and found.authority_key.exists()):
        _make_authority(found, names, moment)
    if _holds(found, names, moment):
        return False
    _make_server(found, names, moment)
    return True


def runs_out(found: Papers, now: dt.datetime | None = None) -> bool:
    """Say whether the server's certificate should be made anew by now."""
    moment = dt.datetime.now(dt.UTC) if now is None else now
    return _until(found.server) - moment < dt.timedelta(days=_RENEW_D)


def fingerprint(found: Papers) -> str:
    """Write the authority's SHA-256 fingerprint, by which a person knows it."""
    digest = _read(found.authority).fingerprint(hashes.SHA256())
    return ":".join(f"{byte:02X}" for byte in digest)


def _read(path: Path) -> x509.Certificate:
    return x509.load_pem_x509_certificate(path.read_bytes())


def _until(path: Path) -> dt.datetime:
    return _read(path).not_valid_after_utc


def _holds(found: Papers, names: Sequence[str], now: dt.datetime) -> bool:
    if not (found.server.exists() and found.server_key.exists()):
        return False
    held = _read(found.server)
    subject = held.extensions.get_extension_for_class(x509.SubjectAlternativeName).value
    there = {*subject.get_values_for_type(x509.DNSName), *map(str, subject.get_values_for_type(x509.IPAddress))}
    return set(names) <= there and not runs_out(found, now) and held.issuer == _read(found.authority).subject


def _write(path: Path, content: bytes) -> None:
    part = path.with_suffix(path.suffix + ".part")
    with os.fdopen(os.open(part, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600), "wb") as file:
        file.write(content)
    part.replace(path)


def _key(path: Path) -> ec.EllipticCurvePrivateKey:
    key = ec.generate_private_key(ec.SECP256R1())
    plain = serialization.NoEncryption()
    _write(path, key.private_bytes(serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, plain))
    return key


def _named(text: str) -> x509.Name:
    return x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, text[:64])])


def _begun(
    subject: x509.Name, issuer: x509.Name, public: ec.EllipticCurvePublicKey, now: dt.datetime, days: int
) -> x509.CertificateBuilder:
    return (
        x509.CertificateBuilder()
        .subject_name(subject)
        .issuer_name(issuer)
        .public_key(public)
        .serial_number(x509.random_serial_number())
        .not_valid_before(now - dt.timedelta(days=1))
        .not_valid_after(now + dt.timedelta(days=days))
    )


def _usage(*, signs: bool) -> x509.KeyUsage:
    return x509.KeyUsage(
        digital_signature=not signs,
        key_cert_sign=signs,
        crl_sign=signs,
        content_commitment=False,
        key_encipherment=False,
        data_encipherment=False,
        key_agreement=False,
        encipher_only=False,
        decipher_only=False,
    )


def _make_authority(found: Papers, names: Sequence[str], now: dt.datetime) -> None:
    key = _key(found.authority_key)
    host = next((name for name in names if name.endswith(".local")), "this server")
    name = _named(f"Mild Canopy at home, {host}")
    bare = [item for item in names if "." not in item and ":" not in item]
    permitted: list[x509.GeneralName] = [x509.IPAddress(ipaddress.ip_network(net)) for net in _NETWORKS]
    permitted += [x509.DNSName(ending) for ending in dict.fromkeys((*_ENDINGS, *bare))]
    public = key.public_key()
    made = (
        _begun(name, name, public, now, _AUTHORITY_D)
        .add_extension(x509.BasicConstraints(ca=True, path_length=0), critical=True)
        .add_extension(_usage(signs=True), critical=True)
        .add_extension(x509.NameConstraints(permitted_subtrees=permitted, excluded_subtrees=None), critical=True)
        .add_extension(x509.SubjectKeyIdentifier.from_public_key(public), critical=False)
        .sign(key, hashes.SHA256())
    )
    _write(found.authority, made.public_bytes(serialization.Encoding.PEM))
    found.server.unlink(missing_ok=True)


def _make_server(found: Papers, names: Sequence[str], now: dt.datetime) -> None:
    held = serialization.load_pem_private_key(found.authority_key.read_bytes(), None)
    assert isinstance(held, ec.EllipticCurvePrivateKey)
    authority, key = _read(found.authority), _key(found.server_key)
    alternatives = x509.SubjectAlternativeName([_general(name) for name in names])
    made = (
        _begun(_named(names[0]), authority.subject, key.public_key(), now, _SERVER_D)
        .add_extension(alternatives, critical=False)
        .add_extension(x509.BasicConstraints(ca=False, path_length=None), critical=True)
        .add_extension(_usage(signs=False), critical=True)
        .add_extension(x509.ExtendedKeyUsage([ExtendedKeyUsageOID.SERVER_AUTH]), critical=False)
        .add_extension(x509.AuthorityKeyIdentifier.from_issuer_public_key(held.public_key()), critical=False)
        .sign(held, hashes.SHA256())
    )
    _write(found.server, made.public_bytes(serialization.Encoding.PEM))


def _general(name: str) -> x509.GeneralName:
    try:
        return x509.IPAddress(ipaddress.ip_address(name))
    except ValueError:
        return x509.DNSName(name)
