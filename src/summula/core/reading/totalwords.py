"""Words by which rows that are none of a table's call themselves, in the languages of CLDR's common locales, folded.

To add one: in the list below that it belongs to, and a row in the tests' tables.
"""

from __future__ import annotations

import re

_TOTAL = """
total totals totale totali totaal totalt totalsumma totalsum toplam subtotal subtotals subtotale subtotaal deltotal
overall sum sums summe summen summa gesamt gesamtsumme gesamtergebnis zwischensumme endsumme insgesamt somme sommes suma
somma complessivo eindtotaal tussentotaal ogolem razem łacznie podsuma celkem soucet mezisoucet spolu sucet osszesen
reszosszeg vegosszeg ukupno skupaj sveukupno vsota skupno medjuzbir итого всего итог подытог общо всичко усього разом
підсумок сума συνολο υποσυνολο yhteensa valisumma delsumma delsum ialt sammanlagt samtals viso kopa kokku kokkuvote
guztira gjithsej jumla jumlah סהכ סה״כ المجموع الاجمالي اجمالي مجموع جمع कल योग मोट মোট รวม 合計 小計 総計 合计 小计
总计 總計 합계 총계 소계 총합
"""
_IN_WORDS = (
    "grand total", "sub total", "sub-total", "sous-total", "total general", "in all", "i alt", "is viso", "tong cong",
    "genel toplam", "ara toplam", "gran total", "totale generale", "ensemble des", "all together",
)  # fmt: skip
_BALANCE = (
    "closing balance", "opening balance", "ending balance", "beginning balance", "starting balance", "final balance",
    "brought forward", "carried forward", "balance b/f", "balance c/f", "anfangssaldo", "endsaldo", "schlusssaldo",
    "eroffnungssaldo", "saldovortrag", "neuer saldo", "alter saldo", "solde initial", "solde final", "nouveau solde",
    "ancien solde", "solde de cloture", "solde d'ouverture", "saldo inicial", "saldo final", "saldo anterior",
    "saldo iniziale", "saldo finale", "beginsaldo", "eindsaldo", "saldo poczatkowe", "saldo koncowe",
    "ingaende saldo", "utgaende saldo", "konecny zustatek", "pocatecni zustatek", "входящии остаток",
    "исходящии остаток",
)  # fmt: skip
_NOTE = """
source sources note notes nb remark remarks footnote footnotes legend key disclaimer copyright updated exported printed
quelle quellen anmerkung anmerkungen hinweis stand erstellt fussnote nota notas fuente fuentes fonte fonti remarque
champ lecture bron noot opmerking zrodło uwaga uwagi zdroj poznamka forras megjegyzes kalla anm kilde lahde huomautus
kaynak источник примечание πηγη nguon sumber 출처 注 資料 来源
"""
_NOTE_IN_WORDS = (
    "prepared by",
    "generated",
    "report run",
    "last updated",
    "as of",
    "as at",
    "data as",
    "printed on",
    "run on",
)

_either = "|".join(re.escape(each) for each in sorted((*_IN_WORDS, *_TOTAL.split()), key=len, reverse=True))
# At the beginning of the row's own name, or at its end: "Total", "Total North", "North total".
TOTAL = re.compile(rf"^\W*({_either})(\W|$)|(^|[\W_])({_either})\W*$")
TOTAL_ALONE = re.compile(rf"^\W*({_either})\W*$")
BALANCE = re.compile("|".join(map(re.escape, _BALANCE)))
NOTE = re.compile(
    rf"^\W*({'|'.join(map(re.escape, (*_NOTE_IN_WORDS, *_NOTE.split())))})\b\s*[:.\-–0-9(]"
    rf"|^\W*({'|'.join(map(re.escape, _NOTE_IN_WORDS))})\b"
    r"|^\s*(\*|†|‡|©|\(\d+\)|\d+\))\s*\w"
)
