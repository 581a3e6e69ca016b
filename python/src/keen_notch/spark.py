"""A jig, unchanged, on a cluster of Apache Spark.

Each partition goes through the program of its worker as an Arrow stream, batch by batch. The jig
travels with its list files and a hash of them; a worker whose program is another than the driver's
is an error that names both.

What must know all rows at once is the engine's to do: where a jig asks what is unique, each
partition hands out the texts, the engine says which of them it has twice, and the workers are told.
"""

from __future__ import annotations

import functools
import hashlib
import itertools
import json
import re
import shutil
import tempfile
import tomllib
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

import pyarrow as pa
from pyarrow import ipc

from . import commands, results, running
from .commands import Cuts, Jig

Batches = Iterator[pa.RecordBatch]

#: How many lines go to the engine at a time.
BATCH = 65_536


#: A list of more bytes is fetched once by each worker instead of travelling with each partition.
LARGE = 1 << 20


@dataclass(frozen=True)
class PackedJig:
    """A jig with the files that it names, to be unpacked on another machine."""

    #: The bytes of each file by its path from the folder of the jig, which is the first one.
    files: tuple[tuple[str, bytes], ...]
    #: SHA-256 of all of it.
    hash: str
    #: The large ones: their path from the folder of the jig, and what the engine calls them.
    fetched: tuple[tuple[str, str], ...] = ()

    @staticmethod
    def of(jig: Jig) -> "PackedJig":
        """Packs a jig."""
        if isinstance(jig, str) and "\n" in jig:
            folder, text = Path("."), jig
        else:
            path = Path(jig)
            folder, text = path.parent, path.read_text(encoding="utf-8")
        said = tomllib.loads(text)
        files = [("jig.toml", text.encode())]
        named: list[str] = []
        for entry in said.get("lists", {}).values():
            if isinstance(entry, dict) and "file" in entry and entry["file"] not in named:
                named.append(entry["file"])
        for n, name in enumerate(named):
            # On the other machine it lies beside the jig, wherever it came from.
            here = f"list{n + 1}{Path(name).suffix}"
            files.append((here, (folder / name).read_bytes()))
            files[0] = (files[0][0], _renamed(files[0][1].decode(), name, here).encode())
        digest = hashlib.sha256()
        for name, content in files:
            digest.update(f"{name}\0{len(content)}\0".encode() + content)
        return PackedJig(tuple(files), digest.hexdigest())

    def text(self) -> str:
        """The jig itself."""
        return self.files[0][1].decode()

    def handed_to(self, session: Any) -> "PackedJig":
        """The same with its large files handed to a session of Spark, from which workers fetch them."""
        small, fetched = [], []
        for name, content in self.files:
            if len(content) <= LARGE:
                small.append((name, content))
                continue
            # Files of one name are one file to the engine.
            called = f"keen-notch-{hashlib.sha256(content).hexdigest()}"
            path = _kept("lists") / called
            path.write_bytes(content)
            session.sparkContext.addFile(str(path))
            fetched.append((name, called))
        return replace(self, files=tuple(small), fetched=tuple(fetched))

    def unpack(self, folder: Path) -> Path:
        """Writes it into a folder; returns the path of the jig."""
        for name, content in self.files:
            (folder / name).write_bytes(content)
        for name, called in self.fetched:
            from pyspark import SparkFiles

            (folder / name).unlink(missing_ok=True)
            (folder / name).symlink_to(SparkFiles.get(called))
        return folder / self.files[0][0]


def _asks_unique(jig: str) -> bool:
    """Whether a jig asks what is unique."""
    said = tomllib.loads(jig)
    columns = said.get("columns", {}).values()
    asked = [column.get("check", "") for column in columns] + list(said.get("checks", {}).values())
    has_word = any(re.search(r"\bunique\b", re.sub(r"\"[^\"]*\"|'[^']*'", "", check)) for check in asked)
    return has_word or any(column.get("unique") for column in columns)


def _renamed(text: str, name: str, here: str) -> str:
    """The jig with a list file called otherwise, as TOML writes it."""
    written = {json.dumps(name, ensure_ascii=False), f"'{name}'"}
    for one in written:
        text = re.sub(rf"(\bfile\s*=\s*){re.escape(one)}", lambda found: f'{found[1]}"{here}"', text)
    return text


@dataclass(frozen=True)
class SparkCarved:
    """A frame with its new columns. Nothing is computed before it is asked for."""

    frame: Any
    #: Every finding: the key columns, then cut, column, kind, reason, cell, value, note.
    findings: Any


def carve(
    frame: Any,
    jig: Jig,
    *,
    keys: Sequence[str] = (),
    column: str | None = None,
    wheel: str | None = None,
) -> SparkCarved:
    """Cuts a frame of Spark by a jig.

    Findings bear the `keys`, columns of the frame that tell a row from the others. `wheel` is the file
    of this package for workers that do not have it; it is sent to them.

    Where the jig asks what is unique, the frame is read once for that, at once.

    Raises NotchError where the jig does not suit the frame.
    """
    work, empty = _begin(frame, jig, column, wheel)
    made = commands.carve(empty, work.local(), column=column).table.schema
    from pyspark.sql.pandas.types import from_arrow_schema

    listed = [*(empty.schema.field(key) for key in keys), *LISTED]
    return SparkCarved(
        frame.mapInArrow(work.carver(), from_arrow_schema(made)),
        frame.mapInArrow(work.finder(keys), from_arrow_schema(pa.schema(listed))),
    )


def check(
    frame: Any,
    jig: Jig,
    *,
    column: str | None = None,
    wheel: str | None = None,
) -> results.Report:
    """Asks whether every row of a frame is as a jig expects: each partition is counted by itself, and
    the tallies of all are put together. `Reason.first_row` is the row of its partition, `listed` is
    empty: the findings with their keys are those of `carve`. Remembered layouts are not compared.

    Raises as `carve` does.
    """
    work, empty = _begin(frame, jig, column, wheel)
    rows = frame.mapInArrow(work.checker(), "part int, tally string").collect()
    if not rows:
        return commands.check(empty, work.local(), column=column)
    with tempfile.TemporaryDirectory(prefix="keen-notch-") as folder:
        paths = [Path(folder) / f"{n}.json" for n in range(len(rows))]
        for path, row in zip(paths, rows):
            path.write_text(row.tally, encoding="utf-8")
        done = running.run(["tally", "--json", *map(str, paths)], None, False)
    return results.report(json.loads(done.text), pa.table({}))


#: The columns of a list of findings, behind the keys.
LISTED = [pa.field(name, pa.string()) for name in ("cut", "column", "kind", "reason", "cell", "value", "note")]


@functools.cache
def _folder() -> tempfile.TemporaryDirectory[str]:
    """A folder of the driver that is there until its end: workers fetch from it at any time."""
    return tempfile.TemporaryDirectory(prefix="keen-notch-")


def _kept(name: str) -> Path:
    path = Path(_folder().name) / name
    path.mkdir(exist_ok=True)
    return path


def _begin(frame: Any, jig: Jig, column: str | None, wheel: str | None) -> tuple["Work", pa.Table]:
    from pyspark.sql.pandas.types import to_arrow_schema

    if wheel is not None:
        # Spark puts archives on the path of its workers that are called so.
        archive = shutil.copyfile(wheel, _kept("wheel") / Path(wheel).with_suffix(".zip").name)
        frame.sparkSession.sparkContext.addPyFile(str(archive))
    empty = to_arrow_schema(frame.schema).empty_table()
    packed = PackedJig.of(jig).handed_to(frame.sparkSession)
    work = Work(packed, column, running.version())
    if _asks_unique(work.jig.text()):
        # What is wrong with the jig is told before anything runs.
        commands.check(empty, work.local(), column=column)
        lines = frame.mapInArrow(work.gatherer(), "line string")
        twice = lines.groupBy("line").count().where("count > 1").select("line").collect()
        work = replace(work, twice=tuple(row.line for row in twice))
    return work, empty


@dataclass(frozen=True)
class Work:
    """What travels to the workers."""

    jig: PackedJig
    column: str | None
    #: The version of the driver's program.
    version: str
    #: The texts that the frame has twice and must not, as the program writes them; None where nobody asks.
    twice: tuple[str, ...] | None = None

    def local(self) -> str:
        """The path of the jig on the driver."""
        return str(self.jig.unpack(_kept(self.jig.hash)))

    def _ready(self, folder: Path) -> list[str]:
        """Unpacks the jig on a worker, and makes sure that its program is the driver's."""
        if (found := running.version()) != self.version:
            raise RuntimeError(f"the driver has notch {self.version}, this worker {found}: give both the same, or wheel=FILE")
        arguments = ["--jig", str(self.jig.unpack(folder))]
        if self.column is not None:
            arguments += ["--column", self.column]
        if self.twice is not None:
            twice = folder / "twice.txt"
            twice.write_text("".join(f"{line}\n" for line in self.twice), encoding="utf-8", newline="")
            arguments += ["--twice", str(twice)]
        return arguments

    def gatherer(self) -> Callable[[Batches], Batches]:
        """What hands out the texts of a partition that must be unique, as lines."""

        def gathered(batches: Batches) -> Batches:
            with tempfile.TemporaryDirectory(prefix="keen-notch-") as folder:
                path = Path(folder) / "gathered.txt"
                arguments = ["check", "-", "--from", "arrows", "--threads", "1", "--gather", str(path)]
                arguments += self._ready(Path(folder))
                source = _reader(batches)
                if source is None:
                    return
                running.run(arguments, source, False)
                with path.open(encoding="utf-8", newline="\n") as lines:
                    while some := [line.rstrip("\n") for line in itertools.islice(lines, BATCH)]:
                        yield pa.record_batch({"line": pa.array(some, pa.string())})

        return gathered

    def carver(self) -> Callable[[Batches], Batches]:
        """What cuts the batches of a partition."""

        def carved(batches: Batches) -> Batches:
            with tempfile.TemporaryDirectory(prefix="keen-notch-") as folder:
                arguments = ["carve", "-", "--from", "arrows", "--to", "arrows", "--quiet", "--threads", "1"]
                arguments += self._ready(Path(folder))
                source = _reader(batches)
                if source is not None:
                    yield from running.stream(arguments, source)

        return carved

    def finder(self, keys: Sequence[str]) -> Callable[[Batches], Batches]:
        """What lists the findings of a partition."""
        keys = list(keys)

        def found(batches: Batches) -> Batches:
            with tempfile.TemporaryDirectory(prefix="keen-notch-") as folder:
                path = Path(folder) / "findings.arrows"
                arguments = ["check", "-", "--from", "arrows", "--json", "--threads", "1", "--findings", str(path)]
                arguments += self._ready(Path(folder))
                kept: list[pa.RecordBatch] = []

                def noted() -> Batches:
                    for batch in batches:
                        kept.append(batch.select(keys))
                        yield batch

                source = _reader(noted())
                if source is None:
                    return
                running.run(arguments, source, False)
                with pa.OSFile(str(path)) as file:
                    listed = ipc.open_stream(file).read_all() if file.size() else None
                if listed is None or listed.num_rows == 0:
                    return
                rows = pa.Table.from_batches(kept).take(pa.compute.subtract(listed["row"].cast(pa.int64()), 1))
                columns = [*rows.columns, *(listed[of.name].cast(of.type) for of in LISTED)]
                schema = pa.schema([*rows.schema, *LISTED])
                yield from pa.Table.from_arrays(columns, schema=schema).to_batches()

        return found

    def checker(self) -> Callable[[Batches], Batches]:
        """What counts a partition: its number, and its tally."""

        def counted(batches: Batches) -> Batches:
            from pyspark import TaskContext

            context = TaskContext.get()
            number = context.partitionId() if context else 0
            with tempfile.TemporaryDirectory(prefix="keen-notch-") as folder:
                path = Path(folder) / "tally.json"
                arguments = ["check", "-", "--from", "arrows", "--json", "--threads", "1"]
                arguments += ["--tally", str(path), "--part", f"{number:06}", *self._ready(Path(folder))]
                source = _reader(batches)
                if source is None:
                    return
                running.run(arguments, source, False)
                tally = path.read_text(encoding="utf-8")
            yield pa.record_batch({"part": pa.array([number], pa.int32()), "tally": [tally]})

        return counted


def _reader(batches: Batches) -> pa.RecordBatchReader | None:
    """The batches as a reader; None where there are none, and so no schema."""
    first = next(batches, None)
    if first is None:
        return None

    def all_of_them() -> Batches:
        yield first
        yield from batches

    return pa.RecordBatchReader.from_batches(first.schema, all_of_them())
