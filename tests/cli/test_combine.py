"""``combine``: from a file to JSON and words, or a message and status 2."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from orderly_bench.cli.main import main

THREE = "trial,arm,k,n\nspring,pumice,20,24\nspring,bark,9,24\nautumn,pumice,12,20\nautumn,bark,11,20\nsummer,pumice,8,8\nsummer,bark,3,8\n"


def run(tmp_path: Path, text: str, *flags: str) -> int:
    file = tmp_path / "trials.csv"
    file.write_text(text)
    return main(["combine", str(file), *flags])


def test_json_has_every_key_and_arms_have_their_order(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    assert run(tmp_path, THREE, "--json") == 0
    found = json.loads(capsys.readouterr().out)
    assert {"estimate", "ci_low", "ci_high", "tau2", "i2", "q", "q_p", "prediction_low", "prediction_high"} <= set(
        found
    )
    assert found["trials"] == 3 and found["arms"] == ["bark", "pumice"] and found["estimate"] < 0
    assert [one["name"] for one in found["by_trial"]] == ["spring", "autumn", "summer"]
    assert run(tmp_path, THREE, "--arms", "pumice,bark", "--json") == 0
    turned = json.loads(capsys.readouterr().out)
    assert turned["estimate"] == pytest.approx(-found["estimate"]) and turned["arms"] == ["pumice", "bark"]


def test_columns_are_found_as_people_head_them(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    assert run(tmp_path, THREE, "--json") == 0
    plain = json.loads(capsys.readouterr().out)
    assert run(tmp_path, THREE.replace("trial,arm,k,n", "Season,Treatment,No. rooted,No. stuck"), "--json") == 0
    assert json.loads(capsys.readouterr().out) == plain


def test_words_tell_the_disagreement_before_the_mean(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    assert run(tmp_path, THREE, "--arms", "pumice,bark") == 0
    said = capsys.readouterr().out
    assert said.index("20 of 24 against 9 of 24, +45.8") < said.index("The trials disagree") < said.index("Mean +35.3")
    assert "\u221276.8 to +100.0" in said, "no difference lies above 100 points"
    assert run(tmp_path, "\n".join(THREE.splitlines()[:3])) == 0
    said = capsys.readouterr().out
    assert "One trial" in said and "A next trial" not in said and "\u221265.0 to \u221218.3" in said


@pytest.mark.parametrize(
    ("text", "flags", "said"),
    [
        (THREE.replace("bark,9", "bark,29"), (), "row 3: 29 of 24 can't be"),
        (THREE.replace("bark,9", "bark,9.5"), (), "row 3"),
        (THREE.replace("bark,9,24", "bark,0,0"), (), "row 3: 0 of 0 can't be"),
        (THREE + "spring,sand,3,8\n", (), "there are 3 arms, and a difference has two: bark, pumice, sand"),
        (THREE, ("--arms", "pumice,sand"), "trial spring has no arm sand"),
        (THREE, ("--arms", "pumice"), "name two arms"),
        (THREE, ("--arms", "pumice,pumice"), "name two arms"),
        (THREE + "spring,bark,3,8\n", (), "row 8: arm bark of trial spring comes twice"),
        (THREE + "winter,bark,3,8\n", (), "trial winter has no arm pumice"),
        (THREE.replace("trial,arm", "trial,way"), (), "there is no column 'arm'"),
        ("trial,arm,k,n,n_effective\na,x,3,9,12\na,y,2,9,4\n", (), "row 2, column n_effective"),
        (THREE.replace("spring,bark", "spring,"), (), "row 3, column arm: it has no name"),
        ("trial,arm,k,n\n", (), ""),
    ],
)  # fmt: skip
def test_what_can_not_be_combined_is_told(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], text: str, flags: tuple[str, ...], said: str
) -> None:
    assert run(tmp_path, text, *flags) == 2
    told = capsys.readouterr()
    assert said in told.err and told.err.strip() and not told.out


def test_a_file_that_is_not_there(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["combine", str(tmp_path / "none.csv")]) == 2 and "Check the name" in capsys.readouterr().err
