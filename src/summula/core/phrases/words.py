"""The words of the phrase language, and where each ends in a text.

Words that always go together ("distinct count", "share of all") are one token, so few words are
reserved. A known name is taken whole wherever it is longer than the word of the language at its place.
"""

from __future__ import annotations

import re
from collections.abc import Iterable
from functools import cache
from typing import NamedTuple

from summula.core.phrases.forms import NAMES

# Token type -> the words it stands for. Blanks in the words stand for any run of white space.
COMPOUND: dict[str, str] = {
    "DISTINCT_COUNT": "distinct count",
    "STANDARD_DEVIATION": "standard deviation",
    "EACH_ROW": "each row",
    "SHARE_OF_ALL": "share of all",
    "SHARE_OF_ROW": "share of row",
    "SHARE_OF_COLUMN": "share of column",
    "SHARE_OF_GROUP": "share of group",
    "SHARE_OF_EVERYTHING": "share of everything",
    "RUNNING_TOTAL_ALONG": "running total along",
    "RANK_ALONG": "rank along",
    "PERCENT_CHANGE_ON": "percent change on",
    "CHANGE_ON": "change on",
    "A_YEAR_EARLIER": "a year earlier",
    "IS_NOT_BLANK": "is not blank",
    "IS_BLANK": "is blank",
    "IS_NOT": "is not",
    "IS_FROM": "is from",
    "IS_OVER": "is over",
    "IS_AT_LEAST": "is at least",
    "IS_UNDER": "is under",
    "IS_AT_MOST": "is at most",
    "IS_IN_THE_LAST": "is in the last",
    "STARTS_WITH": "starts with",
    "ENDS_WITH": "ends with",
    "IN_EACH": "in each",
    "FOR_EACH": "for each",
    "GATHERING": "gathering the rest",
    "LARGEST_FIRST": "largest first",
    "SMALLEST_FIRST": "smallest first",
    "WITH_EVERY_MEMBER": "with every member",
    "WITHOUT_SUBTOTALS": "without subtotals",
    "WITHOUT_TOTALS": "without totals",
    "DRAWN_AS": "drawn as",
    "IN_BANDS_OF": "in bands of",
    "IN_BANDS_AT": "in bands at",
}
SINGLE: dict[str, str] = {
    word.upper(): word
    for word in (
        "show",
        "and",
        "against",
        "by",
        "then",
        "across",
        "where",
        "keeping",
        "ordered",
        "called",
        "of",
        "for",
        "as",
        "previous",
        "is",
        "or",
        "to",
        "from",
        "contains",
        "top",
        "bottom",
        "backwards",
        "rows",
        "sum",
        "mean",
        "median",
        "min",
        "max",
        "range",
        "count",
        "variance",
        "first",
        "last",
        "percentile",
        "lever",
        "in",
    )
}
PART_WORDS = (
    "fiscal year-half",
    "fiscal year-quarter",
    "fiscal year",
    "fiscal half",
    "fiscal quarter",
    "year-half",
    "year-quarter",
    "year-month",
    "year-week",
    "year",
    "half",
    "quarter",
    "month-day",
    "quarter-day",
    "month",
    "weekday",
    "week",
    "day",
    "hour",
)
UNIT_WORDS = ("days", "weeks", "months", "quarters", "years")
RESERVED: frozenset[str] = frozenset((*SINGLE.values(), *PART_WORDS, *UNIT_WORDS))
WORD_OF: dict[str, str] = {
    **COMPOUND,
    **SINGLE,
    "NAME": "a name",
    "FORM": "a form",
    "NUMBER": "a number",
    "PERIOD": "a date",
    "PART": "a part of a date",
    "UNIT": "days, weeks, months, quarters or years",
    "COMMA": "a comma",
    "LPAR": "(",
    "RPAR": ")",
    "PLUS": "+",
    "MINUS": "-",
    "STAR": "*",
    "SLASH": "/",
    "PERCENT": "%",
    "$END": "the end",
}


def _spaced(words: str) -> str:
    return r"\s+".join(re.escape(word) for word in words.split())


@cache
def _words() -> re.Pattern[str]:
    """All words of the language; compiled when first read, as that takes longer than all the rest of this module."""
    compound = "|".join(
        f"(?P<{kind}>{_spaced(words)})" for kind, words in sorted(COMPOUND.items(), key=lambda item: -len(item[1]))
    )
    return re.compile(
        rf"(?:{compound}"
        rf"|(?P<PART>{'|'.join(_spaced(words) for words in PART_WORDS)})|(?P<UNIT>{'|'.join(UNIT_WORDS)})"
        rf"|(?P<SINGLE>{'|'.join(SINGLE.values())}))(?![\w-])",
        re.IGNORECASE,
    )


# A period of time, or a length of it (1:30, 36:15:00): neither could be a name or a sum.
_PERIOD = re.compile(r"(?:\d{4}-(?:\d{2}-\d{2}|\d{2}|Q[1-4]|H[12]|W\d{2})|\d{1,5}:\d{2}(?::\d{2})?)(?![\w:-])")
_NUMBER = re.compile(r"(?:\d+(?:\.\d+)?|\.\d+)(?:[eE][+-]?\d+)?(?![\w.])")
_QUOTED = re.compile(r'"((?:[^"]|"")*)"', re.DOTALL)
_BARE = re.compile(r"[^\W]+(?:[.'’&]\w+)*")
_PUNCTUATION = {
    ",": "COMMA",
    "(": "LPAR",
    ")": "RPAR",
    "+": "PLUS",
    "-": "MINUS",
    "−": "MINUS",
    "*": "STAR",
    "×": "STAR",
    "/": "SLASH",
    "÷": "SLASH",
    "%": "PERCENT",
}


@cache
def _forms() -> re.Pattern[str]:
    names = sorted(NAMES, key=lambda name: -len(name))
    return re.compile(rf"(?:{'|'.join(_spaced(name) for name in names)})(?![\w-])", re.IGNORECASE)


_WORDS_ON = re.compile(r"\S+(?:\s+(?!for\s+each\b)\w+)*", re.IGNORECASE)


def form_at(text: str, at: int) -> Reading:
    """The form that is named at `at`, the longest name first; where there is none, the words that stand there."""
    found = _forms().match(text, at)
    if found:
        return Reading("FORM", found.end(), " ".join(found.group().lower().split()))
    words = _WORDS_ON.match(text, at)
    end = words.end() if words else len(text)
    return Reading("FORM", end, text[at:end])


class Names:
    """The known names that need telling: those a bare word cannot spell (with spaces, marks, or reserved)."""

    def __init__(self, names: Iterable[str] = ()) -> None:
        # By their first letter and their length: of thousands that begin alike, few lengths are tried.
        self._by_start: dict[str, dict[int, set[str]]] = {}
        for name in names:
            if name and not is_plain(name):
                self._by_start.setdefault(name[0].casefold(), {}).setdefault(len(name), set()).add(name.casefold())
        self._lengths = {start: sorted(group, reverse=True) for start, group in self._by_start.items()}

    def at(self, text: str, at: int) -> list[str]:
        """The known names that stand at `at`, whole, in any case, the longest first; as they stand in the text."""
        start = text[at].casefold()
        found: list[str] = []
        for length in self._lengths.get(start, ()):
            stands, end = text[at : at + length], at + length
            goes_on = end < len(text) and (text[end].isalnum() or text[end] == "_") and text[end - 1].isalnum()
            if len(stands) == length and not goes_on and stands.casefold() in self._by_start[start][length]:
                found.append(stands)
        return found


# Words that would make one word of the language with what may stand before them ("is blank") or after ("drawn as").
_JOINING = frozenset(("not", "blank", "from", "over", "at", "under", "in", "starts", "ends", "drawn", "with"))


def is_plain(name: str) -> bool:
    """Whether a name can stand in a phrase without quotes, whatever the table."""
    return (
        _BARE.fullmatch(name) is not None
        and name.casefold() not in RESERVED
        and name.casefold() not in _JOINING
        and not name[0].isdigit()
        and name.isprintable()
        and _words().match(name) is None
    )


def is_period(text: str) -> bool:
    """Whether a text reads as a date or a period: 2024-05-31, 2024-Q2."""
    return _PERIOD.fullmatch(text) is not None


class Reading(NamedTuple):
    """One way to read what stands at a place: the kind of token, where it ends, and what it says."""

    kind: str
    end: int
    value: str


def readings_at(text: str, at: int, names: Names) -> list[Reading]:
    """The ways to read what begins at `at`, the likeliest first: known names that are longer than the word of the
    language there, that word, then shorter names. Which of them fits, the grammar and the table say."""
    quoted = _QUOTED.match(text, at)
    if quoted:
        return [Reading("NAME", quoted.end(), quoted.group(1).replace('""', '"'))]
    word = _word_at(text, at)
    known = [Reading("NAME", at + len(name), name) for name in names.at(text, at)]
    if word is None:
        bare = _BARE.match(text, at)
        word = Reading("NAME", bare.end(), bare.group()) if bare else Reading("UNKNOWN", at + 1, text[at])
    longer = [each for each in known if each.end > word.end]
    return [*longer, word, *(each for each in known if each.end <= word.end and each != word)]


def _word_at(text: str, at: int) -> Reading | None:
    """The word, date, number or sign of the language that begins at `at`."""
    word = _words().match(text, at)
    if word:
        kind = word.lastgroup or ""
        return Reading(word.group().upper() if kind == "SINGLE" else kind, word.end(), word.group())
    for kind, pattern in (("PERIOD", _PERIOD), ("NUMBER", _NUMBER)):
        found = pattern.match(text, at)
        if found:
            return Reading(kind, found.end(), found.group())
    sign = _PUNCTUATION.get(text[at])
    return Reading(sign, at + 1, text[at]) if sign else None
