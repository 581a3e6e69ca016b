"""The commands of the program, on tables in memory."""

from __future__ import annotations

import json
import os
import tempfile
from collections.abc import Iterable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from pathlib import Path
from typing import Any, Union

import pyarrow as pa
from pyarrow import ipc

from . import results
from .running import run
from .tables import as_reader

#: A file, or the text of a jig: what has a line break in it is a text.
Jig = Union[str, "os.PathLike[str]"]
#: Cuts by the names of their columns, or each as `name = cut`.
Cuts = Union[Mapping[str, str], Iterable[str]]
#: A piece: a text, several for `names`, or None for a row in which there is none.
Piece = Union[str, Sequence[str], None]


def carve(
    table: Any,
    jig: Jig | Sequence[Jig] | None = None,
    *,
    cuts: Cuts | None = None,
    column: str | None = None,
    on_finding: str | None = None,
    rejects: bool = False,
    where: str | None = None,
    replace: Sequence[str] = (),
    only: bool = False,
    threads: int | None = None,
) -> results.Carved:
    """Cuts a table: new columns on its right, and every row told that did not fit.

    `column` is the one that cuts start from which name none. `on_finding` says what becomes of a row
    with a finding: keep, blank, reject or stop. `rejects` takes rows out of the table that have one,
    unless `on_finding` says otherwise: they are in `Carved.rejects`. `where` writes only the rows for
    which a condition holds, `replace` lets new columns take the place of old ones, `only` leaves the
    old ones out.

    Raises NotchError where the cuts or the jig do not suit the table.
    """
    reader, back = as_reader(table)
    with _folder() as folder:
        findings, rejected = folder / "findings.arrows", folder / "rejects.arrows"
        arguments = ["carve", "-", "--from", "arrows", "--to", "arrows", "--quiet", "--no-sync"]
        arguments += ["--findings", str(findings)]
        arguments += ["--rejects", str(rejected)] if rejects or on_finding == "reject" else []
        arguments += _making(folder, jig, column, threads)
        arguments += [f"--on-finding={on_finding}"] if on_finding else []
        arguments += [f"--where={where}"] if where else []
        arguments += [word for name in replace for word in ("--replace", name)]
        arguments += ["--only"] if only else []
        done = run([*arguments, "--", *_cuts(cuts)], reader, True)
        assert done.table is not None
        return results.Carved(back(done.table), done.table, _listed(findings), _read(rejected))


def check(
    table: Any,
    jig: Jig | Sequence[Jig] | None = None,
    *,
    cuts: Cuts | None = None,
    column: str | None = None,
    threads: int | None = None,
) -> results.Report:
    """Asks whether every row is as a jig expects. Nothing is written.

    Raises NotchError where the jig does not suit the table.
    """
    reader, _ = as_reader(table)
    with _folder() as folder:
        findings = folder / "findings.arrows"
        arguments = ["check", "-", "--from", "arrows", "--json", "--findings", str(findings)]
        arguments += _making(folder, jig, column, threads)
        done = run([*arguments, *_cuts(cuts)], reader, False)
        return results.report(json.loads(done.text), _listed(findings))


def survey(table: Any, column: str | None = None, *, threads: int | None = None) -> results.Survey:
    """Looks at a table, or closely at one of its columns: what it holds and which cuts suit it.

    Raises NotchError where there is no such column.
    """
    reader, _ = as_reader(table)
    arguments = ["survey", "-", "--from", "arrows", "--json"]
    arguments += ["--column", column] if column is not None else []
    arguments += ["--threads", str(threads)] if threads else []
    return results.survey(json.loads(run(arguments, reader, False).text))


def learn(
    table: Any,
    column: str,
    examples: Mapping[str, Piece] | Iterable[tuple[str, Piece]],
    *,
    names: Sequence[str] | None = None,
    name: str | None = None,
) -> results.Learned:
    """Finds cuts that give the pieces of examples, and the row in which the best of them part.

    `examples` has cells, each with the piece that is to come out of it. With `names` each has
    several, in that order. Nothing that fits is no error: the result is false then.

    Raises NotchError where the question is wrong: two pieces for one cell, an unknown column.
    """
    reader, _ = as_reader(table)
    pairs = examples.items() if isinstance(examples, Mapping) else examples
    arguments = ["learn", "-", "--from", "arrows", "--json", "--column", column]
    arguments += ["--names", ",".join(names)] if names else []
    arguments += ["--name", name] if name else []
    arguments += [_example(cell, piece) for cell, piece in pairs]
    return results.learned(json.loads(run(arguments, reader, False).text))


def _example(cell: str, piece: Piece) -> str:
    pieces = [""] if piece is None else [piece] if isinstance(piece, str) else list(piece)
    said = " | ".join(_quoted(one) if one else "" for one in pieces)
    return f"{_quoted(cell)} => {said}"


def _quoted(text: str) -> str:
    """A text as a string of the language of cuts."""
    escaped = text.replace("\\", "\\\\").replace('"', '\\"')
    for character, written in (("\n", "\\n"), ("\r", "\\r"), ("\t", "\\t")):
        escaped = escaped.replace(character, written)
    return f'"{escaped}"'


def _cuts(cuts: Cuts | None) -> list[str]:
    if cuts is None:
        return []
    if isinstance(cuts, str):
        return [cuts]
    if isinstance(cuts, Mapping):
        return [f"{name} = {cut}" for name, cut in cuts.items()]
    return list(cuts)


def _making(folder: Path, jig: Jig | Sequence[Jig] | None, column: str | None, threads: int | None) -> list[str]:
    jigs: Sequence[Jig] = [] if jig is None else [jig] if isinstance(jig, (str, os.PathLike)) else jig
    arguments: list[str] = []
    for n, one in enumerate(jigs):
        if isinstance(one, str) and "\n" in one:
            path = folder / f"jig{n + 1}.toml"
            path.write_text(one, encoding="utf-8")
            one = path
        arguments += ["--jig", os.fspath(one)]
    arguments += ["--column", column] if column is not None else []
    arguments += ["--threads", str(threads)] if threads else []
    return arguments


@contextmanager
def _folder() -> Iterator[Path]:
    with tempfile.TemporaryDirectory(prefix="keen-notch-") as folder:
        yield Path(folder)


def _read(path: Path) -> pa.Table:
    if not path.is_file():
        return pa.table({})
    with pa.memory_map(str(path)) as file:
        # Out of the file, which goes with its folder.
        return pa.table(ipc.open_stream(file.read_buffer()).read_all()) if file.size() else pa.table({})


def _listed(path: Path) -> pa.Table:
    """A list of findings with its rows as numbers; lines mean nothing in a table without any."""
    table = _read(path)
    if "row" in table.column_names:
        place = table.column_names.index("row")
        table = table.set_column(place, "row", table.column(place).cast(pa.int64()))
    return table.drop_columns(["line"]) if "line" in table.column_names else table
