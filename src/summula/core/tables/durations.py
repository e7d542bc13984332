"""Lengths of time as text: "36:15:00", "1h 20m", "2 days 03:04:05", "PT1H20M". Held in seconds, shown in hours."""

from __future__ import annotations

import re

import polars as pl

from summula.core.tables.natural import folded
from summula.core.tables.script import in_plain_signs

SECONDS = 3600  # of the hour, by which durations count
_NUMBER = r"(\d+(?:[.,]\d+)?)"
_CLOCK = r"^([+-])?(?:(\d+) ?d(?:ays?)?,? *)?(\d+):(\d{2})(?::(\d{2})(?:[.,](\d+))?)?(?: ?h)?$"
_WORDS = (
    r"(?i)^([+-])?(?:" + _NUMBER + r" ?(?:d|days?|tage?n?|t|j|jours?|d[ií]as?|giorn[oi]|dagen|dni),? *)?"
    r"(?:" + _NUMBER + r" ?(?:h|hr|hrs|hours?|std|stunden?|heures?|horas?|or[ae]|uur|uren|godz)\.?,? *)?"
    r"(?:" + _NUMBER + r" ?(?:m|mn|min|mins|minutes?|minuten?|minutos?|minut[oi])\.?,? *)?"
    r"(?:" + _NUMBER + r" ?(?:s|sec|secs|seconds?|sek|sekunden?|secondes?|segundos?|second[oi])\.?)?$"
)
_ISO = r"^(-)?P(?:(\d+)D)?(?:T(?:(\d+)H)?(?:(\d+)M)?(?:(\d+(?:[.,]\d+)?)S)?)?$"
_ONE_CLOCK, _ONE_WORDS, _ONE_ISO = re.compile(_CLOCK), re.compile(_WORDS), re.compile(_ISO)
_JOINED = r"(?i)\d ?(?:h|hr|hrs|hours?|d|days?|std|j|min|m)\.?,? *\d"  # 1h 20m: more than a number with its unit
_NAMED = re.compile(
    r"(^|[^a-z])(duration|durations|elapsed|length of|time taken|run ?time|running time|time spent|hours worked|worked|"
    r"overtime|uptime|downtime|dauer|laufzeit|fahrzeit|arbeitszeit|duree|temps|duracion|durata|duracao|looptijd|duur|"
    r"czas trwania|lap|split|on air|playing time|travel time|turnaround|lead time|sailing time|crossing time)([^a-z]|$)"
)


def named_so(name: str) -> bool:
    """Whether a field is called as lengths of time are."""
    return bool(_NAMED.search(folded(name).replace("_", " ")))


def may_be(texts: pl.Series) -> pl.Series:
    """Which texts are written like a length of time at all."""
    return texts.str.contains(_CLOCK) | texts.str.contains(_WORDS) & (texts != "") | texts.str.contains(_ISO)


def may_be_duration(text: str) -> bool:
    """Whether one text is written so."""
    return bool(_ONE_CLOCK.match(text) or (text and _ONE_WORDS.match(text)) or _ONE_ISO.match(text))


def are_durations(name: str, texts: pl.Series) -> bool:
    """Whether texts that all look so are lengths of time rather than times of day, or numbers with a unit."""
    return (
        named_so(name)
        or bool(texts.str.contains(_JOINED).any())
        or bool(texts.str.contains(r"^[+-]?P|^\d+ ?d(?:ays?)?,? *\d+:").any())
        or bool((texts.str.extract(r"^[+-]?(\d+):", 1).cast(pl.Int64, strict=False) >= 24).any())
    )


def seconds_of(texts: pl.Series) -> pl.Series:
    """Seconds, as numbers; null where a text is no length of time. Two parts are hours and minutes."""
    texts = in_plain_signs(texts)
    clock = texts.str.extract_groups(_CLOCK).struct
    sign, days, hours, minutes, seconds, part = (clock.field(f"{at}") for at in range(1, 7))
    fraction = pl.concat_str(pl.lit("0."), pl.col("f")).cast(pl.Float64, strict=False).fill_null(0)
    frame = pl.DataFrame({"g": sign, "d": days, "h": hours, "m": minutes, "s": seconds, "f": part, "t": texts})

    def number(name: str) -> pl.Expr:
        return pl.col(name).str.replace(",", ".", literal=True).cast(pl.Float64, strict=False).fill_null(0)

    sums = number("d") * 86_400 + number("h") * 3_600 + number("m") * 60 + number("s") + fraction
    good = pl.col("h").is_not_null() & (number("m") < 60) & (number("s") < 60)
    found = frame.select(pl.when(good).then(sums * pl.when(pl.col("g") == "-").then(-1.0).otherwise(1.0))).to_series()
    for pattern in (_WORDS, _ISO):
        if found.null_count() == texts.null_count():
            break
        words = texts.str.extract_groups(pattern).struct
        each = pl.DataFrame({name: words.field(f"{at}") for at, name in enumerate("gdhms", start=1)})
        some = pl.any_horizontal(pl.col(name).is_not_null() for name in "dhms")
        total = number("d") * 86_400 + number("h") * 3_600 + number("m") * 60 + number("s")
        read = each.select(pl.when(some).then(total * pl.when(pl.col("g") == "-").then(-1.0).otherwise(1.0)))
        found = pl.select(pl.coalesce(found, read.to_series())).to_series()
    return found.alias(texts.name)


def written(lengths: pl.Series) -> pl.Series:
    """Durations as text that `seconds_of` reads again: hours, minutes and seconds, "-36:15:00" or "0:00:01.5"."""
    micros = pl.col("us").abs()
    parts = [
        pl.when(pl.col("us") < 0).then(pl.lit("-")).otherwise(pl.lit("")),
        (micros // 3_600_000_000).cast(pl.String),
        pl.lit(":"),
        (micros // 60_000_000 % 60).cast(pl.String).str.zfill(2),
        pl.lit(":"),
        (micros // 1_000_000 % 60).cast(pl.String).str.zfill(2),
        pl.when(micros % 1_000_000 == 0)
        .then(pl.lit(""))
        .otherwise(pl.lit(".") + (micros % 1_000_000).cast(pl.String).str.zfill(6).str.strip_chars_end("0")),
    ]
    frame = pl.DataFrame({"us": lengths.dt.total_microseconds()})
    return frame.select(pl.concat_str(parts)).to_series().alias(lengths.name)
