"""One row of each mailbox, chosen by the program's rules on Spark's own shuffle."""

import os
from collections.abc import Sequence

from pyspark.sql import DataFrame, Window
from pyspark.sql import functions as F
from pyspark.sql.types import DateType, NumericType, TimestampNTZType, TimestampType
from ypogram_arrow import YpogramError, added_schema

from ._judge import with_columns

_GROUP, _RANK, _PLACE = "yp_group", "yp_rank", "yp_place_in_group"
_ORDERED = (DateType, TimestampType, TimestampNTZType, NumericType)


def dedupe(
    df: DataFrame,
    field: str | Sequence[str],
    *,
    key: str = "provider",
    survivor: str = "first",
    order_by: str | Sequence[str] | None = None,
    rulebook: str | os.PathLike[str] | None = None,
    options: Sequence[str] = (),
    program: str | os.PathLike[str] | None = None,
) -> DataFrame:
    """The rows that `ypogram dedupe --shared drop` keeps: one of each mailbox, and of each text that is no address.

    `key` is the rule of one mailbox (exact, case, provider, everywhere), `survivor` says which row stays (first, last,
    fullest, best, newest:COLUMN, oldest:COLUMN, where:COLUMN=VALUE,VALUE). Rows of a data frame are in no order:
    `order_by` names the columns that put them in one, by which first and last go, and ties, which fall to the first.
    Where it is left out, first and last are refused, and so is a tie once one is met. Columns of newest and oldest hold
    dates, times or numbers, since a text may mean several dates. Rows without anything in `field` are left out.
    """
    order = [order_by] if isinstance(order_by, str) else list(order_by or [])
    named = survivor.partition(":")[0]
    if named in ("first", "last") and not order:
        raise ValueError(f"survivor={survivor!r} needs order_by, since rows of a data frame are in no order")
    if named in ("newest", "oldest"):
        column = survivor.partition(":")[2]
        if column in df.columns and not isinstance(df.schema[column].dataType, _ORDERED):
            raise ValueError(f"{column} holds texts, which may mean several dates: cast it to a date or a number first")
    asked = {"also": [], "columns": None, "options": ["--same", key, "--duplicates", survivor, *options]}
    added = added_schema(program, field=field, rulebook=rulebook, **asked)
    ranked = with_columns(df, added, field, rulebook, program, asked).where(F.col(_GROUP).isNotNull())
    best = F.col(_RANK).desc()
    group = Window.partitionBy(_GROUP)
    if not order:
        tie = ranked.withColumn("n", F.count("*").over(Window.partitionBy(_GROUP, _RANK)))
        tie = tie.withColumn("top", F.max(_RANK).over(group)).where((F.col("n") > 1) & (F.col("top") == F.col(_RANK)))
        if tie.limit(1).count() > 0:
            raise YpogramError(f"survivor={survivor!r} leaves a tie: say with order_by which row is the first")
        place = F.row_number().over(group.orderBy(best))
    else:
        columns = [F.col(column).desc() if named == "last" else F.col(column).asc() for column in order]
        place = F.row_number().over(group.orderBy(best, *columns))
    kept = ranked.withColumn(_PLACE, place).where(F.col(_PLACE) == 1)
    return kept.drop(_GROUP, _RANK, _PLACE)
