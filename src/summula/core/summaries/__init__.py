"""The pivot as the rest of the house asks it: parse a phrase, answer it, print it.

`phrases` holds phrases as data, `language` reads them from text, `engine` answers them, `grids` presents the answers.
"""

from summula.core.engine.answer import answer, dimensions_of
from summula.core.engine.grid import Grid
from summula.core.language.vocabulary import Vocabulary
from summula.core.phrases.forms import FORMS, Form
from summula.core.phrases.phrase import Phrase
from summula.core.phrases.printing import print_phrase

__all__ = [
    "FORMS",
    "Form",
    "Grid",
    "Phrase",
    "Vocabulary",
    "answer",
    "dimensions_of",
    "parse",
    "print_for",
    "print_phrase",
]


def parse(text: str, vocabulary: Vocabulary | None = None) -> Phrase:
    """The phrase that `text` says; see `grammar.parse`, which is imported when first asked."""
    from summula.core.language.grammar import parse as read

    return read(text, vocabulary)


def print_for(phrase: Phrase, vocabulary: Vocabulary) -> str:
    """The phrase as text that reads back as itself where these names are known; see `grammar.print_for`."""
    from summula.core.language.grammar import print_for as print_faithfully

    return print_faithfully(phrase, vocabulary)
