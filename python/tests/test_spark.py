"""A jig on a cluster of Spark: equal to one machine at any partitioning, and its refusals."""

from __future__ import annotations

import os
import sys
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

pyspark = pytest.importorskip("pyspark")
pytestmark = pytest.mark.filterwarnings("ignore")

import keen_notch
from keen_notch import spark

JIG = """
column = "lot"
[lists]
houses = { file = "houses.txt" }
[cuts]
house = 'part 1 of 5 by "-" | check is in houses'
year = 'part 2 of 5 by "-" | as integer'
serial = 'part 4 of 5 by "-" | pad left 8 with "0"'
"""
ROWS = 20_000


@pytest.fixture(scope="module")
def session() -> Iterator[Any]:
    # Workers are processes of their own where a master with several is asked for.
    master = os.environ.get("KEEN_NOTCH_TEST_MASTER", "local[2]")
    os.environ |= {"SPARK_LOCAL_IP": "127.0.0.1", "SPARK_HOME": os.path.dirname(pyspark.__file__)}
    os.environ.setdefault("PYSPARK_PYTHON", sys.executable)
    from pyspark.sql import SparkSession

    builder = SparkSession.builder.master(master).config("spark.driver.host", "127.0.0.1").config("spark.ui.enabled", "false")
    session = builder.config("spark.sql.execution.arrow.maxRecordsPerBatch", "1000").getOrCreate()
    session.sparkContext.setLogLevel("ERROR")
    yield session
    session.stop()


@pytest.fixture
def jig(tmp_path: Path) -> Path:
    (tmp_path / "houses.txt").write_text("GR\nML\n")
    (tmp_path / "lots.toml").write_text(JIG)
    return tmp_path / "lots.toml"


def lots(session: Any, parts: int) -> Any:
    odd = "case when id % 97 = 0 then concat('FH/', id) when id % 101 = 0 then null "
    lot = odd + "else concat(if(id % 5 = 0, 'TS', 'GR'), '-', 2000 + id % 30, '-TIL-', lpad(id, 5, '0'), '-7') end as lot"
    return session.range(0, ROWS, 1, parts).selectExpr("id", lot)


def counts(report: keen_notch.Report) -> Any:
    found = [(of.about, of.kind, of.rows, {why.reason: why.rows for why in of.reasons}) for of in (*report.findings, *report.notes)]
    return report.as_expected, report.rows, report.rows_with_findings, sorted(found, key=str), report.columns


@pytest.mark.parametrize("parts", [1, 7])
def test_a_cluster_gives_what_one_machine_gives(session: Any, jig: Path, parts: int) -> None:
    frame = lots(session, parts)
    table = frame.orderBy("id").toArrow()
    alone, done = keen_notch.carve(table, jig), spark.carve(frame, jig, keys=["id"])
    assert done.frame.orderBy("id").toArrow().to_pylist() == alone.table.to_pylist()
    told = [{"id": of.pop("row") - 1, **of} for of in alone.findings.to_pylist()]
    found = done.findings.toArrow().to_pylist()
    assert len(found) > 500 and sorted(map(sorted_items, found)) == sorted(map(sorted_items, told))
    assert counts(spark.check(frame, jig)) == counts(keen_notch.check(table, jig))


def sorted_items(found: dict[str, Any]) -> str:
    return repr(sorted(found.items()))


def test_a_frame_without_rows_has_the_new_columns(session: Any, jig: Path) -> None:
    done = spark.carve(lots(session, 3).where("id < 0"), jig)
    assert done.frame.columns == ["id", "lot", "house", "year", "serial"] and done.frame.count() == 0
    assert spark.check(lots(session, 3).where("id < 0"), jig)


@pytest.mark.parametrize(
    "rule", ["[columns]\nlot = { unique = true }\n", '[checks]\n"once" = "{code} is unique"\n']
)
def test_what_is_unique_is_asked_of_the_engine(session: Any, rule: str) -> None:
    jig = f"""[cuts]\ncode = '{{lot}} | last 7'\n{rule}"""
    # Of some rows another has the text, in the same partition or in a later one.
    frame = lots(session, 5).selectExpr("id", "if(id % 50 = 1, concat('GR-', id % 4000), lot) as lot")
    table = frame.orderBy("id").toArrow()
    alone = keen_notch.check(table, jig)
    assert alone.rows_with_findings > 100
    assert counts(spark.check(frame, jig)) == counts(alone)
    done = spark.carve(frame, jig, keys=["id"])
    assert done.frame.orderBy("id").toArrow().to_pylist() == keen_notch.carve(table, jig).table.to_pylist()
    found = {(of["id"], of["kind"], of["cell"]) for of in done.findings.toArrow().to_pylist()}
    assert found == {(of["row"] - 1, of["kind"], of["cell"]) for of in alone.listed.to_pylist()}


def test_large_lists_are_fetched_by_each_worker(session: Any, tmp_path: Path) -> None:
    lines = "code,name\n" + "".join(f"{n:05},bed {n} of the house\n" for n in range(0, 90_000, 2))
    (tmp_path / "beds.csv").write_text(lines)
    assert len(lines) > spark.LARGE
    (tmp_path / "beds.toml").write_text(
        """column = "lot"
[lists]
beds = { file = "beds.csv", column = "code", gives = "name" }
[cuts]
bed = 'part 4 of 5 by "-" | look up in beds'
"""
    )
    frame = lots(session, 4)
    table = frame.orderBy("id").toArrow()
    alone, done = keen_notch.carve(table, tmp_path / "beds.toml"), spark.carve(frame, tmp_path / "beds.toml")
    assert done.frame.orderBy("id").toArrow().to_pylist() == alone.table.to_pylist()
    assert counts(spark.check(frame, tmp_path / "beds.toml")) == counts(keen_notch.check(table, tmp_path / "beds.toml"))
    work, _ = spark._begin(frame, tmp_path / "beds.toml", None, None)
    assert [name for name, _ in work.jig.files] == ["jig.toml"] and len(work.jig.fetched) == 1


def test_a_jig_that_does_not_suit_is_refused(session: Any) -> None:
    with pytest.raises(keen_notch.NotchError, match="There is no column nope"):
        spark.carve(lots(session, 2), '[cuts]\na = "{nope} | first 2"\n')
    with pytest.raises(FileNotFoundError):
        spark.carve(lots(session, 2), '[cuts]\na = "{lot} | check is in l"\n[lists]\nl = { file = "nope.txt" }\n')


def test_other_versions_are_named(session: Any, jig: Path) -> None:
    work = spark.Work(spark.PackedJig.of(jig), None, "0.0.9")
    with pytest.raises(Exception, match="the driver has notch 0.0.9, this worker"):
        lots(session, 2).mapInArrow(work.carver(), "id long").collect()


def test_a_jig_travels_with_its_lists(jig: Path, tmp_path: Path) -> None:
    packed = spark.PackedJig.of(jig)
    assert [name for name, _ in packed.files] == ["jig.toml", "list1.txt"]
    there = tmp_path / "there"
    there.mkdir()
    assert 'file = "list1.txt"' in packed.unpack(there).read_text()
    (tmp_path / "houses.txt").write_text("GR\n")
    assert spark.PackedJig.of(jig).hash != packed.hash
