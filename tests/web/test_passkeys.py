"""Passkeys, with an authenticator made of a key pair here: what it signs is what a device's would be (WebAuthn, 6)."""

import hashlib
import json
from base64 import urlsafe_b64encode
from struct import pack
from typing import Any
from uuid import uuid4

import cbor2
import pytest
from cryptography.hazmat.primitives import hashes
from cryptography.hazmat.primitives.asymmetric import ec
from starlette.testclient import TestClient

from tests.web.people import another, invited, paired
from upper_rook.core.common.roles import Role

_PRESENT, _VERIFIED, _HAS_KEY = 0x01, 0x04, 0x40
Document = dict[str, Any]


def _text(data: bytes) -> str:
    return urlsafe_b64encode(data).rstrip(b"=").decode()


class Authenticator:
    """A device that keeps one key."""

    def __init__(self, origin: str = "https://localhost") -> None:
        self.key, self.id, self.origin, self.uses = ec.generate_private_key(ec.SECP256R1()), uuid4().bytes, origin, 0

    def _client(self, kind: str, challenge: str) -> bytes:
        return json.dumps({"type": kind, "challenge": challenge, "origin": self.origin}).encode()

    def _data(self, site: str, more: int = 0) -> bytes:
        self.uses += 1
        return hashlib.sha256(site.encode()).digest() + pack(">BI", _PRESENT | _VERIFIED | more, self.uses)

    def make(self, options: Document) -> Document:
        """A new key, as the browser hands it on."""
        point = self.key.public_key().public_numbers()
        # COSE, RFC 9053: EC2, ES256, P-256.
        cose = cbor2.dumps({1: 2, 3: -7, -1: 1, -2: point.x.to_bytes(32, "big"), -3: point.y.to_bytes(32, "big")})
        data = self._data(options["rp"]["id"], _HAS_KEY) + bytes(16) + pack(">H", len(self.id)) + self.id + cose
        attestation = cbor2.dumps({"fmt": "none", "attStmt": {}, "authData": data})
        client = self._client("webauthn.create", options["challenge"])
        return self._as_sent({"clientDataJSON": _text(client), "attestationObject": _text(attestation)})

    def sign(self, options: Document) -> Document:
        """What it signs to come in."""
        data, client = self._data(options["rpId"]), self._client("webauthn.get", options["challenge"])
        signature = self.key.sign(data + hashlib.sha256(client).digest(), ec.ECDSA(hashes.SHA256()))
        return self._as_sent(
            {"clientDataJSON": _text(client), "authenticatorData": _text(data), "signature": _text(signature)}
        )

    def _as_sent(self, response: Document) -> Document:
        return {"id": _text(self.id), "rawId": _text(self.id), "type": "public-key", "response": response}


def added(browser: TestClient, device: Authenticator) -> int:
    options = browser.post("/api/doors/passkeys/offer").json()
    body = {"name": "phone, bay 1", "credential": device.make(options)}
    return browser.post("/api/doors/passkeys", json=body).status_code


def enters(browser: TestClient, device: Authenticator) -> int:
    options = browser.post("/api/doors/passkey/ask").json()
    return browser.post("/api/doors/passkey", json={"credential": device.sign(options)}).status_code


def test_a_passkey_opens_until_it_is_removed(shut: TestClient) -> None:
    browser, device = invited(shut, Role.FITTER, "Alva"), Authenticator()
    assert added(browser, device) == 201
    assert added(browser, device) == 409
    elsewhere = paired(shut)
    assert enters(elsewhere, device) == 200
    assert elsewhere.get("/api/doors").json()["person"]["name"] == "Alva"
    key = elsewhere.get("/api/doors/passkeys").json()[0]
    assert key["name"] == "phone, bay 1"
    assert key["used_at"] is not None
    # Nobody removes another's.
    assert shut.delete(f"/api/doors/passkeys/{key['id']}").status_code == 404
    assert browser.delete("/api/doors/passkeys/rubbish").status_code == 404
    assert browser.delete(f"/api/doors/passkeys/{key['id']}").status_code == 204
    assert enters(elsewhere, device) == 401


def test_what_was_signed_once_opens_nothing_again(shut: TestClient) -> None:
    browser, device = invited(shut, Role.FITTER, "Bodil"), Authenticator()
    assert added(browser, device) == 201
    elsewhere = paired(shut)
    signed = device.sign(elsewhere.post("/api/doors/passkey/ask").json())
    assert elsewhere.post("/api/doors/passkey", json={"credential": signed}).status_code == 200
    assert elsewhere.post("/api/doors/passkey", json={"credential": signed}).status_code == 401
    # Nor what another device was asked to sign.
    other = paired(shut)
    asked = other.post("/api/doors/passkey/ask").json()
    elsewhere.post("/api/doors/passkey/ask")
    assert elsewhere.post("/api/doors/passkey", json={"credential": device.sign(asked)}).status_code == 401


def test_a_copied_key_and_one_of_another_site_open_nothing(shut: TestClient) -> None:
    browser, device = invited(shut, Role.FITTER, "Cilla"), Authenticator()
    assert added(browser, device) == 201
    assert enters(paired(shut), device) == 200
    device.uses = 0
    assert enters(paired(shut), device) == 401
    device.uses, device.origin = 90, "https://elsewhere.example"
    assert enters(paired(shut), device) == 401
    assert added(browser, Authenticator("https://elsewhere.example")) == 422
    stranger = Authenticator()
    stranger.id = device.id
    assert enters(paired(shut), stranger) == 401


@pytest.mark.parametrize("rubbish", [{}, {"rawId": "?"}, {"rawId": 7, "response": None}, {"id": "a", "rawId": "YQ"}])
def test_rubbish_is_refused(shut: TestClient, rubbish: Document) -> None:
    browser = paired(shut)
    browser.post("/api/doors/passkey/ask")
    assert browser.post("/api/doors/passkey", json={"credential": rubbish}).status_code == 401
    somebody = invited(shut, Role.FITTER, f"Rubbish {uuid4()}")
    somebody.post("/api/doors/passkeys/offer")
    body = {"name": "x", "credential": rubbish}
    assert somebody.post("/api/doors/passkeys", json=body).status_code == 422


def test_a_number_in_the_address_makes_no_keys(shut: TestClient) -> None:
    somebody = invited(shut, Role.FITTER, "Disa")
    answer = somebody.post("/api/doors/passkeys/offer", headers={"host": "127.0.0.1"})
    assert (answer.status_code, answer.json()["field"]) == (422, "passkey")
    assert another(shut).post("/api/doors/passkeys/offer").status_code == 401
