"""Imports every model, so that the metadata is whole."""

from orderly_bench.chapters.compare import models as compare
from orderly_bench.chapters.conclude import models as conclude
from orderly_bench.chapters.question import models as question
from orderly_bench.chapters.score import models as score
from orderly_bench.chapters.tend import models as tend
from orderly_bench.database.base import Base
from orderly_bench.trial import models as trial

metadata = Base.metadata
__all__ = ["compare", "conclude", "metadata", "question", "score", "tend", "trial"]
