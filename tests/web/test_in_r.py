"""The analysis once more in R: other code, the same counts, differences and p within Monte Carlo error."""

from __future__ import annotations

import re
import subprocess
from pathlib import Path

import numpy as np
import pytest
from sqlalchemy.orm import Session

from orderly_bench.core.layouts.arrange import arrange
from orderly_bench.core.layouts.from_rows import layout_of
from orderly_bench.core.observations.table import Observations, Row
from orderly_bench.evidence.in_r import redone
from orderly_bench.formats.analysis_r import Redone, r_script
from orderly_bench.machine import packages
from orderly_bench.trial.models import Trial
from tests.factories import FACTORS, create_finished, create_person, evidence
from tests.web.conftest import SignIn
from tests.web.test_package import unpacked


@pytest.fixture
def trial(session: Session) -> Trial:
    made = create_finished(session, create_person(session), create_person(session, "scorer"), "A", factors=[FACTORS[0]], cuttings_per_arm=12)  # fmt: skip
    session.commit()
    return made


def test_the_package_holds_the_script_with_what_was_found(session: Session, sign_in: SignIn, trial: Trial) -> None:
    script = unpacked(sign_in, trial).read("analysis.R").decode()
    found = evidence(session, trial)
    assert found.analysis is not None and f"randomisation p = {found.analysis.test.p:.6g}" in script
    assert (
        f'read.csv("endpoint-{trial.code}.csv"' in script
        and "{{" not in script
        and "drawn" not in script.split("set.seed")[1]
    )
    again = redone(found)
    assert (
        again is not None and again.drawn and again.column == "rooted" and again.stratum == "block" and not again.unit
    )


def test_names_are_quoted_so_that_no_text_runs() -> None:
    script = r_script(Redone("e.csv", "rooted", ['a"); quit("'], "", "", True, ["x"]))
    assert 'c("a\\"); quit(\\"")' in script


def observed(seed: int, arms: int, blocks: int, each: int, per: int, counts: bool) -> tuple[Observations, list[str]]:
    rng, rows, lines = np.random.default_rng(seed), [], ["medium,unit,block,rooted,root_count,state"]
    for b in range(blocks):
        for a in range(arms):
            for u in range(each):
                for _ in range(per):
                    rooted = int(rng.random() < 0.35 + 0.15 * a)
                    number = int(rooted * (1 + rng.poisson(2 + a)))
                    unit, block = f"u{b}-{a}-{u}", f"b{b}"
                    value = float(number if counts else rooted)
                    rows.append(Row((f"m{a}",), value, block if blocks > 1 else None, unit=unit if per > 1 else None))
                    lines.append(f"m{a},{unit},{block},{rooted},{number},alive")
    return arrange(("medium",), rows), lines


@pytest.mark.long
@pytest.mark.parametrize(("arms", "blocks", "each", "per", "counts"), [(2, 1, 14, 1, False), (3, 4, 3, 1, False), (2, 3, 3, 4, False), (3, 1, 12, 1, True)])  # fmt: skip
def test_r_finds_the_same(tmp_path: Path, arms: int, blocks: int, each: int, per: int, counts: bool) -> None:
    from orderly_bench.core.judgement.analysis import analyse
    from orderly_bench.core.judgement.settings import Settings
    from orderly_bench.core.responses.kind import Response

    packages.install(("r-base-core",))
    o, lines = observed(7, arms, blocks, each, per, counts)
    response = Response.ROOT_COUNT if counts else Response.ROOTED
    found = analyse(o, Settings(response=response))
    assert found.test.p is not None and layout_of(o).drawn() is not None
    (tmp_path / "e.csv").write_text("\n".join(lines) + "\n")
    redo = Redone("e.csv", response.value, ["medium"], "unit" if per > 1 else "", "block" if blocks > 1 else "", True, ["x"])  # fmt: skip
    (tmp_path / "analysis.R").write_text(r_script(redo))
    done = subprocess.run(["Rscript", "analysis.R"], cwd=tmp_path, capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr
    p, error = map(float, re.findall(r"randomisation p = ([0-9.]+), Monte Carlo error ([0-9.]+)", done.stdout)[0])
    assert abs(p - found.test.p) < 5 * max(error, 0.001), (p, found.test.p, done.stdout)
    sums = {name: (float(k), int(n)) for name, k, n in re.findall(r"(m\d): sum ([0-9.]+) of (\d+) known", done.stdout)}
    if not counts:
        assert sums == {arm.name: (float(arm.rooted), arm.stuck) for arm in found.arms}
