"""A certificate that a stand-in signs itself, as devices do."""

from __future__ import annotations

import ssl
import tempfile
from datetime import UTC, datetime, timedelta
from pathlib import Path

from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import NameOID

YEARS_DAYS = 3650


def tls_of(name: str) -> ssl.SSLContext:
    """A context with a new key and a certificate for a name."""
    key = ec.generate_private_key(ec.SECP256R1())
    subject = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, name[:64] or "device")])
    now = datetime.now(UTC)
    certificate = (
        x509.CertificateBuilder()
        .subject_name(subject)
        .issuer_name(subject)
        .public_key(key.public_key())
        .serial_number(x509.random_serial_number())
        .not_valid_before(now - timedelta(days=1))
        .not_valid_after(now + timedelta(days=YEARS_DAYS))
        .sign(key, hashes.SHA256())
    )
    private = key.private_bytes(
        serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, serialization.NoEncryption()
    )
    context = ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER)
    # The module takes both from a file only.
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder, "own.pem")
        path.write_bytes(private + certificate.public_bytes(serialization.Encoding.PEM))
        context.load_cert_chain(path)
    return context
