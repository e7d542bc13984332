"""From a text to its syntax tree: each way to read its words that the grammar takes, the likeliest first.

A name may stand bare, and may hold words of the language ("month of", "top 5"): where a text can be read in several
ways, the parser tries one after the other, and goes back to the last choice when it gets stuck.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING, Any, NamedTuple

from lark import Token, Tree, UnexpectedInput, UnexpectedToken
from lark.lexer import Lexer
from lark.parsers.lalr_interactive_parser import InteractiveParser

from summula.core.phrases.words import Names, Reading, form_at, readings_at
from summula.core.refusal import Refusal

if TYPE_CHECKING:
    from lark import Lark
    from lark.parsers.lalr_parser_state import ParserState

MOST_LETTERS = 400_000
MOST_BRACKETS = 50  # within each other
MOST_TERMS = 200  # of one calculation
_MOST_TRIES = 500
_TERMS = frozenset(("PLUS", "MINUS", "STAR", "SLASH"))
_CALCULATES = frozenset(("SHOW", "AND", "AGAINST", "BY"))  # words that a new calculation may follow


class PhraseLexer(Lexer):
    """What lark asks for; the words are cut by `Trees`, which may go back."""

    def __init__(self, _conf: Any) -> None:
        pass

    def lex(self, source: Any) -> Iterator[Token]:  # type: ignore[override]
        raise NotImplementedError("words are cut by Trees")


class _Standing(NamedTuple):
    """How far a text has been read: what the parser knows, the place, and what has been counted."""

    state: ParserState[Any]
    at: int
    brackets: int
    terms: int
    last: str  # the kind of the word before


class Trees:
    """The syntax trees of a text, one after the other."""

    def __init__(self, parser: Lark, text: str, names: Names) -> None:
        if len(text) > MOST_LETTERS:
            raise Refusal(
                f"a phrase of {len(text):,} letters is too long",
                f"at most {MOST_LETTERS:,} can be read",
                span=(0, len(text)),
            )
        self.text, self.names = text, names
        self._start = parser.parse_interactive(None)
        # Choices not yet taken: where they were met, and the readings left there.
        self._choices: list[tuple[_Standing, list[Reading]]] = []
        self._tries = 0
        self._begun = False
        self.fault: UnexpectedToken | None = None  # the farthest one met

    def next(self, before: int | None = None) -> Tree[Token] | None:
        """The next tree; None when there is none left. With `before`, the last one was wrong at a place that ends
        there: choices made behind it change nothing."""
        if not self._begun:
            self._begun = True
            found = self._read(_Standing(self._start.parser_state, 0, 0, 0, ""))
            if found is not None:
                return found
        while self._choices and self._tries < _MOST_TRIES:
            standing, left = self._choices.pop()
            if before is not None and standing.at >= before:
                continue
            self._tries += 1
            after = self._chosen(standing, left)
            found = None if after is None else self._read(after)
            if found is not None:
                return found
        return None

    def _chosen(self, standing: _Standing, readings: list[Reading]) -> _Standing | None:
        """One token on, by the first of these readings that fits; the others stay a choice."""
        for at, reading in enumerate(readings):
            rest = readings[at + 1 :]
            state = standing.state.copy(deepcopy_values=False) if rest else standing.state
            after = self._fed(standing._replace(state=state), reading)
            if after is not None:
                if rest:
                    self._choices.append((standing, rest))
                return after
        return None

    def _read(self, standing: _Standing) -> Tree[Token] | None:
        """Read on to the end, or to where the parser gets stuck."""
        text = self.text
        while True:
            at = standing.at
            while at < len(text) and text[at].isspace():
                at += 1
            standing = standing._replace(at=at)
            if at == len(text):
                return self._ended(standing.state)
            after_drawn = standing.last == "DRAWN_AS"
            readings = [form_at(text, at)] if after_drawn else readings_at(text, at, self.names)
            if readings[0].kind == "COMMA" and self._direction_follows(readings[0].end):
                standing = standing._replace(at=readings[0].end)
                continue  # not one more limit of bands, or member: the direction of an order
            after = self._chosen(standing, readings)
            if after is None:
                return None
            standing = after

    def _fed(self, standing: _Standing, reading: Reading) -> _Standing | None:
        """The parser one token on; None where it does not take it."""
        kind, end, value = reading
        state, at, brackets, terms, _ = standing
        brackets += (kind == "LPAR") - (kind == "RPAR")
        terms = 0 if kind in _CALCULATES and brackets <= 0 else terms + (kind in _TERMS)
        if brackets > MOST_BRACKETS:
            raise Refusal(f"over {MOST_BRACKETS} brackets stand within each other", "remove some", span=(at, end))
        if terms > MOST_TERMS:
            raise Refusal(f"a calculation has at most {MOST_TERMS} parts", "make it shorter", span=(at, end))
        if not self._take(state, Token(kind, value, start_pos=at, end_pos=end)):
            return None
        return _Standing(state, end, brackets, terms, kind)

    def _take(self, state: ParserState[Any], token: Token) -> bool:
        try:
            state.feed_token(token)
        except UnexpectedInput as fault:
            assert isinstance(fault, UnexpectedToken)
            if self.fault is None or (token.start_pos or 0) > (self.fault.token.start_pos or 0):
                fault.interactive_parser = InteractiveParser(self._start.parser, state, self._start.lexer_thread)
                self.fault = fault
            return False
        return True

    def _ended(self, state: ParserState[Any]) -> Tree[Token] | None:
        end = Token("$END", "", start_pos=len(self.text), end_pos=len(self.text))
        try:
            tree: Tree[Token] = state.feed_token(end, True)
        except UnexpectedToken as fault:
            if self.fault is None or (self.fault.token.start_pos or 0) < len(self.text):
                fault.interactive_parser = InteractiveParser(self._start.parser, state, self._start.lexer_thread)
                self.fault = fault
            return None
        return tree

    def _direction_follows(self, at: int) -> bool:
        while at < len(self.text) and self.text[at].isspace():
            at += 1
        if at >= len(self.text):
            return False
        return any(each.kind in ("LARGEST_FIRST", "SMALLEST_FIRST") for each in readings_at(self.text, at, self.names))
