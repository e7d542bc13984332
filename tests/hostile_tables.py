"""Table files that keep to their format and say in it what nobody meant, made from a number."""

from __future__ import annotations

import datetime as dt
import decimal
import gzip
import json
import random
import sqlite3
import struct
import zipfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

import polars as pl

from tests.test_sheets import put_ods

SECRET = "never-to-be-read-7c1f"  # what lies in a file that no table names
TEXTS = [
    "", " ", "0", "-0", "1", "-1.5", "1e400", "1e-400", "NaN", "Infinity", "9" * 400, "0." + "0" * 300 + "1", "1,234.5", "1.234,5", "1 234", "£5", "€-5",
    "(12)", "12%", "5-", "+-5", "½", "²", "٣", "1_000", "0x1F", "1d", "2024-02-29", "2023-02-30", "31/12/9999", "0000-00-00", "10000-01-01", "1-1-1",
    "2024-13-45", "24:00", "12:60:61", "00:00:00.0000000001", "2024-01-01T00:00:00+99:99", "1900-02-29", "29 Feb", "Q5 2024", "2024-W60", "true", "n/a", "#REF!",
    "=1+1", "@x", "\0", "\a", "\x1a", "\ufeff", "\u202e", "\u2028", "\ufffe", "\U000e0001", "e\u0301", "😀" * 50, '"', '""', '"x', "'", ",", ";", "|", "\t", "\r",
    "\n", "\r\n", "\\", "a" * 70_000, "<b>", "</td>", "<!--", "&amp;", "&#0;", "&#x110000;", "&x;", "]]>", "<![CDATA[", "Total", "Sum of all", "[]", "{}", "null", "../..",
]  # fmt: skip
NAMES = ["", " ", "a", "A", "a", "a_1", "No.", "\0", "x" * 9_000, "=A1", "select", 'a"b', "a]b", "2024", "Jan", "Total", "<script>", "\u202ea", "1", "Date", "é", "e\u0301"]
Dice = random.Random


def text(dice: Dice) -> str:
    return dice.choice(TEXTS) if dice.random() < 0.6 else str(dice.randint(-(10**6), 10**6))


def cells(dice: Dice) -> list[list[str]]:
    """Rows of about one width: most fields of one sort, some of every sort."""
    columns, rows = dice.choice([1, 2, 3, 5, 60]), dice.choice([0, 1, 2, 12, 150])
    sorts = [dice.choice([text, lambda dice: dice.choice("abc"), lambda dice: f"{dice.randint(0, 2100):04}-{dice.randint(0, 13):02}-01", lambda dice: f"{dice.random() * 1e5:.2f}"])
             for _ in range(columns)]  # fmt: skip
    made = [[dice.choice(NAMES) for _ in range(columns)]] if dice.random() < 0.8 else []
    for _ in range(rows):
        wide = columns if dice.random() < 0.95 else dice.randint(0, 2 * columns)
        made.append([(sorts[at % columns] if dice.random() < 0.97 else text)(dice) for at in range(wide)])
    return made


def put_text(path: Path, dice: Dice) -> None:
    sign, end, quoting = dice.choice([",", ";", "\t", "|", "^", " "]), dice.choice(["\n", "\r\n", "\r"]), dice.choice(["all", "some", "none"])

    def written(cell: str) -> str:
        quoted = quoting == "all" or (quoting == "some" and dice.random() < 0.5)
        return '"' + cell.replace('"', dice.choice(['""', '""', '"', '\\"'])) + '"' if quoted else cell

    whole = end.join(sign.join(map(written, row)) for row in cells(dice)) + dice.choice(["", end, end * 900, '"', "\0" * 100, "\x1a"])
    whole = dice.choice(["", "", "", end * 300, "sep=;\n", "# note\n", "Report of May" + end * 2, " " * 500, "{}", "[]" * 400, "<!---->" * 40]) + whole
    encoding = dice.choice(["utf-8", "utf-8", "utf-8-sig", "utf-16", "utf-16-le", "utf-16-be", "utf-32", "cp1252", "cp037", "shift_jis", "utf-7"])
    content = whole.encode(encoding, "replace")
    if dice.random() < 0.1:
        content = content[: dice.randint(0, len(content))] + dice.randbytes(3)
    if path.suffix == ".gz":
        content = gzip.compress(content) + dice.choice([b"", b"", b"x", gzip.compress(content)])
    path.write_bytes(content)


JSONS: list[Any] = [None, True, 0, -1, 0.5, 1e308, 10**400, -(10**19), 2**63, "", "x", "2024-02-30", [], {}, [[]], [1, "a"], {"a": 1}, {"": {}}, [None] * 300, [[{}]]]


def put_json(path: Path, dice: Dice) -> None:
    names = [dice.choice(NAMES) for _ in range(dice.choice([1, 3, 40]))]

    def record() -> Any:
        if dice.random() < 0.05:
            return dice.choice(JSONS)
        return {name: dice.choice(JSONS) if dice.random() < 0.4 else text(dice) for name in names if dice.random() < 0.9}

    records: Any = [record() for _ in range(dice.choice([0, 1, 5, 200]))]
    if path.suffix == ".jsonl":
        lines = [json.dumps(each, ensure_ascii=dice.random() < 0.5) for each in records]
        whole = dice.choice(["\n", "\n\n", "\r\n", " "]).join(lines)
    else:
        shape = dice.choice([records, {"data": records}, {"a": records, "b": records}, {"x": {"y": {"z": records}}}, dict(enumerate(records)), [records], {"fields": names, "rows": records}])
        whole = json.dumps(shape, ensure_ascii=dice.random() < 0.5)
    for _ in range(dice.choice([0, 0, 0, 1, 3])):
        at = dice.randint(0, len(whole))
        whole = whole[:at] + dice.choice(["", ",", "NaN", "\\u0000", "\\ud800", '"a":1,', "[" * 2_000, "}", "/* */", "1e999", "\0"]) + whole[at + dice.choice([0, 1, 9]) :]
    path.write_bytes(whole.encode("utf-8", "surrogatepass"))


def put_html(path: Path, dice: Dice) -> None:
    def cell(value: str) -> str:
        tag = dice.choice(["td", "td", "td", "th"])
        around = dice.choice(["{}", "{}", "{}", "<p>{}</p>", "<table><tr><td>{}</td></tr></table>", "<script>{}</script>", "<!-- {} -->", "<br>" * 9 + "{}", "<td>{}"])
        spans = "".join(f' {name}="{dice.choice(["1", "0", "-1", "2", "1000", "²", "9" * 30, "x", ""])}"' for name in ("colspan", "rowspan") if dice.random() < 0.08)
        return f"<{tag}{spans}>{around.format(value)}{dice.choice([f'</{tag}>', f'</{tag}>', ''])}"

    body = "".join(f"<tr>{''.join(map(cell, row))}{dice.choice(['</tr>', ''])}" for row in cells(dice)[:40])
    around = dice.choice(["<table>{}</table>", "<table>{}", "<html><body><table>{}</table>", "<table></table><table>{}</table>", "<div>{}</div>", "<svg><table>{}</table></svg>", "<template><table>{}</table>"])
    whole = dice.choice(["", "", "<!DOCTYPE html>", f'<!DOCTYPE x [<!ENTITY s SYSTEM "file://{path.parent}/secret.txt">]>&s;', '<meta charset="utf-7">', "<a " * 500, "<" * 900])
    path.write_bytes((whole + around.replace("{}", body)).encode("utf-8", "replace"))


def put_workbook(path: Path, dice: Dice) -> None:
    """Sheets whose parts are well formed and disagree."""
    main, office = "http://schemas.openxmlformats.org/spreadsheetml/2006/main", "http://schemas.openxmlformats.org/officeDocument/2006/relationships"
    package = "http://schemas.openxmlformats.org/package/2006/relationships"
    kinds = ["", "", "", ' t="s"', ' t="b"', ' t="e"', ' t="str"', ' t="d"', ' t="inlineStr"', ' t="nobody"']
    places = ["A1", "B2", "XFD1048576", "ZZZ9", "A0", "1A", "", "AAAAAAAAAA1", "A99999999999", "$A$1", "a1"]

    def escaped(value: str) -> str:
        kept = "".join(each for each in value if each in "\t\n\r" or (each >= " " and each not in "\ufffe\uffff"))
        return kept.replace("&", "&amp;").replace("<", "&lt;").replace('"', "&quot;").replace("]]>", "]]&gt;")

    def cell(row: int, column: int, value: str) -> str:
        place = f"{chr(65 + column % 26)}{row}" if dice.random() < 0.95 else dice.choice(places)
        style, kind = (f' s="{dice.choice([0, 1, 2, 3, 4, 99, -1, 2**40])}"' if dice.random() < 0.3 else ""), dice.choice(kinds)
        number = dice.choice([value, str(dice.randint(-5, 90)), "45000.5", "-1", "2958466", "1e308", "99999999999999999999"])
        inside = f"<is><t>{escaped(value)}</t></is>" if "inline" in kind else f"{dice.choice(['', '', '<f>A1</f>', '<f/>'])}<v>{escaped(number)}</v>"
        return f'<c r="{place}"{style}{kind}>{dice.choice([inside, inside, inside, ""])}</c>'

    def sheet() -> str:
        rows = [f'<row r="{at if dice.random() < 0.97 else dice.choice([0, 1, -1, 2**33])}"{dice.choice(["", """ hidden="1" """])}>{"".join(cell(at, column, each) for column, each in enumerate(row[:26]))}</row>'
                for at, row in enumerate(cells(dice)[:40], start=1)]  # fmt: skip
        merged = "".join(f'<mergeCell ref="{dice.choice(["A1:B2", "A1:XFD1048576", "B2:A1", "A1", ":", "A1:A1:A1", ""])}"/>' for _ in range(dice.choice([0, 0, 1, 3])))
        size = dice.choice(["", "", '<dimension ref="A1:XFD1048576"/>', '<dimension ref="Z9:A1"/>', '<dimension ref=""/>'])
        return f'<worksheet xmlns="{main}">{size}<sheetData>{"".join(rows)}</sheetData>{f"<mergeCells>{merged}</mergeCells>" if merged else ""}</worksheet>'

    formats = "".join(f'<numFmt numFmtId="{164 + at}" formatCode="{escaped(dice.choice(["yyyy-mm-dd", "0.00%", "[h]:mm", "@", chr(34), "[Red]", "d" * 300, "", "0;0;0;0;0;0", text(dice)[:200]]))}"/>' for at in range(4))
    faces = "".join(f'<xf numFmtId="{dice.choice([0, 14, 22, 46, 164, 165, 166, 167, 9999])}"/>' for _ in range(5))
    texts = "".join(f"<si>{dice.choice(['<t>{}</t>', '<r><t>{}</t></r><r/>', '<t/>', '{}'])}</si>".replace("{}", escaped(text(dice))) for _ in range(30))
    entity = dice.choice(["", "", "", f'<!DOCTYPE x [<!ENTITY s SYSTEM "file://{path.parent}/secret.txt">]>'])
    sheets = dice.choice([0, 1, 1, 1, 2, 5])
    targets = [dice.choice([f"worksheets/s{at}.xml"] * 8 + ["../../secret.txt", f"file://{path.parent}/secret.txt", "/xl/workbook.xml", ""]) for at in range(1, sheets + 1)]
    drilled = "".join(f'<Relationship Id="r{at}" Type="{office}/worksheet" Target="{target}"/>' for at, target in enumerate(targets, start=1))
    drilled += f'<Relationship Id="t" Type="{office}/sharedStrings" Target="sharedStrings.xml"/><Relationship Id="s" Type="{office}/styles" Target="styles.xml"/>'
    names = "".join(f'<sheet name="{escaped(dice.choice(NAMES))[:40]}" sheetId="{at}" r:id="r{at}"/>' for at in range(1, sheets + 1))
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("[Content_Types].xml", '<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default Extension="xml" ContentType="application/xml"/></Types>')
        archive.writestr("_rels/.rels", f'<Relationships xmlns="{package}"><Relationship Id="b" Type="{office}/officeDocument" Target="xl/workbook.xml"/></Relationships>')
        archive.writestr("xl/workbook.xml", f'<workbook xmlns="{main}" xmlns:r="{office}"><workbookPr date1904="{dice.choice(["0", "1", "x"])}"/><sheets>{names}</sheets></workbook>')
        archive.writestr("xl/_rels/workbook.xml.rels", f'<Relationships xmlns="{package}">{drilled}</Relationships>')
        if dice.random() < 0.9:
            count = dice.choice(["", "", ' count="-1" uniqueCount="4294967295"', ' uniqueCount="1"'])
            archive.writestr("xl/sharedStrings.xml", f'{entity}<sst xmlns="{main}"{count}>{texts}{"<si><t>&s;</t></si>" if entity else ""}</sst>')
        if dice.random() < 0.9:
            archive.writestr("xl/styles.xml", f'<styleSheet xmlns="{main}"><numFmts>{formats}</numFmts><cellXfs>{faces}</cellXfs></styleSheet>')
        for at in range(1, sheets + 1):
            archive.writestr(f"xl/worksheets/s{at}.xml", sheet().encode("utf-8", "replace"))


def put_open_sheet(path: Path, dice: Dice) -> None:
    def cell(value: str) -> str:
        kept = "".join(each for each in value if each >= " " and each not in "\ufffe\uffff").replace("&", "&amp;").replace("<", "&lt;").replace('"', "&quot;")
        kind = dice.choice(["string", "float", "date", "time", "boolean", "currency", "percentage", "nobody", ""])
        name = {"float": "value", "currency": "value", "percentage": "value", "date": "date-value", "time": "time-value", "boolean": "boolean-value"}.get(kind, "string-value")
        times = f' table:number-columns-repeated="{dice.choice(["0", "-1", "2", "16384", "99999999", "x", "²"])}"' if dice.random() < 0.04 else ""
        inside = dice.choice(["<text:p>{}</text:p>", "<text:p>{}</text:p>", "<text:p/>", '<text:p>{}<text:s text:c="900"/></text:p>', "<text:p><text:span>{}</text:span></text:p><text:p>{}</text:p>", ""])
        covered = dice.choice(["table-cell"] * 9 + ["covered-table-cell"])
        return f'<table:{covered}{times} office:value-type="{kind}" office:{name}="{kept[:300]}">{inside.replace("{}", kept)}</table:{covered}>'

    def row(values: list[str]) -> str:
        times = f' table:number-rows-repeated="{dice.choice(["0", "-1", "3", "1048576", "99999999", "x"])}"' if dice.random() < 0.03 else ""
        return f"<table:table-row{times}>{''.join(map(cell, values))}</table:table-row>"

    put_ods(path, *((f"S{at}", "".join(map(row, cells(dice)[:40]))) for at in range(dice.choice([0, 1, 1, 2]))))


def put_database(path: Path, dice: Dice) -> None:
    names = dict.fromkeys(name.casefold().replace('"', '""').replace("\0", "") or "x" for name in NAMES)
    quoted = list(names)[: dice.choice([1, 3, 12])]
    values = [None, 0, -1, 2**62, 0.5, float("inf"), "", "x", "2024-02-30", "1,5", b"", b"\xff\0", b"x" * 9_000, "9" * 300, "\0", "\ud7ff"]
    connection = sqlite3.connect(path)
    named = ", ".join(f'"{name}" {dice.choice(["", "int", "date", "nobody(9,9)", "boolean", "blob", "datetime"])}' for name in quoted)
    connection.execute(f'create table "{dice.choice(["t", "a b", "order"])}" ({named})')
    table = connection.execute("select name from sqlite_master").fetchone()[0]
    for _ in range(dice.choice([0, 1, 60])):
        connection.execute(f'insert into "{table}" values ({", ".join("?" * len(quoted))})', [dice.choice(values) for _ in quoted])
    for number in range(dice.choice([0, 0, 1, 2])):
        connection.execute(f"create view v{number} as " + dice.choice([
            f'select * from "{table}"', "select 1 as a, 2 as a", "select * from gone", "select abs(-9223372036854775808)", f"select * from v{number}",
            "with recursive a(x) as (select 1 union all select x + 1 from a limit 50) select x from a", "select readfile('secret.txt')", "select load_extension('x')",
        ]))  # fmt: skip
    connection.commit()
    connection.close()
    if dice.random() < 0.2:
        whole = bytearray(path.read_bytes())
        for _ in range(6):
            whole[dice.randrange(len(whole))] = dice.randrange(256)
        path.write_bytes(whole)


def put_columns(path: Path, dice: Dice) -> None:
    count = dice.choice([0, 1, 7, 900])
    day, moment = dt.date(2024, 2, 29), dt.datetime(2024, 2, 29, 23, 59)
    sorts: list[Callable[[], pl.Series]] = [
        lambda: pl.Series([dice.choice([None, -(2**63), 2**63 - 1, 0]) for _ in range(count)], dtype=pl.Int64),
        lambda: pl.Series([2**64 - 1] * count, dtype=pl.UInt64),
        lambda: pl.Series([dice.choice([None, float("nan"), float("inf"), -0.0, 5e-324]) for _ in range(count)], dtype=pl.Float64),
        lambda: pl.Series([dice.choice(TEXTS) for _ in range(count)], dtype=pl.String),
        lambda: pl.Series([dice.choice(["a", None]) for _ in range(count)], dtype=pl.Categorical),
        lambda: pl.Series([b"\xff\0"] * count, dtype=pl.Binary),
        lambda: pl.Series([dice.choice([day, None, dt.date(1, 1, 1), dt.date(9999, 12, 31)]) for _ in range(count)], dtype=pl.Date),
        lambda: pl.Series([dice.choice([-(2**31), 2**31 - 1, 0]) for _ in range(count)], dtype=pl.Int32).cast(pl.Date),
        lambda: pl.Series([dice.choice([-(2**62), 2**62, 0]) for _ in range(count)]).cast(pl.Datetime(dice.choice(["ms", "us", "ns"]), dice.choice([None, "UTC", "Asia/Kolkata"]))),
        lambda: pl.Series([dice.choice([moment, None]) for _ in range(count)], dtype=pl.Datetime),
        lambda: pl.Series([dt.timedelta(days=dice.randint(-9, 9)) for _ in range(count)], dtype=pl.Duration),
        lambda: pl.Series([dt.time(23, 59)] * count, dtype=pl.Time),
        lambda: pl.Series([[1, None]] * count, dtype=pl.List(pl.Int64)),
        lambda: pl.Series([{"a": 1, "b": [1]}] * count, dtype=pl.Struct({"a": pl.Int64, "b": pl.List(pl.Int64)})),
        lambda: pl.Series([decimal.Decimal("12345678901234567890.12345")] * count, dtype=pl.Decimal(38, 5)),
        lambda: pl.Series([None] * count, dtype=pl.Null),
        lambda: pl.Series([dice.choice([True, None]) for _ in range(count)], dtype=pl.Boolean),
    ]  # fmt: skip
    names = list(dict.fromkeys(dice.choice(NAMES) for _ in range(dice.choice([1, 2, 9]))))
    frame = pl.DataFrame([dice.choice(sorts)().alias(name) for name in names])
    frame.write_parquet(path, compression=dice.choice(["zstd", "uncompressed", "snappy"]), use_pyarrow=False)
    if dice.random() < 0.3:
        whole = bytearray(path.read_bytes())
        at = len(whole) - 8 - struct.unpack("<I", whole[-8:-4])[0]
        for _ in range(dice.choice([1, 4])):
            whole[dice.randrange(max(at, 4), len(whole) - 8)] = dice.randrange(256)
        path.write_bytes(whole)


def put_archive(path: Path, dice: Dice) -> None:
    inner = path.with_name("inner.csv")
    put_text(inner, dice)
    with zipfile.ZipFile(path, "w", dice.choice([zipfile.ZIP_DEFLATED, zipfile.ZIP_STORED, zipfile.ZIP_BZIP2, zipfile.ZIP_LZMA])) as archive:
        for _ in range(dice.choice([0, 1, 1, 1, 3])):
            archive.writestr(dice.choice(["t.csv", "../../t.csv", "/etc/t.csv", "a/b.csv", "t", "x" * 9_000 + ".csv", "t.csv/", "C:\\t.csv", "\u202evsc.t"]), inner.read_bytes())
    inner.unlink()


MAKERS: dict[str, Callable[[Path, Dice], None]] = {
    "csv": put_text, "csv.gz": put_text, "jsonl": put_json, "json": put_json, "html": put_html, "xlsx": put_workbook, "ods": put_open_sheet,
    "sqlite": put_database, "parquet": put_columns, "zip": put_archive,
}  # fmt: skip


def put_hostile(folder: Path, number: int) -> Path:
    """The file of this number: always the same."""
    dice = random.Random(number)
    kind = list(MAKERS)[number % len(MAKERS)]
    path = folder / f"t{number}.{kind}"
    MAKERS[kind](path, dice)
    return path
