"""Every sum by name."""

from __future__ import annotations

from orderly_bench.core.messages.words import word
from orderly_bench.core.sums import bench, climate, counts, mixes, plants, solutions

SUMS = {one.name: one for one in (*solutions.SUMS, *mixes.SUMS, *bench.SUMS, *climate.SUMS, *counts.SUMS, *plants.SUMS)}

#: What the answers are called on a page, with their units.
CALLED = {
    "stock_ml": word("stock, mL"), "diluent_ml": word("fill up with, mL"), "mg": word("weigh out, mg"),
    "acid_mg_per_l": word("acid, mg/L"), "k_salt_mg_per_l": word("potassium salt, mg/L"), "percent": word("percent"), "ppm": word("ppm"),
    "litres": word("mix, L"), "parts": word("of each, L"), "air_percent": word("air, %"), "water_percent": word("water, %"),
    "total_percent": word("both, %"), "bulk_density_g_per_ml": word("bulk density, g/mL"), "cuttings": word("cuttings"),
    "m2_now": word("now, m2"), "m2_after": word("after, m2"), "rooted": word("rooted"), "ready": word("ready"),
    "latest_sticking": word("stick by"), "dli": word("light of a day, mol/m2"), "vpd_kpa": word("lacking, kPa"),
    "inside_c": word("inside, °C"), "inside_f": word("inside, °F"), "frost": word("frost"), "wilson": word("Wilson, 95 %"),
    "exact": word("exact, 95 %"), "stick": word("stick"),
}  # fmt: skip
