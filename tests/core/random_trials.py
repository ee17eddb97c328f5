"""Trials made at random, of every layout and response, with effects of blocks that are larger than those of the arms."""

from __future__ import annotations

import numpy as np

from orderly_bench.core.errors import OrderlyError
from orderly_bench.core.layouts.arrange import arrange
from orderly_bench.core.observations.table import Observations, Row
from orderly_bench.core.responses.kind import Response

MARGINS = {
    Response.ROOT_COUNT: 1.5, Response.LONGEST: 5.0, Response.QUALITY: 0.15, Response.FOLIAGE: 0.15, Response.ROOT_CLASS: 0.15,
    Response.DAYS: 4.0,
}  # fmt: skip
CHECKS = (14.0, 21.0, 28.0, 35.0)


Cell = dict[str, object]
Places = tuple[tuple[str, ...], list[Cell]]


def size(rng: np.random.Generator, least: int, most: int) -> int:
    return int(rng.integers(least, most + 1))


def cells(levels: tuple[str, ...], times: int, **groups: object) -> list[Cell]:
    return [{"levels": levels, **groups} for _ in range(times)]


def one_way(layout: str, rng: np.random.Generator) -> Places:
    arms = [(f"m{a}",) for a in range(size(rng, 2, 4))]
    if layout == "one stratum":
        return ("medium",), [c for arm in arms for c in cells(arm, size(rng, 2, 14))]
    found: list[Cell] = []
    for b in range(size(rng, 2, 6) if layout != "pots" else 1):
        for arm in arms:
            for u in range(size(rng, 1, 3) if layout != "pots" else size(rng, 2, 7)):
                unit = {} if layout == "blocks" else {"unit": f"p{b}{arm}{u}"}
                block = {} if layout == "pots" else {"block": f"b{b}"}
                found += cells(arm, 1 if layout == "blocks" else size(rng, 1, 6), **unit, **block)
    return ("medium",), found


def in_pairs(layout: str, rng: np.random.Generator) -> Places:
    arms = [("m0",), ("m1",)]
    return ("medium",), [c for s in range(size(rng, 3, 14)) for arm in arms for c in cells(arm, 1, pair=f"s{s}")]


def square(layout: str, rng: np.random.Generator) -> Places:
    n, per = size(rng, 3, 5), size(rng, 1, 2)
    lines = [(r, k) for r in range(n) for k in range(n)]
    return ("medium",), [c for r, k in lines for c in cells((f"m{(r + k) % n}",), per, row=str(r), column=str(k))]


def part_blocks(layout: str, rng: np.random.Generator) -> Places:
    sets = [(0, 1), (1, 2), (2, 0)] * 2 if layout == "incomplete" else [(0, 1), (0, 1), (2, 3), (2, 3)]
    return ("medium",), [
        c for b, held in enumerate(sets) for a in held for c in cells((f"m{a}",), size(rng, 1, 4), block=f"b{b}")
    ]


def half_factorial(layout: str, rng: np.random.Generator) -> Places:
    half = [("x", "y", "z"), ("x", "v", "w"), ("u", "y", "w"), ("u", "v", "z")]
    blocks = range(size(rng, 2, 6))
    return ("a", "b", "c"), [c for b in blocks for arm in half for c in cells(arm, size(rng, 1, 3), block=f"b{b}")]


def factorial(layout: str, rng: np.random.Generator) -> Places:
    blocked = layout == "factorial in blocks"
    found: list[Cell] = []
    for b in range(size(rng, 2, 4) if blocked else 1):
        for arm in [(one, other) for one in ("x", "y") for other in ("u", "v")]:
            found += cells(arm, size(rng, 2, 5), **({"block": f"b{b}"} if blocked else {}))
    return ("a", "b"), found


def whole_groups(layout: str, rng: np.random.Generator) -> Places:
    group = "whole_plot" if layout == "whole plots" else "wave"
    found: list[Cell] = []
    for h in ("h0", "h1"):
        for w in range(size(rng, 2, 4)):
            for medium in ("m0", "m1"):
                found += cells((h, medium), size(rng, 2, 5), **{group: f"{h}{w}"})
    return ("heat", "medium"), found


PLACES = {
    "one stratum": one_way, "pots": one_way, "blocks": one_way, "pots in blocks": one_way, "pairs": in_pairs, "square": square,
    "incomplete": part_blocks, "apart": part_blocks, "factorial": factorial, "factorial in blocks": factorial,
    "half factorial": half_factorial, "whole plots": whole_groups, "waves": whole_groups,
}  # fmt: skip
LAYOUTS = tuple(PLACES)


def outcomes(response: Response, lean: np.ndarray, rng: np.random.Generator) -> list[dict[str, object]]:
    """Outcomes of cuttings that lean so; a few unknown."""
    found: list[dict[str, object]] = []
    rate = 1 / (1 + np.exp(-lean))
    for i, share in enumerate(rate.tolist()):
        known = rng.random() > 0.03
        rooted = bool(rng.random() < share)
        value = {
            Response.ROOT_COUNT: float(rng.poisson(np.exp(lean[i]))),
            Response.ROOT_CLASS: float(
                rng.choice([0, 1, 5, 10], p=np.array([1 - share, share / 2, share / 4, share / 4]))
            ),
            Response.LONGEST: round(max(0.0, 20 + 8 * lean[i] + 6 * rng.normal()), 1),
            Response.QUALITY: float(np.clip(round(2.5 + lean[i] + rng.normal()), 0, 5)),
            Response.FOLIAGE: float(np.clip(round(2.5 + lean[i] + rng.normal()), 0, 5)),
        }.get(response, float(rooted))
        if response is Response.DAYS:
            at = int(rng.integers(0, 4))
            what = "rooted" if rooted else str(rng.choice(["dead", "censored", "censored"]))
            at = 3 if what == "censored" and rng.random() < 0.7 else at
            last = CHECKS[at] if what == "censored" else (CHECKS[at - 1] if at else 0.0)
            first = None if what == "censored" else CHECKS[at]
            found.append({"response": None, "outcome": what, "last_without_day": last, "first_with_day": first})
        else:
            found.append({"response": value if known else None, "state": "" if known else "missing"})
    return found


def trial(layout: str, response: Response, rng: np.random.Generator) -> Observations | None:
    """A trial, or None where what was made is refused."""
    factors, held = PLACES[layout](layout, rng)
    arms = sorted({c["levels"] for c in held})
    strength = dict(zip(arms, rng.normal(0, rng.choice([0.0, 1.0, 2.0]), len(arms)), strict=True))
    group = [
        str(c.get("block") or c.get("pair") or c.get("row") or c.get("whole_plot") or c.get("wave") or "") for c in held
    ]
    shift = {name: rng.normal(0, 1.5) for name in sorted(set(group))}
    lean = np.clip([strength[c["levels"]] + shift[g] for c, g in zip(held, group, strict=True)], -4, 4)
    rows = [Row(**{**c, **o}) for c, o in zip(held, outcomes(response, lean, rng), strict=True)]
    try:
        return arrange(factors, rows)
    except OrderlyError:
        return None
