"""Doubts about a comparison, as coded cautions with remedies."""

from __future__ import annotations

import numpy as np

from orderly_bench.core.cautions import Caution
from orderly_bench.core.compare.comparisons import Comparison
from orderly_bench.core.compare.logistic import ModelTest
from orderly_bench.core.compare.observations import Observations
from orderly_bench.core.compare.randomisation import RandomisationTest
from orderly_bench.core.compare.rates import rule_of_three

LEFT_OUT_SHARE = 0.05


def doubts_about(
    observations: Observations,
    alpha: float,
    test: RandomisationTest,
    model: ModelTest,
    comparisons: list[Comparison],
) -> list[Caution]:
    """All cautions raised by the table and its analysis, most general first."""
    found = [
        *_at_the_ends(observations),
        *_left_out(observations),
        *_lacking(observations),
        *_disagreement(alpha, test, model),
    ]
    if model.p is None and test.p is not None:
        found.append(
            Caution(
                "model_not_finite",
                "The model has no finite fit here (separation), so it gives no second opinion; the randomisation test stands.",
                "Nothing need be done; more cuttings would let the model fit",
            )
        )
    if test.p is not None and test.p >= 0.9999 and (observations.rooted.sum() in (0, observations.stuck.sum())):
        found.append(_nothing_varies(observations))
    return found


def _nothing_varies(observations: Observations) -> Caution:
    what = "Nothing rooted" if observations.rooted.sum() == 0 else "Everything rooted"
    return Caution(
        "nothing_varies",
        f"{what} in any arm, which tells nothing about these treatments where they do differ.",
        "Check at another day, or compare speed, number or length of roots",
        serious=True,
    )


def _at_the_ends(observations: Observations) -> list[Caution]:
    found = []
    totals = zip(observations.names, observations.rooted.sum(axis=0), observations.stuck.sum(axis=0), strict=True)
    for name, k, n in totals:
        bound = rule_of_three(int(n))
        if bound is None or k not in (0, n):
            continue
        which = "none" if k == 0 else "all"
        limit = f"below {100 * bound:.0f} %" if k == 0 else f"above {100 * (1 - bound):.0f} %"
        found.append(
            Caution(
                "rule_of_three",
                f"{name}: {which} of {n} rooted. By the rule of three the true rate is {limit} at 95 %.",
                "More cuttings of this arm would narrow it",
            )
        )
    return found


def _left_out(observations: Observations) -> list[Caution]:
    out, known = observations.left_out.sum(axis=0), observations.stuck.sum(axis=0)
    if out.sum() == 0:
        return []
    share = out / np.maximum(1, out + known)
    worst = int(share.argmax())
    many = bool(share.max() > LEFT_OUT_SHARE)
    parts = ", ".join(f"{n} from {name}" for name, n in zip(observations.names, out.tolist(), strict=True) if n)
    verb = "cutting has" if out.sum() == 1 else "cuttings have"
    text = f"{out.sum()} {verb} no known outcome ({parts})."
    if many:
        text += f" That is {100 * share[worst]:.0f} % of {observations.names[worst]}; a result can hang on them."
    return [
        Caution(
            "left_out", text, "Look at the range from all failed to all rooted; find and score them if you can", many
        )
    ]


def _lacking(observations: Observations) -> list[Caution]:
    if not observations.blocks:
        return []
    missing = [
        f"{block} lacks {observations.names[arm]}"
        for row, block in enumerate(observations.blocks)
        for arm in np.flatnonzero(observations.stuck[row] == 0)
    ]
    if not missing:
        return []
    return [
        Caution(
            "block_lacks_arm",
            f"{'; '.join(missing[:4])}. Such a block adds nothing to that arm's comparisons.",
            "Read the differences as coming from the other blocks",
        )
    ]


def _disagreement(alpha: float, test: RandomisationTest, model: ModelTest) -> list[Caution]:
    if test.p is None or model.p is None or (test.p < alpha) == (model.p < alpha):
        return []
    return [
        Caution(
            "judges_disagree",
            f"The randomisation test (p {test.p:.2g}) and the {model.name} model (p {model.p:.2g}) fall on different sides of {alpha:g}.",
            "The randomisation test decides; treat the result as close to the line and repeat with more cuttings",
        )
    ]
