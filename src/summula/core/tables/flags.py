"""Words and marks that mean yes and no. To add some: in the table below, folded, and a row in the tests' tables."""

from __future__ import annotations

from typing import Literal

import polars as pl

from summula.core.tables.natural import folded

_PAIRS = """
no yes | false true | n y | f t | off on | nein ja | n j | non oui | faux vrai | falsch wahr | no si | falso verdadero
falso vero | nao sim | falso verdadeiro | nee ja | onwaar waar | nej ja | nei ja | falsk sand | falskt sant | usant sant
ei kylla | epatosi tosi | nie tak | falsz prawda | ne ano | nepravda pravda | nie ano | nem igen | hamis igaz | nu da
ne da | нет да | ложь истина | ні так | не да | hayır evet | hayir evet | yanlıs dogru | οχι ναι | ψευδησ αληθησ
ne taip | ne ja | ei jah | nē jā | לא כן | لا نعم | いいえ はい | 否 是 | 无 有 | 아니오 예 | tidak ya | khong co
✗ ✓ | ✘ ✔ | ☐ ☑ | ☐ ☒ | ✗ ✔ | ✘ ✓ | ❌ ✅ | × ✓ | × ○ | inactive active | disabled enabled
"""
_SPLIT = [pair.rsplit(maxsplit=1) for pair in _PAIRS.replace("\n", "|").split("|") if pair.strip()]
_FALSE = frozenset(no.strip() for no, _ in _SPLIT) | {"0"}
_KNOWN = {frozenset((no.strip(), yes)) for no, yes in _SPLIT}
_ALONE = frozenset(("yes", "no", "true", "false"))  # say so without the other
_MARKED = frozenset(
    ("y", "yes", "x", "✓", "✔", "☑", "☒", "✅", "●", "•", "j", "ja", "oui", "true", "t")
)  # beside nothing
_TRUE = frozenset(yes for _, yes in _SPLIT) | {"1"} | _MARKED
MOST = 6  # different values, at most, of a flag

Meaning = Literal["", "words", "marked"]


def meaning_of(distinct: list[str], *, gaps: bool) -> Meaning:
    """Whether these distinct values mean yes and no: as "words", or as "marked" where one mark stands beside nothing;
    empty where they do not."""
    if not 0 < len(distinct) <= MOST:
        return ""
    words = {_plain(each) for each in distinct}
    digits = words & {"0", "1"}
    stated = words - digits
    if not stated:
        return ""
    if len(stated) == 1 and not digits:
        word = next(iter(stated))
        if gaps and word in _MARKED:
            return "marked"
        return "words" if word in _ALONE else ""
    together = stated in _KNOWN or (len(stated) == 1 and stated < _ALONE)
    if not together and stated <= (_TRUE | _FALSE):
        # Several ways of saying the same in one field: Y, yes, TRUE.
        letters = {each for each in stated if len(each) == 1}
        together = len(stated) > 2 and bool(stated & _FALSE) and bool(stated & _TRUE) and any(
            pair <= stated for pair in _KNOWN
        ) and not letters - {"y", "n", "t", "f", "j"}  # fmt: skip
    return "words" if together else ""


def _plain(text: str) -> str:
    return folded(text) if len(text) <= 12 else text


def truths_of(texts: pl.Series) -> pl.Series:
    """True, false, or null where a text means neither (or is blank)."""
    distinct = texts.drop_nulls().unique()
    meant = {each: _truth(_plain(each)) for each in distinct.to_list()}
    known = [each for each, truth in meant.items() if truth is not None]
    if not known:
        return pl.Series(texts.name, [None], dtype=pl.Boolean).new_from_index(0, len(texts))
    return texts.replace_strict(known, [meant[each] for each in known], default=None, return_dtype=pl.Boolean)


def _truth(word: str) -> bool | None:
    true, false = word in _TRUE, word in _FALSE
    return None if true == false else true
