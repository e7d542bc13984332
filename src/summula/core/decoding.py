"""JSON as frozen values. How a type is read is worked out from its annotations when it is first asked for, which
msgspec does without a lock: two threads that open folios at once would take the process down. Here one waits."""

from __future__ import annotations

from threading import Lock
from typing import Any, TypeVar

import msgspec

T = TypeVar("T")
_PREPARING = Lock()
_DECODERS: dict[Any, msgspec.json.Decoder[Any]] = {}


def decoded(raw: bytes, kind: type[T]) -> T:
    """The value of a kind that JSON tells; raises msgspec's DecodeError and ValidationError."""
    found: T = _decoder(kind).decode(raw)
    return found


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
