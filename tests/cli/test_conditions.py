"""``conditions``: from a logger's file to JSON and words, or a message and status 2."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from orderly_bench.cli.main import main

LOG = "time,air_c,rh,ppfd\n2026-05-07 12:00,16,80,100\n2026-05-07 13:00,20,70,300\n2026-05-07 14:00,26,60,200\n"


def run(tmp_path: Path, text: str, *flags: str) -> int:
    file = tmp_path / "log.csv"
    file.write_text(text)
    return main(["conditions", str(file), *(flags or ("--band", "18..24"))])


def test_json_has_every_key(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    assert run(tmp_path, LOG, "--band", "18..24", "--json") == 0
    found = json.loads(capsys.readouterr().out)
    assert found["vpd_kpa_mean"] == pytest.approx(0.8026, abs=1e-3)
    assert found["dli"] == {"2026-05-07": pytest.approx(2.16)}
    assert {key: found[key] for key in ("rows", "duplicates", "gaps", "spikes")} == {
        "rows": 3, "duplicates": 0, "gaps": 0, "spikes": 0
    }  # fmt: skip
    assert [found[f"{what}_{side}"] for side in ("below", "above") for what in ("hours", "degree_hours")] == [
        1,
        2,
        1,
        2,
    ]


@pytest.mark.parametrize(
    "text",
    [
        LOG.replace("air_c", "air_f").replace(",16,", ",60.8,").replace(",20,", ",68,").replace(",26,", ",78.8,"),
        LOG.replace(",", ";").replace(";16;", ";16,0;"),
        LOG.replace(":00,", ":00+01:00,"),
        "\n".join([LOG.splitlines()[0], *LOG.splitlines()[:0:-1]]),
    ],
)
def test_other_ways_of_writing_it_say_the_same(tmp_path: Path, capsys: pytest.CaptureFixture[str], text: str) -> None:
    assert run(tmp_path, text) == 0
    said = capsys.readouterr().out
    assert "Below 18 °C: 1.0 h, 2.0 degree-hours" in said and "Light, 2026-05-07: 2.16 mol/m2" in said


@pytest.mark.parametrize(
    ("text", "flags", "said"),
    [
        ("", (), "the file is empty"),
        ("time,air_c\n", (), "fewer than two times"),
        (LOG.replace("time", "when"), (), "not called time and air_c (or air_f). They are: when, air_c"),
        (LOG.replace("air_c", "air"), (), "Add --as-written to find them by these names"),
        (LOG.replace("2026-05-07 13:00", "7 May 13:00"), (), "row 3, column time: '7 May 13:00' is no time"),
        (LOG.replace(",20,", ",warm,"), (), "row 3, column air_c: 'warm' is not a number"),
        (LOG.replace(",70,", ",170,"), (), "row 3, column rh: 170 can't be"),
        (LOG.replace(",300", ",-300"), (), "row 3, column ppfd: -300 can't be"),
        (LOG.replace("13:00,", "13:00+01:00,"), (), "some times have an offset and some have none"),
        (LOG.replace(",16,", ",61,").replace(",20,", ",68,"), (), "hardly in Celsius"),
        (LOG, ("--band", "18-24"), "two points between"),
        (LOG, ("--band", "24..18"), "is none"),
        (LOG, ("--band", "18..24", "--tz", "Nowhere"), "Europe/London"),
    ],
)  # fmt: skip
def test_what_can_not_be_read_is_told(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], text: str, flags: tuple[str, ...], said: str
) -> None:
    assert run(tmp_path, text, *flags) == 2
    told = capsys.readouterr()
    assert said in told.err and not told.out


def test_a_maker_s_file_is_read_when_that_is_asked_for(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    made = "Title\nDate Time,Temp °F,RH %\n05/14/2026 02:00 PM,68,80\n05/14/2026 03:00 PM,68,80\n"
    assert run(tmp_path, made, "--band", "18..24") == 2
    capsys.readouterr()
    assert run(tmp_path, made, "--band", "18..24", "--as-written", "--json") == 0
    told = json.loads(capsys.readouterr().out)
    assert (told["rows"], told["hours_below"], told["hours_above"]) == (2, 0, 0)
