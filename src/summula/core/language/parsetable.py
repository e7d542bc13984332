"""The parser, from a table worked out beforehand.

Working out the LALR table of the grammar takes most of a second; reading it takes milliseconds. The table is plain
data (MessagePack) beside the grammar, with the grammar's digest in it: a grammar that has changed since is worked out
anew. After a change of the grammar: `python -m summula.core.language.parsetable`.
"""

from __future__ import annotations

from functools import lru_cache
from hashlib import sha256
from importlib.resources import files
from pathlib import Path
from typing import Any

import msgspec
from lark import Lark
from lark.grammar import Rule
from lark.lexer import TerminalDef

from summula.core.language.lexing import PhraseLexer

_FOLDER = files("summula.core.language")


def grammar() -> str:
    return _FOLDER.joinpath("phrase.lark").read_text("utf-8")


def digest() -> str:
    """Tells the grammar from every other."""
    return sha256(grammar().encode()).hexdigest()


@lru_cache(maxsize=1)
def parser() -> Lark:
    """The parser of phrases: from the table, or from the grammar where the table is not of it."""
    stored = _FOLDER.joinpath("phrase.table")
    if stored.is_file():
        table = msgspec.msgpack.decode(stored.read_bytes())
        if table["digest"] == digest():
            return _from_table(table)
    return worked_out()


def worked_out() -> Lark:
    return Lark(grammar(), parser="lalr", lexer=PhraseLexer, propagate_positions=True)


def _from_table(table: dict[str, Any]) -> Lark:
    data = table["data"]
    data["options"]["lexer"] = PhraseLexer
    data["parser"]["lexer_conf"]["lexer_type"] = PhraseLexer
    made = Lark.__new__(Lark)
    made._load({"data": data, "memo": table["memo"]})
    return made


def table_bytes() -> bytes:
    """The table of the present grammar, as it is stored."""
    data, memo = worked_out().memo_serialize([TerminalDef, Rule])
    # The lexer is a class of ours, put back when the table is read.
    data["options"] = {**data["options"], "lexer": None}
    data["parser"]["lexer_conf"] = {**data["parser"]["lexer_conf"], "lexer_type": None}
    return msgspec.msgpack.encode({"digest": digest(), "data": data, "memo": memo})


if __name__ == "__main__":
    Path(__file__).with_name("phrase.table").write_bytes(table_bytes())
