"""The settings of a chart, one row each: where it stands in `ChartStyle`, its words, and what it may be.

The margin lists them, a file of a style is read by them, a folio is checked by them. Which form heeds which is told in
`drawers.py`.
"""

from __future__ import annotations

import math
from typing import Any, Literal, get_type_hints

import msgspec
from msgspec.structs import replace

from summula.core.charts.style import (
    PLAIN_STYLE,
    BoxesStyle,
    ChartStyle,
    GaugeStyle,
    HeatStyle,
    HistogramStyle,
    LinesStyle,
    Own,
    RingStyle,
)
from summula.core.decoding import converted
from summula.core.fields.figures import checked_pattern
from summula.core.phrases.forms import FORMS, Form
from summula.core.refusal import Refusal

Editor = Literal["choice", "number", "text", "flag", "pattern", "lever", "picture"]
Value = str | float | bool | None
_OWN = {
    "lines": LinesStyle,
    "box plot": BoxesStyle,
    "ring": RingStyle,
    "heat grid": HeatStyle,
    "gauge": GaugeStyle,
    "histogram": HistogramStyle,
}
_LONGEST = 500  # letters of a text


class Setting(msgspec.Struct, frozen=True):
    """`key` is its group and its name there ("labels.show"); `words` name it, `hint` says it in a sentence. `choices`
    are the values of a choice with their words; `low` and `high` the limits of a number, `blank` whether there may be
    none; `whole`: only whole numbers."""

    key: str
    group: str
    words: str
    editor: Editor
    hint: str
    choices: tuple[tuple[str, str], ...] = ()
    low: float = -math.inf
    high: float = math.inf
    blank: bool = False
    whole: bool = False

    def heeded_by(self, form: Form) -> bool:
        """Whether a form is drawn otherwise for it."""
        from summula.core.charts.drawers import DRAWERS, TITLES  # what draws is read in when something is drawn

        listens = (
            *DRAWERS[form].listens,
            *(["multiples", *TITLES, "picture.behind", "picture.strength"] if FORMS[form].multiples else []),
        )
        return self.key in listens or self.key.split(".")[0] in listens


def _reference(group: str, title: str, words: str) -> tuple[Setting, ...]:
    return (
        Setting(
            f"{group}.at", title, words, "choice", "Where the line lies on the value axis.",
            (("", "none"), ("figure", "at a value"), ("lever", "at a lever's value"), ("mean", "at the mean"),
             ("median", "at the median"), ("measure", "at the last measure, a tick for each member"),
             ("year", "at last year's value, a tick for each member")),
        ),
        Setting(f"{group}.figure", title, "Value", "number", "The value at which the line is drawn.", blank=True),
        Setting(f"{group}.lever", title, "Value from lever", "lever", "A lever that sets the line's value."),
        Setting(f"{group}.name", title, "Label", "text", "Shown at the end of the line."),
    )  # fmt: skip


SETTINGS: tuple[Setting, ...] = (
    Setting("words.title", "Titles", "Title", "text", "Large text above the chart."),
    Setting("words.line", "Titles", "Subtitle", "text", "Smaller text below the title."),
    Setting("words.figures", "Titles", "Value axis title", "text", "Shown above the value axis."),
    Setting("words.second", "Titles", "Second axis title", "text", "Shown above the right axis."),
    Setting("words.members", "Titles", "Category axis title", "text", "Shown below the members."),
    Setting("words.note", "Titles", "Footnote", "text", "Small text below the chart, such as a source or date."),
    Setting(
        "labels.show", "Value labels", "Show on", "choice", "Which marks have a label. Labels never overlap.",
        (("best", "where readable"), ("all", "all that fit"), ("ends", "first, last, highest, lowest"),
         ("strong", "highlighted"), ("members", "selected members"), ("none", "none")),
    ),
    Setting("labels.members", "Value labels", "Members", "text", "Their names, separated by semicolons."),
    Setting(
        "labels.says", "Value labels", "Show", "choice", "Name, value or share of the whole.",
        (("", "automatic"), ("value", "value"), ("share", "share"), ("name", "name"),
         ("name value", "name and value"), ("name share", "name and share"), ("value share", "value and share"),
         ("name value share", "name, value and share")),
    ),
    Setting("labels.joined", "Value labels", "Separator", "text", "Between name, value and share."),
    Setting(
        "labels.place", "Value labels", "Position", "choice", "Inside the marks or next to them.",
        (("best", "where readable"), ("inside", "inside"), ("outside", "outside")),
    ),
    Setting("labels.pattern", "Value labels", "Pattern", "pattern", "Number pattern, such as #,##0.0."),
    Setting(
        "labels.least", "Value labels", "Hide below (%)", "number",
        "Hides labels of marks with a smaller share, in percent.", low=0.0, high=100.0, blank=True,
    ),
    Setting(
        "legend.place", "Legend", "Position", "choice", "Where the names of the series are shown.",
        (("best", "where readable"), ("top", "top"), ("right", "right"), ("none", "nowhere")),
    ),
    Setting(
        "colour.by", "Colour", "Colour by", "choice", "What determines the colour of a mark.",
        (("", "automatic"), ("member", "member"), ("order", "rank"), ("size", "value"),
         ("sign", "gain and loss"), ("measure", "last measure"), ("one", "single colour")),
    ),
    Setting("colour.around", "Colour", "Midpoint", "number", "Value where the two colours meet.", blank=True),
    Setting(
        "emphasis.end", "Highlight", "Highlight", "choice", "Highlights some members; the others are paler.",
        (("", "none"), ("top", "largest"), ("bottom", "smallest"), ("latest", "latest"),
         ("at least", "at least a value"), ("members", "selected members")),
    ),
    Setting("emphasis.number", "Highlight", "How many", "number", "How many members.", low=0, high=10_000, whole=True),
    Setting("emphasis.figure", "Highlight", "At least", "number", "Highlights members with this value or more."),
    Setting("emphasis.members", "Highlight", "Members", "text", "Their names, separated by semicolons."),
    Setting("emphasis.lever", "Highlight", "From lever", "lever", "A lever that sets how many, or from which value."),
    Setting(
        "scale.begin", "Axis", "Start at", "choice", "At zero, or at the smallest value.",
        (("", "automatic"), ("zero", "zero"), ("fit", "smallest value")),
    ),
    Setting("scale.low", "Axis", "From", "number", "Minimum of the axis.", blank=True),
    Setting("scale.high", "Axis", "To", "number", "Maximum of the axis.", blank=True),
    Setting("scale.step", "Axis", "Step", "number", "Distance between ticks.", low=1e-12, blank=True),
    Setting("scale.span", "Axis", "Minimum span", "number", "The axis covers at least this range.", low=0, blank=True),
    Setting("scale.log", "Axis", "Logarithmic", "flag", "Equal ratios take equal distances."),
    Setting("scale.reversed", "Axis", "Reversed", "flag", "The maximum is at the bottom."),
    Setting("scale.hidden", "Axis", "Hidden", "flag", "Hides ticks and grid lines."),
    Setting(
        "scale.second", "Axis", "Second axis", "choice", "On the right, for another unit or for later measures.",
        (("", "where units differ"), ("own", "all but the first measure"), ("tied", "aligned ticks")),
    ),
    Setting(
        "slices.pulled", "Slices", "Offset slice", "choice", "Moves one slice away from the others.",
        (("", "none"), ("largest", "largest"), ("smallest", "smallest"), ("member", "selected")),
    ),
    Setting("slices.member", "Slices", "Members", "text", "Name of the offset slice."),
    *_reference("reference", "Reference line", "Position"),
    *_reference("second_reference", "Second reference line", "Position"),
    Setting("reference.band", "Reference line", "Shade below", "flag", "Shades from the base line to this line."),
    Setting("second_reference.band", "Second reference line", "Shade between", "flag", "Shades between both lines."),
    Setting(
        "trend.kind", "Trend", "Kind", "choice", "Fitted to the points.",
        (("", "none"), ("line", "linear"), ("curve", "quadratic"), ("moving mean", "moving mean")),
    ),
    Setting(
        "trend.each", "Trend", "For", "choice", "One trend line for all points or one for each member.",
        (("all", "all points"), ("member", "each member")),
    ),
    Setting("trend.length", "Trend", "Window", "number", "Points per moving mean.", low=2, high=60, whole=True),
    Setting("trend.says", "Trend", "Show equation and R²", "flag", "Shows equation, R², number of points and range."),
    Setting("total.shown", "Total", "Show total", "flag", "Adds the total, set apart from the members."),
    Setting("total.name", "Total", "Label", "text", "For example Net or All year."),
    Setting("frame.grid_lines", "Frame", "Grid lines", "flag", "Lines at the ticks."),
    Setting("frame.base_line", "Frame", "Base line", "flag", "The line at zero."),
    Setting("frame.gap", "Frame", "Gap", "number", "Share of their distance.", low=0, high=0.9, blank=True),
    Setting("picture.id", "Picture", "Columns and bars", "picture", "A picture stored in this folio."),
    Setting(
        "picture.how", "Picture", "Fill", "choice", "How columns and bars use the picture.",
        (("cut out", "clipped from one picture"), ("filled", "stretched"), ("built", "stacked")),
    ),
    Setting("picture.behind", "Picture", "Background picture", "picture", "A picture of this folio behind the chart."),
    Setting("picture.strength", "Picture", "Opacity", "number", "Opacity of the background picture.", low=0.02, high=1),
    Setting(
        "multiples.scales", "Small multiples", "Axes", "choice", "Whether all charts share one axis.",
        (("common", "shared"), ("free", "independent")),
    ),
    Setting(
        "multiples.columns", "Small multiples", "Charts per row", "number", "0: chosen automatically.",
        low=0, high=24, whole=True,
    ),
    Setting("ring.hole", "Ring", "Hole size", "number", "Share of the ring's radius.", low=0.2, high=0.9),
    Setting(
        "lines.marks", "Lines", "Markers", "choice", "Markers on the lines.",
        (("best", "where there is room"), ("all", "always"), ("none", "never")),
    ),
    Setting("lines.width", "Lines", "Thickness", "number", "In pixels; 0: automatic.", low=0, high=12),
    Setting(
        "heat grid.edges", "Heat grid", "Totals", "flag", "Bars for row and column totals."
    ),
    Setting("gauge.low", "Gauge", "From", "number", "Minimum of the arc.", blank=True),
    Setting("gauge.high", "Gauge", "To", "number", "Maximum of the arc.", blank=True),
    Setting("gauge.fair", "Gauge", "Fair from", "number", "Value where “fair” starts.", blank=True),
    Setting("gauge.good", "Gauge", "Good from", "number", "If below “fair”, lower is better.", blank=True),
    Setting("gauge.goal", "Gauge", "Goal", "number", "Marked on the arc.", blank=True),
    Setting("gauge.fair_lever", "Gauge", "Fair from lever", "lever", "A lever that sets where “fair” starts."),
    Setting("gauge.good_lever", "Gauge", "Good from lever", "lever", "A lever that sets where “good” starts."),
    Setting("gauge.goal_lever", "Gauge", "Goal from lever", "lever", "A lever that sets the goal."),
    Setting("histogram.running", "Bins", "Cumulative share", "flag", "Line with the share up to each limit."),
    Setting(
        "box plot.lying", "Box plot", "Horizontal", "choice", "Horizontal boxes leave room for long names.",
        (("", "for long names"), ("yes", "always"), ("no", "never")),
    ),
    Setting("box plot.mean", "Box plot", "Show mean", "flag", "Marks the mean with a cross."),
)  # fmt: skip
BY_KEY = {each.key: each for each in SETTINGS}


def heeded(form: Form) -> tuple[Setting, ...]:
    """The settings that a form heeds, in their order."""
    return tuple(each for each in SETTINGS if each.heeded_by(form))


def pointed_at(form: Form, part: str) -> tuple[Setting, ...]:
    """The settings that a click on a part of a chart leads to: those of its group; for a mark all that marks heed."""
    groups_of = _BESIDE.get(part, (part,))
    found = heeded(form)
    return tuple(each for group in groups_of for each in found if each.group == group)


_BESIDE: dict[str, tuple[str, ...]] = {  # what a part leads to, beside its own group
    "": ("Value labels", "Colour", "Highlight", "Slices", "Ring", "Lines", "Heat grid", "Gauge", "Box plot"),
    "Legend": ("Legend", "Highlight"),
    "Members": ("Titles", "Total"),
    "Axis": ("Axis", "Frame"),
    "Reference line": ("Reference line", "Second reference line"),
    "Second reference line": ("Second reference line", "Reference line"),
}


def value_of(style: ChartStyle, key: str) -> Value:
    group, name = key.split(".")
    struct = _own(style, group) if group in _OWN else getattr(style, group)
    found: Value = getattr(struct, name)
    return found


def _own(style: ChartStyle, form: str) -> Own:
    kind: Any = _OWN[form]
    found: Own = style.own_of(kind)
    return found


def with_value(style: ChartStyle, key: str, value: Value) -> ChartStyle:
    """The style with one setting changed; refuses what it cannot be."""
    group, name = key.split(".")
    checked = _checked(BY_KEY[key], value)
    if group in _OWN:
        return style.with_own(replace(_own(style, group), **{name: checked}))
    return replace(style, **{group: replace(getattr(style, group), **{name: checked})})


def with_member_set_off(style: ChartStyle, label: str) -> ChartStyle:
    """The style with one more member strong, or one less where it was; none is set off when the last one goes."""
    chosen = [each.strip() for each in style.emphasis.members.split(";") if each.strip()]
    chosen = chosen if style.emphasis.end == "members" else []
    chosen = [each for each in chosen if each != label] if label in chosen else [*chosen, label]
    end = "members" if chosen else ""
    return with_value(with_value(style, "emphasis.members", "; ".join(chosen)), "emphasis.end", end)


def default_of(key: str) -> Value:
    return value_of(PLAIN_STYLE, key)


def in_words(setting: Setting, value: Value) -> str:
    """A value as the margin says it."""
    if setting.editor == "choice":
        return dict(setting.choices).get(str(value), str(value))
    if setting.editor == "flag":
        return "yes" if value else "no"
    if value is None or value == "":
        return "automatic" if setting.blank else "none"
    return f"{value:g}" if isinstance(value, float | int) else str(value)


def checked_chart(style: ChartStyle) -> ChartStyle:
    """The style, where every setting is one that can be; raises Refusal."""
    for setting in SETTINGS:
        _checked(setting, value_of(style, setting.key))
    low, high = style.scale.low, style.scale.high
    if low is not None and high is not None and low >= high:
        raise Refusal(f"the axis goes from {low:g} to {high:g}", "enter a larger maximum")
    return style


def _checked(setting: Setting, value: Value) -> Value:
    match setting.editor:
        case "choice":
            if value not in dict(setting.choices):
                raise Refusal(f"{setting.words} cannot be '{value}'", "choose " + ", ".join(dict(setting.choices)))
        case "number":
            if value is None and setting.blank:
                return None
            if not isinstance(value, float | int) or not math.isfinite(value) or abs(value) > 1e300:
                raise Refusal(f"{setting.words} is no number", "enter one")
            if not setting.low <= value <= setting.high or (setting.whole and value != int(value)):
                limits = f"from {setting.low:g} on"
                if math.isfinite(setting.high):
                    limits = f"from {setting.low:g} to {setting.high:g}"
                raise Refusal(f"{setting.words} cannot be {value:g}", f"enter a number {limits}")
            return int(value) if setting.whole else value
        case "pattern":
            checked_pattern(str(value or ""))
        case "text" | "lever" | "picture":
            if len(str(value)) > _LONGEST:
                raise Refusal(f"{setting.words} is too long", f"at most {_LONGEST} letters")
        case "flag":
            pass
    return value


def every_field() -> set[str]:
    """The keys of all that `ChartStyle` and the forms' own structs hold: each has a row above."""
    keys = set()
    for group, kind in get_type_hints(ChartStyle).items():
        if group != "own":
            keys |= {f"{group}.{name}" for name in get_type_hints(kind)}
    for group, own in _OWN.items():
        keys |= {f"{group}.{name}" for name in get_type_hints(own)}
    return keys


def style_from(document: Any) -> ChartStyle:
    """A style from decoded JSON: as a folio holds it. Raises Refusal."""
    try:
        return checked_chart(converted(document, ChartStyle))
    except msgspec.ValidationError as fault:
        raise Refusal(f"this is not a chart style: {fault}", f"its groups are {', '.join(groups())}") from None


def groups() -> tuple[str, ...]:
    return tuple(name for name in get_type_hints(ChartStyle))
