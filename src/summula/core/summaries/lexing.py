"""The parser's lexer: hands on the words of a phrase one by one."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from lark import Token
from lark.lexer import Lexer

from summula.core.summaries.words import Names, token_at


class PhraseLexer(Lexer):
    """Cuts a text into tokens. What it cannot place becomes a token of type UNKNOWN."""

    names: Names = Names()

    def __init__(self, _conf: Any) -> None:
        pass

    def lex(self, source: Any) -> Iterator[Token]:  # type: ignore[override]  # a text, or a text with names
        text, names = source if isinstance(source, tuple) else (source, Names())
        at = 0
        while at < len(text):
            if text[at].isspace():
                at += 1
                continue
            kind, end, value = token_at(text, at, names)
            yield Token(kind, value, start_pos=at, end_pos=end)
            at = end
