"""The package on tables of every library that it takes, and what it says of mistakes."""

from __future__ import annotations

import datetime
import subprocess

import pandas
import polars
import pyarrow as pa
import pytest

import keen_notch

LOTS = ["GR-2026-TIL-43546-7", "ML-2018-TIL-19640-8", None, "FH/2019/BRA/11717/1"]
CUTS = {"year": 'part 2 of 5 by "-" | as integer'}
YEARS = [2026, 2018, None, None]
SOWN = [datetime.date(2026, 3, 1 + n) for n in range(4)]


def arrow() -> pa.Table:
    house = pa.array(["a", "b", "a", None]).dictionary_encode()
    return pa.table({"lot": LOTS, "n": pa.array([1, 2, 3, 4], pa.int8()), "sown": SOWN, "house": house})


TABLES = {
    "table": arrow(),
    "reader": None,
    "batch": arrow().to_batches()[0],
    "pandas": pandas.DataFrame({"lot": LOTS, "n": [1, 2, 3, 4]}),
    "polars": polars.DataFrame({"lot": LOTS, "n": [1, 2, 3, 4]}),
    "views": pa.table({"lot": pa.array(LOTS, pa.large_string()), "n": [1, 2, 3, 4]}),
}


@pytest.mark.parametrize("kind", TABLES)
def test_every_kind_of_table_comes_back_as_it_is(kind: str) -> None:
    table = TABLES[kind] if kind != "reader" else arrow().to_reader()
    done = keen_notch.carve(table, cuts=CUTS, column="lot")
    assert done.table.column("year").to_pylist() == YEARS
    assert done.table.column("n").to_pylist() == [1, 2, 3, 4]
    wanted = {"pandas": pandas.DataFrame, "polars": polars.DataFrame}.get(kind, pa.Table)
    assert isinstance(done.frame, wanted)
    assert [of["row"] for of in done.findings.to_pylist() if not of["note"]] == [4]


def test_old_columns_keep_their_types() -> None:
    done = keen_notch.carve(arrow(), cuts=CUTS, column="lot")
    assert done.table.schema.names == ["lot", "n", "sown", "house", "year"]
    assert done.table.schema.types[:4] == arrow().schema.types
    assert done.table.select(["n", "sown", "house"]).equals(arrow().select(["n", "sown", "house"]))


def test_a_table_without_rows_gets_its_columns() -> None:
    done = keen_notch.carve(arrow().slice(0, 0), cuts=CUTS, column="lot")
    assert done.table.num_rows == 0 and done.table.schema.field("year").type == pa.int64()


def test_many_batches_are_what_one_is() -> None:
    rows = 100_000
    table = pa.table({"lot": [f"GR-{2000 + n % 30}-TIL-{n:05}-7" for n in range(rows)]})
    whole = keen_notch.carve(table, cuts=CUTS, column="lot").table
    parts = pa.Table.from_batches(table.to_batches(max_chunksize=777))
    assert keen_notch.carve(parts, cuts=CUTS, column="lot", threads=2).table.equals(whole)
    assert whole.column("year").to_pylist() == [2000 + n % 30 for n in range(rows)]


def test_rows_are_taken_out_only_where_that_is_said() -> None:
    kept = keen_notch.carve(arrow(), cuts=CUTS, column="lot")
    parted = keen_notch.carve(arrow(), cuts=CUTS, column="lot", rejects=True)
    assert (kept.table.num_rows, kept.rejects.num_rows) == (4, 0)
    assert (parted.table.num_rows, parted.rejects.column("lot").to_pylist()) == (3, [LOTS[3]])
    only = keen_notch.carve(arrow(), cuts=CUTS, column="lot", only=True, where='{n} value 1..2')
    assert only.table.to_pydict() == {"year": [2026, 2018]}
    replaced = keen_notch.carve(arrow(), cuts={"lot": "{lot} | first 2"}, replace=["lot"])
    assert replaced.table.column("lot").to_pylist() == ["GR", "ML", None, "FH"]


def test_a_report_is_what_the_program_says(tmp_path) -> None:  # type: ignore[no-untyped-def]
    jig = tmp_path / "lots.toml"
    jig.write_text("[lists]\nhouses = ['GR', 'ML']\n[cuts]\nfirm = '{lot} | first 2 | check is in houses'\n")
    report = keen_notch.check(arrow(), jig)
    assert not report and report.rows == 4 and report.rows_with_findings == 1
    (found,) = report.findings
    assert (found.about, found.kind, found.rows) == ("firm", "check", 1)
    assert found.reasons == (keen_notch.Reason("fails: is in houses", 1, 4),)
    assert report.columns[0].failed == 1 and report.notes[0].about == "lot"
    assert [of["cell"] for of in report.listed.to_pylist() if not of["note"]] == [LOTS[3]]
    assert keen_notch.check(arrow().slice(0, 2), [jig])


def test_a_survey_and_what_is_learnt() -> None:
    table = pa.table({"lot": [f"GR-{2000 + n}-TIL-{n:05}-7" for n in range(40)]})
    survey = keen_notch.survey(table)
    assert survey.rows == 40 and survey["lot"].filled == 40
    assert keen_notch.survey(table, "lot", threads=1) == survey
    made = keen_notch.carve(table, cuts=[str(cut) for cut in survey["lot"].cuts], column="lot")
    assert made.table.num_columns > 3 and made.findings.num_rows == 0
    learned = keen_notch.learn(table, "lot", {table["lot"][7].as_py(): ("GR", "2007")}, names=["house", "year"])
    made = keen_notch.carve(table, cuts=learned.cuts[0].cuts, column="lot")
    assert made.table["year"].to_pylist() == [str(2000 + n) for n in range(40)]
    odd = pa.table({"t": ['a "b" => c | d', "é\n1\t2\\"]})
    assert keen_notch.learn(odd, "t", [('a "b" => c | d', "c"), ("é\n1\t2\\", "2")])
    assert not keen_notch.learn(odd, "t", {'a "b" => c | d': "nowhere in it"})


@pytest.mark.parametrize(
    ("call", "message", "place"),
    [
        (lambda t: keen_notch.carve(t, cuts={"a": "first 2"}, column="nope"), "There is no column nope.", ""),
        (lambda t: keen_notch.carve(t, cuts={"a": "frist 2"}, column="lot"), "`frist` is not a step.", "this cut"),
        (lambda t: keen_notch.check(t, "nope.toml"), "the jig nope.toml cannot be read: there is no such file.", ""),
        (lambda t: keen_notch.survey(t, "nope"), "there is no column nope.", ""),
        (lambda t: keen_notch.learn(t, "lot", [("a", "b"), ("a", "c")]), None, ""),
    ],
)
def test_mistakes_are_told_with_their_place(call, message, place) -> None:  # type: ignore[no-untyped-def]
    with pytest.raises(keen_notch.NotchError) as caught:
        call(arrow())
    error = caught.value
    assert error.status == 2 and error.remedy and error.place == place
    assert message is None or error.message == message


def test_every_mistake_of_a_jig_is_told() -> None:
    with pytest.raises(keen_notch.NotchError) as caught:
        keen_notch.carve(arrow(), '[cuts]\na = "{lot} | frist 2"\nb = "{lot} | lsat 2"\n')
    assert [problem.message for problem in caught.value.problems] == ["`frist` is not a step.", "`lsat` is not a step."]
    assert all("line" in problem.place and "‾" in problem.excerpt for problem in caught.value.problems)


def test_what_is_no_table_is_refused() -> None:
    with pytest.raises(TypeError, match="int is no table"):
        keen_notch.carve(7, cuts=CUTS)
    with pytest.raises(TypeError, match="called by no text"):
        keen_notch.carve(pandas.DataFrame({1: ["a"]}), cuts=CUTS)


def test_what_a_source_raises_is_raised() -> None:
    def batches():  # type: ignore[no-untyped-def]
        yield arrow().to_batches()[0]
        raise ZeroDivisionError("of the source")

    reader = pa.RecordBatchReader.from_batches(arrow().schema, batches())
    with pytest.raises(ZeroDivisionError, match="of the source"):
        keen_notch.carve(reader, cuts=CUTS, column="lot")


def test_the_program_runs() -> None:
    done = subprocess.run([keen_notch.program(), "--version"], capture_output=True, text=True, check=True)
    assert done.stdout.strip() == f"notch {keen_notch.version()}"
