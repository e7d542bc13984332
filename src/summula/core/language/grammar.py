"""Parsing: from a text to a Phrase, with every fault told at its place."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any, Literal, cast

from lark import Token, Tree

from summula.core.fields.bands import LARGEST, Bands
from summula.core.fields.heading import DatePart, Heading
from summula.core.language.faults import syntax_refusal
from summula.core.language.lexing import Trees
from summula.core.language.parsetable import parser
from summula.core.phrases.forms import FORMS, NAMES, Form
from summula.core.phrases.phrase import (
    MOST_CONDITIONS,
    MOST_HEADINGS,
    MOST_MEASURES,
    Aggregate,
    Arithmetic,
    Calculation,
    Comparison,
    Condition,
    Function,
    Keep,
    Lever,
    Linked,
    Measure,
    Number,
    Order,
    Phrase,
    Test,
    Value,
)
from summula.core.phrases.printing import print_phrase
from summula.core.phrases.words import WORD_OF, Names
from summula.core.refusal import Refusal, nearest

if TYPE_CHECKING:
    from summula.core.language.values import Span
    from summula.core.language.vocabulary import Vocabulary


def parse(text: str, vocabulary: Vocabulary | None = None) -> Phrase:
    """The phrase that `text` says.

    With a vocabulary, names are resolved against its table and every fault of meaning is refused at its
    place; without, any name is taken as it stands. Where the text can be read in several ways, the likeliest that
    means something is taken. Raises Refusal, with the fault's place.
    """
    trees = Trees(parser(), text, vocabulary.names if vocabulary else Names())
    tree = trees.next()
    if tree is None:
        assert trees.fault is not None
        raise syntax_refusal(text, trees.fault, vocabulary)
    first: Refusal | None = None
    while tree is not None:
        try:
            return _Reader(vocabulary, text).phrase(tree)
        except Refusal as refusal:
            first = first or refusal
            tree = trees.next(before=refusal.span[1] if refusal.span else None)
    assert first is not None
    raise first


def print_for(phrase: Phrase, vocabulary: Vocabulary) -> str:
    """The phrase as text that reads back as the same phrase where these names are known: names stand in quotes where
    one of the table's would be read in the place of several words ("sum of Paid", with a field of that name)."""
    text = print_phrase(phrase)
    meant = _read_or_none(text, vocabulary)
    if meant == phrase:
        return text
    quoted = print_phrase(phrase, bare=False)
    return text if meant == _read_or_none(quoted, vocabulary) else quoted


def _read_or_none(text: str, vocabulary: Vocabulary) -> Phrase | None:
    try:
        return parse(text, vocabulary)
    except Refusal:
        return None


class _Reader:
    """Reads a syntax tree into structs, asking the vocabulary what its names mean."""

    def __init__(self, vocabulary: Vocabulary | None, text: str) -> None:
        self.vocabulary = vocabulary
        self.text = text

    def phrase(self, tree: Tree[Token]) -> Phrase:
        parts: dict[str, Any] = {}
        options = {str(t.children[0].type) for t in _trees(tree, "option")}  # type: ignore[union-attr]
        for keyword, node in _clauses(tree):
            parts[keyword] = node
        trees = _trees(parts["SHOW"], "measure")
        if len(trees) > MOST_MEASURES:
            raise Refusal(
                f"{len(trees):,} measures are too many", f"at most {MOST_MEASURES} are shown", span=_span(trees[-1])
            )
        measures = tuple(self.measure(each) for each in trees)
        against = self.measure(parts["AGAINST"]) if "AGAINST" in parts else None
        by, across = self.headings(parts.get("BY")), self.headings(parts.get("ACROSS"))
        multiples = self.heading(parts["FOR_EACH"]) if "FOR_EACH" in parts else None
        if self.vocabulary:
            shown = [*zip(measures, trees, strict=True), *([(against, parts["AGAINST"])] if against else [])]
            headings = (*by, *across, *([multiples] if multiples else []))
            for measure, tree in shown:
                self.vocabulary.check_along(measure.comparison, headings, _span(tree))
        return Phrase(
            measures=measures,
            against=against,
            by=by,
            across=across,
            where=self.conditions(parts.get("WHERE")),
            keeping=tuple(self.keep(each) for each in _trees(parts.get("KEEPING"), "keep")),
            order=self.order(parts["ORDERED"]) if "ORDERED" in parts else None,
            every_member="WITH_EVERY_MEMBER" in options,
            subtotals="WITHOUT_SUBTOTALS" not in options,
            totals="WITHOUT_TOTALS" not in options,
            form=self.form(parts["DRAWN_AS"]) if "DRAWN_AS" in parts else "grid",
            multiples=multiples,
        )

    def measure(self, tree: Tree[Token]) -> Measure:
        calculation = self.calculation(cast(Tree[Token], tree.children[0]))
        comparison = next((self.comparison(t) for t in _subtrees(tree) if t.data in _COMPARISONS), None)
        called = _after(tree, "CALLED")
        return Measure(calculation, comparison, str(called) if called is not None else None)

    def calculation(self, tree: Tree[Token]) -> Calculation:
        kids = tree.children
        if tree.data == "group":
            return self.calculation(cast(Tree[Token], kids[1]))
        if tree.data == "arithmetic":
            operator = {"PLUS": "+", "MINUS": "-", "STAR": "*", "SLASH": "/"}[cast(Token, kids[1]).type]
            left = self.calculation(cast(Tree[Token], kids[0]))
            right = self.calculation(cast(Tree[Token], kids[2]))
            return Arithmetic(cast(Literal["+"], operator), left, right)
        if tree.data == "number":
            return Number(number_of(cast(Token, kids[0])))
        if tree.data == "negative":
            return Number(-number_of(cast(Token, kids[1])))
        where = tuple(c for f in _trees(tree, "filter") for c in self.conditions(f))
        if tree.data == "rows":
            return Aggregate("rows", where=where)
        if tree.data == "lever":
            return self.lever(cast(Token, kids[1]))
        if tree.data == "bare":
            lever = self.vocabulary.bare_lever(self.field(tree)[0]) if self.vocabulary else None
            return lever or Aggregate("default", self.field_name(tree))
        if tree.data == "each_row":
            name, span = self.field(tree)
            self.check("each row", name, span)
            return Aggregate("each row", self.checked(name, span))
        if tree.data == "linked_rows":
            return self.linked(cast(Token, kids[2]), "rows", None, None)
        if tree.data == "linked":
            named, at = self.field(tree)
            word = cast(Token, next(iter(_trees(tree, "function"))).children[0])
            function = cast(Function, word.type.replace("_", " ").lower())
            return self.linked(cast(Token, kids[-1]), function, named, at)
        name, span = self.field(tree)
        if tree.data == "percentile":
            percent = number_of(cast(Token, kids[1]))
            if not 0 <= percent <= 100:
                raise Refusal(f"there is no percentile {percent:g}", "enter a number from 0 to 100", span=_span(tree))
            self.check("percentile", name, span)
            return Aggregate("percentile", self.checked(name, span), percent, where)
        word = cast(Token, next(iter(_trees(tree, "function"))).children[0])
        function = cast(Function, word.type.replace("_", " ").lower())
        self.check(function, name, span)
        return Aggregate(function, self.checked(name, span), where=where)

    def linked(self, table: Token, function: Function, name: str | None, span: Span | None) -> Linked:
        """A figure of another table, which must know the field."""
        if self.vocabulary is None:
            return Linked(str(table), Aggregate(function, name))
        other = self.vocabulary.other(str(table), _token_span(table))
        if name is not None:
            name = other.check_function(function, name, span)
        return Linked(other.table.name, Aggregate(function, name))

    def lever(self, token: Token) -> Lever:
        return self.vocabulary.lever(str(token), _token_span(token)) if self.vocabulary else Lever(str(token))

    def check(self, function: Function, name: str, span: Span) -> None:
        if self.vocabulary:
            self.vocabulary.check_function(function, name, span)

    def checked(self, name: str, span: Span) -> str:
        return self.vocabulary.field(name, span).name if self.vocabulary else name

    def field(self, tree: Tree[Token]) -> tuple[str, Span]:
        node = next(iter(_trees(tree, "field")))
        token = cast(Token, node.children[0])
        return str(token), (token.start_pos or 0, token.end_pos or 0)

    def field_name(self, tree: Tree[Token]) -> str:
        return self.checked(*self.field(tree))

    def headings(self, tree: Tree[Token] | None) -> tuple[Heading, ...]:
        trees = _trees(tree, *_HEADINGS)
        if len(trees) > MOST_HEADINGS:
            raise Refusal(
                f"{len(trees)} headings are too many",
                f"at most {MOST_HEADINGS} stand on one side",
                span=_span(trees[-1]),
            )
        return tuple(self.heading(each) for each in trees)

    def heading(self, tree: Tree[Token]) -> Heading:
        name, span = self.field(tree)
        heading = Heading(name)
        if tree.data == "part":
            heading = Heading(name, cast(DatePart, " ".join(str(tree.children[0]).lower().split())))
        elif tree.data == "bands_of":
            # An absent "from" or "to" leaves None children; the keyword before each number tells which it is.
            limits: dict[str, float] = {}
            word = "WIDTH"
            for child in tree.children[2:]:
                if isinstance(child, Token):
                    word = child.type
                elif child is not None:
                    limits[word] = _signed(child)
            heading = Heading(name, bands=Bands(limits["WIDTH"], limits.get("FROM"), limits.get("TO")))
        elif tree.data == "bands_at":
            heading = Heading(name, bands=Bands(at=tuple(_signed(t) for t in _trees(tree, "signed"))))
        return self.vocabulary.check_heading(heading, span) if self.vocabulary else heading

    def conditions(self, tree: Tree[Token] | None) -> tuple[Condition, ...]:
        trees = _trees(tree, *_CONDITIONS)
        if len(trees) > MOST_CONDITIONS:
            raise Refusal(
                f"{len(trees):,} conditions are too many",
                f"at most {MOST_CONDITIONS} go together",
                span=_span(trees[-1]),
            )
        return tuple(self.condition(each) for each in trees)

    def condition(self, tree: Tree[Token]) -> Condition:
        heading = self.heading(cast(Tree[Token], tree.children[0]))
        word = cast(Token, tree.children[1])
        test = cast(Test, WORD_OF[word.type])
        if tree.data == "in_last":
            number, unit = cast(Token, tree.children[2]), cast(Token, tree.children[3])
            values: tuple[Value, ...] = (number_of(number), str(unit).lower())
            written, spans = [str(number), str(unit)], [_token_span(number), _token_span(unit)]
        else:
            nodes = list(_trees(tree, "value"))
            values = tuple(_value(node) for node in nodes)
            written, spans = [_written(node) for node in nodes], [_span(node) for node in nodes]
        if self.vocabulary:
            values = self.vocabulary.check_values(heading, test, values, written, spans)
        return Condition(heading, test, values)

    def comparison(self, tree: Tree[Token]) -> Comparison:
        word = WORD_OF[cast(Token, tree.children[0]).type]
        if tree.data == "share":
            return Comparison(cast(Any, word))
        heading = next((self.heading(t) for t in _trees(tree, *_HEADINGS)), None)
        if tree.data == "along":
            return Comparison(cast(Any, word.removesuffix(" along")), heading)
        if tree.data == "on_previous":
            return Comparison(cast(Any, f"{word} previous"), heading)
        if tree.data == "on_year":
            return Comparison(cast(Any, f"{word} a year earlier"))
        node = cast(Tree[Token], tree.children[2])
        member = _value(node)
        if self.vocabulary and heading:
            (member,) = self.vocabulary.check_values(heading, "is", (member,), [_written(node)], [_span(node)])
        return Comparison(cast(Any, word), heading, member)

    def keep(self, tree: Tree[Token]) -> Keep:
        kids = tree.children
        end = str(cast(Tree[Token], kids[0]).children[0]).lower()
        number = cast(Token, kids[1])
        count, percent = number_of(number), any(True for _ in _trees(tree, "percent"))
        if not percent and (count != int(count) or count < 1):
            raise Refusal(
                f"'{number}' members cannot be kept",
                "enter a whole number from 1 on",
                span=_token_span(number),
            )
        if percent and not 0 < count <= 100:
            raise Refusal(f"{number}% cannot be kept", "write more than 0 and at most 100", span=_token_span(number))
        headings = [t for t in kids if isinstance(t, Tree) and t.data in _HEADINGS]
        measure = next(t for t in kids if isinstance(t, Tree) and t.data == "measure")
        gathering = next(iter(_trees(tree, "gathering")), None)
        name = _after(gathering, "AS") if gathering else None
        keep = Keep(
            cast(Literal["top", "bottom"], end),
            count,
            self.heading(headings[0]),
            self.measure(measure),
            percent,
            self.heading(headings[1]) if len(headings) > 1 else None,
            gathering is not None,
            str(name) if name is not None else None,
        )
        if self.vocabulary:
            self.vocabulary.check_keep(keep, _span(measure))
        return keep

    def order(self, tree: Tree[Token]) -> Order:
        if tree.data == "by_measure":
            largest = cast(Token, tree.children[-1]).type == "LARGEST_FIRST"
            return Order(self.measure(next(iter(_trees(tree, "measure")))), largest)
        heading = self.heading(cast(Tree[Token], tree.children[0]))
        if tree.data == "backwards":
            return Order(heading=heading, backwards=True)
        nodes = list(_trees(tree, "value"))
        values = tuple(_value(node) for node in nodes)
        if self.vocabulary:
            written, spans = [_written(node) for node in nodes], [_span(node) for node in nodes]
            values = self.vocabulary.check_values(heading, "is", values, written, spans)
        return Order(heading=heading, sequence=values)

    def form(self, tree: Tree[Token]) -> Form:
        stated = " ".join(str(tree.children[0]).lower().split())
        if stated in FORMS:
            return stated
        guess = nearest(stated, NAMES)
        raise Refusal(
            f"there is no form '{stated}'",
            f"did you mean '{guess}'?" if guess else "choose one of " + ", ".join(NAMES),
            span=_span(tree),
            suggestion=guess,
        )


_COMPARISONS = {"share", "along", "on_previous", "on_year", "on_member"}
_HEADINGS = ("whole", "part", "bands_of", "bands_at")
_CONDITIONS = ("is_member", "is_blank", "is_from", "compares", "in_last")


def _clauses(tree: Tree[Token]) -> list[tuple[str, Tree[Token]]]:
    """Each clause of the sentence with the word that opens it."""
    clauses, opening = [], ""
    for child in tree.children:
        if isinstance(child, Token):
            opening = child.type
        elif child is not None and child.data != "option":
            clauses.append((opening, child))
    return clauses


def _trees(tree: Tree[Token] | None, *kinds: str) -> list[Tree[Token]]:
    """The nearest subtrees of these kinds, in the order of the text (the tree itself counts)."""
    if tree is None:
        return []
    if tree.data in kinds:
        return [tree]
    return [found for child in tree.children if isinstance(child, Tree) for found in _trees(child, *kinds)]


def _subtrees(tree: Tree[Token]) -> list[Tree[Token]]:
    return [child for child in tree.children if isinstance(child, Tree)]


def _after(tree: Tree[Token], kind: str) -> Token | None:
    """The token that follows the keyword `kind` among a tree's children."""
    kids = tree.children
    for at, child in enumerate(kids[:-1]):
        if isinstance(child, Token) and child.type == kind:
            return cast(Token, kids[at + 1])
    return None


def number_of(token: Token) -> float:
    """The number that a token says; refuses one too large to be worked with."""
    number = float(token)
    if number > LARGEST:
        raise Refusal(f"{token} is too large a number", f"enter at most {LARGEST:g}", span=_token_span(token))
    return number


def _signed(tree: Tree[Token]) -> float:
    tokens = cast("list[Token]", tree.children)
    return -number_of(tokens[1]) if len(tokens) == 2 else number_of(tokens[0])


def _value(tree: Tree[Token]) -> Value:
    child = tree.children[0]
    return _signed(child) if isinstance(child, Tree) else str(child)


def _written(tree: Tree[Token]) -> str:
    """A value as it stands in the text, without its quotes."""
    child = tree.children[0]
    return "".join(str(token) for token in child.children) if isinstance(child, Tree) else str(child)


def _span(tree: Tree[Token]) -> Span:
    return (tree.meta.start_pos, tree.meta.end_pos)


def _token_span(token: Token) -> Span:
    return (token.start_pos or 0, token.end_pos or 0)
