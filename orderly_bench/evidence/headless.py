"""The headless command that gives what a trial's pages show."""

from __future__ import annotations

import shlex

from orderly_bench.core.layouts.from_rows import layout_of
from orderly_bench.evidence.verdict import Evidence


def command(evidence: Evidence) -> str:
    """The exact headless command that gives the same numbers from the endpoint CSV."""
    if evidence.rate is not None:
        file, asked = f"endpoint-{evidence.record.code}.csv", evidence.record.plan.question
        words = ["./bench", "analyse", file, "--response", evidence.rate.response.value, "--rate"]
        words += ["--unit", "unit"] if evidence.rate.shared else []
        if asked.wanted_plants is not None:
            words += ["--want", str(asked.wanted_plants), "--assurance", f"{asked.wanted_sure / 100:g}"]
        return shlex.join(words)
    if evidence.analysis is None:
        return ""
    s = evidence.analysis.settings
    o = evidence.analysis.observations
    words = [
        "./bench",
        "analyse",
        f"endpoint-{evidence.record.code}.csv",
        "--response",
        s.response.value,
        "--factors",
        ",".join(o.factors),
    ]
    flags = (
        ("--unit", o.rows[0].unit is not None, "unit"),
        ("--block", o.rows[0].block is not None, "block"),
        *((flag, True, column) for flag, column in layout_of(o).columns),
    )
    for flag, used, column in flags:
        words += [flag, column] if used else []
    words += ["--blocks-in-waves"] if o.rows[0].in_wave and o.rows[0].block is not None else []
    words += ["--start", ",".join(name for name, _ in o.rows[0].start)] if o.rows[0].start else []
    words += ["--margin", f"{s.margin:g}"] if s.margin is not None else []
    words += ["--alpha", f"{s.alpha:g}", "--draws", str(s.draws), "--seed", str(s.seed)]
    words += ["--family", "control" if s.against_control else "all"]
    if s.control is not None:
        words += ["--control", ",".join(f"{f}={level}" for f, level in zip(o.factors, s.control, strict=True))]
    words += ["--headline", "factors" if s.by_factor else "pairs"] if len(o.factors) > 1 else []
    words += ["--dose", s.dose] if s.dose is not None else []
    words += ["--max-t"] if s.max_t else []
    words += ["--not-worse-than"] if s.not_worse else []
    words += ["--look"] if s.look else []
    return shlex.join(words)
