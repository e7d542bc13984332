"""The margin of a summary's page: its figures and how they look, its headings, totals, levers, and second looks."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PyQt6 import sip
from PyQt6.QtCore import QObject, Qt
from PyQt6.QtWidgets import QWidget

from summula.core.arrays import np
from summula.core.charts.chart import chart_of
from summula.core.charts.drawers import DRAWERS
from summula.core.charts.inforce import in_force, seen_in
from summula.core.charts.inks import with_ink
from summula.core.charts.settings import BY_KEY, Setting, Value, default_of, heeded, in_words, pointed_at, value_of
from summula.core.charts.style import ChartStyle, levers_of
from summula.core.fields.figures import plural
from summula.core.fields.labels import label_of
from summula.core.folio.model import Summary, with_lever, with_summary, without_lever
from summula.core.grids.measurestyle import MeasureStyle, measure_styles, styled, with_style
from summula.core.phrases.editing import fields_in, gathered_but, gathering_all_but
from summula.core.phrases.lever import LeverSetting, levers_in
from summula.core.phrases.phrase import Phrase, figures_shown
from summula.core.refusal import Refusal
from summula.core.secondlook.charts import STYLE_REMEDIES, chart_looks
from summula.core.secondlook.remedies import mended
from summula.core.secondlook.summaries import summary_looks
from summula.core.theme.palettes import PALETTES, Palette
from summula.desk.board.pictureasking import ask_picture
from summula.desk.frame.marginblocks import ActionBlock, Block, LookBlock, Note, Pair
from summula.desk.pages.levers import LeverRow
from summula.desk.phrase.phrasewords import condition_words, heading_words, keep_words, measure_words

if TYPE_CHECKING:
    from summula.core.engine.grid import Grid
    from summula.core.fields.heading import Heading, Member
    from summula.core.grids.layout import Layout
    from summula.core.secondlook.look import SecondLook
    from summula.desk.pages.summarypage import SummaryPage
    from summula.desk.widgets.popover import Popover
    from summula.desk.widgets.stylepopover import Offered, StyleForm

_WIDE = 22  # letters of a value beside its label


class SummaryMargin(QObject):
    """Builds the blocks for the summary in view, and carries out what is asked there."""

    def __init__(self, page: SummaryPage) -> None:
        super().__init__(page)
        self.page, self.session = page, page.session
        self.levers: list[LeverRow] = []
        self.part: str | None = None  # of the chart, that is pointed at; "" is a mark
        self.member: tuple[Heading, Member] | None = None
        self._form: StyleForm | None = None
        self._of = ""  # the summary that is shown
        self._blocks: list[Block] = []  # its blocks, while all settings are shown
        self._by_default: dict[str, list[Setting]] = {}  # the groups of settings that nobody changed
        # A chart is drawn when it is painted, once its size is known; the margin tells afterwards what is in force.
        page.chart.drawn.connect(self._tell_in_force, Qt.ConnectionType.QueuedConnection)  # type: ignore[call-arg]

    def point_at(self, part: str | None, member: tuple[Heading, Member] | None = None) -> None:
        """Show the settings of a part of the chart, and the ink of a member; of all again with None."""
        if (part, member) != (self.part, self.member):
            self.part, self.member, self._form = part, member, None
            if self.page.grid is not None:
                self.show(self.page.grid)

    @property
    def held(self) -> bool:
        """Whether a lever is in hand: the margin then stays as it is, but for where levers stand."""
        return any(row.held for row in self.levers)

    def show(self, grid: Grid) -> None:
        summary = self.page.summary
        assert summary is not None
        if self.held and [row.lever.name for row in self.levers] == self._lever_names(summary):
            for row in self.levers:
                row.follow(next(each for each in self.session.folio.levers if each.name == row.lever.name))
            return
        phrase, table = summary.phrase, self.session.table(summary.table)
        if self._of != summary.id:  # what was pointed at is another chart's
            self._of, self.part, self.member, self._form = summary.id, None, None, None
        if self.part is not None and phrase.form != "grid" and self._show_part(summary, self.part):
            return
        self.part, self._form = None, None
        self._by_default = {}
        blocks: list[Block] = ["This summary"]
        figures, own = figures_shown(phrase), measure_styles(summary.measures, phrase)
        for at, measure in enumerate(figures):
            style = styled(grid.styles[at], own[at])
            pattern = "h:mm" if style.clock else f"{style.unit} {style.pattern}".strip()
            words = measure_words(measure, figures[:at])
            blocks.append(Pair(words, f"{pattern} ▾", lambda anchor, at=at: self._figure_style(at, anchor)))  # type: ignore[misc]
        blocks += self._headings(grid)
        if phrase.form == "grid":
            blocks += self._layout(summary, grid)
        else:
            blocks += self._chart(summary)
        blocks += self._levers(summary)
        if phrase.where or phrase.keeping:
            blocks.append("Filters")
            blocks += [Note(f"where {condition_words(c)}") for c in phrase.where]
            blocks += [Note(f"keeping {keep_words(k)}") for k in phrase.keeping]
            blocks.append(Note(f"{grid.rows_used:,} of {grid.rows_read:,} rows"))
        meanings = [(f.name, f.description) for f in table.fields if f.description and f.name in fields_in(phrase)]
        if meanings:
            blocks.append("Description")
            blocks += [Note(f"{name}: {text}") for name, text in meanings[:4]]
        looks = summary_looks(phrase, table, grid)
        looks += chart_looks(chart_of(grid, table, self.session.folio.look_of(summary)), table)
        if looks:
            blocks += ["Second looks", *(self._look(look) for look in looks)]
        self._blocks = blocks
        self.page.margin.show_blocks(blocks, summary.id)

    def _tell_in_force(self) -> None:
        """The settings that nobody changed say what they come to in the chart that has been drawn."""
        scene, summary = self.page.chart.drawn_scene, self.page.summary
        shown = summary is not None and self.page.margin.of == summary.id and self._of == summary.id
        if scene is None or summary is None or not shown or self.part is not None or not self._by_default:
            return
        seen = seen_in(scene)
        told = {name: f"{in_force(name, settings, seen)} ▾" for name, settings in self._by_default.items()}
        blocks = [
            replace(each, value=told[each.label]) if isinstance(each, Pair) and each.label in told else each
            for each in self._blocks
        ]
        if blocks != self._blocks:
            self._blocks = blocks
            self.page.margin.show_blocks(blocks, summary.id)

    def _headings(self, grid: Grid) -> list[Block]:
        blocks: list[Block] = []
        for axis in (grid.rows, grid.columns):
            for depth, heading in enumerate(axis.headings):
                codes = np.flatnonzero(np.bincount(axis.levels[axis.depth].codes[:, depth]))
                alone = label_of(heading, axis.members[depth][codes[0]]) if len(codes) == 1 else ""
                blocks.append(Pair(heading_words(heading), alone or plural(len(codes), "member")))
        return blocks

    # -- the chart -------------------------------------------------------------------------------------

    def _chart(self, summary: Summary) -> list[Block]:
        """The groups of settings that the form heeds, and what is set in each."""
        scene = self.page.chart.drawn_scene
        seen = None if scene is None else seen_in(scene)
        groups: dict[str, list[Setting]] = {}
        for setting in heeded(summary.phrase.form):
            groups.setdefault(setting.group, []).append(setting)
        blocks: list[Block] = ["Style"] if groups else []
        for name, settings in groups.items():
            values = [(each, value_of(summary.style, each.key)) for each in settings]
            notice = [self._in_words(each, value) for each, value in values if value != default_of(each.key)]
            if not notice:
                self._by_default[name] = settings
            words = _short(" · ".join(notice)) if notice else in_force(name, settings, seen)
            opened = partial(self.set_style, name)
            blocks.append(Pair(name, f"{words} ▾", opened, by_default=not notice))
        if DRAWERS[summary.phrase.form].told == "members" and summary.phrase.by:
            most = gathered_but(summary.phrase)
            words = f"{most}, the rest grouped" if most else "no maximum"
            blocks.append(Pair("Maximum slices", f"{words} ▾", self.gather))
        palette = self.session.folio.palette
        name = next((name for name, each in PALETTES.items() if each == palette), "custom")
        blocks.append(Pair("Palette of this folio", f"{name} ▾", self.choose_palette))
        return blocks

    def _in_words(self, setting: Setting, value: Value) -> str:
        """A value as it is said, a picture by its name."""
        if setting.editor == "picture":
            return next((each.name for each in self.session.folio.pictures if each.id == value), "a missing picture")
        return in_words(setting, value)

    def gather(self, anchor: QWidget) -> None:
        """How many slices stand for themselves: an edit of the phrase."""
        from summula.desk.pages.gatherpopover import GatherPopover

        def put(count: int) -> None:
            words = f"At most {count}, the rest grouped" if count else "No other members"
            try:
                self.page.say(gathering_all_but(self.page.phrase_now(), count), words)
            except Refusal as refusal:  # its phrase has become another while this stood open
                self.session.refuse(refusal)

        self._open(GatherPopover(self.page, gathered_but(self.page.phrase_now()), put), anchor)

    def choose_palette(self, anchor: QWidget) -> None:
        """The inks of all charts of the folio, its paper and the face of its headings, in one move."""
        from summula.desk.widgets.inkchoice import PalettePopover

        def put(palette: Palette) -> None:
            self.session.edit(replace(self.session.folio, palette=palette), "Change palette")

        self._open(PalettePopover(self.page, self.session.folio.palette, put, self.session.refuse), anchor)

    def _ink_block(self) -> list[Block]:
        """The ink of the member that is pointed at."""
        from summula.desk.widgets.inkchoice import InkChoice

        if self.member is None:
            return []
        heading, member = self.member
        label, folio = label_of(heading, member), self.session.folio
        given = (e.ink for e in folio.inks if (e.field, e.part, e.member) == (heading.field, heading.part, label))
        choice = InkChoice(label, folio.palette, next(given, None))

        def take(ink: int | None) -> None:
            now = self.session.folio
            inks = with_ink(now.inks, heading, member, ink)
            self._form = None  # shown anew, with the ink that is taken
            self.session.edit(replace(now, inks=inks), f"Ink of {label}")

        choice.taken.connect(take)
        blocks: list[Block] = [f"Ink of {label}", choice]
        if any((e.field, e.part, e.member) == (heading.field, heading.part, label) for e in folio.inks):
            blocks.append(ActionBlock("Reset colour", lambda: take(None)))
        return blocks

    def _show_part(self, summary: Summary, part: str) -> bool:
        """The settings of the part that is pointed at, to be changed right here; False where the form has none."""
        from summula.desk.widgets.stylepopover import StyleForm

        settings = pointed_at(summary.phrase.form, part)
        if not settings:
            return False
        there = self._form is not None and not sip.isdeleted(self._form) and self._form.isVisible()
        if there and self._form is not None and self._form.style_ == summary.style:
            return True  # a hand is at it: it stays

        def put(style: ChartStyle, key: str, typing: bool) -> None:
            self._restyle(summary.id, style, key, typing)

        self.levers = []
        self._form = StyleForm(settings, summary.style, put, self._offered(), titled=True)
        back = ActionBlock("All settings", lambda: self.point_at(None))
        self.page.margin.show_blocks([*self._ink_block(), self._form, back], summary.id)
        return True

    def set_style(self, group: str, anchor: QWidget) -> None:
        """A popover with one group of settings, each of which shows at once."""
        from summula.desk.widgets.stylepopover import StylePopover

        summary = self.page.summary
        assert summary is not None

        def put(style: ChartStyle, key: str, typing: bool) -> None:
            self._restyle(summary.id, style, key, typing)

        settings = [each for each in heeded(summary.phrase.form) if each.group == group]
        self._open(StylePopover(self.page, group, settings, summary.style, put, self._offered()), anchor)

    def _offered(self) -> Offered:
        """What the folio has that settings may name."""
        from summula.desk.widgets.stylepopover import Offered

        folio = self.session.folio
        pictures = tuple((each.id, each.name) for each in folio.pictures)
        return Offered(tuple(each.name for each in folio.levers), pictures, self._ask_picture)

    def _ask_picture(self) -> str:
        return ask_picture(self.page, self.session)

    # -- totals and measures ---------------------------------------------------------------------------

    def _layout(self, summary: Summary, grid: Grid) -> list[Block]:
        layout, phrase = summary.layout, summary.phrase
        blocks: list[Block] = []
        if grid.rows.depth + grid.columns.depth:
            subtotals = layout.subtotals if phrase.subtotals else "none"
            total = (layout.bottom_name or layout.bottom) if phrase.totals else "none"
            nested = max(grid.rows.depth, grid.columns.depth) > 1
            if nested:
                blocks.append(Pair("Subtotals", f"{subtotals} ▾", self.arrange))
            blocks.append(Pair("Totals", f"{_short(total)} ▾", self.arrange))
        if len(phrase.measures) > 1:
            how = "as lines" if layout.measures == "rows" else "as columns"
            blocks.append(Pair("Measures", f"{how} ▾", self.arrange))
        if grid.rows.depth + grid.columns.depth:
            path = " › ".join(heading_words(each) for each in summary.path) or "automatic"
            blocks.append(Pair("Drill order", f"{_short(path)} ▾", self.lay_path))
        return ["Layout", *blocks] if blocks else []

    def arrange(self, anchor: QWidget) -> None:
        from summula.desk.pages.layoutpopover import LayoutPopover

        assert self.page.summary is not None

        summary = self.page.summary

        def put(layout: Layout, phrase: Phrase) -> None:
            def laid_out(now: Summary) -> Summary:
                stated = replace(now.phrase, subtotals=phrase.subtotals, totals=phrase.totals)
                kept = replace(layout, widths=now.layout.widths, head_width=now.layout.head_width)
                return replace(now, layout=kept, phrase=stated)

            self._change(summary.id, laid_out, "Totals and measures")

        self._open(LayoutPopover(self.page, summary.layout, summary.phrase, put), anchor)

    def lay_path(self, anchor: QWidget) -> None:
        from summula.desk.pages.pathpopover import PathPopover

        summary = self.page.summary
        assert summary is not None

        def put(path: tuple[Heading, ...]) -> None:
            self._change(summary.id, lambda now: replace(now, path=path), "Drill order")

        self._open(PathPopover(self.page, summary.path, self.session.table(summary.table), put), anchor)

    def _change(self, summary_id: str, change: Callable[[Summary], Summary], edit_name: str) -> None:
        """Change the summary that a popover was opened for: it may stay open while another comes into view."""
        now = next((each for each in self.session.folio.summaries if each.id == summary_id), None)
        if now is not None:
            self.session.edit(with_summary(self.session.folio, change(now)), edit_name)

    def _restyle(self, summary_id: str, style: ChartStyle, key: str, typing: bool) -> None:
        """Take a style with one setting changed; what is typed letter by letter is undone at once."""
        now = next((each for each in self.session.folio.summaries if each.id == summary_id), None)
        if now is not None:
            folio = with_summary(self.session.folio, replace(now, style=style))
            self.session.edit(folio, f"{BY_KEY[key].group}: {BY_KEY[key].words}", going_on=typing)

    def _open(self, popover: Popover, anchor: QWidget) -> None:
        popover.open_below(anchor)
        self.page.popover = popover

    # -- levers ----------------------------------------------------------------------------------------

    def _lever_names(self, summary: Summary) -> list[str]:
        named = {
            *levers_in(summary.phrase),
            *(each.style.goal_lever for each in summary.measures),
            *levers_of(summary.style),
        }
        return [each.name for each in self.session.folio.levers if each.name in named]

    def _levers(self, summary: Summary) -> list[Block]:
        self.levers = []
        names = self._lever_names(summary)
        for lever in self.session.folio.levers:
            if lever.name in names:
                row = LeverRow(lever, self.change_lever)
                row.moved.connect(self._move_lever)
                self.levers.append(row)
        return ["Levers", *self.levers] if self.levers else []

    def _move_lever(self, lever: LeverSetting) -> None:
        self.session.edit(with_lever(self.session.folio, lever), f"Move {lever.name}", going_on=True)

    def change_lever(self, lever: LeverSetting | None, anchor: QWidget) -> None:
        """A popover that makes a lever, or changes one."""
        from summula.desk.pages.levers import LeverPopover

        def put(new: LeverSetting) -> None:
            edit_name = f"Lever {new.name}" if lever is None else f"Change {new.name}"
            self.session.edit(with_lever(self.session.folio, new), edit_name)
            if lever is None:
                self.session.notice.emit(f"{new.name} can be used in figures now: pick one and see “What if”.", False)

        def remove(name: str) -> None:
            self.session.edit(without_lever(self.session.folio, name), f"Remove {name}")

        self._open(LeverPopover(self.page, lever, put, remove), anchor)

    # -- figures ---------------------------------------------------------------------------------------

    def _figure_style(self, measure: int, anchor: QWidget) -> None:
        """How the figures of a measure look: a popover that shows every choice at once."""
        from summula.desk.pages.figurestylepopover import FigureStylePopover

        summary, grid = self.page.summary, self.page.grid
        assert summary is not None and grid is not None
        figures = grid.values[grid.finest][measure].ravel()
        present = figures[np.isfinite(figures)]
        places = sorted({0, len(present) // 2, len(present) - 1})
        examples = np.partition(present, places)[places].tolist() if len(present) else []

        meant = figures_shown(summary.phrase)[measure]

        def put(own: MeasureStyle) -> None:
            def styled_now(now: Summary) -> Summary:
                return replace(now, measures=with_style(now.measures, meant, own))

            self._change(summary.id, styled_now, f"Figures of {grid.names[measure]}")

        shown = figures_shown(summary.phrase)
        name = measure_words(shown[measure], shown[:measure])
        style, own = grid.styles[measure], measure_styles(summary.measures, summary.phrase)[measure]
        levers = tuple(each.name for each in self.session.folio.levers)
        self._open(FigureStylePopover(self.page, name, style, examples, own, put, levers), anchor)

    def _look(self, look: SecondLook) -> Block:
        def mend() -> None:
            summary = self.page.summary
            if summary is not None and look.edit_name in STYLE_REMEDIES:
                change = STYLE_REMEDIES[look.edit_name]
                self._change(summary.id, lambda now: replace(now, style=change(now.style)), look.remedy)
                return
            assert self.page.summary is not None and self.page.grid is not None
            table = self.session.table(self.page.summary.table)
            self.page.say(mended(look.edit_name, self.page.phrase_now(), table, self.page.grid), look.remedy)

        return LookBlock(look, mend if look.edit_name else None)


def _short(text: str) -> str:
    return text if len(text) <= _WIDE else text[: _WIDE - 1] + "…"
