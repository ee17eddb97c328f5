"""A sealed backup opens whole with its passphrase, or not at all."""

from __future__ import annotations

import io
import os

import pytest

from orderly_bench.core.errors import InvalidInput, UnusableData
from orderly_bench.database import sealed_file
from orderly_bench.database.sealed_file import MAGIC, PIECE, SALT, TAG, is_sealed, seal, unseal

WORDS = "gravel heron lantern moss"


def sealed(content: bytes) -> bytes:
    out = io.BytesIO()
    seal(io.BytesIO(content), out, WORDS)
    return out.getvalue()


def opened(content: bytes, words: str = WORDS) -> bytes:
    out = io.BytesIO()
    unseal(io.BytesIO(content), out, words)
    return out.getvalue()


@pytest.mark.parametrize("length", [0, 1, PIECE - 1, PIECE, PIECE + 1, 3 * PIECE])
def test_it_comes_back_as_it_was_and_nothing_of_it_can_be_read(length: int) -> None:
    content = (b"Lavandula " * (length // 10 + 1))[:length]
    kept = sealed(content)
    assert opened(kept) == content and (length < 10 or b"Lavandula" not in kept)
    assert is_sealed(io.BytesIO(kept)) and not is_sealed(io.BytesIO(content))
    assert kept != sealed(content), "another salt each time"


def test_another_passphrase_or_any_change_is_refused(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(sealed_file, "PIECE", 1000)
    content = os.urandom(3500)
    kept = sealed(content)
    head, whole = len(MAGIC) + SALT, 1000 + TAG
    pieces = [kept[head + i * whole : head + (i + 1) * whole] for i in range(4)]
    wrong = [
        kept[:-1], kept[:head], kept + b"x", kept[: head + 2 * whole], kept[:head] + pieces[1] + pieces[0] + pieces[2] + pieces[3],
        kept[:head] + pieces[0] + pieces[0] + pieces[2] + pieces[3], kept[: head + 5] + bytes([kept[head + 5] ^ 1]) + kept[head + 6 :],
        kept[: len(MAGIC)] + bytes([kept[len(MAGIC)] ^ 1]) + kept[len(MAGIC) + 1 :],
    ]  # fmt: skip
    assert opened(kept) == content
    for changed in wrong:
        with pytest.raises(UnusableData, match="passphrase"):
            opened(changed)
    with pytest.raises(UnusableData, match="passphrase"):
        opened(kept, WORDS + " ")
    with pytest.raises(UnusableData, match="not sealed"):
        opened(b"PK\x03\x04")


def test_a_short_passphrase_seals_nothing() -> None:
    with pytest.raises(InvalidInput, match="12 characters"):
        seal(io.BytesIO(b"x"), io.BytesIO(), "too short")
