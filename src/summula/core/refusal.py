"""The one way in which the core says no."""

from __future__ import annotations

from collections.abc import Iterable

_MOST_LETTERS = 600  # of what is wrong, and of what to do: what a person reads, whatever a stranger calls things
_CONTROLS = dict.fromkeys([*range(32), *range(127, 160), 0x2028, 0x2029], " ")


class Refusal(Exception):
    """What is wrong, and what to do about it, each in plain words on one line and no longer than anybody reads: names
    from a stranger's file may hold line breaks, signs that a terminal obeys, or thousands of letters.

    `span` is the place in a phrase (start, end) when the fault has one; `suggestion` is a text that
    would mend it there.
    """

    def __init__(
        self,
        wrong: str,
        remedy: str = "",
        *,
        span: tuple[int, int] | None = None,
        suggestion: str | None = None,
    ) -> None:
        self.wrong = shortened(wrong.translate(_CONTROLS), _MOST_LETTERS)
        self.remedy = shortened(remedy.translate(_CONTROLS), _MOST_LETTERS)
        super().__init__(self.wrong)
        self.span = span
        self.suggestion = suggestion

    @property
    def sentences(self) -> list[str]:
        """What is wrong and what to do as sentences of their own."""
        return [sentence(each) for each in (self.wrong, self.remedy) if each]

    def __str__(self) -> str:
        return f"{self.wrong}; {self.remedy}" if self.remedy else self.wrong


def with_capital(text: str) -> str:
    """The text with a large first letter."""
    return text[:1].upper() + text[1:]


def sentence(words: str | Refusal) -> str:
    """Words as a sentence of their own: "The file is empty; choose another."."""
    return f"{with_capital(str(words))}."


def shortened(text: str, most: int = 40) -> str:
    """A text of a stranger's for a sentence: its first letters, with an ellipsis where it goes on."""
    return text if len(text) <= most else f"{text[: most - 1].rstrip()}…"


def nearest(word: str, known: Iterable[str]) -> str | None:
    """The known name that `word` most likely meant, or None when nothing is close."""
    import difflib  # only a fault needs it

    by_folded: dict[str, str] = {}
    for name in known:
        by_folded.setdefault(name.casefold(), name)
    folded = word.casefold()
    close = difflib.get_close_matches(folded, by_folded, n=1, cutoff=0.7)
    if close:
        return by_folded[close[0]]
    within = [name for key, name in by_folded.items() if folded and (key.startswith(folded) or folded in key)]
    return within[0] if within else None
