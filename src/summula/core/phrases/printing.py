"""Printing: from a Phrase to the text that parses back to it, whatever the table."""

from __future__ import annotations

from functools import lru_cache
from typing import TYPE_CHECKING

from summula.core.phrases.phrase import (
    Aggregate,
    Calculation,
    Comparison,
    Condition,
    Keep,
    Lever,
    Linked,
    Measure,
    Number,
    Order,
    Phrase,
    Value,
)
from summula.core.phrases.words import is_period, is_plain

if TYPE_CHECKING:
    from summula.core.fields.heading import Heading


def print_phrase(phrase: Phrase, *, bare: bool = True) -> str:
    """The whole sentence. Without `bare`, every name stands in quotes."""
    parts = ["show " + " and ".join(print_measure(m, bare=bare) for m in phrase.measures)]
    if phrase.against is not None:
        parts.append("against " + print_measure(phrase.against, bare=bare))
    if phrase.by:
        parts.append("by " + " then ".join(print_heading(h, bare=bare) for h in phrase.by))
    if phrase.across:
        parts.append("across " + " then ".join(print_heading(h, bare=bare) for h in phrase.across))
    if phrase.where:
        parts.append("where " + " and ".join(print_condition(c, bare=bare) for c in phrase.where))
    if phrase.keeping:
        parts.append("keeping " + " and ".join(print_keep(k, bare=bare) for k in phrase.keeping))
    if phrase.order is not None:
        parts.append("ordered " + print_order(phrase.order, bare=bare))
    if phrase.every_member:
        parts.append("with every member")
    if not phrase.subtotals:
        parts.append("without subtotals")
    if not phrase.totals:
        parts.append("without totals")
    if phrase.form != "grid" or phrase.multiples is not None:
        parts.append("drawn as " + phrase.form)
    if phrase.multiples is not None:
        parts.append("for each " + print_heading(phrase.multiples, bare=bare))
    return " ".join(parts)


def name_text(name: str, *, bare: bool = True) -> str:
    """A name, in quotes unless it can stand bare."""
    return name if bare and is_plain(name) else '"' + name.replace('"', '""') + '"'


def number_text(number: float) -> str:
    if number == int(number) and abs(number) < 1e15:
        return str(int(number))
    return repr(float(number))


def value_text(value: Value, *, bare: bool = True) -> str:
    if isinstance(value, str):
        return value if is_period(value) else name_text(value, bare=bare)
    return number_text(value)


def print_heading(heading: Heading, *, bare: bool = True) -> str:
    name = name_text(heading.field, bare=bare)
    if heading.part is not None:
        return f"{heading.part} of {name}"
    bands = heading.bands
    if bands is None:
        return name
    if bands.at:
        return f"{name} in bands at " + ", ".join(number_text(limit) for limit in bands.at)
    text = f"{name} in bands of {number_text(bands.width or 0)}"
    if bands.lowest is not None:
        text += f" from {number_text(bands.lowest)}"
    return text if bands.highest is None else f"{text} to {number_text(bands.highest)}"


def print_calculation(calculation: Calculation, within: str = "", *, bare: bool = True) -> str:
    """A calculation; in brackets where its place in a larger one asks for them."""
    if isinstance(calculation, Number):
        return number_text(calculation.value)
    if isinstance(calculation, Lever):
        return f"lever {name_text(calculation.name, bare=bare)}"
    if isinstance(calculation, Aggregate):
        return _print_aggregate(calculation, bare=bare)
    if isinstance(calculation, Linked):
        table = name_text(calculation.table, bare=False)
        return f"{_print_aggregate(calculation.aggregate, bare=False)} in {table}"
    operator = calculation.operator
    left = print_calculation(calculation.left, operator, bare=bare)
    right = print_calculation(calculation.right, operator + " right", bare=bare)
    text = f"{left} {operator} {right}"
    sums = operator in "+-"
    bracket = (sums and within[:1] in ("*", "/")) or within.endswith("right")
    return f"({text})" if bracket and (within[:1] in "*/" or sums) else text


def _print_aggregate(aggregate: Aggregate, *, bare: bool = True) -> str:
    if aggregate.function == "default":
        return name_text(aggregate.field or "", bare=bare)
    if aggregate.function == "rows":
        text = "rows"
    elif aggregate.function == "percentile":
        text = f"percentile {number_text(aggregate.percentile or 0)} of {name_text(aggregate.field or '', bare=bare)}"
    else:
        text = f"{aggregate.function} of {name_text(aggregate.field or '', bare=bare)}"
    if aggregate.where:
        text += " for (" + " and ".join(print_condition(c, bare=bare) for c in aggregate.where) + ")"
    return text


@lru_cache(maxsize=512)
def print_measure(measure: Measure, *, bare: bool = True) -> str:
    text = print_calculation(measure.calculation, bare=bare)
    if measure.comparison is not None:
        text += " as " + print_comparison(measure.comparison, bare=bare)
    if measure.name is not None:
        text += ' called "' + measure.name.replace('"', '""') + '"'
    return text


def print_comparison(comparison: Comparison, *, bare: bool = True) -> str:
    along = print_heading(comparison.along, bare=bare) if comparison.along is not None else ""
    if comparison.kind in ("running total", "rank"):
        return f"{comparison.kind} along {along}"
    if comparison.kind.endswith("previous"):
        return f"{comparison.kind} {along}"
    if comparison.kind.endswith("change on") and comparison.member is not None:
        return f"{comparison.kind} {along} {value_text(comparison.member, bare=bare)}"
    return comparison.kind


def print_condition(condition: Condition, *, bare: bool = True) -> str:
    heading = print_heading(condition.heading, bare=bare)
    values = condition.values
    if condition.test in ("is blank", "is not blank"):
        return f"{heading} {condition.test}"
    if condition.test == "is from":
        return f"{heading} is from {value_text(values[0], bare=bare)} to {value_text(values[1], bare=bare)}"
    if condition.test == "is in the last":
        return f"{heading} is in the last {value_text(values[0], bare=bare)} {values[1]}"
    if condition.test in ("is", "is not"):
        return f"{heading} {condition.test} " + " or ".join(value_text(v, bare=bare) for v in values)
    return f"{heading} {condition.test} {value_text(values[0], bare=bare)}"


def print_keep(keep: Keep, *, bare: bool = True) -> str:
    number = number_text(keep.number) + ("% of" if keep.percent else "")
    text = f"{keep.end} {number} {print_heading(keep.heading, bare=bare)} by {print_measure(keep.measure, bare=bare)}"
    if keep.each is not None:
        text += f" in each {print_heading(keep.each, bare=bare)}"
    if keep.gather:
        text += " gathering the rest"
        if keep.gathered_name is not None:
            text += ' as "' + keep.gathered_name.replace('"', '""') + '"'
    return text


def print_order(order: Order, *, bare: bool = True) -> str:
    if order.measure is not None:
        return f"by {print_measure(order.measure, bare=bare)}, {'largest' if order.largest else 'smallest'} first"
    assert order.heading is not None
    heading = print_heading(order.heading, bare=bare)
    return (
        f"{heading} backwards"
        if order.backwards
        else f"{heading} as " + ", ".join(value_text(each, bare=bare) for each in order.sequence)
    )
