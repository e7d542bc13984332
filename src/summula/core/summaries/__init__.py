"""The pivot: a phrase, the fold that answers it, and the grid of its figures.

`grammar` reads a phrase from text and `printing` writes it; `cells` folds rows by the headings in use;
`aggregates`, `keeping` and `comparisons` work the figures out at every level; `answer` puts it together.
"""

from summula.core.summaries.answer import answer, dimensions_of
from summula.core.summaries.forms import FORMS, Form
from summula.core.summaries.grid import Grid
from summula.core.summaries.language.printing import print_phrase
from summula.core.summaries.language.vocabulary import Vocabulary
from summula.core.summaries.phrase import Phrase

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
    from summula.core.summaries.language.grammar import parse as read

    return read(text, vocabulary)


def print_for(phrase: Phrase, vocabulary: Vocabulary) -> str:
    """The phrase as text that reads back as itself where these names are known; see `grammar.print_for`."""
    from summula.core.summaries.language.grammar import print_for as print_faithfully

    return print_faithfully(phrase, vocabulary)
