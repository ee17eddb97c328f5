"""English. ``{n:unit|units}`` is a number with its noun; ``{n:~is|are}`` the word alone (see ``say``)."""

from orderly_bench.core.messages.english.doubts import CAUTIONS
from orderly_bench.core.messages.english.sentences import SENTENCES

__all__ = ["CAUTIONS", "SENTENCES"]
