"""A phrase as the words the desk shows: what each says, and which place of the phrase it stands for."""

from __future__ import annotations

from typing import TYPE_CHECKING, Literal

import msgspec

from summula.core.phrases.phrase import Aggregate, Condition, Keep, Measure, Order, Phrase
from summula.core.phrases.printing import print_calculation, print_condition, print_order

if TYPE_CHECKING:
    from summula.core.fields.heading import Heading


# What of a phrase can be asked for by name.
PhrasePart = Literal["where", "keep", "order", "compare", "measure", "aggregate", "by", "across", "multiples", "target"]


class Word(msgspec.Struct, frozen=True):
    """`role`: "said" (a word of the language), "measures", "by", "across", "where", "keeping", "order",
    "form", "multiples", or "add" (a plus; `clause` says what it adds). `at` is its place in the clause."""

    role: str
    text: str
    clause: str = ""
    at: int = 0


def words_of(phrase: Phrase) -> list[Word]:
    words = [Word("said", "Show")]
    for at, measure in enumerate(phrase.measures):
        if at:
            words.append(Word("said", "and"))
        words.append(Word("measures", measure_words(measure, phrase.measures[:at]), "measures", at))
    words.append(Word("add", "+", "measures"))
    if phrase.against is not None:
        words += [Word("said", "against"), Word("measures", measure_words(phrase.against, ()), "against")]
    for clause, headings in (("by", phrase.by), ("across", phrase.across)):
        words.append(Word("said", clause))
        for at, heading in enumerate(headings):
            if at:
                words.append(Word("said", "then"))
            words.append(Word(clause, heading_words(heading), clause, at))
        words.append(Word("add", "+", clause))
    if phrase.where:
        words.append(Word("said", "where"))
        for at, condition in enumerate(phrase.where):
            if at:
                words.append(Word("said", "and"))
            words.append(Word("where", condition_words(condition), "where", at))
        words.append(Word("add", "+", "where"))
    if phrase.keeping:
        words.append(Word("said", "keeping"))
        for at, keep in enumerate(phrase.keeping):
            if at:
                words.append(Word("said", "and"))
            words.append(Word("keeping", keep_words(keep), "keeping", at))
    if phrase.order is not None:
        words += [Word("said", "ordered"), Word("order", order_words(phrase.order), "order")]
    for stated, text in (
        (phrase.every_member, "with every member"),
        (not phrase.subtotals, "without subtotals"),
        (not phrase.totals, "without totals"),
    ):
        if stated:
            words.append(Word("option", text, text))
    words += [Word("said", "drawn as"), Word("form", phrase.form, "form")]
    if phrase.multiples is not None:
        words += [Word("said", "for each"), Word("multiples", heading_words(phrase.multiples), "multiples")]
    words.append(Word("add", "+ more", "more"))
    return words


def measure_words(measure: Measure, before: tuple[Measure, ...]) -> str:
    """ "Takings · sum", or "its share of all" behind the figure it is a share of."""
    calculation = measure.calculation
    if measure.comparison is not None and before and before[-1].calculation == calculation:
        kind = measure.comparison.kind
        along = f" {heading_words(measure.comparison.along)}" if measure.comparison.along else ""
        text = f"its {kind}{along}"
    elif isinstance(calculation, Aggregate):
        text = aggregate_words(calculation)
        if measure.comparison is not None:
            text += f" · {measure.comparison.kind}"
    else:
        text = print_calculation(calculation).replace('"', "")
        if measure.comparison is not None:
            text += f" · {measure.comparison.kind}"
    return f"{measure.name}" if measure.name else text


def aggregate_words(aggregate: Aggregate) -> str:
    if aggregate.function == "rows":
        text = "rows"
    elif aggregate.function == "default":
        text = aggregate.field or ""
    elif aggregate.function == "percentile":
        text = f"{aggregate.field} · percentile {aggregate.percentile:g}"
    else:
        text = f"{aggregate.field} · {aggregate.function}"
    if aggregate.where:
        text += " for " + " and ".join(condition_words(c) for c in aggregate.where)
    return text


def heading_words(heading: Heading) -> str:
    if heading.part is not None:
        return f"{heading.part} of {heading.field}"
    bands = heading.bands
    if bands is None:
        return heading.field
    if bands.at:
        return f"{heading.field} in bands at " + ", ".join(f"{limit:g}" for limit in bands.at)
    return f"{heading.field} in bands of {bands.width:g}"


def condition_words(condition: Condition) -> str:
    return print_condition(condition).replace('"', "")


def keep_words(keep: Keep) -> str:
    number = f"{keep.number:g}{'% of' if keep.percent else ''}"
    text = f"{keep.end} {number} {heading_words(keep.heading)} by {measure_words(keep.measure, ())}"
    if keep.each is not None:
        text += f" in each {heading_words(keep.each)}"
    return text + (", rest grouped" if keep.gather else "")


def order_words(order: Order) -> str:
    if order.measure is not None:
        return f"by {measure_words(order.measure, ())}, {'largest' if order.largest else 'smallest'} first"
    return print_order(order).replace('"', "")
