"""The analysis once more in base R: counts, differences and the randomisation p from a trial's endpoint file, by other code than ours."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

DRAWS = 20_000


@dataclass(frozen=True)
class Redone:
    """What the script needs.

    Attributes
    ----------
    file : str
        The endpoint's CSV file, beside the script.
    column : str
        Of the outcome.
    factors : sequence of str
        Columns that name the arms.
    unit, stratum : str
        Columns of units of several cuttings, and of blocks or pairs; blank where there are none.
    drawn : bool
        Whether units were shuffled inside strata, so that the script can shuffle them too.
    said : sequence of str
        What the application found, a line each.
    """

    file: str
    column: str
    factors: Sequence[str]
    unit: str
    stratum: str
    drawn: bool
    said: Sequence[str]


def r_script(one: Redone) -> str:
    """The script, base R alone: ``Rscript analysis.R`` in the folder of the file."""
    named = ", ".join(_quoted(name) for name in one.factors)
    return SCRIPT.format(
        said="\n".join(f"#   {line}" for line in one.said), file=_quoted(one.file), column=_quoted(one.column), factors=f"c({named})",
        unit=_quoted(one.unit), stratum=_quoted(one.stratum), drawn="TRUE" if one.drawn else "FALSE", draws=DRAWS,
    )  # fmt: skip


def _quoted(text: str) -> str:
    return '"' + text.replace("\\", "\\\\").replace('"', '\\"') + '"'


SCRIPT = """# Counts, differences and the randomisation p of a trial, in base R: Rscript analysis.R
# The application found:
{said}
rows <- read.csv({file}, check.names = FALSE, stringsAsFactors = FALSE)
column <- {column}; factors <- {factors}; unit <- {unit}; stratum <- {stratum}; draws <- {draws}
if ("state" %in% names(rows)) rows <- rows[rows[["state"]] != "not stuck", ]
rows$arm <- do.call(paste, c(unname(rows[factors]), sep = " + "))
rows$value <- suppressWarnings(as.numeric(rows[[column]]))
known <- rows[!is.na(rows$value), ]
for (arm in sort(unique(rows$arm))) {{
  own <- known$value[known$arm == arm]
  cat(sprintf("%s: sum %g of %d known, %d stuck, mean %.6g\\n", arm, sum(own), length(own), sum(rows$arm == arm), mean(own)))
}}
# A unit is what was drawn: its value is the mean of its cuttings.
id <- if (nzchar(unit)) known[[unit]] else seq_len(nrow(known))
inside <- if (nzchar(stratum)) known[[stratum]] else rep("all", nrow(known))
first <- !duplicated(id)
value <- as.numeric(tapply(known$value, factor(id, unique(id)), mean))
arm <- known$arm[first]; inside <- inside[first]
arms <- sort(unique(arm))
if (length(arms) > 1) for (other in arms[-1]) {{
  cat(sprintf("%s - %s: %.6g\\n", arms[1], other, mean(value[arm == arms[1]]) - mean(value[arm == other])))
}}
# Fisher's randomisation test: arms change places inside their strata. With the margins of each stratum fixed, d holds what each arm has
# above its expectation and V the covariance of d over all redraws; Q = d' V^-1 d without one arm.
centred <- value - ave(value, inside)
V <- matrix(0, length(arms), length(arms), dimnames = list(arms, arms))
for (s in unique(inside)) {{
  here <- inside == s; n <- sum(here)
  if (n > 1) {{
    size <- as.numeric(table(factor(arm[here], arms)))
    V <- V + sum(centred[here]^2) / (n - 1) * (diag(size, length(arms)) - outer(size, size) / n)
  }}
}}
keep <- seq_along(arms)[-length(arms)]
if ({drawn} && length(arms) > 1 && qr(V[keep, keep])$rank == length(keep)) {{
  inverse <- solve(V[keep, keep, drop = FALSE])
  Q <- function(values) {{
    d <- as.numeric(tapply(values, factor(arm, arms), sum))[keep]
    drop(d %*% inverse %*% d)
  }}
  seen <- Q(centred)
  set.seed(1)
  hits <- 0
  where <- split(seq_along(centred), inside)
  for (i in seq_len(draws)) {{
    shuffled <- centred
    for (w in where) if (length(w) > 1) shuffled[w] <- centred[w[sample.int(length(w))]]
    hits <- hits + (Q(shuffled) >= seen - 1e-9)
  }}
  p <- (1 + hits) / (1 + draws)
  cat(sprintf("randomisation p = %.5f, Monte Carlo error %.5f\\n", p, sqrt(p * (1 - p) / draws)))
}} else cat("randomisation p: not redone here for this layout, or nothing differs\\n")
"""
