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
            f"{group}.at", title, words, "choice", "Where it stands on the scale of the figures.",
            (("", "none"), ("figure", "at a figure"), ("lever", "at a lever's"), ("mean", "at the mean"),
             ("median", "at the median"), ("measure", "at the last measure, a tick a member"),
             ("year", "at last year's, a tick a member")),
        ),
        Setting(f"{group}.figure", title, "At", "number", "The figure that it stands at.", blank=True),
        Setting(f"{group}.lever", title, "At the lever", "lever", "A lever that says where it stands."),
        Setting(f"{group}.name", title, "Its name", "text", "Stands at its end."),
    )  # fmt: skip


SETTINGS: tuple[Setting, ...] = (
    Setting("words.title", "Words", "Title", "text", "Stands above the chart, in large type."),
    Setting("words.line", "Words", "Line below it", "text", "What the title leaves open, in small type."),
    Setting("words.figures", "Words", "Name of the figures", "text", "Stands above the scale of the figures."),
    Setting("words.second", "Words", "Name of the second scale", "text", "Stands above the scale at the right."),
    Setting("words.members", "Words", "Name along the bottom", "text", "Stands below the members."),
    Setting("words.note", "Words", "Note at the foot", "text", "A source or a date, in small type below the chart."),
    Setting(
        "labels.show", "Figures on marks", "Which", "choice", "Which marks carry their figure; none ever overlap.",
        (("best", "where they are read best"), ("all", "all that have room"), ("ends", "first, last, highest, lowest"),
         ("strong", "the strong ones"), ("members", "chosen ones"), ("none", "none")),
    ),
    Setting("labels.members", "Figures on marks", "Chosen", "text", "Their names, with semicolons between them."),
    Setting(
        "labels.says", "Figures on marks", "Saying", "choice", "The mark's name, its figure, its share of the whole.",
        (("", "what suits"), ("value", "the figure"), ("share", "its share"), ("name", "its name"),
         ("name value", "name and figure"), ("name share", "name and share"), ("value share", "figure and share"),
         ("name value share", "name, figure and share")),
    ),
    Setting("labels.joined", "Figures on marks", "Joined by", "text", "What stands between name, figure and share."),
    Setting(
        "labels.place", "Figures on marks", "Where", "choice", "Inside the marks or beside them.",
        (("best", "where they are read best"), ("inside", "inside"), ("outside", "outside")),
    ),
    Setting("labels.pattern", "Figures on marks", "Pattern", "pattern", "How they are written, such as #,##0.0."),
    Setting(
        "labels.least", "Figures on marks", "None below", "number",
        "Marks with a smaller share of their whole carry none; in percent.", low=0.0, high=100.0, blank=True,
    ),
    Setting(
        "legend.place", "Legend", "Where", "choice", "Where the names of the series stand.",
        (("best", "where they are read best"), ("top", "on top"), ("right", "at the right"), ("none", "nowhere")),
    ),
    Setting(
        "colour.by", "Colour", "By", "choice", "What the ink of a mark goes by.",
        (("", "what suits"), ("member", "its member"), ("order", "its rank"), ("size", "its figure"),
         ("sign", "gain and loss"), ("measure", "the last measure"), ("one", "one ink for all")),
    ),
    Setting("colour.around", "Colour", "Around", "number", "Of the last measure: two inks part here.", blank=True),
    Setting(
        "emphasis.end", "Emphasis", "Strong are", "choice", "A few members strong, the others paler.",
        (("", "all"), ("top", "the largest"), ("bottom", "the smallest"), ("latest", "the latest"),
         ("at least", "those of at least a figure"), ("members", "chosen ones")),
    ),
    Setting("emphasis.number", "Emphasis", "How many", "number", "So many are strong.", low=0, high=10_000, whole=True),
    Setting("emphasis.figure", "Emphasis", "At least", "number", "Members of this figure and more are strong."),
    Setting("emphasis.members", "Emphasis", "Chosen", "text", "Their names, with semicolons between them."),
    Setting("emphasis.lever", "Emphasis", "By the lever", "lever", "How many are strong, or from which figure."),
    Setting(
        "scale.begin", "Scale", "Begins", "choice", "At nothing, or where the figures begin.",
        (("", "as the form is best read"), ("zero", "at nothing"), ("fit", "where the figures do")),
    ),
    Setting("scale.low", "Scale", "From", "number", "The figure at the scale's lower end.", blank=True),
    Setting("scale.high", "Scale", "To", "number", "The figure at the scale's upper end.", blank=True),
    Setting("scale.step", "Scale", "Step", "number", "From one tick to the next.", low=1e-12, blank=True),
    Setting("scale.span", "Scale", "Least span", "number", "For close figures.", low=0, blank=True),
    Setting("scale.log", "Scale", "Logarithmic", "flag", "Equal ratios take equal room."),
    Setting("scale.reversed", "Scale", "Reversed", "flag", "The greatest figure stands at the bottom."),
    Setting("scale.hidden", "Scale", "Hidden", "flag", "No ticks and no grid lines."),
    Setting(
        "scale.second", "Scale", "A second scale", "choice", "At the right: for another unit, or for later measures.",
        (("", "where units differ"), ("own", "for all but the first"), ("tied", "its ticks at the first's")),
    ),
    Setting(
        "slices.pulled", "Slices", "Pulled out", "choice", "One slice stands apart from the others.",
        (("", "none"), ("largest", "the largest"), ("smallest", "the smallest"), ("member", "a chosen one")),
    ),
    Setting("slices.member", "Slices", "Chosen", "text", "The name of the slice that stands apart."),
    *_reference("reference", "Reference", "The line"),
    *_reference("second_reference", "Second reference", "A second line"),
    Setting("reference.band", "Reference", "Shaded below", "flag", "The room from the base to the line."),
    Setting("second_reference.band", "Second reference", "Shade between both", "flag", "The room between two lines."),
    Setting(
        "trend.kind", "Trend", "Kind", "choice", "What the points tell, taken together.",
        (("", "none"), ("line", "a straight line"), ("curve", "a curve"), ("moving mean", "the moving mean")),
    ),
    Setting(
        "trend.each", "Trend", "Of", "choice", "One trend for all points, or one for each member.",
        (("all", "all points"), ("member", "each member")),
    ),
    Setting("trend.length", "Trend", "Mean of", "number", "Places of a moving mean.", low=2, high=60, whole=True),
    Setting("trend.says", "Trend", "Says itself", "flag", "Its equation, R², how many points, from where to where."),
    Setting("total.shown", "Total", "One more for the total", "flag", "Set apart from the members."),
    Setting("total.name", "Total", "Its name", "text", "Such as Net or All year."),
    Setting("frame.grid_lines", "Frame", "Grid lines", "flag", "Hairlines at the ticks."),
    Setting("frame.base_line", "Frame", "Base line", "flag", "The line that columns stand on."),
    Setting("frame.gap", "Frame", "Gap", "number", "Between columns, a share of a step.", low=0, high=0.9, blank=True),
    Setting("picture.id", "Picture", "Columns and bars", "picture", "A picture that this folio holds."),
    Setting(
        "picture.how", "Picture", "They are", "choice", "How columns and bars show it.",
        (("cut out", "cut out of it together"), ("filled", "each filled with it"), ("built", "built of it")),
    ),
    Setting("picture.behind", "Picture", "Behind the chart", "picture", "A picture of this folio, faded."),
    Setting("picture.strength", "Picture", "How much is seen", "number", "Of the one behind.", low=0.02, high=1),
    Setting(
        "multiples.scales", "Small multiples", "Scales", "choice", "Whether all are drawn to one scale.",
        (("common", "one for all"), ("free", "each its own")),
    ),
    Setting(
        "multiples.columns", "Small multiples", "Side by side", "number", "How many; 0 for what suits.",
        low=0, high=24, whole=True,
    ),
    Setting("ring.hole", "Ring", "Size of the hole", "number", "As a share of the ring's radius.", low=0.2, high=0.9),
    Setting(
        "lines.marks", "Lines", "Points", "choice", "Whether points stand on the lines.",
        (("best", "where they have room"), ("all", "always"), ("none", "never")),
    ),
    Setting("lines.width", "Lines", "Thickness", "number", "In pixels; 0 for what suits.", low=0, high=12),
    Setting(
        "heat grid.edges", "Squares", "Totals on the sides", "flag", "Bars for the totals of rows and columns."
    ),
    Setting("gauge.low", "Gauge", "From", "number", "The figure at the arc's beginning.", blank=True),
    Setting("gauge.high", "Gauge", "To", "number", "The figure at the arc's end.", blank=True),
    Setting("gauge.fair", "Gauge", "Fair from", "number", "Where poor ends and fair begins.", blank=True),
    Setting("gauge.good", "Gauge", "Good from", "number", "Less than fair: the less, the better.", blank=True),
    Setting("gauge.goal", "Gauge", "Goal", "number", "A tick on the arc.", blank=True),
    Setting("gauge.fair_lever", "Gauge", "Fair from the lever", "lever", "A lever that says where fair begins."),
    Setting("gauge.good_lever", "Gauge", "Good from the lever", "lever", "A lever that says where good begins."),
    Setting("gauge.goal_lever", "Gauge", "Goal of the lever", "lever", "A lever that says where the goal is."),
    Setting("histogram.running", "Ranges", "Running share", "flag", "A line: what share lies up to each limit."),
    Setting(
        "box plot.lying", "Boxes", "They lie", "choice", "Beside their names, which are read whole there.",
        (("", "where names are long"), ("yes", "always"), ("no", "never")),
    ),
    Setting("box plot.mean", "Boxes", "The mean as a cross", "flag", "The mean beside the median."),
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
    "": ("Figures on marks", "Colour", "Emphasis", "Slices", "Ring", "Lines", "Squares", "Gauge", "Boxes"),
    "Legend": ("Legend", "Emphasis"),
    "Members": ("Words", "Total"),
    "Scale": ("Scale", "Frame"),
    "Reference": ("Reference", "Second reference"),
    "Second reference": ("Second reference", "Reference"),
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
        return "as it comes" if setting.blank else "none"
    return f"{value:g}" if isinstance(value, float | int) else str(value)


def checked_chart(style: ChartStyle) -> ChartStyle:
    """The style, where every setting is one that can be; raises Refusal."""
    for setting in SETTINGS:
        _checked(setting, value_of(style, setting.key))
    low, high = style.scale.low, style.scale.high
    if low is not None and high is not None and low >= high:
        raise Refusal(f"the scale goes from {low:g} to {high:g}", "write a larger end")
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
                raise Refusal(f"{setting.words} is no number", "write one")
            if not setting.low <= value <= setting.high or (setting.whole and value != int(value)):
                limits = f"from {setting.low:g} on"
                if math.isfinite(setting.high):
                    limits = f"from {setting.low:g} to {setting.high:g}"
                raise Refusal(f"{setting.words} cannot be {value:g}", f"write a number {limits}")
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
        raise Refusal(f"this is no style of a chart: {fault}", f"its groups are {', '.join(groups())}") from None


def groups() -> tuple[str, ...]:
    return tuple(name for name in get_type_hints(ChartStyle))
