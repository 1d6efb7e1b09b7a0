"""Spark in local mode with several partitions against the program itself: YPOGRAM says where that is."""

import csv
import os
import stat
import subprocess
import sys

import pytest
import ypogram_spark
from pyspark.sql import SparkSession
from pyspark.sql import functions as F
from ypogram_arrow import find_program
from ypogram_spark import YpogramError

ADDRESSES = [
    "Ada{n}@H-Works.org ", "bo@@x{n}", None, "", "<cy.{n}@gmail.com>", "c.y.{n}+tag@googlemail.com", "edda{n}@gmial.com",
    "n/a", "zoë{n}@bücher.example", "write to ada{n}@h-works.org",
]  # fmt: skip


@pytest.fixture(scope="module")
def spark():
    os.environ["PYSPARK_PYTHON"] = sys.executable
    # Three attempts for each task.
    session = (
        SparkSession.builder.master("local[2,3]")
        .config("spark.ui.enabled", "false")
        .config("spark.sql.shuffle.partitions", "5")
        .config("spark.sql.execution.arrow.maxRecordsPerBatch", "97")
        .getOrCreate()
    )
    session.sparkContext.setLogLevel("OFF")
    yield session
    session.stop()


@pytest.fixture(scope="module")
def rows():
    def address(n):
        text = ADDRESSES[n % len(ADDRESSES)]
        return text and text.format(n=n % 170)

    dates = ["2026-03-01", None, "2025-12-31", "2026-01-15"]
    return [(n, address(n), dates[n % 4], f"note {n}" if n % 3 else None) for n in range(2000)]


@pytest.fixture
def frame(spark, rows):
    df = spark.createDataFrame(rows, "no int, email string, joined string, notes string")
    return df.withColumn("joined", F.col("joined").cast("date")).repartition(7)


def program(folder, rows, *words):
    """What the program makes of the same rows, in their order."""
    with open(folder / "list.csv", "w", newline="") as file:
        csv.writer(file).writerows([["no", "email", "joined", "notes"], *rows])
    call = [find_program(), words[0], "list.csv", *words[1:], "-q", "--force", "-o", "out.csv"]
    subprocess.run(call, cwd=folder, check=True)
    with open(folder / "out.csv", newline="") as file:
        return list(csv.DictReader(file))


def text(value):
    return "" if value is None else str(value).lower() if isinstance(value, bool) else str(value)


def test_judge(tmp_path, frame, rows):
    (tmp_path / "known.csv").write_text("address,owner\nada0@h-works.org,Ada\n")
    (tmp_path / "rules.toml").write_text(
        "version = 2\n[lists.known]\nfile = 'known.csv'\nof = 'addresses'\ncolumns = ['owner']\n"
    )
    judged = ypogram_spark.judge(frame, "email", also=["notes"], rulebook=tmp_path / "rules.toml")
    got = [{k: text(v) for k, v in row.asDict().items()} for row in judged.orderBy("no").collect()]
    options = ["--field", "email", "--also", "notes", "--rules", "rules.toml"]
    assert got == program(tmp_path, rows, "check", *options)
    assert any(row["yp_owner"] == "Ada" for row in got)


@pytest.mark.parametrize(
    "survivor", ["first", "last", "fullest", "best", "newest:joined", "oldest:joined", "where:notes=note 5,note 7"]
)
@pytest.mark.parametrize("key", ["exact", "provider"])
def test_dedupe(tmp_path, frame, rows, survivor, key):
    kept = ypogram_spark.dedupe(frame, "email", key=key, survivor=survivor, order_by="no")
    got = [{k: text(v) for k, v in row.asDict().items()} for row in kept.orderBy("no").collect()]
    options = ["--field", "email", "--no-rules", "--same", key, "--survivor", survivor, "--shared", "drop"]
    expected = program(tmp_path, rows, "dedupe", *options, "--no-address", "none.csv")
    assert got == sorted(expected, key=lambda row: int(row["no"]))


def test_dedupe_needs_an_order(frame):
    with pytest.raises(ValueError, match="order_by"):
        ypogram_spark.dedupe(frame, "email")
    with pytest.raises(YpogramError, match="tie"):
        ypogram_spark.dedupe(frame, "email", survivor="fullest")
    with pytest.raises(ValueError, match="cast it"):
        ypogram_spark.dedupe(frame, "email", survivor="newest:notes", order_by="no")


def test_extract(tmp_path, frame, rows):
    columns = ["address", "verdict", "as_found"]
    found = ypogram_spark.extract(frame, ["email", "notes"], id="no", columns=columns)
    got = sorted(tuple(text(value) for value in row) for row in found.collect())
    options = ["--no-rules", "--id", "no", "--columns", "id,address,verdict,as_found"]
    assert got == sorted(tuple(row.values()) for row in program(tmp_path, rows, "extract", *options))


def test_what_is_wrong_is_told_in_the_driver(tmp_path, frame):
    (tmp_path / "rules.toml").write_text("version = 2\n[judging]\ngramar = 'strict'\n")
    for call in (ypogram_spark.judge, ypogram_spark.extract):
        with pytest.raises(YpogramError, match="unknown key"):
            call(frame, "email", rulebook=tmp_path / "rules.toml")
    with pytest.raises(ValueError, match="no column mail"):
        ypogram_spark.judge(frame, "mail")


def test_a_killed_worker_is_tried_again(tmp_path, frame, rows):
    """A worker that is killed in the middle of its batches fails its task, and the next attempt gives the right result."""
    marks = tmp_path / "marks"
    marks.mkdir()
    fragile = tmp_path / "fragile"
    # The first two workers are killed when they have read some batches.
    fragile.write_text(
        f"""#!/usr/bin/env python3
import os, subprocess, sys
real = {find_program()!r}
if sys.argv[1] != "worker" or "--schema" in sys.argv:
    os.execv(real, [real, *sys.argv[1:]])
for mark in ("one", "two"):
    try:
        os.close(os.open({os.fspath(marks)!r} + "/" + mark, os.O_CREAT | os.O_EXCL))
    except FileExistsError:
        continue
    child = subprocess.Popen([real, *sys.argv[1:]], stdin=subprocess.PIPE)
    child.stdin.write(sys.stdin.buffer.read(9000))
    child.stdin.flush()
    child.kill()
    child.wait()
    sys.exit(137)
os.execv(real, [real, *sys.argv[1:]])
"""
    )
    fragile.chmod(fragile.stat().st_mode | stat.S_IXUSR)
    judged = ypogram_spark.judge(frame, "email", columns=["address", "verdict"], program=fragile)
    got = [{k: text(v) for k, v in row.asDict().items()} for row in judged.orderBy("no").collect()]
    options = ["--field", "email", "--no-rules", "--columns", "no,email,joined,notes,yp_address,yp_verdict"]
    assert got == program(tmp_path, rows, "check", *options)
    assert sorted(os.listdir(marks)) == ["one", "two"]
