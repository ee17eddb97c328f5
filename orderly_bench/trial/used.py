"""Where a thing of the shelf is used: trials that are open and name it in their plan, their care or their logs."""

from __future__ import annotations

import re
from collections.abc import Collection

from sqlalchemy import select
from sqlalchemy.orm import Session

from orderly_bench.core.plan.treatments import Container
from orderly_bench.core.plan.value import Plan
from orderly_bench.stock.operations import all_containers
from orderly_bench.trial.models import Conclusion, ConditionLog, Trial

#: Open trials that are looked through, the newest.
MOST = 200


def named_in(session: Session, what: str, names: Collection[str]) -> dict[str, list[str]]:
    """Codes of the open trials that use each of these, by its name in small letters.

    Parameters
    ----------
    what : str
        The list: a container is known by its measures, a stock plant by the pieces that come from it, a zone by its logs as well, everything
        else by its name in the plan.
    """
    wanted = {name.casefold() for name in names if name.strip()}
    found: dict[str, list[str]] = {name: [] for name in wanted}
    if not wanted:
        return found
    own = {row.name.casefold(): row.value for row in all_containers(session)} if what == "containers" else {}
    open_now = select(Trial).where(Trial.id.not_in(select(Conclusion.trial_id))).order_by(Trial.id.desc())
    as_word = {name: re.compile(rf"(?<!\w){re.escape(name)}(?!\w)") for name in wanted}
    for trial in reversed(session.scalars(open_now.limit(MOST)).all()):
        if what == "plants":
            mine = {piece.donor.casefold() for piece in trial.plan.design.pieces}
        elif own:
            there = _containers(trial.plan)
            mine = {name for name, container in own.items() if container in there}
        else:
            text = trial.plan_text.casefold()
            mine = {name for name, word in as_word.items() if word.search(text)}
        for name in mine & wanted:
            found[name].append(trial.code)
    if what == "zones":
        _add_logs(session, found)
    return found


def _containers(plan: Plan) -> set[Container]:
    return {plan.container_of(arm) for arm in plan.treatments.arms} | {plan.design.container}


def _add_logs(session: Session, found: dict[str, list[str]]) -> None:
    logs = select(ConditionLog.zone, Trial.code).join(Trial, ConditionLog.trial_id == Trial.id)
    for zone, code in session.execute(logs.where(ConditionLog.withdrawn == "").order_by(Trial.id)):
        own = found.get(zone.casefold())
        if own is not None and code not in own:
            own.append(code)
