"""What a formula may be: one expression over the fields of its row, made of the functions, signs and literals below.

A folio comes from strangers, and the front end that works formulas out knows whole queries, which read files and call
other machines. So a text is first cut into tokens of our own, and each must be known; then it is parsed, and each node
must be known; only then does the front end see it. Nothing in it can grow a text without bound.
"""

from __future__ import annotations

import re
from functools import lru_cache
from typing import TYPE_CHECKING

from summula.core.refusal import Refusal, nearest, shortened

if TYPE_CHECKING:
    from collections.abc import Iterable

    from sqlglot.expressions import Expr

    from summula.core.tables.table import Table

MOST_LETTERS = 10_000
MOST_TOKENS = 1_000
MOST_NESTED = 24
MOST_GROWTH = 1_000.0  # times the length of the longest text that goes in

_TOKEN = re.compile(
    r"""(?P<space>\s+)|(?P<comment>--|/\*|\#)|(?P<text>'(?:[^']|'')*')|(?P<name>"(?:[^"]|"")*")
    |(?P<number>(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?)(?![\w.])|(?P<word>[^\W\d]\w*)
    |(?P<sign>\|\||<>|!=|<=|>=|::|[-+*/%(),=<>])""",
    re.VERBOSE,
)


def _set(words: str) -> frozenset[str]:
    return frozenset(words.split())


_KEYWORDS = _set(
    """
    AND OR NOT IS NULL TRUE FALSE IN BETWEEN LIKE ILIKE CASE WHEN THEN ELSE END AS DISTINCT INTERVAL DATE TIMESTAMP
    YEAR QUARTER MONTH WEEK DAY HOUR MINUTE SECOND DOW ISODOW DOY ISOYEAR BOTH LEADING TRAILING FOR
    """
)
_TYPES = _set(
    """
    INT INTEGER BIGINT SMALLINT TINYINT FLOAT REAL DOUBLE PRECISION DECIMAL NUMERIC TEXT VARCHAR STRING CHAR BOOLEAN
    BOOL DATE TIMESTAMP
    """
)
FUNCTIONS = _set(
    """
    ABS ACOS ASIN ATAN ATAN2 CBRT CEIL CEILING COS COT DEGREES DIV EXP FLOOR LN LOG LOG10 LOG1P LOG2 MOD PI POW
    POWER RADIANS ROUND SIGN SIN SQRT TAN TRUNC CHAR_LENGTH CHARACTER_LENGTH CONCAT CONCAT_WS ENDS_WITH INITCAP LEFT
    LENGTH LOWER LPAD LTRIM POSITION REGEXP_LIKE REPEAT REPLACE REVERSE RIGHT RPAD RTRIM SPLIT_PART STARTS_WITH
    STRPOS SUBSTR SUBSTRING TRIM UPPER DATE_PART EXTRACT STRFTIME DATE COALESCE GREATEST IF IFNULL LEAST NULLIF CAST
    TRY_CAST
    """
)
_TAKES_FROM = frozenset(("EXTRACT", "TRIM", "SUBSTRING"))  # EXTRACT(YEAR FROM …)
# Words of whole queries; a field of that name stands in quotes.
_OF_QUERIES = _set(
    """
    SELECT FROM WITH UNION EXCEPT INTERSECT VALUES TABLE EXISTS ANY ALL SOME OVER FILTER WITHIN ORDER GROUP LIMIT
    OFFSET FETCH JOIN LATERAL UNNEST ARRAY STRUCT COLUMNS EXCLUDE QUALIFY WINDOW WHERE HAVING INTO COPY CREATE DROP
    DELETE UPDATE INSERT EXPLAIN SHOW USING ON DESCRIBE
    """
)
_OF_ALL_ROWS = _set(
    """
    SUM AVG MEAN COUNT MIN MAX MEDIAN STDDEV STDEV VARIANCE VAR FIRST LAST QUANTILE_CONT
    """
)
# The nodes of a parsed formula, by the names of their classes.
_NODES = _set(
    """
    Column Identifier Literal Null Boolean Paren Add Sub Mul Div Mod Neg Not And Or Xor EQ NEQ GT GTE LT LTE Is In
    Between Like ILike NullSafeEQ NullSafeNEQ Escape Case If DPipe Concat ConcatWs SafeConcat Cast TryCast DataType
    DataTypeParam Interval Var IntervalSpan Abs Acos Asin Atan Atan2 Cbrt Ceil Cos Cot Degrees IntDiv Exp Floor Ln
    Log Pi Pow Radians Round Sign Sin Sqrt Tan Trunc Length EndsWith Initcap Left Lower Pad RegexpLike Repeat
    Replace Reverse Right SplitPart StartsWith StrPosition Substring Trim Upper Extract TimeToStr TsOrDsToDate Date
    Coalesce Greatest Least Nullif Anonymous
    """
)


_MOST_DIGITS = 38  # of a decimal number
_MAX_DEPTH = 120  # of the tree of a formula


@lru_cache(maxsize=256)
def growth(text: str) -> float:
    """How many times longer than the longest text that goes in a formula's text may come out.

    Raises Refusal, at its place, for what no formula may hold.
    """
    check_tokens(text)
    tree = _parsed(text)
    for node in tree.walk():
        kind = type(node).__name__
        if node.depth > _MAX_DEPTH:  # whoever works it out would run out of stack, and the process end
            wrong = f"the formula joins more than {_MAX_DEPTH} parts one into the other"
            raise Refusal(wrong, "split it into two fields, one using the other")
        if kind not in _NODES:
            raise Refusal(f"a formula cannot hold {_named(node)}", "use only fields of the same row")
        if kind == "DataTypeParam" and not 0 <= _whole(node) <= _MOST_DIGITS:
            raise Refusal(f"no type has {shortened(str(node))} digits", f"enter at most {_MOST_DIGITS}")
    grown = _growth(tree)
    if grown > MOST_GROWTH:
        raise Refusal("the formula makes far longer texts than its input", "repeat or replace less")
    return grown


def fields_named(text: str) -> tuple[str, ...]:
    """The fields that a formula names, each once. Raises Refusal, at its place, for what no formula may hold."""
    if not text.strip():
        raise Refusal("the formula is empty", 'enter one, such as "Takings" / "Passengers"')
    growth(text)
    columns = (node for node in _parsed(text).walk() if type(node).__name__ == "Column")
    return tuple(dict.fromkeys(node.name for node in columns))


def check_named(table: Table, text: str, named: Iterable[str]) -> None:
    """Refuses, at its place, a field that the table has not."""
    for name in named:
        if not table.has(name):
            names = [field.name for field in table.fields]
            folded = {each.casefold(): each for each in names}
            guess = folded.get(name.casefold()) or nearest(name, names)
            at = text.find(name)
            span = (at, at + len(name)) if at >= 0 else None
            raise Refusal(
                f"no field '{name}'",
                f'did you mean "{guess}"?' if guess else "put a field's name in double quotes",
                span=span,
                suggestion=guess,
            )


def check_tokens(text: str) -> None:
    """Refuses, at its place, a word or sign that no formula holds. Nothing may see the text before."""
    if len(text) > MOST_LETTERS:
        raise Refusal(f"a formula of {len(text):,} letters is too long", f"at most {MOST_LETTERS:,} can be read")
    at, count, before = 0, 0, ""
    opened: list[str] = []  # for each bracket that is open, the function before it
    cases = 0
    while at < len(text):
        found = _TOKEN.match(text, at)
        kind = found.lastgroup if found else None
        stated = found.group() if found else text[at]
        span = (at, at + len(stated))
        if kind == "space":
            at = span[1]
            continue
        if kind is None:
            if stated in "'\"":
                raise Refusal("a quotation mark in the formula is never closed", "close it", span=span)
            raise Refusal(f"'{stated}' means nothing in a formula", "use fields, numbers and + - * /", span=span)
        if kind == "comment":
            raise Refusal("a formula cannot contain comments", "remove it", span=span)
        if kind == "word":
            word = stated.upper()
            calls = text[span[1] :].lstrip()[:1] == "("
            cases += (word == "CASE") - (word == "END")
            if word == "SELECT":
                raise Refusal("a formula is one expression, without SELECT", "use only fields and operators", span=span)
            inside = bool(opened) and opened[-1] in _TAKES_FROM
            if word in _OF_QUERIES and not (word == "FROM" and inside):
                raise Refusal(
                    f"'{stated}' belongs to queries, not to formulas", "put quotes around a field's name", span=span
                )
            if calls and word in _OF_ALL_ROWS:
                raise Refusal(
                    "the formula gives one value for all rows",
                    "formulas work row by row; use a summary for totals",
                    span=span,
                )
            if calls and word not in FUNCTIONS and word not in _KEYWORDS and word not in _TYPES:
                raise Refusal(f"there is no function '{stated}'", "see the list of functions", span=span)
        if stated == "(":
            opened.append(before)
        elif stated == ")" and opened:
            opened.pop()
        if len(opened) > MOST_NESTED or cases > MOST_NESTED:
            raise Refusal("the formula is nested too deeply", f"nest at most {MOST_NESTED} brackets", span=span)
        before = stated.upper() if kind == "word" else ""
        count += 1
        if count > MOST_TOKENS:
            raise Refusal("the formula is too long", f"use at most {MOST_TOKENS:,} words and signs", span=span)
        at = span[1]


def _parsed(text: str) -> Expr:
    from sqlglot import errors, parse_one  # only formulas need it

    try:
        return parse_one(text, read="postgres")
    except (errors.SqlglotError, RecursionError):
        raise Refusal("the formula cannot be read", "check that each operator is between two values") from None


def _whole(node: Expr) -> int:
    """The whole number that a parameter of a type is; -1 where it is none."""
    text = str(node)
    return int(text) if text.isascii() and text.isdigit() and len(text) < 10 else -1


def _named(node: Expr) -> str:
    words = {"Star": "'*' by itself", "Count": "a count", "Sum": "a sum of rows", "Window": "a window over rows"}
    return words.get(type(node).__name__, f"'{shortened(str(node))}'")


def _growth(node: Expr) -> float:
    """How long a text may come out, against the longest that goes in (or against one letter)."""
    kind = type(node).__name__
    inner = [_growth(each) for each in node.iter_expressions()]
    most = max(inner, default=1.0)
    if kind == "Literal":
        return float(max(1, len(str(node.this)))) if node.is_string else 1.0
    if kind in ("Concat", "ConcatWs", "SafeConcat", "DPipe"):
        return sum(inner)
    if kind == "Repeat":
        return most * _count(node.args.get("times"))
    if kind == "Pad":
        return max(most, _count(node.args.get("expression")))
    if kind == "Replace":
        put = node.args.get("replacement")
        return _growth(node.this) * (1.0 if put is None else max(1.0, _growth(put)))
    if kind == "Anonymous" and str(node.this).upper() in ("REPEAT", "LPAD", "RPAD", "REPLACE"):
        raise Refusal(f"'{node.this}' is not written so", "see the list of functions")
    return most


def _count(node: Expr | None) -> float:
    """How often something is repeated: a number written out, so that no row can ask for more."""
    if node is None or type(node).__name__ != "Literal" or node.is_string:
        raise Refusal("how long a text is made must be a number written out", "enter one, such as 10")
    number = float(str(node.this))
    if number > MOST_GROWTH:
        raise Refusal(f"a text cannot be made {number:,.0f} times as long", f"enter at most {MOST_GROWTH:,.0f}")
    return max(number, 1.0)
