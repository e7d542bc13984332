"""The parser's lexer: hands on the words of a phrase one by one."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from lark import Token
from lark.lexer import Lexer

from summula.core.summaries.language.words import Names, token_at


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
            if kind == "COMMA" and _direction_follows(text, end, names):
                at = end  # not one more limit of bands, or member: the direction of an order
                continue
            yield Token(kind, value, start_pos=at, end_pos=end)
            at = end


def _direction_follows(text: str, at: int, names: Names) -> bool:
    while at < len(text) and text[at].isspace():
        at += 1
    return at < len(text) and token_at(text, at, names)[0] in ("LARGEST_FIRST", "SMALLEST_FIRST")
