"""The certificate of a shop's own, by which its phones know its server."""

from __future__ import annotations

import datetime as dt
import io
import ipaddress
import json
import os
import sys
from pathlib import Path

import segno
from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import ExtendedKeyUsageOID, NameOID

from .lan import Papers, hosts

__all__ = ["main", "papers", "qr_lines"]

AUTHORITY_DAYS, SERVER_DAYS, RENEW_DAYS = 3650, 397, 30
#: Whom the shop's authority may vouch for: private networks (RFC 1918, 4193, 3927), this machine, `.local`.
PRIVATE = ("10.0.0.0/8", "172.16.0.0/12", "192.168.0.0/16", "169.254.0.0/16", "127.0.0.0/8", "fc00::/7")


def papers(folder: Path, address: str, *, today: dt.datetime | None = None) -> Papers:
    """The shop's authority, made once, and a certificate by it for this address, anew when it must be."""
    now = today or dt.datetime.now(dt.UTC)
    folder.mkdir(mode=0o711, exist_ok=True)
    authority_key, authority = _authority(folder, address, now)
    certificate, key = folder / "server.crt", folder / "server.key"
    if not _good(certificate, address, authority, now):
        _issue(certificate, key, address, authority_key, authority, now)
    digest = authority.fingerprint(hashes.SHA256()).hex().upper()
    spaced = " ".join(digest[i : i + 4] for i in range(0, len(digest), 4))
    return Papers(str(certificate), str(key), str(folder / "authority.crt"), spaced)


def qr_lines(text: str) -> str:
    """The text as a code a phone reads off a terminal."""
    out = io.StringIO()
    segno.make(text, error="m").terminal(out=out, compact=True)
    return out.getvalue()


def _name(text: str) -> x509.Name:
    return x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, text)])


def _is_number(host: str) -> bool:
    return host.replace(".", "").isdecimal() or ":" in host


def _keep(file: Path, data: bytes, mode: int) -> None:
    handle = os.open(file, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, mode)
    with os.fdopen(handle, "wb") as out:
        out.write(data)


def _pem(key: ec.EllipticCurvePrivateKey) -> bytes:
    return key.private_bytes(
        serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, serialization.NoEncryption()
    )


def _permits(authority: x509.Certificate, address: str) -> bool:
    allowed = authority.extensions.get_extension_for_class(x509.NameConstraints).value.permitted_subtrees
    ranges = [n.value for n in allowed or [] if isinstance(n, x509.IPAddress)]
    return any(ipaddress.ip_address(address) in ipaddress.ip_network(str(r)) for r in ranges)


def _authority(
    folder: Path, address: str, now: dt.datetime
) -> tuple[ec.EllipticCurvePrivateKey, x509.Certificate]:
    key_file, file = folder / "authority.key", folder / "authority.crt"
    if key_file.exists() and file.exists():
        key = serialization.load_pem_private_key(key_file.read_bytes(), None)
        assert isinstance(key, ec.EllipticCurvePrivateKey)
        known = x509.load_pem_x509_certificate(file.read_bytes())
        if known.not_valid_after_utc > now + dt.timedelta(days=SERVER_DAYS) and _permits(known, address):
            return key, known
    key = ec.generate_private_key(ec.SECP256R1())
    names = [x509.DNSName(host) for host in hosts(address) if not _is_number(host)]
    ranges = [x509.IPAddress(ipaddress.ip_network(r)) for r in {*PRIVATE, address}]
    certificate = (
        x509.CertificateBuilder()
        .subject_name(_name("Coat Log, this shop"))
        .issuer_name(_name("Coat Log, this shop"))
        .public_key(key.public_key())
        .serial_number(x509.random_serial_number())
        .not_valid_before(now - dt.timedelta(hours=1))
        .not_valid_after(now + dt.timedelta(days=AUTHORITY_DAYS))
        .add_extension(x509.BasicConstraints(ca=True, path_length=0), critical=True)
        # A phone that trusts the shop trusts it for the shop's own network and for nothing else.
        .add_extension(x509.NameConstraints([*names, *ranges], None), critical=True)
        .add_extension(_usage(signs=True), critical=True)
        .add_extension(x509.SubjectKeyIdentifier.from_public_key(key.public_key()), critical=False)
        .sign(key, hashes.SHA256())
    )
    _keep(key_file, _pem(key), 0o600)
    _keep(file, certificate.public_bytes(serialization.Encoding.PEM), 0o644)
    return key, certificate


def _usage(*, signs: bool) -> x509.KeyUsage:
    return x509.KeyUsage(
        digital_signature=not signs, content_commitment=False, key_encipherment=False,
        data_encipherment=False, key_agreement=False, key_cert_sign=signs, crl_sign=signs,
        encipher_only=False, decipher_only=False,
    )  # fmt: skip


def _good(file: Path, address: str, authority: x509.Certificate, now: dt.datetime) -> bool:
    """Whether a certificate is there, by this authority, for this address, and good for a while yet."""
    if not file.exists():
        return False
    found = x509.load_pem_x509_certificate(file.read_bytes())
    names = found.extensions.get_extension_for_class(x509.SubjectAlternativeName).value
    try:
        found.verify_directly_issued_by(authority)
    except Exception:  # whatever is wrong with it: a new one is made
        return False
    fresh = found.not_valid_after_utc > now + dt.timedelta(days=RENEW_DAYS)
    return fresh and ipaddress.ip_address(address) in names.get_values_for_type(x509.IPAddress)


def _issue(
    file: Path,
    key_file: Path,
    address: str,
    authority_key: ec.EllipticCurvePrivateKey,
    authority: x509.Certificate,
    now: dt.datetime,
) -> None:
    key = ec.generate_private_key(ec.SECP256R1())
    names: list[x509.GeneralName] = []
    for host in hosts(address):
        number = _is_number(host)
        names.append(x509.IPAddress(ipaddress.ip_address(host)) if number else x509.DNSName(host))
    certificate = (
        x509.CertificateBuilder()
        .subject_name(_name(address))
        .issuer_name(authority.subject)
        .public_key(key.public_key())
        .serial_number(x509.random_serial_number())
        .not_valid_before(now - dt.timedelta(hours=1))
        .not_valid_after(now + dt.timedelta(days=SERVER_DAYS))
        .add_extension(x509.SubjectAlternativeName(names), critical=False)
        .add_extension(x509.BasicConstraints(ca=False, path_length=None), critical=True)
        .add_extension(_usage(signs=False), critical=True)
        .add_extension(x509.ExtendedKeyUsage([ExtendedKeyUsageOID.SERVER_AUTH]), critical=False)
        .add_extension(
            x509.AuthorityKeyIdentifier.from_issuer_public_key(authority_key.public_key()), critical=False
        )
        .sign(authority_key, hashes.SHA256())
    )
    _keep(key_file, _pem(key), 0o600)
    _keep(file, certificate.public_bytes(serialization.Encoding.PEM), 0o644)


def main(folder: str, address: str, url: str) -> None:
    """Tell the papers for an address as JSON, with the address as a code to be read off a terminal."""
    print(json.dumps([papers(Path(folder), address)._asdict(), qr_lines(url)]))


if __name__ == "__main__":
    main(*sys.argv[1:])
