"""The Design page's form."""

from __future__ import annotations

from werkzeug.datastructures import MultiDict

from orderly_bench.chapters.design.operations import DesignValues
from orderly_bench.core.errors import InvalidInput
from orderly_bench.web import fields


def read_design(form: MultiDict[str, str]) -> DesignValues:
    """Parse the form; rates are both given, as percent, or both blank."""
    rates = [
        fields.optional_number(form, name, f"assumed rate, {which}")
        for name, which in (("rate_a", "first"), ("rate_b", "second"))
    ]
    for rate in rates:
        if rate is not None and not 0 <= rate <= 100:
            raise InvalidInput("assumed rate", "must be between 0 and 100 %", rate)
    per_unit = fields.optional_whole(form, "cuttings_per_unit", "cuttings per unit")
    both = (rates[0] / 100, rates[1] / 100) if rates[0] is not None and rates[1] is not None else None
    return DesignValues(
        arms=form.getlist("arms"),
        control=form.get("control", ""),
        cuttings_per_arm=fields.whole(form, "cuttings_per_arm", "cuttings per arm"),
        cuttings_per_unit=1 if per_unit is None else per_unit,
        layout=form.get("layout", ""),
        blocks=fields.whole(form, "blocks", "blocks"),
        block_size=fields.optional_whole(form, "block_size", "units in a block") or 0,
        whole_factor=form.get("whole_factor", ""),
        gradient=fields.text(form, "gradient"),
        bench=fields.text(form, "bench"),
        tray_rows=fields.whole(form, "tray_rows", "tray rows"),
        tray_columns=fields.whole(form, "tray_columns", "tray columns"),
        assumed_rates=both,
        assumed_icc=fields.optional_number(form, "icc", "ICC"),
    )
