"""The words of the audit trail."""

from __future__ import annotations

from orderly_bench.trial.audit import RESULTS_STAND, Action

#: As labs have them on record.
ON_RECORD = {
    "said where plants went",
    "drew who is scored again",
    "saw to it before sticking",
    "took back that it was seen to",
    "added a person",
    "amended the plan",
    "began it from another",
    "changed a person",
    "changed the lab's settings",
    "changed the own password",
    "closed a check",
    "concluded",
    "corrected a score",
    "corrected the way of looking",
    "counted beside the trial",
    "created the trial",
    "described a stock plant",
    "did a job",
    "drew the layout",
    "finished sticking",
    "gave a link for a new password",
    "handed a trial over",
    "handed an open check over",
    "kept a bench",
    "kept a medium",
    "kept a method card",
    "kept a stock plant",
    "kept what a logger read",
    "left a job out",
    "locked the plan",
    "looked early",
    "made a calendar address",
    "marked as prepared",
    "moved a tray",
    "moved a unit",
    "noted a cutting",
    "noted a genus",
    "noted how a cutting went in",
    "noted how a lot went in",
    "opened a check",
    "put a code in place of a name",
    "recorded a prediction",
    "recorded an incident",
    "recorded another treatment",
    "redrew the layout",
    "replaced a cutting",
    "saved the design",
    "saved the media",
    "saved the question",
    "set a new password by a link",
    "set day 0",
    "set how a lot was held",
    "stood trays on a bench",
    "stuck a tray",
    "took a design made elsewhere",
    "took a job back",
    "took a score back",
    "took another way",
    "turned the second factor off",
    "turned the second factor on",
    "was shown the arms",
    "withdrew a calendar address",
    "withdrew what a logger read",
    "wrote a note",
}


def test_acts_on_record_keep_their_words() -> None:
    """A word changed would part the trail in two, and results would no longer be known to stand."""
    assert {act.value for act in Action} == ON_RECORD
    assert {act.value for act in RESULTS_STAND} == {"concluded", "handed a trial over", "said where plants went"}
