"""Every address that stands in the texts of a data frame."""

import os
import subprocess
import tempfile
from collections.abc import Iterator, Sequence

import pyarrow as pa
from pyspark.sql import DataFrame
from pyspark.sql.types import StringType, StructField, StructType
from ypogram_arrow import YpogramError, find_program, run_text

from ._ship import ship

#: What is told of each address; the record and its line are numbers within a partition, and say nothing.
COLUMNS = ("address", "verdict", "findings", "as_found", "form", "field", "class", "name")


def extract(
    df: DataFrame,
    fields: str | Sequence[str] | None = None,
    *,
    id: str | None = None,
    columns: Sequence[str] = COLUMNS,
    rulebook: str | os.PathLike[str] | None = None,
    options: Sequence[str] = (),
    program: str | os.PathLike[str] | None = None,
) -> DataFrame:
    """A row for every address that stands in the columns `fields`, in all where none are named.

    `id` names the column that identifies records, and comes out in front. `columns` are those that `ypogram extract`
    writes, and the other arguments are those of `judge`.
    """
    names = [fields] if isinstance(fields, str) else list(fields) if fields is not None else df.columns
    for name in [*names, *([id] if id else [])]:
        if name not in df.columns:
            raise ValueError(f"there is no column {name}; the columns are: {', '.join(df.columns)}")
    found = find_program(program)
    told = [*(["id"] if id else []), *columns]
    asked = ["--columns", ",".join(told), *(["--id", id] if id else []), *options]
    if rulebook is not None:
        run_text([found, "rules", "check", os.fspath(rulebook)])
    shipped = ship(df.sparkSession, found, rulebook)
    taken = df.select(*dict.fromkeys([*([id] if id else []), *names]))

    def answer(batches: Iterator[pa.RecordBatch]) -> Iterator[pa.RecordBatch]:
        first = next(batches, None)
        if first is None:
            return
        here, rules = shipped.unpacked()
        # What the program reads whole lies in a file on the way in and out, and not in memory.
        with tempfile.TemporaryDirectory(prefix="addresses-") as folder:
            source, out = os.path.join(folder, "rows.arrows"), os.path.join(folder, "addresses.arrows")
            with pa.ipc.new_stream(source, first.schema) as stream:
                stream.write_batch(first)
                for batch in batches:
                    stream.write_batch(batch)
            command = [here, "extract", source, "-o", out, "-q", *asked]
            command += ["--rules", rules] if rules else ["--no-rules"]
            done = subprocess.run(command, capture_output=True, text=True, check=False)
            if done.returncode != 0:
                raise YpogramError(done.stderr.strip())
            with pa.ipc.open_stream(out) as addresses:
                for batch in addresses:
                    texts = [column.cast(pa.string()) for column in batch.columns]
                    yield pa.RecordBatch.from_arrays(texts, names=told)

    return taken.mapInArrow(answer, StructType([StructField(name, StringType()) for name in told]))
