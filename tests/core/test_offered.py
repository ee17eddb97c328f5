"""What is offered to a conclusion is what the same program would call carried, and never more."""

from __future__ import annotations

from orderly_bench.core.conclude.offered import offered
from orderly_bench.core.conclude.sentences import Mark, mark
from orderly_bench.core.responses.kind import Response
from tests.core.test_conclusion import ALIKE, LOOK, OPEN_STILL, SHOWN, THREE


def test_what_is_clear_is_offered_with_its_counts() -> None:
    found = offered(SHOWN, Response.ROOTED)
    assert found.carried == ("Pumice rooted more than bark: 22 of 24 rooted against 11 of 24.",)
    assert found.not_carried == ()


def test_what_is_open_is_named_with_why_it_is_not_carried() -> None:
    found = offered(OPEN_STILL, Response.ROOTED)
    assert found.carried == ()
    assert [one.sentence for one in found.not_carried] == [
        "Pumice rooted more than bark.",
        "Pumice and bark are equally good here.",
    ]
    assert all(one.mark is Mark.BEYOND and one.doubts for one in found.not_carried)


def test_what_is_alike_is_offered_as_that() -> None:
    assert offered(ALIKE, Response.ROOTED).carried == ("Pumice and bark are equally good here.",)


def test_of_several_pairs_each_says_its_own() -> None:
    found = offered(THREE, Response.FIT)
    assert len(found.carried) == 2 and all("water" in sentence for sentence in found.carried)
    assert {one.sentence.split()[0] for one in found.not_carried} == {"IBA"}


def test_nothing_is_offered_of_a_look_or_of_other_kinds() -> None:
    for facts, response in ((None, Response.ROOTED), (LOOK, Response.ROOTED), (SHOWN, Response.ROOT_COUNT)):
        assert offered(facts, response) == offered(None, Response.ROOTED)


def test_all_that_is_offered_is_carried_when_typed() -> None:
    for facts in (SHOWN, ALIKE, THREE, OPEN_STILL):
        for sentence in offered(facts, Response.ALIVE).carried:
            assert mark(sentence, facts).mark is Mark.CARRIED, sentence
