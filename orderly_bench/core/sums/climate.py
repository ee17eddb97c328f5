"""Light, dryness of the air, and frost under cover."""

from __future__ import annotations

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.sums.sum import Answer, SumKind
from orderly_bench.core.tend.conditions import saturated
from orderly_bench.core.typed import Asked, degrees_gained, number

#: Within it unrooted cuttings neither wilt nor stay wet, kPa.
LEAST_VPD, MOST_VPD = 0.2, 0.8


def light(ppfd: float, hours: float) -> Answer:
    """Light of a day, mol/m2, from what reaches the leaves, µmol/m2/s, and hours of it.

    >>> round(light(105, 14).result["dli"], 3)
    5.292
    """
    dli = ppfd * hours * 3_600 / 1e6
    return Answer(
        {"dli": dli},
        (
            _(
                "{ppfd:g} µmol/m2/s x {hours:g} h x 3600 s / 1,000,000 = {dli:.4g} mol/m2 a day",
                ppfd=ppfd,
                hours=hours,
                dli=dli,
            ),
        ),
    )


def vpd(air_c: float, rh: float, leaf_c: float | None) -> Answer:
    """What the air lacks to be saturated, kPa; at the leaf's own temperature where that is known.

    >>> round(vpd(22, 80, None).result["vpd_kpa"], 3)
    0.529
    """
    leaf = air_c if leaf_c is None else leaf_c
    held, full = float(saturated(air_c) * rh / 100), float(saturated(leaf))
    lacking = full - held
    working = (
        _("saturated at {leaf:g} °C: {full:.4g} kPa", leaf=leaf, full=full),
        _("in the air: {air:.4g} x {rh:g} % = {held:.4g} kPa; lacking {lacking:.4g} kPa", air=saturated(air_c), rh=rh, held=held, lacking=lacking),
    )  # fmt: skip
    usual = () if LEAST_VPD <= lacking <= MOST_VPD else (
        _("Unrooted cuttings usually stand at {least:g} to {most:g} kPa.", least=LEAST_VPD, most=MOST_VPD),
    )  # fmt: skip
    return Answer({"vpd_kpa": lacking}, working, usual)


def frost(forecast_c: float | None, gains_c: float | None, forecast_f: float | None, gains_f: float | None) -> Answer:
    """How cold it gets inside: the forecast and the degrees that cover and heat gain; both in one scale.

    >>> frost(-4, 2.8, None, None).plain()["result"]
    {'inside_c': -1.2, 'inside_f': 29.84, 'frost': True}
    """
    celsius, fahrenheit = (forecast_c, gains_c), (forecast_f, gains_f)
    if (None in celsius) == (None in fahrenheit) or any(
        value is not None for value in (fahrenheit if None not in celsius else celsius)
    ):
        raise InvalidInput("input", _("give --forecast-c and --gains-c, or both with -f"), _("something else"))
    if None in celsius:
        inside = (float(forecast_f or 0) + float(gains_f or 0) - 32) * 5 / 9
        working = _(
            "{forecast:g} + {gains:g} = {inside_f:.4g} °F inside",
            forecast=forecast_f,
            gains=gains_f,
            inside_f=inside * 9 / 5 + 32,
        )
    else:
        inside = float(forecast_c or 0) + float(gains_c or 0)
        working = _(
            "{forecast:g} + {gains:g} = {inside:.4g} °C inside", forecast=forecast_c, gains=gains_c, inside=inside
        )
    inside = round(inside, 9)
    cautions = (_("Frost inside: cover, or bring them in."),) if inside <= 0 else ()
    return Answer({"inside_c": inside, "inside_f": inside * 9 / 5 + 32, "frost": inside <= 0}, (working,), cautions)


_DEGREES = number(-150, 150, None)
_GAINED = degrees_gained(-150, 150)
SUMS = (
    SumKind(
        "light", N_("light of a day"),
        (Asked("ppfd", N_("at the leaves, µmol/m2/s"), number(0, 5_000)), Asked("hours", N_("hours of it"), number(0, 24))),
        light, {"ppfd": "105", "hours": "14"},
    ),
    SumKind(
        "vpd", N_("how much the air dries"),
        (
            Asked("air_c", N_("air, °C"), number(-40, 60)), Asked("rh", N_("relative humidity, %"), number(0, 100)),
            Asked("leaf_c", N_("leaf, °C; blank: as the air"), number(-40, 60, None)),
        ),
        vpd, {"air_c": "22", "rh": "80"},
    ),
    SumKind(
        "frost", N_("how cold it gets inside"),
        (
            Asked("forecast_c", N_("forecast, °C"), _DEGREES), Asked("gains_c", N_("gained by cover and heat, °C"), _GAINED),
            Asked("forecast_f", N_("or forecast, °F"), _DEGREES), Asked("gains_f", N_("and gained, °F"), _GAINED),
        ),
        frost, {"forecast_c": "-4", "gains_c": "2.8"},
    ),
)  # fmt: skip
