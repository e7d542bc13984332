"""JSON and MessagePack as frozen values. How a type is read is worked out from its annotations when it is first asked
for, which msgspec does without a lock: two threads that open folios at once would take the process down. Here one
waits."""

from __future__ import annotations

from threading import Lock
from typing import Any, TypeVar

import msgspec

T = TypeVar("T")
_PREPARING = Lock()
_DECODERS: dict[Any, msgspec.json.Decoder[Any]] = {}
_UNPACKERS: dict[Any, msgspec.msgpack.Decoder[Any]] = {}


def decoded(raw: bytes, kind: type[T]) -> T:
    """The value of a kind that JSON tells; raises msgspec's DecodeError and ValidationError."""
    found: T = _decoder(kind).decode(raw)
    return found


def unpacked(raw: Any, kind: Any) -> Any:
    """The value of a kind (or of one of several) that MessagePack tells; raises as `decoded`."""
    found = _UNPACKERS.get(kind)
    if found is None:
        with _PREPARING:
            found = _UNPACKERS.setdefault(kind, msgspec.msgpack.Decoder(kind))
    return found.decode(raw)


def one_decoded(raw: bytes, kinds: Any) -> Any:
    """The value of one of several kinds that JSON tells; raises as `decoded`."""
    return _decoder(kinds).decode(raw)


def converted(document: Any, kind: type[T]) -> T:
    """The value of a kind that decoded JSON tells; raises msgspec's ValidationError."""
    _decoder(kind)
    return msgspec.convert(document, kind)


def _decoder(kind: Any) -> msgspec.json.Decoder[Any]:
    found = _DECODERS.get(kind)
    if found is None:
        with _PREPARING:  # also while another kind is: they share the values they are made of
            found = _DECODERS.setdefault(kind, msgspec.json.Decoder(kind))
    return found
