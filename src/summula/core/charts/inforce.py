"""What is in force for settings that were left alone: told from the chart as it was drawn."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import TYPE_CHECKING, NamedTuple

from summula.core.charts.scene import Box, Group, Ink, Line, Mark, Point, Scene, Text, Wedge
from summula.core.charts.settings import Setting, default_of, in_words

if TYPE_CHECKING:
    from collections.abc import Sequence

_DRAWN = (Box, Wedge, Point, Line)  # what stands for figures
_MOST = 24  # letters of a title that are shown


class Seen(NamedTuple):
    """What a drawn chart shows of its settings: its texts by the part that they belong to, and the marks that stand for
    figures, in how many inks."""

    texts: dict[str, list[Text]]
    marks: int
    inks: int
    width: float


def seen_in(scene: Scene) -> Seen:
    """One look through all marks of a scene."""
    texts: dict[str, list[Text]] = {}
    inks, count = set[Ink](), 0
    for mark in _marks(scene.marks):
        if isinstance(mark, Text):
            texts.setdefault(mark.part, []).append(mark)
        elif isinstance(mark, _DRAWN) and mark.tag is not None and not getattr(mark, "ghost", False):
            inks.add(mark.ink)
            count += not isinstance(mark, Line)
    return Seen(texts, count, len(inks), scene.width)


def in_force(group: str, settings: Sequence[Setting], seen: Seen | None) -> str:
    """What a group of settings, all at their defaults, comes to in the chart: "top", "£0 to £600k", "single colour".
    Without a drawn chart, and for groups that a picture does not tell, the defaults in words."""
    tell = _TOLD.get(group)
    if seen is not None and tell is not None:
        return tell(seen)
    if settings and settings[0].editor == "picture":
        return "none"
    values = (_default_words(each) for each in settings)
    return next((each for each in values if each), "none")


def _default_words(setting: Setting) -> str:
    value = default_of(setting.key)
    if setting.editor == "flag":
        return setting.words.lower() if value else ""
    words = in_words(setting, value)
    if words == "automatic":
        return ""
    if setting.editor == "choice":
        return f"{words} axes" if setting.key == "multiples.scales" else words
    return f"{setting.words.lower()} {words}" if setting.editor == "number" and value else ""


def _marks(marks: Sequence[Mark]) -> Iterator[Mark]:
    for mark in marks:
        if isinstance(mark, Group):
            yield from _marks(mark.marks)
        else:
            yield mark


def _titles(seen: Seen) -> str:
    texts = dict.fromkeys(text.full or text.text for text in seen.texts.get("Titles", ()))
    words = ", ".join(each for each in texts if each)
    if not words:
        return "none"
    return words if len(words) <= _MOST else f"{words[: _MOST - 1]}…"


def _labels(seen: Seen) -> str:
    shown = len(seen.texts.get("Value labels", ()))
    if not shown or not seen.marks:
        return "none"
    return "on all marks" if shown >= seen.marks else f"on {shown:,} of {seen.marks:,} marks"


def _legend(seen: Seen) -> str:
    texts = seen.texts.get("Legend", [])
    if not texts:
        return "none"
    return "right" if min(text.x for text in texts) > seen.width / 2 else "top"


def _colours(seen: Seen) -> str:
    return "single colour" if seen.inks <= 1 else f"{seen.inks} colours"


def _axis(seen: Seen) -> str:
    """From the first to the last tick of the first axis."""
    texts = seen.texts.get("Axis", [])
    first = [each.text for each in texts if each.align == texts[0].align]
    return f"{first[0]} to {first[-1]}" if len(first) > 1 else "hidden"


_TOLD: dict[str, Callable[[Seen], str]] = {
    "Titles": _titles,
    "Value labels": _labels,
    "Legend": _legend,
    "Colour": _colours,
    "Axis": _axis,
}
