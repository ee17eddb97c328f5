"""Every response by its name; a new one is a file and a line here."""

from __future__ import annotations

from orderly_bench.core.responses import (
    alive,
    days_to_root,
    fit_to_pot_on,
    foliage,
    longest_root,
    quality,
    root_class,
    root_count,
    rooted,
)
from orderly_bench.core.responses.kind import Kind, Response

KINDS: dict[Response, Kind] = {
    module.KIND.response: module.KIND
    for module in (rooted, fit_to_pot_on, alive, root_count, root_class, longest_root, quality, foliage, days_to_root)
}


def kind_of(response: Response) -> Kind:
    """The response itself."""
    return KINDS[response]
