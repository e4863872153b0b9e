"""Bytes that someone has signed for a place."""

from __future__ import annotations

_FOR = b"a run of a chunk, shared by worn\0"


def signed(body: bytes, place: str, secret: bytes) -> bytes:
    """`body` behind a signature that holds for `place` alone."""
    from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey

    return Ed25519PrivateKey.from_private_bytes(secret).sign(_message(body, place)) + body


def checked(raw: bytes, place: str, key: str) -> bytes:
    """The body of what `signed` made. Raises `ValueError` if another key has signed it, or for another place, or it is damaged."""
    from cryptography.exceptions import InvalidSignature
    from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PublicKey

    signature, body = raw[:64], raw[64:]
    try:
        Ed25519PublicKey.from_public_bytes(bytes.fromhex(key)).verify(signature, _message(body, place))
    except InvalidSignature:
        raise ValueError("not signed with this key for this place") from None
    return body


def _message(body: bytes, place: str) -> bytes:
    return _FOR + place.encode("utf-8", "surrogatepass") + b"\0" + body
