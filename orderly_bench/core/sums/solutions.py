"""Solutions of rooting hormone: diluted, weighed out, as acid or potassium salt, in ppm and percent.

C1 V1 = C2 V2. Molar masses, g/mol, from IUPAC's standard atomic weights (2021): indole-3-butyric acid C12H13NO2 and 1-naphthaleneacetic
acid C12H10O2, and of both the potassium salt, in which one hydrogen is potassium. 1 ppm of a watery solution is 1 mg/L.
"""

from __future__ import annotations

from enum import StrEnum

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.sums.sum import Answer, SumKind, exactly_one
from orderly_bench.core.typed import Asked, number, one_of


class Active(StrEnum):
    """The active part."""

    IBA = "iba"
    NAA = "naa"


class Form(StrEnum):
    """What is in the bottle."""

    ACID = "acid"
    SALT = "k-salt"


#: g/mol.
MOLAR = {
    Active.IBA: {Form.ACID: 203.241, Form.SALT: 241.331},
    Active.NAA: {Form.ACID: 186.210, Form.SALT: 224.300},
}
#: Strengths above this are ten times what cuttings usually get, ppm.
UNUSUAL_PPM = 10_000
MOST_PPM = 1_000_000
HANDLE = N_(
    "Weigh and mix with gloves and without dust, label the bottle first; what its label says comes before this."
)


def _unusual(ppm: float) -> tuple[str, ...]:
    if ppm <= UNUSUAL_PPM:
        return ()
    return (_("{ppm:,.0f} ppm is more than cuttings usually get (500 to 8,000): is there a zero too many?", ppm=ppm),)


def dilution(stock: float, want: float, volume_ml: float) -> Answer:
    """Stock and diluent for a volume of a weaker solution; strengths in one unit, whichever.

    >>> dilution(10_000, 1_000, 250).result
    {'stock_ml': 25.0, 'diluent_ml': 225.0}
    """
    if want > stock:
        raise InvalidInput("strength wanted", _("can't be above that of the stock, {stock:g}", stock=stock), want)
    stock_ml = want * volume_ml / stock
    working = (
        _("{want:g} x {volume_ml:g} mL / {stock:g} = {stock_ml:.4g} mL of stock", want=want, volume_ml=volume_ml, stock=stock, stock_ml=stock_ml),
        _("{volume_ml:g} - {stock_ml:.4g} = {rest:.4g} mL to fill up with", volume_ml=volume_ml, stock_ml=stock_ml, rest=volume_ml - stock_ml),
    )  # fmt: skip
    return Answer({"stock_ml": stock_ml, "diluent_ml": volume_ml - stock_ml}, working, _unusual(want))


def weigh(want_mg_per_l: float, volume_ml: float, as_: Form, active: Active) -> Answer:
    """Milligrams to weigh out; the strength wanted is that of the acid, whatever is in the bottle.

    >>> round(weigh(1_000, 250, Form.SALT, Active.IBA).result["mg"], 2)
    296.85
    """
    acid = want_mg_per_l * volume_ml / 1_000
    molar = MOLAR[active]
    mg = acid * molar[as_] / molar[Form.ACID]
    working = [
        _(
            "{want:g} mg/L x {volume_ml:g} mL / 1000 = {acid:.4g} mg of acid",
            want=want_mg_per_l,
            volume_ml=volume_ml,
            acid=acid,
        )
    ]
    if as_ is Form.SALT:
        working.append(
            _(
                "x {salt:g} / {acid:g} g/mol = {mg:.4g} mg of potassium salt",
                salt=molar[Form.SALT],
                acid=molar[Form.ACID],
                mg=mg,
            )
        )
    return Answer({"mg": mg}, tuple(working), (*_unusual(want_mg_per_l), _(HANDLE)))


def salt(active: Active, k_salt_mg_per_l: float | None, acid_mg_per_l: float | None) -> Answer:
    """The strength of an acid that a potassium salt comes to, or the other way.

    >>> round(salt(Active.IBA, 1_000, None).result["acid_mg_per_l"], 1)
    842.2
    """
    given = exactly_one(k_salt_mg_per_l=k_salt_mg_per_l, acid_mg_per_l=acid_mg_per_l)
    molar = MOLAR[active]
    ratio = molar[Form.ACID] / molar[Form.SALT]
    acid = (k_salt_mg_per_l or 0.0) * ratio if given == "k_salt_mg_per_l" else acid_mg_per_l or 0.0
    kept = acid / ratio
    working = _(
        "{kept:.4g} mg/L of potassium salt x {acid_molar:g} / {salt_molar:g} g/mol = {acid:.4g} mg/L of acid",
        kept=kept, acid_molar=molar[Form.ACID], salt_molar=molar[Form.SALT], acid=acid,
    )  # fmt: skip
    return Answer({"acid_mg_per_l": acid, "k_salt_mg_per_l": kept}, (working,), _unusual(acid))


def strength(percent: float | None, ppm: float | None) -> Answer:
    """Percent as ppm, or the other way: 1 % is 10,000 ppm.

    >>> strength(0.3, None).result
    {'percent': 0.3, 'ppm': 3000.0}
    """
    given = exactly_one(percent=percent, ppm=ppm)
    parts = (percent or 0.0) * 10_000 if given == "percent" else ppm or 0.0
    share = parts / 10_000
    return Answer(
        {"percent": share, "ppm": parts},
        (_("{share:g} % x 10,000 = {parts:g} ppm", share=share, parts=parts),),
        _unusual(parts),
    )


_ABOVE = 1e-6
STOCK, WANT = number(_ABOVE, MOST_PPM), number(_ABOVE, MOST_PPM)
VOLUME = Asked("volume_ml", N_("volume to make, mL"), number(_ABOVE, 1_000_000))
SUMS = (
    SumKind(
        "dilution", N_("a weaker solution from a stronger one"),
        (Asked("stock", N_("strength of the stock, ppm"), STOCK), Asked("want", N_("strength wanted, ppm"), WANT), VOLUME),
        dilution, {"stock": "10000", "want": "1000", "volume_ml": "250"},
    ),
    SumKind(
        "weigh", N_("milligrams to weigh out"),
        (
            Asked("want_mg_per_l", N_("strength wanted of the acid, mg/L"), WANT), VOLUME,
            Asked("as", N_("what is in the bottle"), one_of(Form)), Asked("active", N_("active part"), one_of(Active)),
        ),
        lambda **asked: weigh(asked["want_mg_per_l"], asked["volume_ml"], asked["as"], asked["active"]),
        {"want_mg_per_l": "1000", "volume_ml": "250", "as": "k-salt", "active": "iba"},
    ),
    SumKind(
        "salt", N_("potassium salt as acid, and the other way"),
        (
            Asked("active", N_("active part"), one_of(Active)),
            Asked("k_salt_mg_per_l", N_("of the potassium salt, mg/L"), number(_ABOVE, MOST_PPM, None)),
            Asked("acid_mg_per_l", N_("or of the acid, mg/L"), number(_ABOVE, MOST_PPM, None)),
        ),
        salt, {"active": "iba", "k_salt_mg_per_l": "1000"},
    ),
    SumKind(
        "strength", N_("percent as ppm, and the other way"),
        (
            Asked("percent", N_("percent"), number(1e-9, 100, None)),
            Asked("ppm", N_("or ppm"), number(_ABOVE, MOST_PPM, None)),
        ),
        strength, {"percent": "0.3"},
    ),
)  # fmt: skip
