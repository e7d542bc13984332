"""Which figures add up: those of parts make up the figure of the whole. Only such are stacked, drawn as parts, or kept
by a share of their total."""

from __future__ import annotations

from typing import assert_never

from summula.core.phrases.phrase import Aggregate, Arithmetic, Calculation, Lever, Linked, Measure, Number

_ADDITIVE = frozenset({"rows", "count", "sum", "default"})  # `default`: of a field that is summed, or counted


def adds_up(measure: Measure) -> bool:
    """Whether the measure's figures add up. Shares of such figures and changes of them do, too."""
    comparison = measure.comparison
    if comparison is not None and not comparison.kind.startswith(("share of", "change on")):
        return False
    return calculation_adds_up(measure.calculation)


def is_part_of_all(measure: Measure) -> bool:
    """Whether the figures of all members make up one total, of which a share can be reached."""
    kind = measure.comparison.kind if measure.comparison is not None else None
    return kind in (None, "share of all", "share of everything") and calculation_adds_up(measure.calculation)


def calculation_adds_up(calculation: Calculation) -> bool:
    """Sums, counts, their sums and differences, and these times or over a number. Nothing else: the ratio of two sums
    is no sum of ratios, a sum and a constant counts the constant once a part."""
    match calculation:
        case Aggregate():
            return calculation.function in _ADDITIVE
        case Number() | Lever():
            return False
        case Linked():
            return False  # what no member tells is in the total of its table all the same
        case Arithmetic():
            return _arithmetic_adds_up(calculation)
        case _:
            assert_never(calculation)


def _arithmetic_adds_up(arithmetic: Arithmetic) -> bool:
    left, right = arithmetic.left, arithmetic.right
    match arithmetic.operator:
        case "+" | "-":
            return calculation_adds_up(left) and calculation_adds_up(right)
        case "*":
            one, other = (right, left) if _is_constant(left) else (left, right)
            return calculation_adds_up(one) and _is_constant(other)
        case "/":
            return calculation_adds_up(left) and _is_constant(right)
        case _:
            assert_never(arithmetic.operator)


def _is_constant(calculation: Calculation) -> bool:
    """Whether it is made of numbers and levers alone."""
    match calculation:
        case Arithmetic():
            return _is_constant(calculation.left) and _is_constant(calculation.right)
        case Number() | Lever():
            return True
        case Aggregate() | Linked():
            return False
        case _:
            assert_never(calculation)
