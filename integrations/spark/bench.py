"""How long the worker takes in Spark, beside a mapInArrow that hands batches through: YPOGRAM says where the program is.

    python bench.py [ROWS]

Three runs of each in turn, in local mode with two cores; the medians and their ratio are printed.
"""

import os
import statistics
import sys
import time

import ypogram_spark
from pyspark.sql import SparkSession


def main() -> None:
    rows = int(sys.argv[1]) if len(sys.argv) > 1 else 10_000_000
    os.environ["PYSPARK_PYTHON"] = sys.executable
    spark = SparkSession.builder.master("local[2]").config("spark.ui.enabled", "false").getOrCreate()
    spark.sparkContext.setLogLevel("ERROR")
    df = spark.range(rows, numPartitions=8).selectExpr(
        "id",
        "concat(case id % 10 when 0 then ' Member' else 'member' end, cast(id % 3000000 as string), "
        "'@firm', cast(id % 50000 as string), '.org') as email",
        "concat('Name ', cast(id as string)) as name",
    )
    jobs = {
        "identity": df.mapInArrow(lambda batches: batches, df.schema),
        "two columns": ypogram_spark.judge(df, "email", columns=["address", "verdict"]),
        "all columns": ypogram_spark.judge(df, "email"),
    }
    taken: dict[str, list[float]] = {name: [] for name in jobs}
    for _ in range(3):
        for name, job in jobs.items():
            start = time.monotonic()
            job.write.format("noop").mode("overwrite").save()
            taken[name].append(time.monotonic() - start)
            print(f"{name}: {taken[name][-1]:.1f} s", flush=True)
    identity = statistics.median(taken["identity"])
    for name, times in taken.items():
        median = statistics.median(times)
        print(f"{rows} rows, {name}: {median:.1f} s, {median / identity:.2f} of the identity's")


if __name__ == "__main__":
    main()
