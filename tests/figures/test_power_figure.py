"""The power curve: its band, the number chosen, the stretch where something runs out."""

from __future__ import annotations

import xml.etree.ElementTree as ET

from orderly_bench.figures.power import Found, figure
from orderly_bench.figures.svg import PAPER

GREAT = [Found(10, 0.2, 0.02), Found(20, 0.5, 0.02), Found(40, 0.9, 0.01)]
SVG = "{http://www.w3.org/2000/svg}"


def parts(**changes: object) -> ET.Element:
    values: dict = {"great": GREAT, "least": [], "chosen": 20, "runs_out": None, **changes}
    return ET.fromstring(figure(values["great"], values["least"], values["chosen"], values["runs_out"], PAPER))


def test_the_chosen_number_is_a_line_and_a_point_on_the_curve() -> None:
    drawn = parts()
    (point,) = drawn.findall(f"{SVG}circle")
    line = next(p for p in drawn.findall(f"{SVG}path") if p.get("stroke") == "var(--color-flag)")
    assert point.get("cx") and point.get("cx") in (line.get("d") or "")
    assert "found in 50 of 100 trials at 20 per arm" in drawn.get("aria-label", "")
    assert [t.text for t in drawn.findall(f"{SVG}text")][4:7] == ["10", "20", "40"]


def test_what_runs_out_is_hatched_from_there_on() -> None:
    assert parts().findall(f"{SVG}rect") == [] and parts(runs_out=(50, "short of pieces")).findall(f"{SVG}rect") == []
    (hatched,) = parts(runs_out=(25, "short of pieces")).findall(f"{SVG}rect")
    assert float(hatched.get("x", "0")) == 46 + (25 - 10) / 30 * 394 and "short of pieces" in figure(
        GREAT, [], 20, (25, "short of pieces")
    )


def test_the_least_difference_is_dashed_and_named() -> None:
    least = [Found(one.per_arm, one.share / 2, 0.02) for one in GREAT]
    assert "stroke-dasharray" in figure(GREAT, least, 20, None) and "stroke-dasharray" not in figure(
        GREAT, [], 20, None
    )
    assert "dashed: least" in figure(GREAT, least, 20, None)


def test_one_size_alone_is_drawn_too() -> None:
    assert len(parts(great=GREAT[:1], chosen=10).findall(f"{SVG}circle")) == 1
