"""What figures are written with: currencies and units of measure. To add one: in the lists below."""

from __future__ import annotations

from summula.core.tables.names import words

CURRENCIES = "£$€¥₹₽₩₺₴₪₫฿₦₱₡₲₸₼₾"
_CODES = words(
    """
    AED ARS AUD BGN BHD BRL CAD CHF CLP CNY COP CZK DKK EGP EUR GBP GHS HKD HRK HUF IDR ILS INR ISK JOD JPY
    KES KRW KWD KZT LKR MAD MXN MYR NGN NOK NZD OMR PEN PHP PKR PLN QAR RON RSD RUB SAR SEK SGD THB TRY TWD
    TZS UAH UGX USD UYU VND XAF XOF ZAR
    """
)
MONEY = words("kr kr. rs rs. r$ us$ a$ c$ nz$ hk$ s$ fr fr. sfr zł kč ft lei лв руб руб. р.")
# Units that may stand right behind the figure. Others need a space, and to be the same throughout.
UNITS = words(
    """
    kg g mg µg t lb lbs oz st km m cm mm nm µm mi ft in yd l ml cl dl hl gal pt m² m³ m2 m3 km² km2 ha ac sqm
    sqft kwh mwh gwh wh kw mw gw w v kv a ma hz khz mhz ghz pa hpa kpa bar psi j kj mj kcal cal °c °f ° k c f
    km/h kmh mph kn kt kts m/s knots h hr hrs hours hour min mins minutes s sec secs ms d days day wk weeks
    months yrs years yr b kb mb gb tb kib mib gib bit dpi px pt em pcs pc st stk stück ea x ppm ppb ‰ dB db
    rpm bpm pax
    """
)


def is_money(text: str) -> bool:
    """Whether a text is a currency's sign, code or short name."""
    return (len(text) == 1 and text in CURRENCIES) or text in _CODES or text.lower() in MONEY


def is_unit(text: str) -> bool:
    """Whether a text is a unit that is known."""
    return is_money(text) or text.lower() in UNITS or text in "%‰°#"
