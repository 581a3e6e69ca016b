"""The program that does the work: where it is, how it is run, and what went wrong."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
import sysconfig
import tempfile
import threading
import zipfile
from collections.abc import Iterator, Sequence
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
    if (found := _of_wheel(name)) is not None:
        return found
    if on_path := shutil.which(name):
        return Path(on_path)
    raise FileNotFoundError("there is no notch here: pip install keen-notch brings it, or KEEN_NOTCH names it")


def _of_wheel(name: str) -> Path | None:
    """The program of the wheel that this package was imported from as it is, as workers of a cluster do.

    It is unpacked once into the folder for temporary files.
    """
    wheel = next((parent for parent in Path(__file__).parents if zipfile.is_zipfile(parent)), None)
    if wheel is None:
        return None
    with zipfile.ZipFile(wheel) as archive:
        inside = next((one for one in archive.infolist() if one.filename.endswith(f".data/scripts/{name}")), None)
        if inside is None:
            return None
        folder = Path(tempfile.gettempdir()) / f"keen-notch-{os.getuid() if hasattr(os, 'getuid') else 0}-{inside.CRC:08x}"
        folder.mkdir(mode=0o700, exist_ok=True)
        if hasattr(os, "getuid") and folder.stat().st_uid != os.getuid():
            raise PermissionError(f"{folder} belongs to somebody else")
        path = folder / name
        if not path.is_file():
            # Several workers of a machine may do this at once: each writes its own and renames it.
            own = folder / f"{name}.{os.getpid()}"
            own.write_bytes(archive.read(inside))
            own.chmod(0o755)
            own.replace(path)
        return path


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


class _Run:
    """A run of the program, with what it is fed and what it says gathered beside."""

    def __init__(self, arguments: Sequence[str], source: pa.RecordBatchReader | None) -> None:
        self.child = subprocess.Popen(
            [program(), *arguments],
            stdin=subprocess.DEVNULL if source is None else subprocess.PIPE,
            stdout=subprocess.PIPE,
            stderr=subprocess.PIPE,
            # A program that runs in another program has no terminal.
            env={**os.environ, "NO_COLOR": "1"},
        )
        assert self.child.stdout is not None and self.child.stderr is not None
        self.out: IO[bytes] = self.child.stdout
        self.stderr: IO[bytes] = self.child.stderr
        self.said: list[bytes] = []
        self.raised: list[BaseException] = []
        self.threads = [threading.Thread(target=lambda: self.said.append(self.stderr.read()))]
        if source is not None:
            assert self.child.stdin is not None
            self.threads.append(threading.Thread(target=_feed, args=(self.child.stdin, source, self.raised)))
        for thread in self.threads:
            thread.start()

    def end(self, is_whole: bool) -> int:
        """Waits for the end; returns the status. `is_whole` says that all was read that was wanted.

        Raises NotchError where the program has stopped, and what reading from the source raised.
        """
        status = self.child.wait()
        for thread in self.threads:
            thread.join()
        self.out.close()
        self.stderr.close()
        if self.raised:
            raise self.raised[0]
        if status not in (0, 1) or not is_whole:
            raise NotchError(b"".join(self.said).decode("utf-8", "replace").strip(), status)
        return status

    def kill(self) -> None:
        """Ends the program, whatever it is doing."""
        self.child.kill()
        self.child.wait()
        self.out.close()


def run(arguments: Sequence[str], source: pa.RecordBatchReader | None, wants_table: bool) -> Done:
    """Runs the program; `source` goes to its standard input as an Arrow stream.

    Raises NotchError where it stops, and whatever reading from the source raises.
    """
    going = _Run(arguments, source)
    table = None
    try:
        if wants_table:
            try:
                table = ipc.open_stream(going.out).read_all()
            except pa.ArrowInvalid:
                # What came is no whole stream: the program says why.
                pass
        text = going.out.read()
    except BaseException:
        going.kill()
        raise
    return Done(going.end(table is not None or not wants_table), table, text)


def stream(arguments: Sequence[str], source: pa.RecordBatchReader) -> Iterator[pa.RecordBatch]:
    """The same, batch by batch as they come: memory does not grow with the rows."""
    going = _Run(arguments, source)
    is_whole = False
    try:
        try:
            yield from ipc.open_stream(going.out)
            is_whole = True
        except pa.ArrowInvalid:
            pass
        going.out.read()
    except BaseException:
        going.kill()
        raise
    going.end(is_whole)


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
