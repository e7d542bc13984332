"""All of the look: colours as tokens, type, and the style sheet made from them.

A dark or high-contrast theme is another set of values for the same tokens.
"""

from __future__ import annotations

from functools import lru_cache
from pathlib import Path
from threading import get_ident

from PyQt6 import sip
from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtGui import QBrush, QColor, QFont, QFontDatabase, QFontMetricsF, QPalette, QPen
from PyQt6.QtWidgets import QApplication, QLabel, QWidget

from summula.core.theme.tokens import LIGHT, Theme
from summula.core.theme.tokens import contrast as contrast_of
from summula.core.theme.typefaces import FALLBACK, FONTS, SANS, SERIF

_WORN = [LIGHT]  # the theme that is worn now: that of the folio that is open


def worn() -> Theme:
    return _WORN[0]


def wear(theme: Theme) -> bool:
    """Wear another theme; whether it is another one. What is shown is painted anew."""
    if theme is worn():
        return False
    _WORN[0] = theme
    for each in (colour, brush, pen, _font):
        each.cache_clear()
    application = QApplication.instance()
    if isinstance(application, QApplication) and application.property("themed"):
        dress(application)
    return True


@lru_cache(maxsize=512)
def colour(token: str, strength: float = 1.0, ground: str = "sheet") -> QColor:
    """A token's colour, mixed with the ground where it is laid on less than fully."""
    return QColor(*worn().colour(token, strength, ground))


@lru_cache(maxsize=512)
def brush(token: str, strength: float = 1.0, ground: str = "sheet") -> QBrush:
    """What an area of the colour is filled with; never changed."""
    return QBrush(colour(token, strength, ground))


@lru_cache(maxsize=512)
def pen(token: str, strength: float = 1.0, ground: str = "sheet") -> QPen:
    """What texts and thin lines of the colour are written with; never changed."""
    return QPen(colour(token, strength, ground))


def font(size: float = 13, weight: int = 400, *, serif: bool = False, italic: bool = False) -> QFont:
    """A shipped font in pixels, the caller's own to change. Each thread has other ones: Qt keeps what it worked out for
    a font in the font itself, without a lock, and pictures are painted in workers while the window paints."""
    return QFont(_font(size, weight, serif, italic, get_ident()))


def shared_font(size: float, weight: int, *, serif: bool = False, italic: bool = False) -> QFont:
    """The same, to be asked and painted with, never changed."""
    return _font(size, weight, serif, italic, get_ident())


@lru_cache(maxsize=512)
def _font(size: float, weight: int, serif: bool, italic: bool, thread: int) -> QFont:
    made = QFont([SERIF if serif and worn().serif_headings else SANS, FALLBACK])
    made.setPixelSize(max(1, round(size)))
    made.setWeight(QFont.Weight(weight))
    made.setItalic(italic)
    return made


@lru_cache(maxsize=512)
def _metrics(size: float, weight: int, serif: bool, italic: bool, thread: int) -> QFontMetricsF:
    return QFontMetricsF(font(size, weight, serif=serif, italic=italic))


@lru_cache(maxsize=4096)
def text_width(text: str, size: float, weight: int = 400, serif: bool = False, italic: bool = False) -> float:
    """Pixels a text takes: what the forms of charts ask."""
    return _metrics(size, weight, serif, italic, get_ident()).horizontalAdvance(text)


def load_fonts() -> None:
    for path in sorted(FONTS.glob("*.ttf")):
        QFontDatabase.addApplicationFont(str(path))


def apply_theme(application: QApplication) -> None:
    """Fonts, palette and style sheet for the whole application."""
    load_fonts()
    application.setFont(font(13))
    dress(application)


def dress(application: QApplication) -> None:
    """Palette and style sheet of the theme that is worn."""
    palette = QPalette()
    for role, token in (
        (QPalette.ColorRole.Window, "paper"),
        (QPalette.ColorRole.Base, "sheet"),
        (QPalette.ColorRole.WindowText, "ink"),
        (QPalette.ColorRole.Text, "ink"),
        (QPalette.ColorRole.ButtonText, "ink"),
        (QPalette.ColorRole.Button, "sheet"),
        (QPalette.ColorRole.Highlight, "plum"),
        (QPalette.ColorRole.HighlightedText, "sheet"),
        (QPalette.ColorRole.ToolTipBase, "sheet"),
        (QPalette.ColorRole.ToolTipText, "ink"),
        (QPalette.ColorRole.PlaceholderText, "muted"),
        (QPalette.ColorRole.AlternateBase, "paper"),
        (QPalette.ColorRole.Mid, "hairline"),
        (QPalette.ColorRole.Midlight, "ghost"),
    ):
        palette.setColor(role, colour(token))
    changed = palette != application.palette()
    if changed:
        application.setPalette(palette)
    sheet = style_sheet()
    if sheet != application.styleSheet():  # every widget there is is styled anew, which takes long
        application.setStyleSheet(sheet)
    elif changed:
        _wear_palette(application.allWidgets())


_AT_ONCE, _BETWEEN = 15, 4  # hidden widgets that are styled in one go, and ms between


def _wear_palette(widgets: list[QWidget]) -> None:
    """Let widgets forget the colours that the style sheet gave them: those that are seen now, the others by and by."""
    for widget in widgets:
        if widget.isVisible():
            _polish(widget)
    hidden = [each for each in widgets if not each.isVisible()]

    def some() -> None:
        for widget in hidden[:_AT_ONCE]:
            if not sip.isdeleted(widget):
                _polish(widget)
        del hidden[:_AT_ONCE]
        if hidden:
            QTimer.singleShot(_BETWEEN, some)

    if hidden:
        QTimer.singleShot(0, some)


def _polish(widget: QWidget) -> None:
    style = widget.style()
    if style is not None:
        style.unpolish(widget)
        style.polish(widget)
        widget.update()


def repolish(widget: QWidget) -> None:
    """Let the style sheet look at a property again that has changed."""
    if widget.testAttribute(Qt.WidgetAttribute.WA_WState_Polished) and (style := widget.style()) is not None:
        style.unpolish(widget)
        style.polish(widget)


def tint(label: QLabel, token: str) -> None:
    """Write a label in one of the style sheet's other colours than ink. A style sheet for each label would be slow."""
    if label.property("tint") == token:
        return
    label.setProperty("tint", token)
    repolish(label)


def style_sheet() -> str:
    """What a palette of a folio changes (paper, sheets, lines) is told by the roles of Qt's palette, so that the sheet
    stays the same."""
    t = worn().tokens
    icons = Path(__file__).with_name("icons").as_posix()
    return f"""
    QMainWindow, QWidget#page, QWidget#frame {{ background: palette(window); }}
    QToolTip {{ background: palette(base); color: {t["ink"]}; border: 1px solid palette(mid); padding: 5px 7px; }}
    {" ".join(f'QLabel[tint="{token}"] {{ color: {t[token]}; }}' for token in ("ink", "muted", "plum", "amber", "gain", "loss"))}
    QWidget#rule {{ background: {t["ink"]}; }}
    QWidget#setting[doubt="true"] {{ background: palette(base); border-left: 3px solid {LIGHT.tokens["series 1"]}; }}
    QFrame#pair {{ border-bottom: 1px dotted palette(mid); }}
    QSlider {{ min-height: 18px; background: transparent; }}
    QSlider::groove:horizontal {{ height: 4px; border-radius: 2px; background: {t["shape"]}; }}
    QSlider::sub-page:horizontal {{ height: 4px; border-radius: 2px; background: {t["plum"]}; }}
    QSlider::handle:horizontal {{ width: 12px; height: 12px; margin: -5px 0; border-radius: 7px;
        background: palette(base); border: 1px solid {t["plum"]}; }}
    QSlider::handle:horizontal:hover {{ background: {t["plum wash"]}; }}
    QSlider::handle:horizontal:focus {{ background: {t["plum"]}; border: 2px solid {t["ink"]}; }}
    QSlider::handle:horizontal:pressed {{ background: {t["plum"]}; }}
    QSlider::groove:horizontal:disabled, QSlider::sub-page:horizontal:disabled {{ background: palette(mid); }}
    QFrame#look {{ background: palette(base); border-left: 3px solid {LIGHT.tokens["series 1"]}; }}
    QPushButton {{ background: palette(base); border: 1px solid palette(mid); border-radius: 5px;
        padding: 5px 11px; color: {t["ink"]}; }}
    QPushButton:hover {{ border-color: {t["faint"]}; background: #ffffff; }}
    QPushButton:pressed {{ background: {t["plum wash"]}; }}
    QPushButton:focus {{ border: 1px solid {t["plum"]}; }}
    QPushButton:disabled {{ color: {t["faint"]}; background: transparent; }}
    QPushButton[strong="true"] {{ background: {t["plum"]}; color: palette(base); border-color: {t["plum"]}; }}
    QPushButton[strong="true"]:hover {{ background: #6b4378; }}
    QPushButton[strong="true"]:focus {{ border: 1px solid {t["ink"]}; }}
    QPushButton[quiet="true"] {{ background: transparent; border: 1px solid transparent; color: {t["plum"]}; padding: 2px 4px; }}
    QPushButton[quiet="true"]:hover {{ background: {t["plum wash"]}; }}
    QPushButton[quiet="true"]:focus {{ border: 1px solid {t["plum"]}; }}
    QPushButton[quiet="true"][by_default="True"] {{ color: {t["muted"]}; }}
    QPushButton[quiet="true"]:disabled {{ color: {t["faint"]}; }}
    QPushButton::menu-indicator {{ width: 0; }}
    QLineEdit, QPlainTextEdit, QSpinBox, QComboBox {{ background: palette(base); border: 1px solid palette(mid); border-radius: 5px;
        padding: 4px 8px; selection-background-color: {t["plum"]}; selection-color: palette(base); color: {t["ink"]}; }}
    QLineEdit:focus, QPlainTextEdit:focus, QSpinBox:focus, QComboBox:focus {{ border: 1px solid {t["plum"]}; }}
    QLineEdit#title {{ border: 1px solid transparent; background: transparent; padding: 0; }}
    QLineEdit#title:hover {{ border-bottom: 1px solid palette(mid); }}
    QLineEdit#title:focus {{ border: 1px solid {t["plum"]}; background: palette(base); }}
    QComboBox::drop-down, QSpinBox::up-button, QSpinBox::down-button {{ border: none; background: transparent; width: 20px; }}
    QComboBox::down-arrow, QSpinBox::down-arrow {{ image: url({icons}/down.svg); width: 10px; height: 6px; }}
    QSpinBox::up-arrow {{ image: url({icons}/up.svg); width: 10px; height: 6px; }}
    QCheckBox::indicator, QListWidget::indicator {{ width: 13px; height: 13px; border: 1px solid {t["muted"]};
        border-radius: 3px; background: palette(base); }}
    QCheckBox::indicator:checked, QListWidget::indicator:checked {{ background: {t["plum"]}; border-color: {t["plum"]};
        image: url({icons}/check.svg); }}
    QCheckBox:focus {{ color: {t["plum"]}; }}
    QComboBox QAbstractItemView {{ background: palette(base); border: 1px solid palette(mid); }}
    QListWidget {{ background: palette(base); border: none; outline: none; }}
    QListWidget#completions {{ border: 1px solid {t["faint"]}; border-radius: 5px; }}
    QListWidget::item {{ padding: 4px 8px; border-radius: 4px; color: {t["ink"]}; }}
    QListWidget::item:hover {{ background: palette(window); }}
    QListWidget::item:selected {{ background: {t["plum wash"]}; color: {t["plum"]}; }}
    QFrame#popover {{ background: palette(base); border: 1px solid {t["faint"]}; border-radius: 7px; }}
    QMenu {{ background: palette(base); border: 1px solid {t["faint"]}; padding: 4px; }}
    QMenu::item {{ padding: 5px 22px 5px 12px; border-radius: 4px; }}
    QMenu::item:selected {{ background: {t["plum wash"]}; color: {t["plum"]}; }}
    QMenu::item:disabled {{ color: {t["faint"]}; }}
    QScrollBar:vertical {{ background: transparent; width: 11px; margin: 0; }}
    QScrollBar:horizontal {{ background: transparent; height: 11px; margin: 0; }}
    QScrollBar::handle {{ background: palette(midlight); border-radius: 4px; margin: 2px; min-height: 28px; min-width: 28px; }}
    QScrollBar::handle:hover {{ background: {t["shape"]}; }}
    QScrollBar::add-line, QScrollBar::sub-line, QScrollBar::add-page, QScrollBar::sub-page {{ background: transparent; border: none; width: 0; height: 0; }}
    QAbstractScrollArea::corner {{ background: transparent; border: none; }}
    QScrollArea {{ background: transparent; border: none; }}
    QScrollArea > QWidget > QWidget {{ background: transparent; }}
    QTableView {{ background: palette(window); border: none; gridline-color: palette(mid);
        selection-background-color: {t["plum wash"]}; selection-color: {t["plum"]}; outline: none; }}
    QHeaderView {{ background: palette(window); border: none; }}
    QHeaderView::section:vertical {{ background: palette(window); color: {t["muted"]}; border: none;
        border-bottom: 1px solid palette(mid); border-right: 1px solid palette(mid); padding: 0px 8px; }}
    QTableCornerButton::section {{ background: palette(window); border: none; }}
    QCheckBox {{ spacing: 7px; color: {t["ink"]}; }}
    QProgressBar {{ background: palette(midlight); border: none; border-radius: 2px; height: 4px; }}
    QProgressBar::chunk {{ background: {t["plum"]}; border-radius: 2px; }}
    """


def contrast(first: str, second: str) -> float:
    """The contrast ratio of two tokens."""
    return contrast_of(worn().colour(first), worn().colour(second))
