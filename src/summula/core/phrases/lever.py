"""Levers: named numbers that a person moves to ask "what if". The folio keeps them; phrases name them."""

from collections.abc import Iterable
from typing import TypeVar

import msgspec
from msgspec.structs import replace

from summula.core.arrays import np
from summula.core.fields.figures import FigureStyle, split_unit
from summula.core.phrases.phrase import Arithmetic, Calculation, Lever, Phrase, Struct
from summula.core.refusal import Refusal

_MOST_STEPS = 100_000
_T = TypeVar("_T")


class LeverSetting(Struct, frozen=True):
    """Where a lever stands, between `low` and `high`, and by how much it moves. `pattern` is a CLDR number pattern;
    `start`: where it stood at first, None where that is not known."""

    name: str
    value: float
    low: float
    high: float
    step: float
    pattern: str = ""
    start: float | None = None

    @property
    def steps(self) -> int:
        """How many steps there are from the lowest to the highest."""
        return max(1, int(np.floor((self.high - self.low) / self.step + 1e-9)))

    @property
    def place(self) -> int:
        """The step it stands nearest to."""
        return int(np.clip(round((self.value - self.low) / self.step), 0, self.steps))

    def at(self, place: int) -> "LeverSetting":
        """Moved to a step, counted from the lowest. Twelve digits: 0.1 + 0.2 is 0.3 here."""
        value = float(f"{self.low + min(max(place, 0), self.steps) * self.step:.12g}")
        return replace(self, value=value)

    def text(self, value: float | None = None) -> str:
        """A figure of it as it reads (where it stands, unless another is given)."""
        shown = self.value if value is None else value
        if not self.pattern:
            return f"{shown:.12g}".replace("-", "\N{MINUS SIGN}")
        unit, pattern = split_unit(self.pattern)
        return FigureStyle(pattern, unit, percent="%" in pattern).text(shown, unit=True)


def checked(lever: LeverSetting) -> LeverSetting:
    """The lever, where it can be moved; refuses one that cannot."""
    if not lever.name.strip():
        raise Refusal("a lever needs a name", "enter one, such as Fare change")
    if not all(np.isfinite(each) for each in (lever.value, lever.low, lever.high, lever.step)):
        raise Refusal("a lever needs numbers", "enter plain numbers")
    if lever.start is not None and not lever.low <= lever.start <= lever.high:
        raise Refusal("the lever's initial value is outside its range", "enter its initial value")
    if lever.high <= lever.low or lever.step <= 0:
        raise Refusal("a lever's minimum must be below its maximum", "enter a larger maximum and a step above 0")
    if lever.high - lever.low > _MOST_STEPS * lever.step:  # too many to count, maybe
        raise Refusal(f"over {_MOST_STEPS:,} steps are too many to set by hand", "enter a larger step")
    if not lever.low <= lever.value <= lever.high:
        raise Refusal(f"{lever.value:g} is outside {lever.low:g} to {lever.high:g}", "enter a number between them")
    return lever


def with_levers(phrase: Phrase, levers: Iterable[LeverSetting]) -> Phrase:
    """The phrase with the value of each lever put in. One that is not known keeps none, and the answer refuses it."""
    values = {each.name: each.value for each in levers}
    return _put(phrase, values) if values and levers_in(phrase) else phrase


def _put(value: _T, values: dict[str, float]) -> _T:
    if isinstance(value, Lever):
        return replace(value, value=values.get(value.name))
    if isinstance(value, tuple):
        return type(value)(_put(each, values) for each in value)
    if not isinstance(value, msgspec.Struct):
        return value
    now = {name: getattr(value, name) for name in value.__struct_fields__}
    changed = {name: after for name, each in now.items() if (after := _put(each, values)) is not each}
    return replace(value, **changed) if changed else value


def levers_in(phrase: Phrase) -> tuple[str, ...]:
    """The levers a phrase names, in their order."""
    return tuple(standings(phrase))


def standings(phrase: Phrase) -> dict[str, float | None]:
    """Where each lever that a phrase names stands."""
    measures = [*phrase.measures, *(each.measure for each in phrase.keeping)]
    measures += [each for each in (phrase.against, phrase.order.measure if phrase.order else None) if each is not None]
    return {lever.name: lever.value for each in measures for lever in _named(each.calculation)}


def _named(calculation: Calculation) -> list[Lever]:
    if isinstance(calculation, Arithmetic):
        return [*_named(calculation.left), *_named(calculation.right)]
    return [calculation] if isinstance(calculation, Lever) else []


def value_of(lever: Lever) -> float:
    """Where a lever of a phrase stands; refuses one that the folio does not have."""
    if lever.value is None:
        raise Refusal(f"no lever '{lever.name}'", "create it, or use a number instead")
    return lever.value
