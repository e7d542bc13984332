"""How a chart looks, apart from its figures: one frozen value of a summary, in groups that all forms share.

What only one form knows stands in a small struct of its own, kept for every form a person has touched. Every default is
right without being touched. `settings.py` tells the words, choices and limits of each setting.
"""

from collections.abc import Iterable
from typing import TYPE_CHECKING, Literal, TypeVar

from msgspec.structs import replace

from summula.core.phrases.phrase import Struct

if TYPE_CHECKING:
    from summula.core.phrases.lever import LeverSetting


class Words(Struct, frozen=True):
    """A title and a line below it, the names of the scales (empty for the usual ones), and a note at the foot."""

    title: str = ""
    line: str = ""
    figures: str = ""
    second: str = ""
    members: str = ""
    note: str = ""


Said = Literal["", "value", "share", "name", "name value", "name share", "value share", "name value share"]


class Labels(Struct, frozen=True):
    """Figures on marks. `says` empty: what suits the form; `joined`: what stands between name, value and share.
    `members`: the labels of the chosen ones, with semicolons between. `pattern` is a CLDR number pattern, empty for the
    measure's own. Marks with less than `least` percent of their whole carry none."""

    show: Literal["best", "all", "ends", "strong", "members", "none"] = "best"
    members: str = ""
    says: Said = ""
    joined: str = " · "
    place: Literal["best", "inside", "outside"] = "best"
    pattern: str = ""
    least: float | None = None


class Legend(Struct, frozen=True):
    place: Literal["best", "top", "right", "none"] = "best"


class Colour(Struct, frozen=True):
    """By what marks are coloured; empty for what suits the form. "measure": by the phrase's last one, which is not
    drawn itself; in two inks `around` a figure, or around nothing where some lie below."""

    by: Literal["", "member", "order", "size", "sign", "one", "measure"] = ""
    around: float | None = None


class Emphasis(Struct, frozen=True):
    """The members that are strong, all others a paler shade of their own ink: the `number` at an end, those of at least
    `figure`, or the chosen `members` (their labels, with semicolons between). Number and figure may be a lever's, by
    its name."""

    end: Literal["", "top", "bottom", "latest", "at least", "members"] = ""
    number: int = 3
    lever: str = ""
    figure: float = 0.0
    members: str = ""


class ScaleStyle(Struct, frozen=True):
    """The scale of the figures. `begin` empty: as the form is best read. `low`, `high` and `step` in the figures' own
    units, None for round ones; it spans at least `span`. `second`: all measures but the first have a scale of their
    own, or one whose ticks lie where the first's do; empty for what the units ask for."""

    begin: Literal["", "zero", "fit"] = ""
    low: float | None = None
    high: float | None = None
    step: float | None = None
    span: float | None = None
    log: bool = False
    reversed: bool = False
    hidden: bool = False
    second: Literal["", "own", "tied"] = ""


class Slices(Struct, frozen=True):
    """Of a whole: which slice is pulled out of it; `member` is the label of a chosen one."""

    pulled: Literal["", "largest", "smallest", "member"] = ""
    member: str = ""


class ReferenceLine(Struct, frozen=True):
    """Where a line stands on the scale of the figures: at a figure, a lever's, the mean or the median of what is drawn;
    or a tick over each member, at the phrase's last measure, which is not drawn itself, or at its own figure a year
    earlier.
    `band`: the room between it and the first one is shaded."""

    at: Literal["", "figure", "lever", "mean", "median", "measure", "year"] = ""
    figure: float | None = None
    lever: str = ""
    name: str = ""
    band: bool = False


class Trend(Struct, frozen=True):
    """`each`: one for all points, or one a member. `length`: places of a moving mean. `says`: its equation, R² and what
    it was fitted on."""

    kind: Literal["", "line", "curve", "moving mean"] = ""
    each: Literal["all", "member"] = "all"
    length: int = 3
    says: bool = True


class BottomLine(Struct, frozen=True):
    """One more column or bar for the total, set apart, under a name of its own."""

    shown: bool = False
    name: str = ""


class FrameStyle(Struct, frozen=True):
    """What stands around the marks. `gap`: between columns, as a share of a step, None for what suits."""

    grid_lines: bool = True
    base_line: bool = True
    gap: float | None = None


class PictureStyle(Struct, frozen=True):
    """Pictures of the folio, by their ids: columns and bars are filled with one, built of it or cut out of it; one
    stands `behind` the chart, `strength` of it seen."""

    id: str = ""
    how: Literal["filled", "built", "cut out"] = "cut out"
    behind: str = ""
    strength: float = 0.18


class Multiples(Struct, frozen=True):
    """Of small multiples: whether their scales are one; how many stand side by side, 0 for what suits."""

    scales: Literal["common", "free"] = "common"
    columns: int = 0


class LinesStyle(Struct, frozen=True, tag="lines"):
    """`marks` on the lines; `width` in pixels, 0 for what suits."""

    marks: Literal["best", "all", "none"] = "best"
    width: float = 0.0


class BoxesStyle(Struct, frozen=True, tag="box plot"):
    """`mean`: a cross where the mean lies. `lying`: boxes lie beside their names; empty where names are long."""

    mean: bool = False
    lying: Literal["", "yes", "no"] = ""


class RingStyle(Struct, frozen=True, tag="ring"):
    """`hole`: its radius, as a share of the ring's."""

    hole: float = 0.6


class HistogramStyle(Struct, frozen=True, tag="histogram"):
    """`running`: a line that tells what share of all lies up to each limit."""

    running: bool = False


class HeatStyle(Struct, frozen=True, tag="heat grid"):
    """`edges`: the totals of rows and columns as bars on the sides."""

    edges: bool = True


class GaugeStyle(Struct, frozen=True, tag="gauge"):
    """From `low` to `high`, None for round figures. From `fair` on a figure is fair, from `good` on good; where good is
    less than fair, the less the better. `goal` is a tick. The last three may be levers', by their names."""

    low: float | None = None
    high: float | None = None
    fair: float | None = None
    good: float | None = None
    goal: float | None = None
    fair_lever: str = ""
    good_lever: str = ""
    goal_lever: str = ""


Own = LinesStyle | BoxesStyle | RingStyle | HeatStyle | GaugeStyle | HistogramStyle
_Own = TypeVar("_Own", LinesStyle, BoxesStyle, RingStyle, HeatStyle, GaugeStyle, HistogramStyle)


class ChartStyle(Struct, frozen=True):
    words: Words = Words()
    labels: Labels = Labels()
    legend: Legend = Legend()
    colour: Colour = Colour()
    emphasis: Emphasis = Emphasis()
    scale: ScaleStyle = ScaleStyle()
    slices: Slices = Slices()
    reference: ReferenceLine = ReferenceLine()
    second_reference: ReferenceLine = ReferenceLine()
    trend: Trend = Trend()
    total: BottomLine = BottomLine()
    frame: FrameStyle = FrameStyle()
    picture: PictureStyle = PictureStyle()
    multiples: Multiples = Multiples()
    own: tuple[Own, ...] = ()

    def own_of(self, kind: type[_Own]) -> _Own:
        """What a form alone knows; its defaults where nothing has been said of it."""
        for each in self.own:
            if isinstance(each, kind):
                return each
        return kind()

    def with_own(self, own: Own) -> "ChartStyle":
        others = tuple(each for each in self.own if type(each) is not type(own))
        return replace(self, own=others if own == type(own)() else (*others, own))


PLAIN_STYLE = ChartStyle()


def levers_of(style: ChartStyle) -> set[str]:
    """The levers that a style names."""
    gauge = style.own_of(GaugeStyle)
    named = {style.emphasis.lever, gauge.fair_lever, gauge.good_lever, gauge.goal_lever}
    named |= {line.lever for line in (style.reference, style.second_reference) if line.at == "lever"}
    return named - {""}


def with_levers(style: ChartStyle, levers: "Iterable[LeverSetting]") -> ChartStyle:
    """The style with what levers set; no emphasis and no limit where the folio lacks the lever."""
    values = {lever.name: lever.value for lever in levers}
    if style.emphasis.lever:
        number = values.get(style.emphasis.lever)
        if number is None:
            emphasis = Emphasis()
        elif style.emphasis.end == "at least":
            emphasis = replace(style.emphasis, figure=number)
        else:
            emphasis = replace(style.emphasis, number=max(0, round(number)))
        style = replace(style, emphasis=emphasis)
    for group in ("reference", "second_reference"):
        line: ReferenceLine = getattr(style, group)
        if line.at == "lever":
            style = replace(style, **{group: replace(line, figure=values.get(line.lever))})
    gauge = style.own_of(GaugeStyle)
    if gauge != GaugeStyle():
        fair = values.get(gauge.fair_lever) if gauge.fair_lever else gauge.fair
        good = values.get(gauge.good_lever) if gauge.good_lever else gauge.good
        goal = values.get(gauge.goal_lever) if gauge.goal_lever else gauge.goal
        style = style.with_own(replace(gauge, fair=fair, good=good, goal=goal))
    return style
