"""The program and the rulebook on their way to the executors: in one archive, unpacked once by each Python process there."""

import atexit
import functools
import hashlib
import os
import shutil
import stat
import sys
import tempfile
import threading
import tomllib
import zipfile
from dataclasses import dataclass
from pathlib import Path

import ypogram_arrow
from pyspark import SparkFiles
from pyspark.sql import SparkSession
from ypogram_arrow import YpogramError, find_program, program_version

_PROGRAM, _RULES, _PREFIX = "program", "rules", "sent-program-"


@dataclass(frozen=True)
class Shipped:
    """What was sent: the archive's name among Spark's files, its hash, the version it has to have, the rulebook in it."""

    archive: str
    hash: str
    version: str
    rulebook: str | None

    def unpacked(self) -> tuple[str, str | None]:
        """On an executor: the program and the rulebook, made sure to be what was sent."""
        folder = _unpacked(SparkFiles.get(self.archive), self.hash)
        program = os.path.join(folder, _PROGRAM)
        told = program_version(program)
        if told != self.version:
            raise YpogramError(f"the program here is {told}, and {self.version} was sent")
        return program, None if self.rulebook is None else os.path.join(folder, _RULES, self.rulebook)


def ship(
    spark: SparkSession,
    program: str | os.PathLike[str] | None,
    rulebook: str | os.PathLike[str] | None,
) -> Shipped:
    """Sends the program, and the rulebook with the files that it names: lists, and remembered decisions."""
    found = find_program(program)
    files = {_PROGRAM: Path(found)}
    named = None
    if rulebook is not None:
        path = Path(rulebook)
        named = path.name
        for file in [path, *_named_by(path)]:
            files[f"{_RULES}/{os.path.relpath(file, path.parent)}"] = file
    if any(".." in name.split("/") for name in files):
        raise YpogramError(f"{rulebook}: a file that it names lies outside of its folder, and cannot be sent with it")
    hashed = hashlib.blake2b(digest_size=16)
    for name, file in sorted(files.items()):
        hashed.update(f"{name}\0{file.stat().st_size}\0".encode())
        hashed.update(file.read_bytes())
    hash = hashed.hexdigest()
    archive = f"ypogram-{hash}.zip"
    folder = _folder_of_this_process()
    context = spark.sparkContext
    if not (folder / archive).exists():
        with zipfile.ZipFile(folder / archive, "w", zipfile.ZIP_DEFLATED, compresslevel=1) as packed:
            for name, file in files.items():
                packed.write(file, name)
    context.addFile(str(folder / archive))
    # The executors' Python may not have the packages.
    packages = folder / "ypogram_packages.zip"
    if not packages.exists():
        with zipfile.ZipFile(packages, "w") as packed:
            for package in (ypogram_arrow, sys.modules[__package__]):
                for file in sorted(Path(package.__file__).parent.glob("*.py")):
                    packed.write(file, f"{package.__name__}/{file.name}")
    context.addPyFile(str(packages))
    return Shipped(archive, hash, program_version(found), named)


@functools.cache
def _folder_of_this_process() -> Path:
    folder = tempfile.mkdtemp(prefix=_PREFIX)
    atexit.register(shutil.rmtree, folder, ignore_errors=True)
    return Path(folder)


def _named_by(rulebook: Path) -> list[Path]:
    """The files that a rulebook names; what is not there the program tells by itself."""
    try:
        rules = tomllib.loads(rulebook.read_text())
    except (OSError, tomllib.TOMLDecodeError, UnicodeDecodeError):
        return []
    entries = [*rules.get("lists", {}).values(), rules.get("decisions")]
    names = [entry.get("file") for entry in entries if isinstance(entry, dict)]
    # Behind # stands a sheet or a table of a file.
    files = [rulebook.parent / name.partition("#")[0] for name in names if isinstance(name, str)]
    return [file for file in files if file.is_file()]


_lock = threading.Lock()
_folders: dict[str, str] = {}


def _unpacked(archive: str, hash: str) -> str:
    with _lock:
        if hash not in _folders:
            # Beside the archive, where Spark clears up. The program takes folders that begin with its own name for those of its
            # killed runs.
            folder = tempfile.mkdtemp(prefix=_PREFIX, dir=os.path.dirname(archive))
            with zipfile.ZipFile(archive) as packed:
                packed.extractall(folder)
            program = os.path.join(folder, _PROGRAM)
            os.chmod(program, os.stat(program).st_mode | stat.S_IXUSR)
            hashed = hashlib.blake2b(digest_size=16)
            names = sorted(
                os.path.relpath(os.path.join(root, file), folder).replace(os.sep, "/")
                for root, _, files in os.walk(folder)
                for file in files
            )
            for name in names:
                path = Path(folder, name)
                hashed.update(f"{name}\0{path.stat().st_size}\0".encode())
                hashed.update(path.read_bytes())
            if hashed.hexdigest() != hash:
                raise YpogramError("the program or the rulebook here is not what was sent")
            _folders[hash] = folder
        return _folders[hash]
