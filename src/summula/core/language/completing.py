"""What may be written at the caret of a phrase: words of the language, fields, members."""

from __future__ import annotations

import re
from datetime import date
from typing import get_args

import msgspec
from msgspec.structs import replace

from summula.core.fields.bands import Band
from summula.core.fields.heading import Heading, Others, encode_heading
from summula.core.fields.labels import label_of
from summula.core.language.lexing import Trees
from summula.core.language.parsetable import parser
from summula.core.language.vocabulary import OF_NUMBERS, Vocabulary
from summula.core.phrases.forms import FORMS
from summula.core.phrases.phrase import Function
from summula.core.phrases.printing import name_text, value_text
from summula.core.phrases.words import PART_WORDS, UNIT_WORDS, WORD_OF
from summula.core.refusal import Refusal
from summula.core.tables.field import MEASURED

MOST = 40
_FUNCTIONS = set(get_args(Function)) - {"rows", "default", "percentile"}
_QUOTED, _BARE = re.compile(r'"[^"]*$'), re.compile(r"[\w.'’-]*$")
_DRAWN_AS = re.compile(r"\bdrawn as\s*$", re.IGNORECASE)
_SPELLED = {
    "UNIT",
    "PART",
    "NAME",
    "NUMBER",
    "PERIOD",
    "COMMA",
    "LPAR",
    "RPAR",
    "PLUS",
    "MINUS",
    "STAR",
    "SLASH",
    "PERCENT",
    "$END",
}
_VALUE_AFTER = re.compile(r"\b(is not|is|or|is from|to|contains|starts with|ends with)\s*$", re.IGNORECASE)
_CLAUSE = re.compile(r"\bwhere\s+|\bfor\s*\(\s*|\band\s+", re.IGNORECASE)
_NAMED = re.compile(r"\b(called|gathering as)\s*$", re.IGNORECASE)
# Words that the grammar also takes for names of fields.
_AS_NAMES = {
    "SUM", "MEAN", "MEDIAN", "MIN", "MAX", "RANGE", "COUNT", "VARIANCE", "FIRST", "LAST",
    "GRID", "COLUMNS", "BARS", "LINES",
}  # fmt: skip
_LIKELY = ["IS", "IS_NOT", "BY", "ACROSS", "WHERE", "KEEPING", "ORDERED", "AND", "THEN", "AS", "DRAWN_AS"]
_OF_TABLE = re.compile(r"\bin\s*$", re.IGNORECASE)
_FUNCTION_OF = re.compile(r"\b([\w ]+?) of\s*$", re.IGNORECASE)


class Completion(msgspec.Struct, frozen=True):
    """A text to put in, and what it is: "word", "member" or a field's kind."""

    text: str
    what: str
    hint: str = ""


class Completions(msgspec.Struct, frozen=True):
    """What may stand from `start` to the caret, the likeliest first."""

    start: int
    choices: tuple[Completion, ...]


def complete(text: str, caret: int, vocabulary: Vocabulary) -> Completions:
    """What may follow the text before the caret, narrowed by the word that is begun there."""
    before = text[:caret]
    partial = (_QUOTED if before.count('"') % 2 else _BARE).search(before)
    begun = partial[0] if partial else ""
    start = caret - len(begun)
    prefix = before[:start]
    if not prefix.strip():
        return Completions(start, _narrowed([Completion("show", "word")], begun))
    return Completions(start, _narrowed(_possible(prefix, vocabulary), begun))


def _possible(prefix: str, vocabulary: Vocabulary) -> list[Completion]:
    """Everything that the grammar takes after a text, as far as it means something there."""
    if _DRAWN_AS.search(prefix):
        return [Completion(form, "word") for form in FORMS]
    accepted = _accepted(prefix, vocabulary)
    if "PERIOD" in accepted and _VALUE_AFTER.search(prefix):
        return _members(prefix, vocabulary)
    if _NAMED.search(prefix):
        return []  # a name of one's own
    if prefix.rstrip().endswith(",") and not accepted:
        accepted = _accepted(prefix.rstrip()[:-1], vocabulary) & {"LARGEST_FIRST", "SMALLEST_FIRST"}
    if _OF_TABLE.search(prefix) and "NAME" in accepted:
        return [Completion(name_text(table.name), "word", "a linked table") for table in vocabulary.others]
    unused = set() if vocabulary.others else {"IN"}
    words = _in_order(accepted - unused - _SPELLED - (_AS_NAMES if "NAME" in accepted else set()))
    if "NAME" not in accepted:
        return ([Completion(word, "word") for word in UNIT_WORDS] if "UNIT" in accepted else []) + words
    choices = _fields(prefix, vocabulary)
    if _FUNCTION_OF.search(prefix):
        return choices + _linked_fields(prefix, vocabulary)
    if any(field.kind == "date" for field in vocabulary.table.fields):
        choices += [Completion(f"{word} of", "word") for word in PART_WORDS]
    if "ROWS" in accepted:  # a measure; elsewhere such words could only be names of fields
        functions = sorted(kind for kind in accepted if WORD_OF.get(kind, "") in _FUNCTIONS)
        choices += [Completion(f"{WORD_OF[kind]} of", "word") for kind in functions]
        words = [each for each in words if each.text not in _FUNCTIONS and each.text != "lever"]
        choices += [Completion(f"lever {name_text(name)}", "word", "a lever") for name in vocabulary.levers]
    return choices + words


def _in_order(kinds: set[str]) -> list[Completion]:
    """The words of the language for these kinds, what people most often mean first."""
    ordered = [kind for kind in _LIKELY if kind in kinds] + sorted(kinds - set(_LIKELY))
    return [Completion(WORD_OF[kind], "word") for kind in ordered if kind in WORD_OF]


def _accepted(prefix: str, vocabulary: Vocabulary) -> set[str]:
    """The kinds of words that the grammar takes after a text: asked by a sign that it never takes."""
    trees = Trees(parser(), f"{prefix} \N{BULLET}", vocabulary.names)
    while trees.next() is not None:
        pass
    fault = trees.fault
    if fault is not None and fault.token.type == "UNKNOWN" and fault.token.start_pos == len(prefix) + 1:
        return set(fault.accepts or fault.expected)
    return set()


def _linked_fields(prefix: str, vocabulary: Vocabulary) -> list[Completion]:
    """Fields of linked tables that a function can be of; no part of a date is of theirs."""
    function = _FUNCTION_OF.search(prefix)
    if function is not None and {function[1].split()[-1].casefold()} & set(PART_WORDS):
        return []
    return [
        replace(field, text=f"{field.text} in {name_text(table.name)}", hint=field.hint or "of a linked table")
        for table in vocabulary.others
        for field in _fields(prefix, Vocabulary(table))
    ]


def _fields(prefix: str, vocabulary: Vocabulary) -> list[Completion]:
    """Fields that can stand there: numbers after a function that needs them, dates after a part of a date."""
    wanted: set[str] = set()
    function = _FUNCTION_OF.search(prefix)
    if function:
        words = function[1].split()
        last, two = words[-1].casefold(), " ".join(words[-2:]).casefold()
        if {last, two} & set(OF_NUMBERS):
            wanted = set(MEASURED)
        elif {last, two} & set(PART_WORDS):
            wanted = {"date"}
    return [
        Completion(name_text(field.name), field.kind, field.description)
        for field in vocabulary.table.fields
        if not wanted or field.kind in wanted
    ]


def _members(prefix: str, vocabulary: Vocabulary) -> list[Completion]:
    heading = _heading_before(prefix, vocabulary)
    if heading is None:
        return []
    found = []
    for member in encode_heading(vocabulary.table, heading).members[:5000]:
        if isinstance(member, Others | Band) or member is None:
            continue
        if isinstance(member, bool):
            spelled = str(member).lower()
        elif isinstance(member, date):
            spelled = member.isoformat()
        elif isinstance(member, int | float):
            spelled = f"{member:g}"
        else:
            spelled = value_text(member) if heading.part is not None else name_text(member)
        label = label_of(heading, member)
        found.append(Completion(spelled, "member", label if label != spelled.strip('"') else ""))
    return found


def _heading_before(prefix: str, vocabulary: Vocabulary) -> Heading | None:
    """The heading whose members are asked for: what stands before the condition's first "is"."""
    from summula.core.language.grammar import parse

    starts = [found.end() for found in _CLAUSE.finditer(prefix)]
    for at in reversed(starts):
        stated = re.split(r"\s+(?:is|contains|starts with|ends with)\b", prefix[at:], maxsplit=1, flags=re.IGNORECASE)
        if len(stated) == 2:
            try:
                return parse(f"show rows by {stated[0]}", vocabulary).by[0]
            except Refusal:
                continue
    return None


def _narrowed(choices: list[Completion], begun: str) -> tuple[Completion, ...]:
    """Those that begin with what is begun, then those that hold it."""
    folded = begun.strip('"').casefold()
    ranked = []
    for at, choice in enumerate(choices):
        bare = choice.text.strip('"').casefold()
        if bare == folded and begun == choice.text:
            continue  # it is there already
        if bare.startswith(folded):
            ranked.append((0, at, choice))
        elif folded and any(word.startswith(folded) for word in bare.split()):
            ranked.append((1, at, choice))
        elif len(folded) > 1 and folded in f"{bare} {choice.hint}".casefold():
            ranked.append((2, at, choice))
    return tuple(choice for _, _, choice in sorted(ranked, key=lambda each: each[:2])[:MOST])
