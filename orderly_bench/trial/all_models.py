"""Imports every model, so that the metadata is whole."""

from orderly_bench.database.base import Base
from orderly_bench.stock import models as stock
from orderly_bench.trial import models as trial

metadata = Base.metadata
__all__ = ["metadata", "stock", "trial"]
