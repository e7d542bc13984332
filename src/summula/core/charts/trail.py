"""Where points stood before, as play moves them."""

from __future__ import annotations

from typing import TYPE_CHECKING

from summula.core.charts.scene import Ink, Line, Point

if TYPE_CHECKING:
    from summula.core.charts.course import Course
    from summula.core.charts.frame import Frame
    from summula.core.charts.series import Category, Series

_PALE, _DOT = 0.45, 1.8


def draw_trail(
    frame: Frame,
    course: Course | None,
    cat: Category,
    each: Series,
    now: tuple[float, float],
    measures: tuple[int, int] = (0, 1),
) -> None:
    """A pale line through where a mark stood (figures up and along, of these measures), up to where it stands `now`;
    nothing where no trail is asked for."""
    if course is None or not course.trail:
        return
    scale = frame.scales[0]
    stood = [*course.before(cat.path, each.path, measures), now]
    places = [(frame.x(along), scale.within(up)) for up, along in stood if scale.holds(up)]
    if len(places) < 2:
        return
    ink = Ink(each.ink.token, _PALE * each.ink.strength)
    frame.marks.append(Line(tuple(places), ink, 1.2))
    frame.marks += [Point(x, y, _DOT, ink, hollow=False) for x, y in places[:-1]]
