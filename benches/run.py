"""Runs each job beside the general-purpose tools that are installed, in turn, and prints medians, ratios and memory.

    make.py DATA --scale 0.1 && run.py DATA [--rounds 3] [--only clean,check] [--program target/release/ypogram] [--markdown]

Every round runs the tools of a job one after the other, so that a busy machine is busy for all of them. Old outputs are
deleted before the clock starts, outputs are whole files, and what Ypogram counted is held against truth.json before any time
is printed. polars and duckdb are used where Python finds them, ripgrep where it is on the path. Memory is the largest
resident size that the system saw of the process.
"""
import argparse
import importlib.util
import json
import os
import resource
import shutil
import statistics
import subprocess
import sys
import time

HERE = os.path.dirname(os.path.abspath(__file__))
PATTERN = r"[A-Za-z0-9._%+-]+@[A-Za-z0-9.-]+\.[A-Za-z]{2,}"

POLARS_CONTACTS = """
import polars as pl, sys
free = ["gmail.com", "yahoo.com", "outlook.com", "gmx.de", "icloud.com", "web.de", "proton.me", "orange.fr"]
rows = pl.read_csv(sys.argv[1], infer_schema=False)
address = pl.col("email").str.extract("(PATTERN)", 1).str.to_lowercase()
rows = rows.with_columns(address=address).filter(pl.col("address").is_not_null())
rows = rows.with_columns(free=pl.col("address").str.split("@").list.last().is_in(free))
rows.unique("address", keep="first", maintain_order=True).write_csv(sys.argv[2])
"""
POLARS_CHECK = """
import polars as pl, sys
rows = pl.read_csv(sys.argv[1], has_header=False, new_columns=["line"], separator="\\x01", quote_char=None)
rows.with_columns(fits=pl.col("line").str.contains("^PATTERN$")).write_csv(sys.argv[2])
"""
POLARS_SURVEY = """
import polars as pl, sys
rows = pl.read_csv(sys.argv[1], infer_schema=False)
print(rows.describe())
for name in rows.columns:
    print(rows[name].value_counts(sort=True).head(20))
"""
DUCKDB_DISTINCT = """
import duckdb, sys
read = f"read_csv('{sys.argv[1]}', header=false, columns={{'line': 'VARCHAR'}}, delim='\\x01', quote='')"
print(duckdb.sql(f"select count(distinct lower(line)) from {read}").fetchall())
"""


def python(script):
    script = script.replace("PATTERN", PATTERN.replace("\\", "\\\\"))
    return [sys.executable, "-c", script]


def has(module):
    return importlib.util.find_spec(module) is not None


def jobs(data, out, program):
    """Name, file, what Ypogram runs, how its summary is held against the truth, and the others."""
    at = lambda name: os.path.join(data, name)
    to = lambda name: os.path.join(out, name)
    plain = ["--no-rules", "--json"]
    rg = ["rg", "-oaN", "--no-filename", "--no-config", PATTERN]
    with_rg = shutil.which("rg") is not None
    counted = lambda said: said["counts"]
    yield ("clean", "contacts.csv", [program, "clean", at("contacts.csv"), "--field", "email", "-o", to("cleaned"), *plain],
           lambda said, truth: (counted(said)["records"], counted(said)["usable"]["total"]) == (truth["records"], truth["usable"]),
           {"polars": python(POLARS_CONTACTS) + [at("contacts.csv"), to("o.csv")]} if has("polars") else {})
    columns = "yp_address,yp_verdict,yp_findings,yp_repairs,yp_form,yp_class,yp_key"
    for name, chosen in (("check", columns), ("check with line", "line," + columns)):
        yield (name, "addresses.txt", [program, "check", at("addresses.txt"), "--columns", chosen, "-o", to("checked.csv"), *plain],
               lambda said, truth: counted(said)["records"] == truth["records"],
               {"polars": python(POLARS_CHECK) + [at("addresses.txt"), to("o.csv")]} if has("polars") else {})
    for rule in ("case", "provider"):
        yield (f"dedupe {rule}", "addresses.txt", [program, "dedupe", at("addresses.txt"), "--same", rule, "-o", to("unique.txt"), *plain],
               lambda said, truth, rule=rule: rule != "case" or said["mailboxes"] == truth["distinct_by_case"],
               {"duckdb": python(DUCKDB_DISTINCT) + [at("addresses.txt")]} if has("duckdb") else {})
    for name, file in (("extract prose", "prose.txt"), ("extract log", "sparse.log")):
        yield (name, file, [program, "extract", at(file), "-o", to("found.csv"), *plain],
               lambda said, truth: said["counts"]["addresses"] == truth["addresses"],
               {"ripgrep": (rg + [at(file)], to("o.txt"))} if with_rg else {})
    yield ("survey", "contacts.csv", [program, "survey", at("contacts.csv"), "--field", "email", *plain],
           lambda said, truth: said["records"] == truth["records"],
           {"polars": python(POLARS_SURVEY) + [at("contacts.csv")]} if has("polars") else {})


def clear(out):
    shutil.rmtree(out, ignore_errors=True)
    os.makedirs(out)


def run(command, out):
    """Seconds, peak resident bytes, and what was printed."""
    command, into = command if isinstance(command, tuple) else (command, None)
    clear(out)
    os.sync()
    target = open(into or os.path.join(out, "said"), "wb")
    start = time.perf_counter()
    child = subprocess.Popen(command, stdout=target, stderr=subprocess.DEVNULL)
    _, status, usage = os.wait4(child.pid, 0)
    seconds = time.perf_counter() - start
    target.close()
    if os.waitstatus_to_exitcode(status) != 0:
        sys.exit(f"this failed: {' '.join(command)}")
    said = b"" if into else open(os.path.join(out, "said"), "rb").read()
    return seconds, usage.ru_maxrss * 1024, said


def main():
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("data")
    parser.add_argument("--rounds", type=int, default=3)
    parser.add_argument("--only", default="")
    parser.add_argument("--program", default=os.path.join(HERE, "..", "target", "release", "ypogram"))
    parser.add_argument("--out", default="")
    parser.add_argument("--markdown", action="store_true")
    given = parser.parse_args()
    out = given.out or os.path.join(given.data, "out")
    truth = json.load(open(os.path.join(given.data, "truth.json")))
    wanted = [name for name in given.only.split(",") if name]
    rows = []
    for name, file, ours, holds, others in jobs(given.data, out, os.path.abspath(given.program)):
        if wanted and not any(name.startswith(word) for word in wanted):
            continue
        path = os.path.join(given.data, file)
        tools = {"ypogram": ours, **others, "cat": (["cat", path], os.devnull)}
        times, peaks = {tool: [] for tool in tools}, {tool: 0 for tool in tools}
        for _ in range(given.rounds):
            for tool, command in tools.items():
                seconds, peak, said = run(command, out)
                times[tool].append(seconds)
                peaks[tool] = max(peaks[tool], peak)
                if tool == "ypogram" and not holds(json.loads(said), truth[file]):
                    sys.exit(f"{name}: what was counted is not what is true of the data: {said[:2000].decode()}")
        median = {tool: statistics.median(times[tool]) for tool in tools}
        speed = os.path.getsize(path) / median["ypogram"] / 1e6
        for tool in tools:
            ratio = median[tool] / median["ypogram"]
            rows.append((name, tool, f"{median[tool]:.3f} s", f"{ratio:.2f}", f"{peaks[tool] / 1e6:.0f} MB",
                         f"{speed:.0f} MB/s, {median['cat'] / median['ypogram']:.1%} of cat" if tool == "ypogram" else ""))
            print(*rows[-1], sep="  ", flush=True)
    clear(out)
    if given.markdown:
        print("\n| job | tool | median | times Ypogram's | peak memory | throughput |\n| --- | --- | --- | --- | --- | --- |")
        for row in rows:
            print("| " + " | ".join(row) + " |")


if __name__ == "__main__":
    main()
