"""The package against the program itself: YPOGRAM says where that is."""

import csv
import doctest
import os
import subprocess

import pyarrow as pa
import pytest
import ypogram_arrow
from ypogram_arrow import YpogramError, added_schema, find_program, judge

ADDRESSES = ["Ada@H-Works.org ", "bo@@x", None, "", "<cy@h-works.org>", "edda@gmial.com", "zoë@bücher.example"] * 700


def checked(folder, addresses, *options):
    """What `ypogram check` says of them."""
    with open(folder / "list.csv", "w", newline="") as file:
        csv.writer(file).writerows([["no", "email"], *([n, a] for n, a in enumerate(addresses))])
    call = [find_program(), "check", "list.csv", "--field", "email", "--no-rules", "-q", "-o", "out.csv", "--force"]
    subprocess.run([*call, *options], cwd=folder, check=True)
    with open(folder / "out.csv", newline="") as file:
        return list(csv.DictReader(file))


def texts(table):
    """The added columns as `check` writes them into CSV."""

    def text(value):
        return "" if value is None else str(value).lower() if isinstance(value, bool) else value

    rows = table.select([name for name in table.column_names if name.startswith("yp_")]).to_pylist()
    return [{name: text(value) for name, value in row.items()} for row in rows]


@pytest.mark.parametrize("kind", [pa.string(), pa.large_string(), pa.string_view()])
def test_as_the_program_says(tmp_path, kind):
    table = pa.table({"no": range(len(ADDRESSES)), "email": pa.array(ADDRESSES, kind)})
    judged = judge(pa.Table.from_batches(table.to_batches(max_chunksize=999)), "email")
    expected = [
        {name: cell for name, cell in row.items() if name.startswith("yp_")} for row in checked(tmp_path, ADDRESSES)
    ]
    assert texts(judged) == expected
    assert judged.select(["no", "email"]).equals(table)


def test_no_rows_and_empty_batches():
    empty = pa.table({"email": pa.array([], pa.string())})
    assert judge(empty, "email").schema.names == ["email", *added_schema().names]
    batch = pa.record_batch({"email": ["ada@h-works.org"]})
    batches = [batch.slice(0, 0), batch, batch.slice(0, 0), batch.slice(0, 0), batch]
    answers = list(ypogram_arrow.judge_batches(batches, batch.schema, "email", columns=["verdict"]))
    assert [answer.num_rows for answer in answers] == [0, 1, 0, 0, 1]


def test_other_data_frames():
    polars = pytest.importorskip("polars")
    frame = polars.DataFrame({"email": ["ada@h-works.org", "bo@@x"]})
    assert judge(frame, "email", columns=["verdict"]).column("yp_verdict").to_pylist() == ["accept", "reject"]
    duckdb = pytest.importorskip("duckdb")
    relation = duckdb.sql("select 'ada@h-works.org' as email")
    assert judge(relation, "email", columns=["verdict"]).column("yp_verdict").to_pylist() == ["accept"]


def test_what_is_wrong_is_told(tmp_path, monkeypatch):
    table = pa.table({"email": ["ada@h-works.org"]})
    (tmp_path / "rules.toml").write_text("version = 2\n[judging]\ngramar = 'strict'\n")
    for error, told, asked in [
        (YpogramError, "did you mean --field email", {"field": "mail"}),
        (YpogramError, "unknown key", {"field": "email", "rulebook": tmp_path / "rules.toml"}),
        (ValueError, "adress", {"field": "email", "columns": ["adress"]}),
        (FileNotFoundError, "nowhere", {"field": "email", "program": "nowhere"}),
    ]:
        with pytest.raises(error, match=told):
            judge(table, **asked)
    monkeypatch.setenv("YPOGRAM", os.fspath(tmp_path / "gone"))
    with pytest.raises(FileNotFoundError, match="YPOGRAM"):
        judge(table, "email")


def test_the_example():
    assert doctest.testmod(ypogram_arrow).failed == 0
