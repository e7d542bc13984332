"""What is said of a text that is no phrase: where it stops making sense, and which word was likely meant there."""

from __future__ import annotations

import re
from functools import cache
from typing import TYPE_CHECKING

from summula.core.phrases.words import PART_WORDS, WORD_OF
from summula.core.refusal import Refusal, nearest

if TYPE_CHECKING:
    from lark import UnexpectedToken  # what starting does not need

    from summula.core.language.vocabulary import Vocabulary

_PARTS = "year|half|quarter|month|weekday|week|day|hour"
_FUNCTIONS = "sum|mean|median|min|max|range|distinct count|count|standard deviation|variance|first|last"
# What people write who do not know the language yet, and the word that they mean. The remedy says more where a word
# alone would not do.
_MEANT: tuple[tuple[str, str, str], ...] = (
    (r"\b(\d{1,3}),(\d{3})\b", r"\1\2", "write numbers without thousands marks, and with a point"),
    (r"\bas (?:an? )?(?:percent(?:age)?|%|share) of (?:the )?(?:total|whole|sum)\b", "as share of all", ""),
    (r"\bas (?:an? )?(?:percent(?:age)?|%) of (?:the )?(row|column|group|all)\b", r"as share of \1", ""),
    (r"\bcount\s*\(?\s*distinct\b\s*(?:of\b|\()?", "distinct count of", ""),
    (rf"\b({_PARTS})\s*\(", r"\1 of", ""),
    (r"\b(?:average|avg|arithmetic mean)\b\s*(?:of\b|\()?", "mean of", ""),
    (r"\b(?:count\s*\(\s*\*\s*\)|(?:number|no\.?|count) of (?:rows|records|lines)|how many(?: rows)?)", "rows", ""),
    (r"\b(?:number of )?(?:different|distinct|unique)\b(?: count\b)?\s*(?:of\b|\()?", "distinct count of", ""),
    (r"\b(?:number|no\.?) of\b", "count of", ""),
    (r"\b(?:totals?|sum total|add up)\b\s*(?:of\b|\()?", "sum of", ""),
    (r"\b(?:maximum|highest|biggest|largest(?! first)|top value)\b\s*(?:of\b|\()?", "max of", ""),
    (r"\b(?:minimum|lowest|smallest(?! first))\b\s*(?:of\b|\()?", "min of", ""),
    (r"\b(?:stdev|stddev|std|sd)\b\.?\s*(?:of\b|\()?", "standard deviation of", ""),
    (rf"\b({_FUNCTIONS})\s*\(", r"\1 of", ""),
    (rf"\b({_FUNCTIONS})(?=\s+[\w\"])(?!\s+of\b)", r"\1 of", ""),
    (r"\b(?:is\s+)?not\s+(?:in|one of)\b\s*\(?", "is not", "enter 'is not A or B'"),
    (r"\b(?:is\s+)?(?:in|one of|any of)\b\s*\(?", "is", "enter 'is A or B'"),
    (r"\b(?:is\s+)?between\b", "is from", "enter 'is from A to B'"),
    (r"(?:\bis\s+)?(?:>=|=>|≥)", "is at least", ""),
    (r"(?:\bis\s+)?(?:<=|=<|≤)", "is at most", ""),
    (r"(?:\bis\s+)?(?:!=+|<>|≠|\^=)", "is not", ""),
    (r"(?:\bis\s+)?>", "is over", ""),
    (r"(?:\bis\s+)?<", "is under", ""),
    (r"(?:\bis\s+)?={1,3}|\b(?:is\s+)?equals?\b(?:\s+to\b)?", "is", ""),
    (r"\b(?:is\s+)?(?:greater|more|larger|higher|later|above|after)\b(?:\s+than\b)?", "is over", ""),
    (r"\b(?:is\s+)?(?:less|fewer|smaller|lower|earlier|below|before)\b(?:\s+than\b)?", "is under", ""),
    (r"\b(?:like|includes?|matches|containing)\b", "contains", ""),
    (r"\b(?:begins|starting|beginning) with\b", "starts with", ""),
    (r"\b(?:ending|finishes) with\b", "ends with", ""),
    (r"\b(?:is\s+)?(?:not\s+null|not\s+empty)\b", "is not blank", ""),
    (r"\b(?:is\s+)?(?:null|empty|missing)\b", "is blank", ""),
    (r"\bfor each\b(?=.*\bdrawn as\b)", "by", "enter 'by', or put it after the form: 'drawn as lines for each FIELD'"),
    (r"\b(?:group(?:ed)? by|per|for each|split by|broken down by)\b", "by", ""),
    (r"\b(?:order|sort(?:ed)?) by\b", "ordered by", "enter 'ordered by MEASURE, largest first'"),
    (r"\b(?:desc|descending)\b", ", largest first", ""),
    (r"\b(?:asc|ascending)\b", ", smallest first", ""),
    (r"\b(?:top|bottom)\s+\d+\b", r"keeping \g<0>", "enter 'keeping top 5 FIELD by MEASURE'"),
    (r"\blimit(?:ed to)?\b", "keeping top", "enter 'keeping top 5 FIELD by MEASURE'"),
    (r"\b(?:having|filter(?:ed)?(?: by)?|only where|if|when)\b", "where", ""),
    (r"\b(?:plot(?:ted)?|chart(?:ed)?|shown|as a) as\b|\bas (?:a )?(?:chart|graph) of\b", "drawn as", ""),
    (r"&&?|\bplus\b", "and", ""),
)  # fmt: skip
_OPENERS = frozenset(
    ("select", "display", "list", "give", "get", "report", "calculate", "compute", "print", "view", "tell", "find")
)


@cache
def _meant() -> tuple[tuple[re.Pattern[str], str, str], ...]:
    return tuple((re.compile(pattern, re.IGNORECASE), word, remedy) for pattern, word, remedy in _MEANT)


def meant_at(text: str, start: int, end: int) -> Refusal | None:
    """What was likely meant where a word from `start` to `end` does not fit."""
    for pattern, word, remedy in _meant():
        for found in pattern.finditer(text):
            if found.start() > end or (found.end() < start and text[found.end() : start].strip()):
                continue  # somewhere else
            meant = found.expand(word)
            stated = found.group().strip()
            if stated.casefold() == meant.casefold():
                continue
            span = (found.start(), found.start() + len(stated))
            return Refusal(f"'{stated}' does not fit here", remedy or f"enter '{meant}'", span=span, suggestion=meant)
    return None


def meant_by(name: str) -> str | None:
    """The words that a name which no field has was likely meant for: "avg" for "mean of"."""
    if name.casefold() in PART_WORDS:
        return f"{name.lower()} of"
    for pattern, word, _ in _meant():
        found = pattern.fullmatch(name)
        if found is not None:
            return found.expand(word)
    return None


def syntax_refusal(text: str, fault: UnexpectedToken, vocabulary: Vocabulary | None) -> Refusal:
    """The sentence for the place where a text stops being a phrase."""
    token = fault.token
    expected = set(fault.accepts or fault.expected)
    at_end = token.type == "$END"
    start = len(text.rstrip()) if at_end else (token.start_pos or 0)
    span = (max(0, start - 1), start) if at_end else (start, token.end_pos or start + 1)
    if not text.strip():
        return Refusal("the phrase is empty", "start with 'show', as in: show rows", span=(0, 0))
    opening = text.split()[0]
    if opening.casefold() != "show":
        begin = text.index(opening)
        ends = begin + len(opening) if opening.casefold() in _OPENERS else span[1]
        return Refusal("a phrase starts with 'show'", "as in: show rows", span=(begin, ends), suggestion="show")
    before = text[:start].rstrip()
    meant = meant_at(text, *((start, start) if at_end else span))
    if meant is not None:
        return meant
    if token.type == "COMMA":
        word = "then" if re.search(r"\b(by|across)\b[^,]*$", before, re.IGNORECASE) else "and"
        return Refusal("unexpected comma", f"enter '{word}'", span=span, suggestion=f" {word}")
    wants = _wants(expected)
    if at_end:
        return Refusal(f"the phrase stops after '{_last_word(before)}'", f"it wants {wants}", span=span)
    # Two bare words side by side are most likely one name that has no quotes, or a misspelt one.
    if token.type == "NAME" and vocabulary is not None:
        words = [WORD_OF[kind] for kind in expected if kind in WORD_OF and kind.isupper() and kind != "NAME"]
        guess = nearest(str(token), [word for word in words if word.isalpha() or " " in word])
        if guess:
            return Refusal(f"'{token}' does not fit here", f"did you mean '{guess}'?", span=span, suggestion=guess)
        last = _last_word(before)
        name = nearest(f"{last} {token}", (field.name for field in vocabulary.table.fields))
        if name and name.casefold() != last.casefold():
            pair = (start - len(last) - 1, span[1])
            return Refusal(f"no field '{last} {token}'", f"did you mean '{name}'?", span=pair, suggestion=name)
    return Refusal(
        f"'{text[span[0] : span[1]]}' does not fit here",
        f"after '{_last_word(before)}' comes {wants}",
        span=span,
    )


def _last_word(text: str) -> str:
    return text.split()[-1] if text.split() else ""


# Told first when several things may come: what people most often meant.
_FIRST = ["NAME", "NUMBER", "OF", "BY", "AS", "AND", "DRAWN_AS", "WHERE", "KEEPING"]


def _wants(expected: set[str]) -> str:
    ordered = [kind for kind in _FIRST if kind in expected]
    ordered += sorted(kind for kind in expected if kind not in ordered and kind in WORD_OF)
    if "NAME" in expected:  # words that may also be names would only confuse here
        ordered = [kind for kind in ordered if kind in _FIRST or kind in ("IS", "LPAR")]
    words = [
        WORD_OF[kind] if kind in ("NAME", "NUMBER", "PERIOD", "$END") else f"'{WORD_OF[kind]}'" for kind in ordered[:4]
    ]
    if not words:
        return "the end"
    return words[0] if len(words) == 1 else ", ".join(words[:-1]) + " or " + words[-1]
