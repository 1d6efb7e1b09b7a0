"""Email addresses of an Arrow table, judged by Ypogram.

>>> import pyarrow as pa
>>> members = pa.table({"no": [1, 2], "email": ["Ada@H-Works.org ", "bo@@x"]})
>>> judged = judge(members, "email", columns=["address", "verdict"])
>>> judged.to_pylist()[0]
{'no': 1, 'email': 'Ada@H-Works.org ', 'yp_address': 'ada@h-works.org', 'yp_verdict': 'accept'}
"""

from ._judge import added_schema, judge, judge_batches, worker_command
from ._pipe import YpogramError, answered, run_text
from ._program import find_program, program_version

__all__ = [
    "YpogramError",
    "added_schema",
    "answered",
    "find_program",
    "judge",
    "judge_batches",
    "program_version",
    "run_text",
    "worker_command",
]
