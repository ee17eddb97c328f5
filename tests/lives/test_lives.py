"""Whole trials of seeds, lived through the operations and read back from every page and file by rules that must hold of all."""

from __future__ import annotations

from pathlib import Path

import pytest
from sqlalchemy.orm import Session

from tests.factories import create_person
from tests.lives import rules
from tests.lives.life import live
from tests.web.conftest import SignIn

FEW, MANY = 60, 2_000


def held(session: Session, sign_in: SignIn, folder: Path, seed: int) -> None:
    """One life, held against every rule."""
    actor, scorer = create_person(session), create_person(session, "scorer")
    trial = live(session, actor, scorer, seed)
    client = sign_in(person=actor)
    pages = rules.pages_of(client, trial)
    rules.no_hole(pages)
    rules.counts_agree(session, client, trial, pages)
    rules.doubts_travel(session, trial, pages)
    rules.doubts_are_known_early(session, trial, pages)
    rules.no_verdict_of_a_look(trial, pages)
    rules.conclusions_are_marked(trial, pages)
    rules.files_open(client, trial)
    rules.the_command_says_the_same(session, client, trial, folder)
    own = sign_in(person=scorer)
    for page in ("today", f"trials/{trial.id}/score", f"trials/{trial.id}/design", f"trials/{trial.id}/compare"):
        assert own.get(f"/{page}").status_code in (200, 403), page


@pytest.mark.parametrize("seed", range(FEW))
def test_a_life_holds_the_rules(session: Session, sign_in: SignIn, tmp_path: Path, seed: int) -> None:
    held(session, sign_in, tmp_path, seed)


@pytest.mark.long
@pytest.mark.parametrize("seed", range(FEW, MANY))
def test_many_lives_hold_the_rules(session: Session, sign_in: SignIn, tmp_path: Path, seed: int) -> None:
    held(session, sign_in, tmp_path, seed)
