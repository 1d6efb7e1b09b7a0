"""Where the program is."""

import os
import shutil
import subprocess
from pathlib import Path


def find_program(program: str | os.PathLike[str] | None = None) -> str:
    """The path of the program: as given, else as the variable YPOGRAM says, else from the search path.

    Raises FileNotFoundError where it is in none of these places.
    """
    wanted = program or os.environ.get("YPOGRAM") or "ypogram"
    found = shutil.which(os.fspath(wanted))
    if found is None:
        raise FileNotFoundError(
            f"{os.fspath(wanted)} is not a program that can be run: give its path with program=, "
            "with the variable YPOGRAM, or put ypogram into the search path"
        )
    return str(Path(found).resolve())


def program_version(program: str | os.PathLike[str] | None = None) -> str:
    """What the program says of its version."""
    told = subprocess.run([find_program(program), "--version"], capture_output=True, text=True, check=True)
    return told.stdout.strip()
