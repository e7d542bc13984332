"""What a process that reads runs: `python -m summula.core.readingprocess SOCKET`. It knows every kind of request."""

from __future__ import annotations

import socket
import sys
from typing import TYPE_CHECKING

import msgspec

from summula.core.folio.sandboxed import ReadRows
from summula.core.preparation.sandboxed import WorkOut
from summula.core.reading.sandboxed import Preview, ReadFile
from summula.core.sandbox.serving import make_processes

if TYPE_CHECKING:
    from summula.core.sandbox.messages import Request

_KINDS = ReadFile | Preview | ReadRows | WorkOut
_REQUEST = msgspec.json.Decoder(_KINDS)


def _decoded(raw: memoryview) -> Request:
    request: Request = _REQUEST.decode(raw)
    return request


def _import_what_is_needed() -> None:
    """What requests import when they are done: here once, and not in every process that does one."""
    import hmac  # noqa: F401 - what reads workbooks asks for it

    import numpy.ma
    import numpy.random  # noqa: F401

    import summula.core.folio.rowsfile
    import summula.core.preparation.workingout
    import summula.core.reading.previewing  # noqa: F401


if __name__ == "__main__":
    _import_what_is_needed()
    make_processes(socket.socket(fileno=int(sys.argv[1])), _decoded)
