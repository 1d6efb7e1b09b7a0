"""The judgement of every row of a table."""

import os
from collections.abc import Iterable, Iterator, Sequence
from typing import Any

import pyarrow as pa

from ._pipe import answered, run_text
from ._program import find_program

_TYPES = {"Utf8": pa.string(), "Boolean": pa.bool_()}


def worker_command(
    program: str,
    fields: str | Sequence[str],
    *,
    also: Sequence[str] = (),
    columns: Sequence[str] | None = None,
    rulebook: str | os.PathLike[str] | None = None,
    options: Sequence[str] = (),
) -> list[str]:
    """The call of the program that answers batches."""
    fields = [fields] if isinstance(fields, str) else list(fields)
    if not fields:
        raise ValueError("no field with addresses is named")
    command = [program, "worker"]
    for field in fields:
        command += ["--field", field]
    for field in also:
        command += ["--also", field]
    if columns is not None:
        command += ["--columns", ",".join(_quoted(column) for column in columns)]
    # What lies in the folder of the moment should not decide.
    command += ["--rules", os.fspath(rulebook)] if rulebook is not None else ["--no-rules"]
    return command + list(options)


def _quoted(name: str) -> str:
    return '"' + name.replace('"', '""') + '"' if any(c in name for c in ',"=') else name


def added_schema(program: str | os.PathLike[str] | None = None, **asked: Any) -> pa.Schema:
    """The columns that `judge` adds; `asked` is what it takes. Raises YpogramError where that is wrong."""
    command = worker_command(find_program(program), asked.pop("field", "email"), **asked)
    fields = []
    for line in run_text([*command, "--schema"]).splitlines():
        name, _, kind = line.rpartition("\t")
        if kind not in _TYPES:
            raise ValueError(f"{name} is none of the columns that Ypogram adds")
        fields.append(pa.field(name, _TYPES[kind]))
    return pa.schema(fields)


def judge_batches(
    batches: Iterable[pa.RecordBatch],
    schema: pa.Schema,
    field: str | Sequence[str],
    *,
    program: str | os.PathLike[str] | None = None,
    **asked: Any,
) -> Iterator[pa.RecordBatch]:
    """Each batch with the columns that Ypogram adds behind its own, in order; `schema` is that of the batches."""
    command = worker_command(find_program(program), field, **asked)
    for batch, answer in answered(command, schema, batches):
        arrays = [*batch.columns, *answer.columns]
        yield pa.RecordBatch.from_arrays(arrays, schema=pa.schema([*batch.schema, *answer.schema]))


def judge(
    table: Any,
    field: str | Sequence[str],
    *,
    also: Sequence[str] = (),
    columns: Sequence[str] | None = None,
    rulebook: str | os.PathLike[str] | None = None,
    options: Sequence[str] = (),
    program: str | os.PathLike[str] | None = None,
) -> pa.Table:
    """The table with the columns that Ypogram adds behind its own.

    `table` is an Arrow table, or what can be one (a data frame of polars, a relation of DuckDB, a record batch reader).
    `field` names the column with addresses, several in order of preference; `also` names columns that may hold one among
    other words. `columns` chooses the added columns, with the prefix `yp_` or without; `rulebook` is the path of one, and
    none is looked for; `options` are further words for the program. Where it fails, YpogramError has its message.
    """
    if not isinstance(table, pa.Table):
        table = pa.table(table) if not isinstance(table, pa.RecordBatchReader) else table.read_all()
    asked = {"also": also, "columns": columns, "rulebook": rulebook, "options": options}
    found = find_program(program)
    schema = pa.schema([*table.schema, *added_schema(found, field=field, **asked)])
    batches = judge_batches(table.to_batches(), table.schema, field, program=found, **asked)
    return pa.Table.from_batches(batches, schema=schema)
