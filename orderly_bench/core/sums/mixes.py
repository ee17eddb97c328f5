"""Media: litres to mix, and what a drained pot holds of air and water.

Porosity from four weighings of one vessel (Handreck & Black 2010, *Growing Media for Ornamental Plants and Turf*, ch. 4): what drains
away was air, what stays was water; 1 g of water is 1 mL.
"""

from __future__ import annotations

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.messages.translation import in_full
from orderly_bench.core.plan.recipe import read_recipe, spelled_out
from orderly_bench.core.sums.sum import Answer, SumKind
from orderly_bench.core.typed import Asked, number, text, whole

#: Air that a rooting medium in a cell usually has, percent.
LEAST_AIR, MOST_AIR = 15, 45


def medium(containers: int, ml: float, settling: float, waste: float, recipe: str) -> Answer:
    """Litres for so many containers, and of each component: volume / (1 - settling) x (1 + waste).

    >>> found = medium(48, 90, 0.1, 0.1, "3 pumice, 1 coir").result
    >>> round(found["litres"], 2), {name: round(litres, 2) for name, litres in found["parts"].items()}
    (5.28, {'pumice': 3.96, 'coir': 1.32})
    """
    parts = spelled_out(read_recipe(recipe), {})
    filled = containers * ml / 1_000
    litres = filled / (1 - settling) * (1 + waste)
    whole_of = sum(part.parts for part in parts)
    shares = {part.component: litres * part.parts / whole_of for part in parts}
    working = [
        _("{containers} x {ml:g} mL = {filled:.4g} L", containers=containers, ml=ml, filled=filled),
        _("/ (1 - {settling:g}) settling x (1 + {waste:g}) waste = {litres:.4g} L", settling=settling, waste=waste, litres=litres),
        *(f"{name}: {share / litres:.3g} x {_in_litres(litres)} = {_in_litres(share)} L" for name, share in shares.items()),
    ]  # fmt: skip
    return Answer({"litres": litres, "parts": shares}, tuple(working))


def _in_litres(litres: float) -> str:
    return in_full(f"{litres:.4g}")


def porosity(volume_ml: float, dry_g: float, saturated_g: float, drained_g: float) -> Answer:
    """Air, water, both together, and bulk density, from weights without the vessel.

    >>> porosity(500, 100, 450, 350).result
    {'air_percent': 20.0, 'water_percent': 50.0, 'total_percent': 70.0, 'bulk_density_g_per_ml': 0.2}
    """
    if not dry_g <= drained_g <= saturated_g:
        rule = _("must grow from dry to drained to saturated; weigh without the vessel")
        raise InvalidInput("weights", rule, f"{dry_g:g}, {drained_g:g}, {saturated_g:g} g")
    air, water = 100 * (saturated_g - drained_g) / volume_ml, 100 * (drained_g - dry_g) / volume_ml
    if air + water > 100:
        rule = _("hold more water than the vessel has room for; check the volume")
        raise InvalidInput("weights", rule, f"{saturated_g - dry_g:g} g in {volume_ml:g} mL")
    working = (
        _("air: ({saturated:g} - {drained:g}) / {volume:g} = {air:.3g} %", saturated=saturated_g, drained=drained_g, volume=volume_ml, air=air),
        _("water: ({drained:g} - {dry:g}) / {volume:g} = {water:.3g} %", drained=drained_g, dry=dry_g, volume=volume_ml, water=water),
        _("bulk density: {dry:g} / {volume:g} = {density:.3g} g/mL", dry=dry_g, volume=volume_ml, density=dry_g / volume_ml),
    )  # fmt: skip
    usual = () if LEAST_AIR <= air <= MOST_AIR else (
        _("Rooting media usually hold {least} to {most} % of air.", least=LEAST_AIR, most=MOST_AIR),
    )  # fmt: skip
    result = {
        "air_percent": air,
        "water_percent": water,
        "total_percent": air + water,
        "bulk_density_g_per_ml": dry_g / volume_ml,
    }
    return Answer(result, working, usual)


_GRAMS = number(0, 1_000_000)
SUMS = (
    SumKind(
        "medium", N_("medium to mix"),
        (
            Asked("containers", N_("containers"), whole(1, 100_000)), Asked("ml", N_("volume of one, mL"), number(0.1, 100_000)),
            Asked("settling", N_("settling, a share"), number(0, 0.9, 0.1)), Asked("waste", N_("waste, a share"), number(0, 5, 0.1)),
            Asked("recipe", N_("recipe"), text(300, "1 medium")),
        ),
        medium, {"containers": "48", "ml": "90", "settling": "0.1", "waste": "0.1", "recipe": "3 pumice, 1 coir"},
    ),
    SumKind(
        "porosity", N_("air and water in a drained pot"),
        (
            Asked("volume_ml", N_("volume of the vessel, mL"), number(1, 1_000_000)), Asked("dry_g", N_("dry, g"), _GRAMS),
            Asked("saturated_g", N_("saturated, g"), _GRAMS), Asked("drained_g", N_("drained, g"), _GRAMS),
        ),
        porosity, {"volume_ml": "500", "dry_g": "100", "saturated_g": "450", "drained_g": "350"},
    ),
)  # fmt: skip
