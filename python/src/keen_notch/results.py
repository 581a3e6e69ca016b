"""What the commands return: plain values, each with the whole of what the program said as `raw`."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

import pyarrow as pa

Json = dict[str, Any]


@dataclass(frozen=True)
class Carved:
    """A table with its new columns."""

    #: The table, of the kind that was given: a frame of pandas for a frame of pandas.
    frame: Any
    #: The same as Arrow.
    table: pa.Table
    #: Every finding: row (from 1), cut, column, kind, reason, cell, value, note.
    findings: pa.Table
    #: The rows that were taken out; none unless `rejects=True` lets them be.
    rejects: pa.Table


@dataclass(frozen=True)
class Reason:
    """Why, in how many rows, and the first of them, from 1."""

    reason: str
    rows: int
    first_row: int


@dataclass(frozen=True)
class Finding:
    """Findings of one kind about one cut, check or column."""

    about: str
    kind: str
    rows: int
    reasons: tuple[Reason, ...]
    #: It is told, and does not make a table other than expected.
    is_note: bool
    #: The first of them: row, cell, value, reason.
    examples: tuple[Json, ...]


@dataclass(frozen=True)
class ColumnReport:
    """What became of a new column."""

    name: str
    filled: int
    blank: int
    failed: int
    #: Its shapes with how many texts have each, the commonest first.
    shapes: tuple[tuple[str, int], ...]


@dataclass(frozen=True)
class Report:
    """Whether every row is as a jig expects."""

    as_expected: bool
    rows: int
    rows_with_findings: int
    #: What does not fit, without the notes.
    findings: tuple[Finding, ...]
    notes: tuple[Finding, ...]
    columns: tuple[ColumnReport, ...]
    #: What no longer looks as it was remembered.
    drift: tuple[Json, ...]
    #: Every finding with its row, as `Carved.findings`.
    listed: pa.Table = field(repr=False)
    raw: Json = field(repr=False)

    def __bool__(self) -> bool:
        return self.as_expected


@dataclass(frozen=True)
class ProposedCut:
    """A cut that suits a column, with how many filled rows it fits."""

    names: str
    cut: str
    fits: int

    def __str__(self) -> str:
        return f"{self.names} = {self.cut}"


@dataclass(frozen=True)
class Layout:
    """A way of writing: words and signs with slots between, and how many texts are written so."""

    layout: str
    texts: int
    example: str


@dataclass(frozen=True)
class ColumnSurvey:
    """What a column holds."""

    name: str
    filled: int
    blank: int
    looks_like: str
    layouts: tuple[Layout, ...]
    #: The commonest shapes with how many texts have each.
    shapes: tuple[tuple[str, int], ...]
    cuts: tuple[ProposedCut, ...]
    raw: Json = field(repr=False)


@dataclass(frozen=True)
class Survey:
    """What the columns of a table hold."""

    rows: int
    columns: tuple[ColumnSurvey, ...]
    raw: Json = field(repr=False)

    def __getitem__(self, name: str) -> ColumnSurvey:
        for column in self.columns:
            if column.name == name:
                return column
        raise KeyError(name)


@dataclass(frozen=True)
class LearntCut:
    """A cut that gives every example. Of several pieces it has a cut for each."""

    cuts: tuple[str, ...]
    #: In how many of the filled rows it finds its piece without a finding; None without a table.
    fits: int | None
    rows: int | None


@dataclass(frozen=True)
class Question:
    """The row in which the best cuts part: which of the pieces is right?"""

    row: int
    cell: str
    gives: tuple[Any, ...]


@dataclass(frozen=True)
class Learned:
    """What was learnt of examples, the best cut first; none where nothing fits."""

    cuts: tuple[LearntCut, ...]
    ask: tuple[Question, ...]
    complete: bool
    raw: Json = field(repr=False)

    def __bool__(self) -> bool:
        return bool(self.cuts)


def report(raw: Json, listed: pa.Table) -> Report:
    """A report out of what `notch check --json` prints of a table that came as Arrow: its lines are
    rows."""
    findings = [
        Finding(
            of["about"],
            of["kind"],
            of["count"],
            tuple(Reason(why["reason"], why["count"], why["first_line"]) for why in of["reasons"]),
            of["is_note"],
            tuple({key: example[key] for key in ("row", "cell", "value", "reason")} for example in of["examples"]),
        )
        for of in raw["findings"]
    ]
    columns = tuple(
        ColumnReport(of["name"], of["filled"], of["blank"], of["failed"], _shapes(of["shapes"], "rows"))
        for of in raw["columns"]
    )
    return Report(
        raw["as_expected"],
        raw["rows"],
        raw["rows_with_findings"],
        tuple(of for of in findings if not of.is_note),
        tuple(of for of in findings if of.is_note),
        columns,
        tuple(raw["drift"]),
        listed,
        raw,
    )


def _shapes(shapes: list[Json], count: str) -> tuple[tuple[str, int], ...]:
    return tuple((of["shape"], of[count]) for of in shapes)


def survey(raw: Json) -> Survey:
    """A survey out of what `notch survey --json` prints."""
    columns = tuple(
        ColumnSurvey(
            of["name"],
            of["rows"] - of["blank"],
            of["blank"],
            of["looks_like"],
            tuple(Layout(one["layout"], one["texts"], one["first"]["text"]) for one in of["layouts"]),
            _shapes(of["shapes"], "texts"),
            tuple(ProposedCut(one["names"], one["cut"], one["fits"]) for one in of["cuts"]),
            of,
        )
        for of in raw["columns"]
    )
    return Survey(max((of["rows"] for of in raw["columns"]), default=0), columns, raw)


def learned(raw: Json) -> Learned:
    """What was learnt, out of what `notch learn --json` prints."""
    return Learned(
        tuple(LearntCut(tuple(of["cuts"]), of["fits"], of["rows"]) for of in raw["cuts"]),
        tuple(Question(of["row"], of["cell"], tuple(of["gives"])) for of in raw["ask"]),
        raw["complete"],
        raw,
    )
