"""What is in force for settings that were left alone: told from the chart as it was drawn."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import TYPE_CHECKING

from summula.core.charts.scene import Box, Group, Line, Mark, Point, Scene, Text, Wedge
from summula.core.charts.settings import Setting, default_of, in_words

if TYPE_CHECKING:
    from collections.abc import Sequence

_MOST = 24  # letters of a title that are shown


def in_force(group: str, settings: Sequence[Setting], scene: Scene | None) -> str:
    """What a group of settings, all at their defaults, comes to in the chart: "top", "£0 to £600k", "single colour".
    Without a drawn chart, and for groups that a picture does not tell, the defaults in words."""
    tell = _TOLD.get(group)
    if scene is not None and tell is not None:
        return tell(scene)
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


def _texts(scene: Scene, part: str) -> list[Text]:
    return [mark for mark in _marks(scene.marks) if isinstance(mark, Text) and mark.part == part]


def _titles(scene: Scene) -> str:
    found = [each for each in dict.fromkeys(text.full or text.text for text in _texts(scene, "Titles")) if each]
    words = ", ".join(found)
    if not words:
        return "none"
    return words if len(words) <= _MOST else f"{words[: _MOST - 1]}…"


def _labels(scene: Scene) -> str:
    shown = len(_texts(scene, "Value labels"))
    marks = len({mark.tag for mark in _drawn(scene)})
    if not shown or not marks:
        return "none"
    return "on all marks" if shown >= marks else f"on {shown:,} of {marks:,} marks"


def _drawn(scene: Scene) -> Iterator[Box | Wedge | Point]:
    """The marks that stand for figures."""
    for mark in _marks(scene.marks):
        if isinstance(mark, Box | Wedge | Point) and mark.tag is not None and not getattr(mark, "ghost", False):
            yield mark


def _legend(scene: Scene) -> str:
    texts = _texts(scene, "Legend")
    if not texts:
        return "none"
    return "right" if min(text.x for text in texts) > scene.width / 2 else "top"


def _colours(scene: Scene) -> str:
    inks = {mark.ink for mark in _drawn(scene)}
    inks |= {mark.ink for mark in _marks(scene.marks) if isinstance(mark, Line) and mark.tag is not None}
    return "single colour" if len(inks) <= 1 else f"{len(inks)} colours"


def _axis(scene: Scene) -> str:
    """From the first to the last tick of the first axis."""
    texts = _texts(scene, "Axis")
    first = [each.text for each in texts if each.align == texts[0].align]
    return f"{first[0]} to {first[-1]}" if len(first) > 1 else "hidden"


_TOLD: dict[str, Callable[[Scene], str]] = {
    "Titles": _titles,
    "Value labels": _labels,
    "Legend": _legend,
    "Colour": _colours,
    "Axis": _axis,
}
