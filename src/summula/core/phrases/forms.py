"""The forms a summary can be drawn in, one row each: what a form needs, and what follows from that.

Refusals, completion, what is offered, how values are sampled and which forms show a ghost are all told from here. How a
form is drawn stands in `core/charts`; `../language` reads and prints the names as they stand here.
"""

from __future__ import annotations

from typing import Literal, get_args

import msgspec

from summula.core.refusal import with_capital

Form = Literal[
    "grid",
    "columns",
    "bars",
    "stacked columns",
    "stacked bars",
    "share columns",
    "share bars",
    "dots",
    "lines",
    "columns and lines",
    "areas",
    "share areas",
    "pie",
    "ring",
    "waffle",
    "heat grid",
    "scatter",
    "bubbles",
    "histogram",
    "box plot",
    "gauge",
    "key figure",
    "cards",
]
Purpose = Literal["a table", "compare", "over time", "parts of a whole", "spread", "two figures", "one figure"]
Sampling = Literal["", "ranges", "spreads", "points", "records"]


class FormNeeds(msgspec.Struct, frozen=True):
    """What a form needs of a phrase.

    `figures`: the least and most measures. `by`, `across`: whether headings must, may or must not stand there;
    `headings`: at most so many on either side (0: any number).
    `each_row`: whether the figures are the values themselves, which are then put together as `sampled`. `series`: two
    or more figures stand at each member. `additive`: they must add up; `one_sign`: none of them below nothing.
    `most_marks`: more figures cannot be told apart (0: the form itself says what it leaves out). `ghost`: the figures
    before slicing can stand pale behind. `multiples`: it can be drawn once for each member of a heading.
    `banded`: figures that are no values themselves need one number in bands after `by`. `inked_by_measure`: its last
    measure can be told by the ink of the others' marks, instead of being drawn; `ticked`: by a tick over each of them.
    `moves`: its marks stand where two figures say, so that play moves them.
    """

    name: Form
    purpose: Purpose
    figures: tuple[int, int] = (1, 100)
    by: Literal["must", "may", "no"] = "must"
    across: Literal["must", "may", "no"] = "may"
    headings: int = 0
    each_row: Literal["no", "must", "may"] = "no"
    sampled: Sampling = ""
    series: bool = False
    additive: bool = False
    one_sign: bool = False
    most_marks: int = 3_000
    ghost: bool = False
    banded: bool = False
    multiples: bool = True
    inked_by_measure: bool = False
    ticked: bool = False
    moves: bool = False

    @property
    def article(self) -> str:
        """The name in a sentence: "a histogram", "columns"."""
        return self.name if self.name.endswith("s") else f"a {self.name}"

    @property
    def title(self) -> str:
        """The name as the subject of a sentence: "A histogram", "Columns"."""
        return with_capital(self.article)


def _of_a_whole(name: Form) -> FormNeeds:
    """Parts of one whole, each in an ink of its own: there are 24."""
    return FormNeeds(
        name, "parts of a whole", figures=(1, 1), across="no", headings=1, additive=True, one_sign=True, most_marks=24,
        ghost=True,
    )  # fmt: skip


FORMS: dict[Form, FormNeeds] = {
    each.name: each
    for each in (
        FormNeeds("grid", "a table", by="may", most_marks=0, multiples=False),
        FormNeeds("columns", "compare", ghost=True, inked_by_measure=True, ticked=True),
        FormNeeds("bars", "compare", most_marks=0, ghost=True, inked_by_measure=True, ticked=True),
        FormNeeds("stacked columns", "compare", series=True, additive=True, ghost=True, inked_by_measure=True),
        FormNeeds(
            "stacked bars", "compare", series=True, additive=True, most_marks=0, ghost=True, inked_by_measure=True
        ),
        FormNeeds(
            "share columns",
            "parts of a whole",
            series=True,
            additive=True,
            one_sign=True,
            ghost=True,
            inked_by_measure=True,
        ),
        FormNeeds(
            "share bars",
            "parts of a whole",
            series=True,
            additive=True,
            one_sign=True,
            most_marks=0,
            ghost=True,
            inked_by_measure=True,
        ),
        FormNeeds("dots", "compare", most_marks=0, ghost=True),
        FormNeeds("lines", "over time", most_marks=6_000, ghost=True),
        FormNeeds("columns and lines", "over time", figures=(2, 100), across="no", ghost=True, inked_by_measure=True),
        FormNeeds("areas", "over time", additive=True, one_sign=True, most_marks=6_000, ghost=True),
        FormNeeds(
            "share areas", "parts of a whole", series=True, additive=True, one_sign=True, most_marks=6_000, ghost=True
        ),
        _of_a_whole("pie"),
        _of_a_whole("ring"),
        _of_a_whole("waffle"),
        FormNeeds("heat grid", "compare", figures=(1, 1), across="must", headings=1, ghost=True),
        FormNeeds(
            "scatter", "two figures", figures=(2, 2), by="may", each_row="may", sampled="points", ghost=True, moves=True
        ),
        FormNeeds("bubbles", "two figures", figures=(3, 3), ghost=True, moves=True),
        FormNeeds(
            "histogram",
            "spread",
            figures=(1, 1),
            by="may",
            each_row="may",
            banded=True,
            sampled="ranges",
            most_marks=0,
            ghost=True,
        ),
        FormNeeds(
            "box plot",
            "spread",
            figures=(1, 1),
            by="may",
            each_row="must",
            sampled="spreads",
            most_marks=800,
            ghost=True,
        ),
        FormNeeds("gauge", "one figure", figures=(1, 1), by="no", across="no", ghost=True),
        FormNeeds("key figure", "one figure", figures=(1, 1), by="no", across="no", ghost=True),
        FormNeeds("cards", "a table", across="no", each_row="may", sampled="records", most_marks=0, ghost=True),
    )
}
NAMES: tuple[Form, ...] = get_args(Form)
BY_ROW_FORMS = tuple(name for name, needs in FORMS.items() if needs.each_row != "no")
