"""Why a sentence of a conclusion is not carried, each with what to say instead."""

from __future__ import annotations

#: By code, or code/variant: the doubt, and what would remove it.
ABOUT_CLAIMS: dict[str, tuple[str, str]] = {
    "written_otherwise": (
        "{what} of {day} says the other: '{text}'.",
        "Say which stands, and why",
    ),
    "says_more/difference": (
        "'{words}' says there is a difference; the strength is '{strength}'.",
        "Word it as the verdict does",
    ),
    "says_more/wide": (
        "'{words}' reaches further than one trial of these pieces, on this bench, in this season.",
        "Say it of what was tried",
    ),
    "says_more/in_each": (
        "'{words}' says it of each by itself; in {where} alone it is not settled.",
        "Say it over all of them, or of those alone in which it is clear",
    ),
    "says_more/percent": ("'{words}' is the rate of no arm and the difference of no two.", "Give the counts"),
    "says_more/percent_of": ("'{words}' is the rate of another arm; of {name} it is {told}.", "Give the counts"),
    "says_more/count": ("'{words}' is not among the counts.", "Give the counts as they stand under What was counted"),
    "says_more/part": ("'{words}': the counts are {told}.", "Give the counts"),
    "says_more/fate": (
        "'{words}': what was counted is the endpoint; what died or was lost is another count.",
        "Give the endpoint's counts",
    ),
    "says_more/outside": ("'{words}' lies outside the interval, {low} to {high} %.", "Give the interval"),
    "says_more/to_come": (
        "'{words}' speaks of what is to come; this trial counted what was.",
        "Say what was counted, with its interval",
    ),
    "says_more/dose": ("'{words}' says how it goes with the strength. {told}", "Word it as it came out"),
    "says_more/day": ("'{words}': it was looked at on day {days}.", "Give the day of looking"),
    "says_more/unmeasured": (
        "'{words}' is not what this trial set out to compare.",
        "Say it of the endpoint, or call it an observation",
    ),
    "says_more/cost_other_way": (
        "'{words}': by what was kept a plant costs {cost_a} in {a} and {cost_b} in {b}.",
        "Word it as the costs stand",
    ),
    "says_more/cost_open": (
        "'{words}': a plant costs {cost_a} in {a} and {cost_b} in {b}, but their ranges meet or are not known.",
        "Say the costs with their ranges",
    ),
    "says_more/cost_ratio": (
        "'{words}': by what was kept a plant costs {cost_a} in {a} and {cost_b} in {b}.",
        "Give both costs",
    ),
    "says_more/price": ("'{words}': by what was kept a plant of {a} costs {cost}.", "Give the cost as it stands"),
    "says_more/p": (
        "'{words}': of {a} and {b} {p}, {adjusted} adjusted for the other comparisons.",
        "Give the adjusted p",
    ),
    "says_more/p_alone": (
        "'{words}' is so of {a} and {b} alone; adjusted for the other comparisons {adjusted}.",
        "Give the adjusted p",
    ),
    "says_more/stranger": ("'{words}' was not in this trial.", "Compare what was in it"),
    "says_more/well": ("'{words}' has no measure.", "Give the counts"),
    "says_more/ratio": (
        "'{words}': the counts of {a} and {b} are {ratio} times apart; how far from that the truth may lie was not worked out.",
        "Give the difference with its interval",
    ),
    "says_more/ratio_against": ("'{words}': by the counts {a} has {ratio} times what {b} has.", "Give the counts"),
    "says_more/no_ratio": ("'{words}': no ratio was counted that could bear it.", "Give the counts"),
    "says_more/which": (
        "'{words}' says there is a difference, of what no comparison was made.",
        "Name the two that are compared",
    ),
    "says_more/other_way": ("'{words}': it came out the other way, {a} above {b}.", "Word it as the verdict does"),
    "says_more/of_all": (
        "'{words}': {name} did not come out clear against each of the others.",
        "Name those it is clear against",
    ),
    "says_more/look": (
        "'{words}' says how arms compare; nothing was compared here, only counted.",
        "Give the counts, and say what the next trial is to compare",
    ),
    "says_more/alike": (
        "'{words}' says they are alike; not settled does not mean the same.",
        "Word it as the verdict does",
    ),
    "says_more/against": ("'{words}' stands against a clear difference.", "Word it as the verdict does"),
    "decision_ahead": (
        "'{decision}' rests on more than this trial, which does not settle it.",
        "Repeat or hold, or say what else it rests on",
    ),
    "cause_not_varied": (
        "'{words}': a cause that was not varied is a hypothesis.",
        "Call it one, or vary it in the next trial",
    ),
}
