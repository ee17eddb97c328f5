"""Every sum by name."""

from __future__ import annotations

from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.sums import bench, climate, counts, mixes, plants, solutions

SUMS = {one.name: one for one in (*solutions.SUMS, *mixes.SUMS, *bench.SUMS, *climate.SUMS, *counts.SUMS, *plants.SUMS)}

#: What the answers are called on a page, with their units.
CALLED = {
    "stock_ml": N_("stock, mL"), "diluent_ml": N_("fill up with, mL"), "mg": N_("weigh out, mg"),
    "acid_mg_per_l": N_("acid, mg/L"), "k_salt_mg_per_l": N_("potassium salt, mg/L"), "percent": N_("percent"), "ppm": N_("ppm"),
    "litres": N_("mix, L"), "parts": N_("of each, L"), "air_percent": N_("air, %"), "water_percent": N_("water, %"),
    "total_percent": N_("both, %"), "bulk_density_g_per_ml": N_("bulk density, g/mL"), "cuttings": N_("cuttings"),
    "m2_now": N_("now, m2"), "m2_after": N_("after, m2"), "rooted": N_("rooted"), "ready": N_("ready"),
    "latest_sticking": N_("stick by"), "dli": N_("light of a day, mol/m2"), "vpd_kpa": N_("lacking, kPa"),
    "inside_c": N_("inside, °C"), "inside_f": N_("inside, °F"), "frost": N_("frost"), "wilson": N_("Wilson, 95 %"),
    "exact": N_("exact, 95 %"), "stick": N_("stick"),
}  # fmt: skip
