"""Batches through the program: written to its standard input by one thread, read from its standard output by another."""

import subprocess
import tempfile
import threading
from collections import deque
from collections.abc import Iterable, Iterator, Sequence
from typing import IO

import pyarrow as pa


class YpogramError(RuntimeError):
    """The program ended with an error; the message is its own."""


def run_text(command: Sequence[str]) -> str:
    """What a call of the program prints."""
    done = subprocess.run(command, capture_output=True, text=True, check=False)
    if done.returncode != 0:
        raise YpogramError(_message(done.stderr, done.returncode))
    return done.stdout


def _message(told: str, code: int) -> str:
    told = told.strip()
    return told or f"the program ended with code {code} and said nothing"


class _Feeder(threading.Thread):
    """Writes batches, and remembers each until it is answered."""

    def __init__(self, to: IO[bytes], schema: pa.Schema, batches: Iterable[pa.RecordBatch]):
        super().__init__(daemon=True)
        self._to, self._schema, self._batches = to, schema, batches
        self.unanswered: deque[pa.RecordBatch] = deque()
        self.error: BaseException | None = None

    def run(self) -> None:
        try:
            with self._to, pa.ipc.new_stream(self._to, self._schema) as stream:
                for batch in self._batches:
                    self.unanswered.append(batch)
                    stream.write_batch(batch)
        except (BrokenPipeError, ConnectionError):
            # The program ended, and tells why.
            pass
        except BaseException as error:  # what the batches come from failed
            self.error = error


def answered(
    command: Sequence[str],
    schema: pa.Schema,
    batches: Iterable[pa.RecordBatch],
) -> Iterator[tuple[pa.RecordBatch, pa.RecordBatch]]:
    """Each batch with the program's answer to it, which has as many rows.

    `schema` is that of the batches. Raises YpogramError where the program fails.
    """
    with tempfile.TemporaryFile() as errors:
        process = subprocess.Popen(list(command), stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=errors)
        feeder = _Feeder(process.stdin, schema, batches)
        feeder.start()
        failed: BaseException | None = None
        try:
            try:
                with pa.ipc.open_stream(process.stdout) as answers:
                    for answer in answers:
                        batch = feeder.unanswered.popleft()
                        if answer.num_rows != batch.num_rows:
                            raise YpogramError(f"{batch.num_rows} rows were sent and {answer.num_rows} came back")
                        yield batch, answer
            except pa.ArrowInvalid as error:
                failed = error
            code = process.wait()
            feeder.join()
            if feeder.error is not None:
                raise feeder.error
            if code != 0:
                errors.seek(0)
                raise YpogramError(_message(errors.read().decode(errors="replace"), code)) from failed
            if failed is not None:
                raise YpogramError("the program's answer broke off") from failed
            if feeder.unanswered:
                raise YpogramError(f"{len(feeder.unanswered)} batches were not answered")
        finally:
            # Where nobody wants the rest, or something failed.
            if process.poll() is None:
                process.kill()
                process.wait()
            if process.stdout is not None:
                process.stdout.close()
