"""What a field's name says of its digits: whether they identify something, or count it.

To add a word: in the list below that it belongs to, folded (small letters, no accents), and a case in
`tests/test_names.py`.
"""

from __future__ import annotations

import re
from functools import lru_cache

from summula.core.tables.natural import folded


def words(listed: str) -> frozenset[str]:
    """Words listed with spaces between."""
    return frozenset(listed.split())


# Digits under such a name identify, wherever the word stands in it.
_ALWAYS = words(
    """
    isbn issn ean gtin upc asin ssn sku fips geoid zip zipcode postcode postalcode plz postleitzahl cep iban bic
    swift uuid guid nif cif dni siret siren pesel
    nip regon barcode codigo codice kod kode matricula
    """
)
# … where the numbers are long enough to be called: a phone's number, not whether there is one.
_CALLED = words(
    """
    phone telephone telefon telefono telefone tel fax mobile handy cell
    """
)
# … where it is the last word ("order no", "Vessel ID"), or the only one.
_LAST = words(
    """
    no nr nro num number id ids code codes key keys ref refs reference account acct konto cuenta conto compte
    conta nummer numero numer serial kennung kennzeichen schluessel schlussel cle clave chiave chave referencia
    referenz referenza riferimento identifier identifiant identificador identificatore
    """
)
# … where it is the first ("code postal", "ID of vessel", "Ref order").
_FIRST = words(
    """
    code id ref reference cod cle numer
    """
)
# Such a mark makes any name an identifier's: "N° client".
_MARKS = re.compile(r"(^|\W)(n[°º]|№)", re.IGNORECASE)
# Glued on: Kundennr, Artikelnummer, vesselid, Postcode.
_GLUED = ("nummer", "number", "numer", "code", "kode", "nr", "id")
# English and other words that only end like that.
_NO_IDS = words(
    """
    paid unpaid prepaid postpaid repaid bid rebid underbid overbid outbid grid hybrid void avoid fluid solid
    liquid acid rapid humid valid invalid covid said aid raid kid lid mid arid rigid vivid rabid lucid placid
    squalid morbid torrid horrid splendid candid timid stupid cupid lurid avid ovoid asteroid android steroid
    thyroid typhoid tabloid celluloid alkaloid opioid orchid pyramid amid maid braid braided skid slid squid
    druid euclid madrid centroid colloid plaid laid staid eyelid did hid rid fetid fervid florid frigid gelid
    insipid intrepid limpid livid pallid putrid sordid stolid tepid torpid turgid vapid viscid
    """
)
# A count or an amount, whatever stands before: "account balance", "zip count".
_AMOUNTS = words(
    """
    count counts cnt balance amount total totals sum cost costs price value values fee fees charge charges rate
    rates share percent percentage pct average avg mean anzahl betrag summe saldo preis wert menge montant solde
    prix nombre importe precio saldi importo prezzo bedrag prijs aantal kwota cena liczba valor quantidade
    quantity qty score distance length width height
    """
)
# What is counted follows: "num_passengers", "no of legs", "nombre de trajets".
_COUNTS = words(
    """
    num no nr nbr nb n number count cnt anzahl nombre numero cantidad quantita quantidade aantal liczba
    """
)
_OF = words(
    """
    of de di der von van do da des del dos
    """
)
# What is measured may rise by one from row to row all the same: the ages of a life table.
_MEASURES = words(
    """
    t dist education schooling age ages alter edad eta idade leeftijd wiek year years jahr jahre annee ano anno
    jaar rok population distance depth height width length weight mass temperature time hour hours minute
    minutes second seconds day days month months week weeks degree degrees rank ranking position dose level step
    steps position frequency speed duration
    """
)
# What is averaged: a total of temperatures, rates or ages says nothing …
_AVERAGED = words(
    """
    temperature temperatures temp temps temperatur temperatuur temperatura rate rates ratio ratios pct percent
    percentage percentages prozent pourcentage porcentaje percentuale procent share shares anteil price prices preis
    preise prix precio precios prezzo prezzi prijs prijzen cena ceny preco precos rating ratings score scores grade
    grades mark marks note noten age ages alter edad eta idade leeftijd wiek latitude lat longitude lon lng long
    breitengrad langengrad humidity luftfeuchtigkeit humedad pressure luftdruck speed speeds velocity tempo
    geschwindigkeit vitesse velocidad velocita snelheid predkosc delay delays verspatung retard retraso ritardo
    vertraging opoznienie index average avg mean median mittel mittelwert moyenne media promedio gemiddelde srednia
    min max minimum maximum highest lowest level levels ph bmi probability confidence accuracy efficiency occupancy
    utilisation utilization density altitude elevation height heights intensity quality frequency concentration
    punctuality yield stars satisfaction gpa lateness wait
    """
)
# … but for what these words make of it: "delay count", "price total".
_ADDED = words(
    """
    count counts cnt total totals sum sums revenue takings sales amount cost costs anzahl summe paid fee fees seats
    passengers income spend profit tax balance quantity qty units hits visits
    """
)
# Whose days lie in the past.
_BIRTHS = words(
    """
    birth births birthday birthdate born dob geburt geburtsdatum geburtstag geboren naissance nacimiento nascita
    nascimento geboorte geboortedatum urodzenia
    """
)
_BOUNDARY = re.compile(r"[^\w]+|_+|(?<=[a-z])(?=[A-Z])|(?<=[A-Z])(?=[A-Z][a-z])")


def is_called(name: str) -> bool:
    """Whether long numbers under this name are those of telephones."""
    return any(folded(word) in _CALLED for word in _BOUNDARY.split(name) if word)


def only_may_identify(name: str) -> bool:
    """Whether the name says no more than "number": of what is there, or of which."""
    return folded(name.strip().rstrip(".")) in ("number", "num", "no", "nr", "numero", "nummer", "numer", "nro", "#")


@lru_cache(maxsize=4096)
def identifies(name: str) -> bool:
    """Whether digits under this name identify something, so that a total of them would mean nothing."""
    if _MARKS.search(name):
        return True
    words = [folded(word) for word in _BOUNDARY.split(name) if word]
    if not words or words[-1] in _AMOUNTS:
        return False
    if len(words) > 1 and words[0] in _COUNTS and not (words[-1] in _LAST and words[1] not in _OF):
        counted = words[2:] if words[1] in _OF else words[1:]
        # "numero de cliente" is one client's; "numero de clientes" counts them.
        single = words[0] == "numero" and bool(counted) and not counted[-1].endswith("s")
        return single or any(word in _ALWAYS for word in counted)
    if any(word in _ALWAYS for word in words) or words[-1] in _LAST | _CALLED or words[0] in _FIRST:
        return True
    return any(_is_glued(word) for word in (words[-1], words[0]))


def measures(name: str) -> bool:
    """Whether the name is one of something measured, so that numbers that rise by one are no running numbers."""
    return any(folded(word) in _MEASURES for word in _BOUNDARY.split(name))


def averages(name: str) -> bool:
    """Whether what this name says is averaged rather than added up."""
    return any(folded(word) in _AVERAGED for word in _BOUNDARY.split(name) if word)


def sums(name: str) -> bool:
    """Whether the name says that it is a total or a count itself, which adds up."""
    return any(folded(word) in _ADDED for word in _BOUNDARY.split(name) if word)


def of_births(name: str) -> bool:
    """Whether the days under this name are those of births: none of them is to come."""
    return any(folded(word) in _BIRTHS for word in _BOUNDARY.split(name))


_NO_ID_ENDINGS = ("kid", "bid", "paid", "grid", "fluid", "acid", "void", "hybrid", "maid", "pyramid", "orchid", "droid")


def _is_glued(word: str) -> bool:
    if word.removesuffix("s").endswith(_NO_ID_ENDINGS):
        return False
    for ending in _GLUED:
        if word.endswith(ending) and len(word) > len(ending) + 1:
            return ending != "id" or word not in _NO_IDS
    return word.endswith("ids") and len(word) > 4 and word[:-1] not in _NO_IDS
