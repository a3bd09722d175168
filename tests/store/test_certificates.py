"""The workshop's own certificates: made once, renewed in time, of no use elsewhere, and kept to their owner."""

import ipaddress
import socket
import ssl
import stat
import subprocess
import threading
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest
from cryptography import x509

from upper_rook.store import certificates as module
from upper_rook.store.certificates import Certificates, certificates, own_names

NAMES = ("bay-pc", "bay-pc.local", "localhost", "127.0.0.1", "192.168.7.5", "fd00::12", "192.0.2.7")
"""The last is no private address: a machine may have one all the same (RFC 5737)."""


def loaded(file: Path) -> x509.Certificate:
    return x509.load_pem_x509_certificate(file.read_bytes())


def openssl(*words: object) -> str:
    done = subprocess.run(["openssl", *map(str, words)], capture_output=True, text=True, check=False)
    return done.stdout + done.stderr


def test_openssl_takes_the_chain_for_each_of_its_names(tmp_path: Path) -> None:
    # An implementation of its own of RFC 5280 and RFC 6125: OpenSSL's.
    made = certificates(tmp_path / "doors", NAMES)
    for name in NAMES:
        address = ":" in name or name[0].isdigit()
        check = ("-verify_ip", name) if address else ("-verify_hostname", name)
        told = openssl(
            "verify", "-x509_strict", "-purpose", "sslserver", "-CAfile", made.authority, *check, made.certificate
        )
        assert told.strip().endswith("OK"), told
    assert "mismatch" in openssl("verify", "-CAfile", made.authority, "-verify_hostname", "other", made.certificate)
    shown = openssl("x509", "-in", made.authority, "-noout", "-fingerprint", "-sha256")
    assert shown.strip().partition("=")[2] == made.fingerprint


def test_the_authority_is_good_for_private_networks_only(tmp_path: Path) -> None:
    made = certificates(tmp_path / "doors", NAMES)
    authority = loaded(made.authority)
    key = module.serialization.load_pem_private_key((tmp_path / "doors/authority.key").read_bytes(), None)
    for name in ("bank.example", "8.8.8.8"):
        forged = module._signed(module.ec.generate_private_key(module.ec.SECP256R1()), (name,), authority, key)
        file = tmp_path / "forged.pem"
        file.write_bytes(forged.public_bytes(module._PEM))
        assert "permitted subtree violation" in openssl("verify", "-CAfile", made.authority, file)


def test_an_address_that_came_later_and_may_not_be_signed_for_spoils_no_other(tmp_path: Path) -> None:
    certificates(tmp_path / "doors", NAMES)
    made = certificates(tmp_path / "doors", (*NAMES, "198.51.100.9"))
    told = openssl("verify", "-CAfile", made.authority, "-verify_hostname", "bay-pc", made.certificate)
    assert told.strip().endswith("OK"), told
    assert "198.51.100.9" not in openssl("x509", "-in", made.certificate, "-noout", "-text")


def test_nobody_else_reads_the_keys(tmp_path: Path) -> None:
    made = certificates(tmp_path / "doors", NAMES)
    for file in (made.key, tmp_path / "doors/authority.key"):
        assert stat.S_IMODE(file.stat().st_mode) == 0o600
    assert stat.S_IMODE((tmp_path / "doors").stat().st_mode) == 0o700


def test_it_is_made_once_and_again_for_other_names_or_when_it_runs_out(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    def serials(made: Certificates) -> tuple[int, int]:
        return loaded(made.authority).serial_number, loaded(made.certificate).serial_number

    first = serials(certificates(tmp_path / "doors", NAMES))
    assert serials(certificates(tmp_path / "doors", NAMES)) == first
    moved = serials(certificates(tmp_path / "doors", (*NAMES[:4], "192.168.7.9")))
    assert moved[0] == first[0]
    assert moved[1] != first[1]
    (tmp_path / "doors/server.pem").write_text("rubbish")
    assert serials(certificates(tmp_path / "doors", NAMES))[0] == first[0]

    class Later(datetime):
        @classmethod
        def now(cls, tz: object = None) -> datetime:  # type: ignore[override]  # noqa: ARG003
            return datetime.now(UTC) + timedelta(days=65)

    monkeypatch.setattr(module, "datetime", Later)
    before = loaded(tmp_path / "doors/server.pem").serial_number
    assert serials(certificates(tmp_path / "doors", NAMES))[1] != before


def test_a_key_that_is_not_the_authoritys_is_refused(tmp_path: Path) -> None:
    certificates(tmp_path / "doors", NAMES)
    other = certificates(tmp_path / "other", NAMES)
    (tmp_path / "doors/authority.key").write_bytes((tmp_path / "other/authority.key").read_bytes())
    assert other.authority.exists()
    with pytest.raises(ValueError, match="is not the key of"):
        certificates(tmp_path / "doors", NAMES)


def test_a_device_that_trusts_another_workshop_turns_away(tmp_path: Path) -> None:
    made, other = certificates(tmp_path / "doors", NAMES), certificates(tmp_path / "other", NAMES)
    serving = ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER)
    serving.load_cert_chain(made.certificate, made.key)

    def met(authority: Path) -> str:
        listener = socket.create_server(("127.0.0.1", 0))

        def once() -> None:
            try:
                serving.wrap_socket(listener.accept()[0], server_side=True).close()
            except OSError:
                return

        thread = threading.Thread(target=once)
        thread.start()
        asking = ssl.create_default_context(cafile=str(authority))
        try:
            with asking.wrap_socket(
                socket.create_connection(listener.getsockname()), server_hostname="localhost"
            ) as it:
                return str(it.version())
        except ssl.SSLCertVerificationError as error:
            return error.verify_message
        finally:
            thread.join()
            listener.close()

    assert met(made.authority) in ("TLSv1.2", "TLSv1.3")
    assert (
        "self-signed" in met(other.authority)
        or "unable to get" in met(other.authority)
        or "signature" in met(other.authority)
    )


def test_a_machine_knows_its_own_names() -> None:
    names = own_names()
    assert socket.gethostname() in names
    assert {"localhost", "127.0.0.1"} <= set(names)
    assert all(ipaddress.ip_address(name) for name in names if name[0].isdigit() and name.count(".") == 3)
