"""The parser of the headless commands: what it does not know it refuses by the command's own usage, and guesses nothing."""

from __future__ import annotations

import argparse
from collections.abc import Sequence
from difflib import get_close_matches
from typing import Any

from orderly_bench.core.messages.translation import any_of
from orderly_bench.core.messages.translation import gettext as _


class Parser(argparse.ArgumentParser):
    """Takes options by their whole names: *--blocks* for *--blocks-in-waves* would be another analysis than was meant."""

    def __init__(self, *args: Any, **settings: Any) -> None:
        super().__init__(*args, **{"allow_abbrev": False} | settings)

    def parse_known_args(  # type: ignore[override]
        self, args: Sequence[str] | None = None, namespace: argparse.Namespace | None = None
    ) -> tuple[argparse.Namespace, list[str]]:
        """As it stands there, but a command with words left over ends here, naming what is written alike."""
        found, left = super().parse_known_args(args, namespace)
        if left and not any(isinstance(action, argparse._SubParsersAction) for action in self._actions):
            self.error(self._unknown(left))
        return found, left

    def _unknown(self, left: Sequence[str]) -> str:
        options = [name for action in self._actions for name in action.option_strings]
        alike = [
            near
            for word in left
            if word.startswith("-")
            for near in get_close_matches(word.split("=")[0], options, n=2, cutoff=0.7)
        ]
        told = _("this command does not know: {words}", words=" ".join(left))
        return f"{told}. {_('Is {names} meant?', names=any_of(dict.fromkeys(alike)))}" if alike else told
