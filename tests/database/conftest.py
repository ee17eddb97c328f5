"""Who acts in these tests."""

from __future__ import annotations

import pytest
from sqlalchemy.orm import Session

from orderly_bench.trial.models import Person
from tests.factories import create_person


@pytest.fixture
def actor(session: Session) -> Person:
    return create_person(session)
