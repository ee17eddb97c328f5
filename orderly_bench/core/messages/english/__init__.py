"""English. ``{n:unit|units}`` is a number with its noun; ``{n:~is|are}`` the word alone (see ``say``)."""

from orderly_bench.core.messages.english.claims import ABOUT_CLAIMS
from orderly_bench.core.messages.english.doubts import CAUTIONS as DOUBTS
from orderly_bench.core.messages.english.doubts_of_a_file import ABOUT_A_FILE
from orderly_bench.core.messages.english.doubts_of_the_log import ABOUT_THE_LOG
from orderly_bench.core.messages.english.sentences import SENTENCES

CAUTIONS = DOUBTS | ABOUT_A_FILE | ABOUT_THE_LOG | ABOUT_CLAIMS

__all__ = ["CAUTIONS", "SENTENCES"]
