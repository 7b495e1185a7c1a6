"""A shop on its own network: its certificate authority, made once, and a certificate for this machine."""

import ipaddress
import socket
from datetime import UTC, datetime, timedelta
from pathlib import Path

import psutil
from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import ExtendedKeyUsageOID, NameOID

AUTHORITY_DAYS, CERTIFICATE_DAYS = 3650, 397
"""A browser takes no certificate for longer than 398 days."""
RENEWED_BEFORE = timedelta(days=30)


def addresses() -> tuple[str, ...]:
    """Of this machine on its networks, the first one first to be told."""
    found = [a.address for of in psutil.net_if_addrs().values() for a in of if a.family == socket.AF_INET]
    return tuple(
        a
        for a in dict.fromkeys(found)
        if not ipaddress.ip_address(a).is_loopback and not ipaddress.ip_address(a).is_link_local
    )


def certificates(folder: Path, names: tuple[str, ...]) -> tuple[Path, Path, Path]:
    """The authority's certificate, this machine's and its key; made where they are missing, old, or for other addresses."""
    folder.mkdir(parents=True, exist_ok=True, mode=0o700)
    authority, authority_key = _authority(folder)
    certificate, key = folder / "shop.crt", folder / "shop.key"
    if not _is_good(certificate, key, names, authority):
        _sign(certificate, key, names, authority, authority_key)
    return folder / "authority.crt", certificate, key


def _authority(folder: Path) -> tuple[x509.Certificate, ec.EllipticCurvePrivateKey]:
    """Its key never leaves the folder; a tablet that trusts it trusts this shop alone."""
    file, key_file = folder / "authority.crt", folder / "authority.key"
    if file.exists() and key_file.exists():
        key = serialization.load_pem_private_key(key_file.read_bytes(), None)
        assert isinstance(key, ec.EllipticCurvePrivateKey)
        return x509.load_pem_x509_certificate(file.read_bytes()), key
    key = ec.generate_private_key(ec.SECP256R1())
    name = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, f"Offsetter on {socket.gethostname()}"[:60])])
    now = datetime.now(UTC)
    made = (
        x509.CertificateBuilder().subject_name(name).issuer_name(name).public_key(key.public_key()).serial_number(x509.random_serial_number())
        .not_valid_before(now - timedelta(days=1)).not_valid_after(now + timedelta(days=AUTHORITY_DAYS))
        .add_extension(x509.BasicConstraints(ca=True, path_length=0), critical=True)
        .add_extension(_usage(signs_others=True), critical=True)
        .add_extension(x509.SubjectKeyIdentifier.from_public_key(key.public_key()), critical=False)
        .sign(key, hashes.SHA256())
    )  # fmt: skip
    _write(key_file, _pem(key))
    _write(file, made.public_bytes(serialization.Encoding.PEM))
    return made, key


def _sign(
    certificate: Path, key_file: Path, names: tuple[str, ...], authority: x509.Certificate, authority_key: ec.EllipticCurvePrivateKey
) -> None:  # fmt: skip
    key, now = ec.generate_private_key(ec.SECP256R1()), datetime.now(UTC)
    subject = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, names[0][:60])])
    made = (
        x509.CertificateBuilder().subject_name(subject).issuer_name(authority.subject).public_key(key.public_key())
        .serial_number(x509.random_serial_number()).not_valid_before(now - timedelta(days=1)).not_valid_after(now + timedelta(days=CERTIFICATE_DAYS - 1))
        .add_extension(x509.SubjectAlternativeName([_alternative(n) for n in names]), critical=False)
        .add_extension(x509.BasicConstraints(ca=False, path_length=None), critical=True)
        .add_extension(_usage(signs_others=False), critical=True)
        .add_extension(x509.ExtendedKeyUsage([ExtendedKeyUsageOID.SERVER_AUTH]), critical=False)
        .add_extension(x509.AuthorityKeyIdentifier.from_issuer_public_key(authority_key.public_key()), critical=False)
        .sign(authority_key, hashes.SHA256())
    )  # fmt: skip
    _write(key_file, _pem(key))
    _write(certificate, made.public_bytes(serialization.Encoding.PEM))


def _is_good(certificate: Path, key: Path, names: tuple[str, ...], authority: x509.Certificate) -> bool:
    if not certificate.exists() or not key.exists():
        return False
    known = x509.load_pem_x509_certificate(certificate.read_bytes())
    told = known.extensions.get_extension_for_class(x509.SubjectAlternativeName).value
    wanted = {str(_alternative(n).value) for n in names}
    lasts = known.not_valid_after_utc - datetime.now(UTC) > RENEWED_BEFORE
    return lasts and known.issuer == authority.subject and wanted <= {str(n.value) for n in told}


def _alternative(name: str) -> x509.GeneralName:
    try:
        return x509.IPAddress(ipaddress.ip_address(name))
    except ValueError:
        return x509.DNSName(name)


def _usage(*, signs_others: bool) -> x509.KeyUsage:
    return x509.KeyUsage(
        digital_signature=not signs_others, key_cert_sign=signs_others, crl_sign=signs_others, content_commitment=False, key_encipherment=False,
        data_encipherment=False, key_agreement=False, encipher_only=False, decipher_only=False,
    )  # fmt: skip


def _pem(key: ec.EllipticCurvePrivateKey) -> bytes:
    return key.private_bytes(
        serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, serialization.NoEncryption()
    )


def _write(path: Path, data: bytes) -> None:
    """Readable by whoever opens the shop alone."""
    path.touch(mode=0o600)
    path.write_bytes(data)
