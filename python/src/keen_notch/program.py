"""The program that does the work: where it is, how it is run, and what went wrong."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
import sysconfig
import threading
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import IO

import pyarrow as pa
from pyarrow import ipc

#: The environment variable that names another program than the one of this package.
NAMED = "KEEN_NOTCH"


@dataclass(frozen=True)
class Problem:
    """One thing that is wrong."""

    #: What is wrong, in a sentence.
    message: str
    #: What to do about it; empty where nothing can be said.
    remedy: str = ""
    #: Where: a file and a line, or what it is about; empty where that is said in the message.
    place: str = ""
    #: The text that is wrong, with a line under the part that is meant; empty where there is none.
    excerpt: str = ""


class NotchError(Exception):
    """The program has stopped. Nothing was written; `str` of it is what the program said."""

    def __init__(self, said: str, status: int) -> None:
        super().__init__(said)
        #: The status that the program ended with.
        self.status = status
        #: Everything that is wrong, the first thing first.
        self.problems: tuple[Problem, ...] = problems(said)

    @property
    def message(self) -> str:
        """What is wrong, in a sentence: of several things the first."""
        return self.problems[0].message

    @property
    def remedy(self) -> str:
        """What to do about it."""
        return self.problems[0].remedy

    @property
    def place(self) -> str:
        """Where it is: a file and a line, or what it is about."""
        return self.problems[0].place


def problems(said: str) -> tuple[Problem, ...]:
    """Takes apart what the program said. There is always at least one problem."""
    # Blocks are divided by blank lines: a head, perhaps an excerpt, what is wrong with its remedy.
    found: list[Problem] = []
    place = excerpt = ""
    for block in said.strip().split("\n\n"):
        lines = block.splitlines()
        head = lines[0] if lines else ""
        for begins in ("Stopped: ", "Also: "):
            if head.startswith(begins):
                head, place, excerpt = head.removeprefix(begins), "", ""
                lines[0] = head
        if head.startswith("    "):
            excerpt = block
        elif len(lines) == 1 and head.endswith("cannot be used."):
            # `lots.toml, line 2: this cut cannot be used.`
            place = head.removesuffix(" cannot be used.")
        elif lines:
            found.append(Problem(head, " ".join(lines[1:]), place, excerpt))
    return tuple(found) or (Problem(said.strip() or "notch said nothing"),)


def program() -> Path:
    """Where the program is: the one of this package, unless KEEN_NOTCH names another.

    Raises FileNotFoundError where there is none.
    """
    name = "notch.exe" if os.name == "nt" else "notch"
    if named := os.environ.get(NAMED):
        path = Path(named)
        if path.is_file():
            return path
        raise FileNotFoundError(f"{NAMED} names {named}, and there is no such file")
    folders = [sysconfig.get_path("scripts"), str(Path(sys.executable).parent)]
    if hasattr(sysconfig, "get_preferred_scheme"):
        folders.append(sysconfig.get_path("scripts", sysconfig.get_preferred_scheme("user")))
    for folder in folders:
        if (Path(folder) / name).is_file():
            return Path(folder) / name
    if found := shutil.which(name):
        return Path(found)
    raise FileNotFoundError("there is no notch here: pip install keen-notch brings it, or KEEN_NOTCH names it")


def version(path: Path | None = None) -> str:
    """The version of the program."""
    done = subprocess.run([path or program(), "--version"], capture_output=True, text=True, check=True)
    return done.stdout.split()[-1]


@dataclass(frozen=True)
class Done:
    """What a run has given."""

    status: int
    #: What it wrote to standard output: a table where one was wanted.
    table: pa.Table | None
    text: bytes


def run(arguments: Sequence[str], source: pa.RecordBatchReader | None, wants_table: bool) -> Done:
    """Runs the program; `source` goes to its standard input as an Arrow stream.

    Raises NotchError where it stops, and whatever reading from the source raises.
    """
    child = subprocess.Popen(
        [program(), *arguments],
        stdin=subprocess.DEVNULL if source is None else subprocess.PIPE,
        stdout=subprocess.PIPE,
        stderr=subprocess.PIPE,
        # A program that runs in another program has no terminal.
        env={**os.environ, "NO_COLOR": "1"},
    )
    assert child.stdout is not None and child.stderr is not None
    said: list[bytes] = []
    raised: list[BaseException] = []
    stderr = child.stderr
    threads = [threading.Thread(target=lambda: said.append(stderr.read()))]
    if source is not None:
        assert child.stdin is not None
        threads.append(threading.Thread(target=_feed, args=(child.stdin, source, raised)))
    for thread in threads:
        thread.start()
    try:
        table, text = None, b""
        if wants_table:
            try:
                table = ipc.open_stream(child.stdout).read_all()
            except pa.ArrowInvalid:
                # What came is no whole stream: the program says why.
                table = None
        text = child.stdout.read()
    except BaseException:
        child.kill()
        raise
    finally:
        status = child.wait()
        for thread in threads:
            thread.join()
        child.stdout.close()
        stderr.close()
    if raised:
        raise raised[0]
    if status not in (0, 1) or (wants_table and table is None):
        raise NotchError(b"".join(said).decode("utf-8", "replace").strip(), status)
    return Done(status, table, text)


def _feed(into: IO[bytes], source: pa.RecordBatchReader, raised: list[BaseException]) -> None:
    try:
        with into, ipc.new_stream(into, source.schema) as stream:
            for batch in source:
                stream.write_batch(batch)
    except (BrokenPipeError, ConnectionResetError):
        # The program has stopped and says why.
        pass
    except OSError as error:
        # Arrow tells a broken pipe so.
        if "Broken pipe" not in str(error):
            raised.append(error)
    except BaseException as error:
        raised.append(error)
