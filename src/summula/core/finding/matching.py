"""Entries that a query means: by whole words, their beginnings, and words with one letter wrong."""

from __future__ import annotations

import re
from collections.abc import Sequence
from functools import lru_cache

import msgspec

from summula.core.finding.entry import Entry, What

# Words of questions that tell nothing of what is asked for.
_EMPTY = frozenset(
    """a an the of in on at to for with my me i it is are do does can how what where which this that and or s we you
    your please want need get there some any one""".split()
)
# Spellings that mean one word.
_ALIKE = dict(
    each.split("=")
    for each in """color=colour colors=colour gray=grey axes=axis axe=axis indices=index criteria=criterion
    labelling=label labeling=label labelled=label sorting=sort sorted=sort filtering=filter filtered=filter
    grouping=group grouped=group exporting=export printing=print ranking=rank joining=join merging=merge
    sharing=share saving=save aligning=align renaming=rename analyse=analysis analyze=analysis percentages=percentage
    pct=percent %=percent customise=customize organise=organize summarize=summarise summarizing=summarise
    centre=center avg=average mins=minimum min=minimum max=maximum 10=ten""".split()
)
_PLACE: dict[What, float] = {  # of two alike what can be done comes before what is written about it
    "page": 0.06, "action": 0.05, "field": 0.05, "phrase": 0.04, "step": 0.03, "setting": 0.03, "form": 0.02, "manual": 0.0,
}  # fmt: skip
_WORD = re.compile(r"[^\W_]+|%", re.UNICODE)
_TYPED = 4  # letters from which one may be wrong


class Found(msgspec.Struct, frozen=True):
    """`near`: no entry has all the words; these have some."""

    entries: tuple[Entry, ...]
    near: bool = False


def find(query: str, entries: Sequence[Entry], most: int = 50) -> Found:
    """The entries that a query means, the best first. Where none has all its words, those that are near."""
    said = _words(query)
    words = tuple(word for word in said if word not in _EMPTY) or said
    if not words:
        return Found(tuple(entries[:most]))
    scored = [(each, *_score(words, said, each)) for each in entries]
    whole = [(score, -at, each) for at, (each, score, met) in enumerate(scored) if met == len(words)]
    chosen = whole or [(score, -at, each) for at, (each, score, met) in enumerate(scored) if met]
    chosen.sort(key=lambda each: each[:2], reverse=True)
    return Found(tuple(each for _, _, each in chosen[:most]), near=not whole)


def _score(words: tuple[str, ...], said: tuple[str, ...], entry: Entry) -> tuple[float, int]:
    """How well an entry fits, and how many of the words it has."""
    name, hint = _words(entry.name), _words(entry.hint)
    phrases = [_words(each) for each in entry.synonyms]
    others = tuple(word for phrase in phrases for word in phrase)
    met, total = 0, 0.0
    for word in words:
        best = max(_fit(word, name), 0.95 * _fit(word, others), 0.45 * _fit(word, hint))
        met += best > 0
        total += best
    if not met:
        return 0.0, 0
    score = total / len(words)
    kept = tuple(word for word in name if word not in _EMPTY)
    if name == said or kept == words:
        score += 1.0
    elif any(phrase in (said, words) for phrase in phrases):
        score += 0.9
    elif kept[: len(words)] == words:
        score += 0.4
    score += 0.1 * sum(_fit(word, words) > 0 for word in kept) / max(len(kept), 1)
    return score + _PLACE[entry.what], met


def _fit(word: str, words: tuple[str, ...]) -> float:
    """1 for the word itself, less where one begins with the other, and less for one with a letter wrong."""
    if word in words:
        return 1.0
    if len(word) > 1 and any(each.startswith(word) for each in words):
        return 0.75
    if any(len(each) >= _TYPED and word.startswith(each) for each in words):
        return 0.65
    if len(word) >= _TYPED and any(_one_wrong(word, each) for each in words):
        return 0.6
    return 0.0


@lru_cache(maxsize=8192)
def _words(text: str) -> tuple[str, ...]:
    return tuple(_singular(word) for word in _WORD.findall(text.casefold().replace("’", "'").replace("'", "")))


def _singular(word: str) -> str:
    word = _ALIKE.get(word, word)
    if len(word) > 4 and word.endswith("ies"):
        return word[:-3] + "y"
    if len(word) > 3 and word.endswith("s") and not word.endswith(("ss", "us", "is")):
        return word[:-1]
    return word


@lru_cache(maxsize=65536)
def _one_wrong(word: str, other: str) -> bool:
    """Whether one letter left out, put in, changed or swapped with the next makes one of the other."""
    if abs(len(word) - len(other)) > 1 or len(other) < _TYPED - 1:
        return False
    at = next((at for at, (a, b) in enumerate(zip(word, other, strict=False)) if a != b), min(len(word), len(other)))
    rest, left = word[at:], other[at:]
    if rest[1:] == left[1:] or rest[1:] == left or rest == left[1:]:
        return True
    return rest[:2] == left[1::-1] and rest[2:] == left[2:] and len(left) > 1
