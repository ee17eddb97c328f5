"""Doubts, each with what would remove it."""

from __future__ import annotations

#: By code, or code/variant: the doubt, and what would remove it.
CAUTIONS: dict[str, tuple[str, str]] = {
    "roots_vanished": (
        "{n} had roots, then none, between {days}.",
        "Look again; correct the score that is wrong, with the reason",
    ),
    "living_after_dead": (
        "{n} {n:~was|were} dead, then living, between {days}.",
        "Correct the earlier death, with the reason",
    ),
    "check_before_sticking": (
        "The check of day {planned} is dated {day}, before sticking.",
        "Correct day 0 or the date of the check",
    ),
    "checks_out_of_order": (
        "The check of day {later} is dated before that of day {earlier}.",
        "Correct the date that is wrong",
    ),
    "does_not_reconcile": (
        "{arm}: {parts} = {total}, not the {stuck} stuck.",
        "Find the cuttings that are missing or counted twice",
    ),
    "written_off_early": (
        "{n} {n:~was|were} called dead on day {day}; the plan says not before day {dead_from}.",
        "Score them 'looks dead' and leave them in for a second look",
    ),
    "arm_without_check": ("{arm} was not examined at this check.", "Score it on the same days as the others"),
    "incident": (
        "{kind}, {days}: {n:unit|units} touched ({spread}).",
        "Compare again without them; see whether the answer changes",
    ),
    "seen_on_the_piece": (
        "{names} {n:~is|are} seen on the piece itself: it is scored by codes, but it can't be blind.",
        "Have it scored by someone who does not know what is asked",
    ),
    "not_blind": (
        "{who} scored knowing, or able to know, the arms.",
        "Have a drawn share scored again by a blind scorer",
    ),
    "not_blind/before": (
        "It was scored before there was a plan here: nobody says whether who looked knew the arms.",
        "Have the next one scored by codes",
    ),
    "scorers_part": (
        "Two scorers of the same {n:cutting|cuttings} agree little on what is rooted: kappa {kappa}.",
        "Look at the cuttings they part over together, write down the rule, and score again",
    ),
    "scorers_part/number": (
        "Of two scorers of the same {n:cutting|cuttings} the second counted {more} roots in the mean.",
        "Agree on what counts as a root; let each scorer score all arms",
    ),
    "day_zero_approximate": (
        "The sticking day is approximate, so days are ranges; the middle is used.",
        "Find the exact day if you can",
    ),
    "not_drawn": ("Beside the trial, not drawn, so in no comparison: {groups}.", "Count it apart on the Score page"),
    "not_drawn/counted": (
        "Beside the trial, not drawn, so in no comparison: {groups}.",
        "Read it as a hint of what to test",
    ),
    "died_since": (
        "Of what had rooted at the endpoint {n} died by {day}: {told}. The verdict is that of the endpoint.",
        "See whether the answer changes when they count as failed",
    ),
    "not_by_lot": (
        "The pieces came to their arms {how}, not by lot: the p is a permutation's and takes for granted that they could as well have come "
        "the other way.",
        "Repeat it with pieces drawn to their arms",
    ),
    "not_by_lot/best": (
        "The best pieces went to one arm: whatever differs may be theirs, so nothing is decided.",
        "Repeat it with pieces drawn to their arms",
    ),
    "not_as_planned": (
        "{n:cutting was|cuttings were} not treated as planned ({parts}). The comparison goes by the plan.",
        "See the counts as done beside it, and the comparison without them",
    ),
    "one_batch": ("Batches differ; one batch can't say by how much.", "Add more batches, or stick some to spare"),
    "few_batches": ("A fit to {n:batch|batches} is itself uncertain.", "Eight or more batches would steady it"),
    "direction_differs": (
        "{a} against {b}: p is clear, but {parts}. Figures that point different ways do not say which is ahead.",
        "Look at the arms in each block by themselves; repeat with as many units of every arm in every block",
    ),
    "not_joined": (
        "{pairs} never stood in one block, nor in blocks that others join: no difference, p or verdict between them.",
        "Put {arms} side by side in one block",
    ),
    "varies_between_strata": (
        "{a} against {b} is not the same in every {what}: {each} (p {p}). So the two are not called the same.",
        "Compare them in each {what} by itself",
    ),
    "reverses": (
        "{a} is ahead in {up}, {b} in {down} (reversal p {p}): no one difference speaks for all.",
        "Compare them in each {what} by itself, with more units there",
    ),
    "reverses/fragile": (
        "{a} seems ahead in {up}, {b} in {down} (reversal p {p}); with so few units in a block that may be chance.",
        "More units of each arm in every block would tell",
    ),
    "hurdle": (
        "{a} against {b}: {rooted_a} and {rooted_b} rooted. {why}, so what the rooted have is not called the same.",
        "Compare rooting itself first",
    ),
    "hurdle/unknown": (
        "Whether the cuttings rooted is not known beside their grades, so {heading} is not called the same.",
        "Say for every cutting whether it rooted",
    ),
    "cannot_convince/family": (
        "Whatever had been seen, {names} could not have come out below {alpha}: the smallest p that can be reached is {p}.",
        "Take more units per arm, or fewer comparisons, such as each arm against a control alone",
    ),
    "few_strata": (
        "{a} against {b}: each block, wave or whole plot holds so few units of a side that the interval needs five of them, and there are {n}.",
        "Take more of them, or more units in each",
    ),
    "pairs_dispersion": (
        "Blocks, pairs or whole plots hold a single unit of a side, so how much root numbers vary is taken from what the model leaves over; by likelihood "
        "such intervals hold the true ratio in 74 to 80 of 100.",
        "Two or more units of each arm in every block would tell it better",
    ),
    "ratio_in_blocks": (
        "With fewer than eight units of a side in a block, wave or whole plot, an interval of a ratio holds the true one in 89 to 93 of 100, not in 95.",
        "Read its ends as a little too near; p does not rest on it",
    ),
    "margin_wide": (
        "A margin of {margin} rooted-days is over a third of the {horizon} days looked at: is that what would change nothing?",
        "Name the smallest number of days that would change what you do",
    ),
    "unit_sizes_differ/weighted": (
        "Units differ much in size ({least} to {most} cuttings). With larger ones counting for more {changed}.",
        "Stick as many cuttings in every unit",
    ),
    "interaction_in_blocks": (
        "What {factors} do together goes with the blocks, so nothing is said of that; what each does by itself is not touched.",
        "Let another interaction go with the blocks next time",
    ),
    "judges_disagree/term": (
        "Of {factor}, the randomisation test (p {p}) and the {model} (p {model_p}) fall on different sides of {alpha}.",
        "The randomisation test decides; treat the result as close to the line and repeat with more units",
    ),
    "not_drawn/kinds": (
        "{factors} {n:~is a property|are properties} of the pieces that nobody drew: the p speaks of these pieces.",
        "Take each kind from several stock plants",
    ),
    "cannot_convince": (
        "No outcome of this design could convince: even all against none gives p = {p}, not below {alpha}.",
        "Take more units per arm, or fewer blocks",
    ),
    "pair_cannot_convince": (
        "No single pair of arms can ever be clear: its smallest p over all pairs is {p}.",
        "Take more units per arm, or fewer arms",
    ),
    "low_power/ended": (
        "Planned so, {pair} would have been found in {found} of 100 trials if it came as guessed: what is not settled says little, and what such a trial does find tends to look larger than it is.",
        "Repeat it with more per arm before the difference is counted on",
    ),
    "low_power": (
        "If it comes as guessed, this design finds {pair} in {found} of 100 trials; in the others nothing is settled.",
        "Stick more per arm, ask for a larger difference, or take it as a look",
    ),
    "cuttings_share_units": (
        "{each} cuttings of one unit share its water and warmth: {units:unit|units} per arm {units:~is|are} "
        "{units:replicate|replicates}, not {cuttings}.",
        "More units with fewer cuttings in each say more, at the same number of cuttings",
    ),
    "few_whole_plots": (
        "{n:whole plot|whole plots} a level: the factor on them can hardly be told from its plots.",
        "Take at least four whole plots of each level",
    ),
    "endpoint_before_weeks": (
        "On day {day}, the endpoint, the {weeks} that {source} expects are not over: what has no roots yet would count as not rooted.",
        "Day {late} would be late enough",
    ),
    "stop_before_weeks": (
        "The stop rule may end the trial on day {day}, before the {weeks} that {source} expects are over.",
        "Let it run to day {late}, or say what would be known by then",
    ),
    "season_one_wave": (
        "With one wave per season the difference can't be told apart from that particular week.",
        "Plan at least two waves per season before season can mean anything",
    ),
    "property_not_assigned": (
        "{what} is a property of the pieces, not assigned to them: the p speaks of these pieces.",
        "Take each kind from several stock plants",
    ),
    "no_blank": ("{name} has no level 'none', so nothing says what it adds.", "Add 'none', or the carrier alone"),
    "mixed_up": (
        "{name} can't be told from {others}: the arms differ in both, so a difference may be that of either.",
        "Make it the same in every arm, or add the arms that tell them apart",
    ),
    "lid_travels": (
        "Lids that held one arm alone ({arms}): what the lid does can't be told from the arm, and the lids are its replicates.",
        "Put every arm under every lid, or count the lids",
    ),
    "look_only": (
        "A look can suggest what to test; its report never says 'better'.",
        "Choose test when the answer must carry a decision",
    ),
    "aliased": (
        "{factors} changed together from arm to arm: what one of them does can't be told from the others.",
        "Compare whole arms, and add the arms that would tell them apart",
    ),
    "aliased_with_interaction": (
        "Not every combination was stuck: {factors} can't be told from what other factors do together, so what is said of one "
        "factor holds if the factors act separately.",
        "Stick all combinations to see whether they do",
    ),
    "pairs_lead": (
        "{n:combination|combinations} of the factors' levels {n:~was|were} not stuck, so the headline speaks of arms, not of factors; each "
        "factor is compared below where the others stood alike.",
        "Stick every combination where the factors are to lead",
    ),
    "block_is_arm": (
        "Every block holds one arm only, so blocks and arms can't be told apart: no p and no difference.",
        "Spread each arm over all blocks, or leave the blocks out if they were none",
    ),
    "one_arm_block": (
        "{blocks:block holds|blocks hold} one arm only ({names}) and {blocks:~says|say} nothing about a difference: "
        "{cuttings:cutting|cuttings} set aside.",
        "Stick every arm in every block",
    ),
    "block_lacks_arm": (
        "{missing}. Such a block adds nothing to that arm's comparisons.",
        "Read the differences as coming from the other blocks",
    ),
    "described_only": (
        "{response} is unknown for {out} of {stuck} of {arm} ({share}): described by arm, not tested.",
        "Look at and count the rest, or compare what was seen on all",
    ),
    "dose_saturated": (
        "Three strengths of {factor}: the curve goes through all of them whatever they are, so it tells nothing of its own shape.",
        "Try four or more strengths to see where more stops being better",
    ),
    "short_stock": (
        "Not all stood ready: {what}.",
        "Compare what each arm was really given",
    ),
    "unproven": (
        "{names} {n:~is|are} unproven, the strength unknown: what worked in it, or did not, can't be said.",
        "Write down what went in, how much and how long; an arm with the same soak without it shows what it adds",
    ),
    "hormone_not_named": (
        "{names} {n:~names|name} no hormone: what was given can't be repeated.",
        "Say which it is, and whether acid or salt: IBA 500 ppm, K-IBA 500 ppm",
    ),
    "care_for_some": (
        "{care}: for {arms} alone, so a difference may be its doing and not that of {asked}.",
        "Give all arms the same care, or ask it",
    ),
    "leafless_beside_leafy": (
        "Pieces with leaves ({leafy}) and without ({leafless}) stand together: what keeps leaves from wilting soaks a base without them.",
        "Wet the leaves and keep the medium just damp; another time give them trays or zones of their own",
    ),
    "lot_exposed": (
        "Exposed to disease: {told}.",
        "Read losses as those of disease too; repeat with clean plants, pots and dishes",
    ),
    "held_long": (
        "Held longer than {most:g} hours before sticking, not on purpose: {told}.",
        "Compare with pieces stuck at once before the rate is counted on",
    ),
    "shared_vessel": (
        "Units of different arms share {n:vessel|vessels}: what one gives off to the medium reaches the others.",
        "Give every unit a vessel of its own",
    ),
    "shared_vessel/all": (
        "All arms share {n:vessel|vessels}: they stand in the same medium, which is one unit for them all, and what one gives off reaches the others.",
        "Give each arm several vessels of its own",
    ),
    "earlier_roots": (
        "{n:cutting|cuttings} had roots when stuck ({parts}): new roots alone count, and {unknown} of them "
        "{unknown:~is|are} unknown.",
        "Write the roots before and after, or stick pieces without roots",
    ),
    "earlier_roots/said": (
        "Roots were there when it was stuck: {arms}. What is seen later may be those.",
        "Count the roots before and after, or stick pieces without roots",
    ),
    "few_units": (
        "Only {units:unit|units} in the smallest arm: intervals from few units are fragile.",
        "More units with fewer cuttings each would say more",
    ),
    "few_units/groups": (
        "Only {units} {what} in the smallest arm: what differs between {what} rests on so many.",
        "More {what} with fewer cuttings each would say more",
    ),
    "interaction": (
        "What {first} does may depend on {second} (interaction p {p}): a difference over all levels is then a mean of unlike ones.",
        "Read the arms one by one before acting on a factor alone",
    ),
    "interval_against_p": (
        "{a} against {b}: the interval and the p fall on different sides of no difference. They are worked out in different ways; {why}.",
        "Treat it as close to the line; more units would bring the two together",
    ),
    "judges_disagree": (
        "The randomisation test (p {p}) and the {model} (p {model_p}) fall on different sides of {alpha}.",
        "The randomisation test decides; treat the result as close to the line and repeat with more cuttings",
    ),
    "left_out": (
        "{out:cutting has|cuttings have} no known outcome ({parts}).{many}",
        "Find and score them if you can; the range shows what they could do to each difference",
    ),
    "looked_on_different_days": (
        "{a} was looked at on day {day} and {b} was not: which of them rooted sooner can't be told from that. By the "
        "first and last days on which each cutting could have rooted, {a} minus {b} lies between {low} and {high} mean rooted-days.",
        "Look at every arm on the same days",
    ),
    "looked_early": (
        "Arms were compared {n:time|times} before the end, first on {first}: each early look is another chance for chance.",
        "Plan looks beforehand, so that they share the evidence; until it is repeated the answer is suggested at most",
    ),
    "model_not_finite": (
        "The {model} has no finite fit here, so it gives no second opinion; the randomisation test stands.",
        "Nothing need be done; more cuttings would let the model fit",
    ),
    "no_overdispersion": (
        "Root numbers vary as chance alone would have it, so Poisson is used.",
        "Nothing need be done",
    ),
    "no_interval/few": (
        "The shift has no interval of this level in {names}, for so few units stand on a side: nothing is said of its size.",
        "Take more units of each arm",
    ),
    "no_interval": (
        "The shift has no interval in {names}, for so many cuttings had roots of one length, or none: nothing is said of its size.",
        "Compare rooting itself, or look at a later day",
    ),
    "no_ratio": (
        "An arm with mean 0 has no ratio; its p and the means stand alone.",
        "Compare rooting itself, or look at a later day",
    ),
    "no_ratio/not_fitted": (
        "{a} against {b}: so few units stand beside each other that no ratio can be worked out; p and the means stand alone.",
        "Take more units, or compare rooting itself",
    ),
    "none_or_all": (
        "{arm}: {which} of {n} {did}{inside}. The true rate is {limit} at 95 %, one-sided{but}.",
        "More cuttings of this arm would narrow it",
    ),
    "not_concurrent": (
        "Arms were stuck on different days ({told}): what those days did can't be told from what the arms did.",
        "Stick all arms of a comparison on the same days; days after sticking are each lot's own",
    ),
    "nothing_known": (
        "{arm}: of none of its {out:cutting|cuttings} is the outcome known, so it stands in no comparison.",
        "Score it if it can still be scored",
    ),
    "not_stuck_uneven": (
        "Not stuck: {parts}. What was left out of an arm may have been its weaker pieces.",
        "Say why for each; draw the arm of a piece only after it has passed as fit to stick",
    ),
    "nothing_varies": (
        "{what}: where all did the same, nothing shows whether these treatments differ.",
        "Check at another day, or compare speed, number or length of roots",
    ),
    "one_unit": (
        "{arms}: one unit is one replicate, however many cuttings it holds; no p and no interval can be had.",
        "Give each arm several pots or vessels of its own",
    ),
    "one_unit/cutting": (
        "{arms}: a single cutting is one replicate; no p can be had, and its interval is all but everything.",
        "Stick more of this arm, or leave it out of the comparison",
    ),
    "over_taken": (
        "{donor}: {n:piece|pieces} are to be taken, {most} at most should be.",
        "Take the rest from another plant of the same age and health, and say so in the pieces",
    ),
    "overall_without_pair": (
        "Over all arms there is a difference ({overall}), but no pair is clear: {n:comparison shares|comparisons share} one "
        "standard of evidence.",
        "Name beforehand the comparison that matters, or stick more of the arms in question",
    ),
    "overall_without_pair/reverse": (
        "A pair is clear, though over all arms the test is not ({overall}): it spreads its evidence over every arm.",
        "The pair was judged by its own standard; repeat it on its own to be surer",
    ),
    "prediction_by_scorer": (
        "The prediction came true under its author's own scores: {author} scored {own} of {scored} knowing the arms.",
        "Have a drawn share scored again by someone who does not know them",
    ),
    "range_changes_verdict": (
        "{a} against {b}: with the {out:unknown outcome|unknown outcomes} against it, or for it, the verdict is not the same "
        '("{low}" and "{high}").',
        "Find and score them; until then it can't be told",
    ),
    "range_changes_verdict/neither": (
        '{a} against {b}: with the {out:unknown outcome|unknown outcomes} all against it, or all for it, it is "{low}".',
        "Find and score them; until then it can't be told",
    ),
    "range_changes_verdict/direction": (
        "{a} against {b}: with the {out:unknown outcome|unknown outcomes} against it, or for it, the one or the other is ahead.",
        "Find and score them; until then it can't be told",
    ),
    "raw_against_adjusted": (
        "{a} against {b}: {raw} as counted, {adjusted} adjusted for where they stood.",
        "The adjusted difference compares like with like; see how the arms are spread over blocks and units",
    ),
    "raw_against_adjusted/turned": (
        "{a} against {b}: the means as counted point one way, the comparison adjusted for where they stood the other.",
        "The adjusted one compares like with like; see how the arms are spread over blocks and units",
    ),
    "start_differs": (
        "Arms did not start alike ({how}). With that in the model every verdict stays.",
        "Draw the pieces at random inside each size and grade",
    ),
    "start_differs/changes": (
        "Arms did not start alike ({how}). With that in the model {changed}.",
        "Repeat it with pieces drawn at random inside each size and grade",
    ),
    "start_differs/alone": (
        "Arms did not start alike ({how}), and this layout has no comparison adjusted for it.",
        "Draw the pieces at random inside each size and grade",
    ),
    "season_not_assigned": (
        "Season can't be assigned: its p permutes waves and assumes that they could have fallen either way.",
        "Repeat over years before trusting it",
    ),
    "season_not_assigned/other": (
        "Whole waves carried {factors}, and waves can't be assigned: the p permutes them and assumes that they could have fallen either way.",
        "Stick every level in every wave next time",
    ),
    "season_not_waves": (
        "{factors} {n:~was|were} not drawn, and without waves {n:~it|they} can't be told apart from that particular time: no p and no verdict.",
        "Give the wave of every cutting, with at least two waves for each level",
    ),
    "silent_block": (
        "In {silent} of {strata} all or none {did}; the comparison rests on the other {rest}.",
        "Larger blocks would let more of them speak, or judge at a day when about half have rooted",
    ),
    "unit_sizes_differ": (
        "Units differ in size: {a} against {b} by unit means is over a point away from the difference of k of n.",
        "The unit means were randomised and decide; keep units of one size next time",
    ),
    "waves_not_replicated": (
        "With one wave on a side the difference can't be told apart from that particular week.",
        "Stick at least two waves of each",
    ),
}
