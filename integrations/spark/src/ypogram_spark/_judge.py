"""Every row with its judgement."""

import os
from collections.abc import Iterator, Sequence

import pyarrow as pa
from pyspark.sql import DataFrame
from pyspark.sql.pandas.types import from_arrow_schema
from pyspark.sql.types import StructType
from ypogram_arrow import added_schema, answered, find_program, worker_command

from ._ship import ship


def judge(
    df: DataFrame,
    field: str | Sequence[str],
    *,
    also: Sequence[str] = (),
    columns: Sequence[str] | None = None,
    rulebook: str | os.PathLike[str] | None = None,
    options: Sequence[str] = (),
    program: str | os.PathLike[str] | None = None,
) -> DataFrame:
    """The data frame with the columns that Ypogram adds behind its own.

    `field` names the column with addresses, several in order of preference; `also` names columns that may hold one among
    other words. `columns` chooses the added columns, with the prefix `yp_` or without; `rulebook` is the path of one, and
    none is looked for; `options` are further words for the program, which `program=`, the variable YPOGRAM or the search
    path says where it is. YpogramError has the program's message where something is wrong with these.
    """
    asked = {"also": list(also), "columns": columns, "options": list(options)}
    added = added_schema(program, field=field, rulebook=rulebook, **asked)
    return with_columns(df, added, field, rulebook, program, asked)


def with_columns(df, added: pa.Schema, field, rulebook, program, asked) -> DataFrame:
    """The data frame with the columns `added` that the program answers."""
    missing = [name for name in ([field] if isinstance(field, str) else field) if name not in df.columns]
    if missing:
        raise ValueError(f"there is no column {missing[0]}; the columns are: {', '.join(df.columns)}")
    taken = [name for name in added.names if name in df.columns]
    if taken:
        raise ValueError(f"there is a column {taken[0]} already; rename it, or give options=['--prefix', 'new_']")
    shipped = ship(df.sparkSession, find_program(program), rulebook)

    def answer(batches: Iterator[pa.RecordBatch]) -> Iterator[pa.RecordBatch]:
        first = next(batches, None)
        if first is None:
            return
        here, rules = shipped.unpacked()
        command = worker_command(here, field, rulebook=rules, **asked)
        for batch, answer in answered(command, first.schema, _behind(first, batches)):
            arrays = [*batch.columns, *answer.columns]
            yield pa.RecordBatch.from_arrays(arrays, names=[*batch.schema.names, *answer.schema.names])

    # The schema of a data frame is shared, and must not be added to.
    schema = StructType([*df.schema.fields, *from_arrow_schema(added).fields])
    return df.mapInArrow(answer, schema)


def _behind(first: pa.RecordBatch, others: Iterator[pa.RecordBatch]) -> Iterator[pa.RecordBatch]:
    yield first
    yield from others
