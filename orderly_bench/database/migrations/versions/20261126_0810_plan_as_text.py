"""the plan as one text, with its versions

The text is written here field by field as it was on this day, so that later changes of the plan do not reach back.
"""

import hashlib
import json
from typing import Any

import sqlalchemy as sa
import yaml
from alembic import op
from sqlalchemy.dialects.mysql import MEDIUMTEXT

from orderly_bench.database import base

revision = "20261126_0810_plan_as_text"
down_revision = "20261126_0800_lab_settings"
branch_labels = None
depends_on = None

PLAN_COLUMNS = (
    "kind", "botanical_name", "cultivar", "source", "question", "why", "endpoint_day", "margin_points", "alpha", "held_same",
    "stop_rule", "check_days", "care_task", "care_every_days", "fit_least_roots", "fit_least_mm", "blind", "layout",
    "cuttings_per_arm", "cuttings_per_unit", "blocks", "block_size", "whole_factor", "gradient", "bench", "tray_rows",
    "tray_columns", "cell_volume_ml", "recipes", "assumed_rates", "assumed_icc", "digest",
)  # fmt: skip
CHECKS = ("kind_known", "endpoint_day_range", "margin_range")
#: What the digest of an earlier lock was taken over.
SEALED = (
    "code", "kind", "botanical_name", "cultivar", "source", "question", "why", "endpoint_day", "margin_points", "alpha", "held_same",
    "stop_rule", "check_days", "care_task", "care_every_days", "fit_least_roots", "fit_least_mm", "blind", "layout", "cuttings_per_arm",
    "blocks", "gradient", "bench", "tray_rows", "tray_columns",
)  # fmt: skip
SEALED_LATER = {"cuttings_per_unit": 1, "block_size": 0, "whole_factor": ""}


def upgrade() -> None:
    op.add_column("trial", sa.Column("plan_text", MEDIUMTEXT(), nullable=True))
    op.add_column("prediction", sa.Column("of_arms", sa.JSON(), nullable=True))
    op.create_table(
        "plan_version",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("trial_id", sa.Integer(), nullable=False),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("text", MEDIUMTEXT(), nullable=False),
        sa.Column("sealed", MEDIUMTEXT(), nullable=True),
        sa.Column("digest", sa.String(64), nullable=False),
        sa.Column("at", base.Moment(), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=False),
        sa.Column("why", sa.String(500), nullable=False),
        sa.ForeignKeyConstraint(["trial_id"], ["trial.id"], name=op.f("fk_plan_version_trial_id_trial")),
        sa.ForeignKeyConstraint(["person_id"], ["person.id"], name=op.f("fk_plan_version_person_id_person")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_plan_version")),
        sa.UniqueConstraint("trial_id", "number", name=op.f("uq_plan_version_trial_id_number")),
        **base.TABLE,
    )
    connection = op.get_bind()
    for row in connection.execute(sa.text("select * from trial")).mappings().all():
        _carry(connection, dict(row))
    op.alter_column("trial", "plan_text", existing_type=MEDIUMTEXT(), nullable=False)
    op.alter_column("prediction", "of_arms", existing_type=sa.JSON(), nullable=False)
    for table in ("amendment", "arm_level", "level", "factor"):
        op.drop_table(table)
    op.drop_column("arm", "position")
    op.drop_column("arm", "is_control")
    op.drop_column("wave", "planned_for")
    for name in CHECKS:
        op.drop_constraint(name, "trial", type_="check")
    for name in PLAN_COLUMNS:
        op.drop_column("trial", name)


def _rows(connection: sa.Connection, statement: str, **values: object) -> list[dict[str, Any]]:
    return [dict(row) for row in connection.execute(sa.text(statement), values).mappings()]


def _carry(connection: sa.Connection, trial: dict[str, Any]) -> None:
    for key in ("check_days", "recipes", "assumed_rates"):
        if isinstance(trial[key], str):
            trial[key] = json.loads(trial[key])
    trial["blind"] = bool(trial["blind"])
    parts = _parts(connection, trial["id"])
    plan = _plan(trial, parts)
    versions = []
    if trial["locked_at"] is not None:
        sealed = _sealed(trial, parts)
        holds = hashlib.sha256(sealed.encode()).hexdigest() == trial["digest"]
        text = _text(plan)
        versions.append(
            (text, sealed if holds else None, trial["digest"], trial["locked_at"], trial["locked_by_id"], "")
        )
        for a in _rows(connection, "select * from amendment where trial_id = :t order by at, id", t=trial["id"]):
            plan["departures"] = [*plan["departures"], a["what"]]
            text = _text(plan)
            versions.append(
                (text, None, hashlib.sha256(text.encode()).hexdigest(), a["at"], a["person_id"], a["reason"])
            )
    for number, (text, sealed_text, digest, at, person, why) in enumerate(versions, start=1):
        connection.execute(
            sa.text(
                "insert into plan_version (trial_id, number, text, sealed, digest, at, person_id, why) "
                "values (:t, :n, :text, :sealed, :digest, :at, :person, :why)"
            ),
            {"t": trial["id"], "n": number, "text": text, "sealed": sealed_text, "digest": digest, "at": at, "person": person, "why": why},
        )  # fmt: skip
    connection.execute(
        sa.text("update trial set plan_text = :text where id = :t"), {"text": _text(plan), "t": trial["id"]}
    )
    letters = {arm["name"]: arm["letter"] for arm in parts["arms"]}
    factors = [aspect["id"] for aspect in plan["treatments"]["aspects"] if aspect["asked"]]
    for p in _rows(connection, "select id, ranking from prediction where trial_id = :t", t=trial["id"]):
        ranking = json.loads(p["ranking"]) if isinstance(p["ranking"], str) else p["ranking"]
        current = sorted(ranking) == sorted(letters)
        of_arms = {a["id"]: [a["says"][f] for f in factors] for a in plan["treatments"]["arms"]} if current else {}
        connection.execute(
            sa.text("update prediction set ranking = :r, of_arms = :o where id = :p"),
            {"r": json.dumps([letters.get(name, name) for name in ranking]), "o": json.dumps(of_arms), "p": p["id"]},
        )


def _parts(connection: sa.Connection, trial: int) -> dict[str, Any]:
    factors = _rows(connection, "select * from factor where trial_id = :t order by position", t=trial)
    for factor in factors:
        factor["levels"] = _rows(
            connection, "select * from level where factor_id = :f order by position", f=factor["id"]
        )
    arms = _rows(connection, "select * from arm where trial_id = :t order by position", t=trial)
    for arm in arms:
        said = _rows(connection, "select * from arm_level where arm_id = :a", a=arm["id"])
        arm["levels"] = {row["factor_id"]: row["level_id"] for row in said}
        names = {level["id"]: level["name"] for factor in factors for level in factor["levels"]}
        arm["name"] = " + ".join(names[arm["levels"][factor["id"]]] for factor in factors)
    draws = _rows(connection, "select * from draw where trial_id = :t order by number", t=trial)
    for draw in draws:
        draw["result"] = json.loads(draw["result"]) if isinstance(draw["result"], str) else draw["result"]
    units = _rows(connection, "select * from unit where trial_id = :t order by bench_order", t=trial)
    groups: dict[int, dict[str, str]] = {}
    rows = "select g.unit_id, g.kind, g.name from grouping g join unit u on u.id = g.unit_id where u.trial_id = :t order by g.id"
    for row in _rows(connection, rows, t=trial):
        groups.setdefault(row["unit_id"], {})[row["kind"]] = row["name"]
    places: dict[int, dict[str, Any]] = {}
    rows = (
        "select p.unit_id, t.number, p.`row`, p.`column` from placement p join tray t on t.id = p.tray_id "
        "where t.trial_id = :t order by p.from_at desc, p.id desc"
    )
    for row in _rows(connection, rows, t=trial):
        places[row["unit_id"]] = row
    cuttings = {
        row["unit_id"]: row["n"]
        for row in _rows(
            connection,
            "select c.unit_id, count(*) n from cutting c join unit u on u.id = c.unit_id where u.trial_id = :t group by c.unit_id",
            t=trial,
        )
    }
    waves = _rows(connection, "select * from wave where trial_id = :t order by number", t=trial)
    return {
        "factors": factors, "arms": arms, "draws": draws, "units": units, "groups": groups, "places": places, "cuttings": cuttings,
        "waves": waves,
    }  # fmt: skip


def _container(trial: dict[str, Any]) -> dict[str, Any]:
    shape = "tray of cells" if trial["cuttings_per_unit"] == 1 else "pot"
    return {
        "shape": shape, "rows": trial["tray_rows"], "columns": trial["tray_columns"], "volume_ml": trial["cell_volume_ml"], "wall": "",
        "drained": None,
    }  # fmt: skip


def _aspects(
    trial: dict[str, Any], parts: dict[str, Any]
) -> tuple[list[dict[str, Any]], dict[int, str], dict[int, str]]:
    """Factors as asked aspects, then what was held the same and the container; ids by factor and by level."""
    aspect_ids, level_ids, aspects = {}, {}, []
    for n, factor in enumerate(parts["factors"], start=1):
        aspect_ids[factor["id"]] = aspect = f"factor-{n}"
        levels = []
        for m, level in enumerate(factor["levels"], start=1):
            level_ids[level["id"]] = f"{aspect}-{m}"
            levels.append({"id": f"{aspect}-{m}", "name": level["name"], "parts": {}, "container": None})
        aspects.append({"id": aspect, "kind": factor["kind"], "name": factor["name"], "asked": True, "levels": levels})
    held = "; ".join(line.strip() for line in (trial["held_same"] or "").splitlines() if line.strip())
    if held and parts["arms"]:
        level = {"id": "held-1", "name": held, "parts": {}, "container": None}
        aspects.append({"id": "held", "kind": "other", "name": "held the same", "asked": False, "levels": [level]})
    if parts["arms"]:
        container = _container(trial)
        litres = container["volume_ml"] / 1000
        volume = f"{litres:g} L" if litres >= 1 else f"{container['volume_ml']:g} mL"
        name = f"{volume} {'cells' if container['shape'] == 'tray of cells' else 'pot'}"
        level = {"id": "container-1", "name": name, "parts": {}, "container": container}
        aspects.append({"id": "container", "kind": "container", "name": "container", "asked": False, "levels": [level]})
    return aspects, aspect_ids, level_ids


def _plan(trial: dict[str, Any], parts: dict[str, Any]) -> dict[str, Any]:
    aspects, aspect_ids, level_ids = _aspects(trial, parts)
    described = {a["id"]: a["levels"][0]["id"] for a in aspects if not a["asked"]}
    arms = [
        {
            "id": arm["letter"],
            "says": {aspect_ids[f]: level_ids[level] for f, level in arm["levels"].items()} | described,
            "control": bool(arm["is_control"]), "units": None, "per_unit": None, "sites": [], "abandoned": "",
        }
        for arm in parts["arms"]
    ]  # fmt: skip
    medium = next((f for f in parts["factors"] if f["kind"] == "medium"), None)
    by_name = {level["name"]: level_ids[level["id"]] for level in medium["levels"]} if medium else {}
    recipes = {by_name.get(name, "all"): text for name, text in (trial["recipes"] or {}).items() if text}
    whole = next((aspect_ids[f["id"]] for f in parts["factors"] if f["name"] == trial["whole_factor"]), "")
    letters = {arm["id"]: arm["letter"] for arm in parts["arms"]}
    waves = {wave["id"]: wave["number"] for wave in parts["waves"]}
    locked = trial["locked_at"] is not None
    return {
        "code": trial["code"],
        "question": {
            "kind": trial["kind"], "botanical_name": trial["botanical_name"], "cultivar": trial["cultivar"], "source": trial["source"],
            "sentence": trial["question"], "why": trial["why"], "endpoint_day": trial["endpoint_day"],
            "margin_points": float(trial["margin_points"]), "alpha": float(trial["alpha"]), "stop_rule": trial["stop_rule"],
            "fit_least_roots": trial["fit_least_roots"], "fit_least_mm": float(trial["fit_least_mm"]), "blind": trial["blind"],
        },
        "treatments": {"aspects": aspects, "arms": arms, "side_groups": []},
        "design": {
            "layout": trial["layout"], "cuttings_per_arm": trial["cuttings_per_arm"], "cuttings_per_unit": trial["cuttings_per_unit"],
            "blocks": trial["blocks"], "block_size": trial["block_size"], "whole_aspect": whole, "one_vessel": False,
            "gradient": trial["gradient"], "bench": trial["bench"], "container": _container(trial),
            "assumed_rates": trial["assumed_rates"], "assumed_icc": trial["assumed_icc"],
        },
        "schedule": {
            "check_days": trial["check_days"], "care_task": trial["care_task"], "care_every_days": trial["care_every_days"],
            "waves": [{"number": w["number"], "planned_for": w["planned_for"], "season": ""} for w in parts["waves"]],
        },
        "preparation": {"recipes": recipes},
        "draws": [
            {"number": d["number"], "seed": d["seed"], "reason": d["reason"], "result": d["result"]} for d in parts["draws"] if locked
        ],
        "units": [_unit(u, letters, waves, parts) for u in parts["units"] if locked],
        "departures": [],
    }  # fmt: skip


def _unit(
    unit: dict[str, Any], letters: dict[int, str], waves: dict[int, int], parts: dict[str, Any]
) -> dict[str, Any]:
    place = parts["places"][unit["id"]]
    full = {
        "code": unit["code"], "arm": letters[unit["arm_id"]], "wave": waves[unit["wave_id"]], "tray": place["number"], "row": place["row"],
        "column": place["column"], "cuttings": parts["cuttings"].get(unit["id"], 1), "groups": parts["groups"].get(unit["id"], {}),
    }  # fmt: skip
    usual = {"wave": 1, "tray": 1, "row": 1, "column": 1, "cuttings": 1, "groups": {}}
    return {key: value for key, value in full.items() if usual.get(key) != value}


def _text(plan: dict[str, Any]) -> str:
    dumper = getattr(yaml, "CSafeDumper", yaml.SafeDumper)
    return yaml.dump(plan, Dumper=dumper, sort_keys=False, allow_unicode=True, default_flow_style=None, width=100)


def _sealed(trial: dict[str, Any], parts: dict[str, Any]) -> str:
    """The plan as the digest of its lock saw it."""
    plan: dict[str, Any] = {key: trial[key] for key in SEALED}
    plan["factors"] = [[f["kind"], f["name"], [level["name"] for level in f["levels"]]] for f in parts["factors"]]
    plan["arms"] = [[arm["letter"], arm["name"], bool(arm["is_control"])] for arm in parts["arms"]]
    plan["draws"] = [[d["number"], d["seed"], d["reason"], d["result"]] for d in parts["draws"]]
    letters = {arm["id"]: arm["letter"] for arm in parts["arms"]}
    plan["units"] = []
    groupings = []
    for u in parts["units"]:
        place, groups = parts["places"][u["id"]], parts["groups"].get(u["id"], {})
        plan["units"].append(
            [
                u["bench_order"],
                u["code"],
                letters[u["arm_id"]],
                groups.get("block"),
                place["number"],
                place["row"],
                place["column"],
            ]
        )
        groupings.append([u["bench_order"], sorted([k, n] for k, n in groups.items() if k != "block")])
    plan |= {key: trial[key] for key, usual in SEALED_LATER.items() if trial[key] != usual}
    if any(named for _, named in groupings):
        plan["groupings"] = groupings
    return json.dumps(plan, sort_keys=True, separators=(",", ":"), ensure_ascii=False)


def downgrade() -> None:
    if op.get_bind().execute(sa.text("select count(*) from trial")).scalar():
        raise RuntimeError(
            "A plan as text says more than the earlier columns hold; restore the backup made before the upgrade."
        )
    op.drop_table("plan_version")
    op.drop_column("trial", "plan_text")
    op.drop_column("prediction", "of_arms")
    words = {"kind": 10, "botanical_name": 120, "cultivar": 120, "source": 200, "question": 300, "care_task": 120, "layout": 40, "gradient": 120, "bench": 80, "whole_factor": 60}  # fmt: skip
    for name, length in words.items():
        op.add_column("trial", sa.Column(name, sa.String(length), nullable=False))
    for name in ("why", "held_same", "stop_rule"):
        op.add_column("trial", sa.Column(name, sa.Text(), nullable=False))
    for name in ("endpoint_day", "care_every_days", "fit_least_roots", "cuttings_per_arm", "cuttings_per_unit", "blocks", "block_size", "tray_rows", "tray_columns"):  # fmt: skip
        op.add_column("trial", sa.Column(name, sa.Integer(), nullable=False))
    for name in ("margin_points", "alpha", "fit_least_mm", "cell_volume_ml"):
        op.add_column("trial", sa.Column(name, sa.Double(), nullable=False))
    for name in ("check_days", "recipes"):
        op.add_column("trial", sa.Column(name, sa.JSON(), nullable=False))
    op.add_column("trial", sa.Column("assumed_rates", sa.JSON(), nullable=True))
    op.add_column("trial", sa.Column("assumed_icc", sa.Double(), nullable=True))
    op.add_column("trial", sa.Column("blind", sa.Boolean(), nullable=False))
    op.add_column("trial", sa.Column("digest", sa.String(64), nullable=True))
    op.create_check_constraint("kind_known", "trial", "kind in ('test','look')")
    op.create_check_constraint("endpoint_day_range", "trial", "endpoint_day between 1 and 1000")
    op.create_check_constraint("margin_range", "trial", "margin_points between 1 and 99")
    op.add_column("arm", sa.Column("position", sa.Integer(), nullable=False))
    op.add_column("arm", sa.Column("is_control", sa.Boolean(), nullable=False))
    op.add_column("wave", sa.Column("planned_for", sa.Date(), nullable=True))
    _earlier_tables()


def _earlier_tables() -> None:
    op.create_table(
        "factor",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("trial_id", sa.Integer(), sa.ForeignKey("trial.id"), nullable=False),
        sa.Column("position", sa.Integer(), nullable=False),
        sa.Column("kind", sa.String(20), nullable=False),
        sa.Column("name", sa.String(60), nullable=False),
        **base.TABLE,
    )
    op.create_table(
        "level",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("factor_id", sa.Integer(), sa.ForeignKey("factor.id"), nullable=False),
        sa.Column("position", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(60), nullable=False),
        **base.TABLE,
    )
    op.create_table(
        "arm_level",
        sa.Column("arm_id", sa.Integer(), sa.ForeignKey("arm.id"), primary_key=True),
        sa.Column("factor_id", sa.Integer(), sa.ForeignKey("factor.id"), primary_key=True),
        sa.Column("level_id", sa.Integer(), sa.ForeignKey("level.id"), nullable=False),
        **base.TABLE,
    )
    op.create_table(
        "amendment",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("trial_id", sa.Integer(), sa.ForeignKey("trial.id"), nullable=False),
        sa.Column("what", sa.String(300), nullable=False),
        sa.Column("reason", sa.String(500), nullable=False),
        sa.Column("at", base.Moment(), nullable=False),
        sa.Column("person_id", sa.Integer(), sa.ForeignKey("person.id"), nullable=False),
        **base.TABLE,
    )
