"""Email addresses of a Spark data frame, judged, found and deduplicated by Ypogram.

The program is sent to the executors, and works there on the batches of `mapInArrow`. A wrong field or rulebook is told in
the driver, before anything is distributed.
"""

from ypogram_arrow import YpogramError

from ._dedupe import dedupe
from ._extract import extract
from ._judge import judge

__all__ = ["YpogramError", "dedupe", "extract", "judge"]
