"""The six cuts as they are written with other libraries: peers.py WORK IN OUT. `benches/run peers` times each in a process of its own.

Each is written as well as its library allows without code of one's own: text columns, no index, streaming where there is any. What is cut is the same but for rows
that are written otherwise than most, of which none of these says anything.
"""

import csv
import re
import sqlite3
import sys

source, out = sys.argv[2:] if __name__ == "__main__" else ("", "")
OLD = ["lot", "badge", "contact", "note", "qty"]
NEW = ["house", "year", "serial", "team", "domain", "amount"]
NUMBER = re.compile(r"\d[\d,]*(?:\.\d+)?")


def polars_frame():
    import polars as pl

    lot, badge, contact, note = (pl.col(name) for name in OLD[:4])
    part = lambda n: lot.str.split("-").list.get(n, null_on_oob=True)
    return pl.scan_csv(source, infer_schema=False).with_columns(
        house=lot.str.slice(0, 2),
        year=part(1),
        serial=part(3).str.pad_start(8, "0"),
        team=badge.str.extract(r"-([^-]*)$"),
        domain=contact.str.extract(r"@(.*)$"),
        amount=note.str.extract(r"(\d[\d,]*(?:\.\d+)?)").str.replace_all(",", "", literal=True),
    )


def polars_csv():
    polars_frame().sink_csv(out)


def polars_jsonl():
    polars_frame().sink_ndjson(out)


def polars_parquet():
    polars_frame().sink_parquet(out)


def pyarrow_parquet():
    import pyarrow.compute as pc
    import pyarrow.csv
    import pyarrow.parquet

    text = {name: pyarrow.string() for name in OLD}
    table = pyarrow.csv.read_csv(source, convert_options=pyarrow.csv.ConvertOptions(column_types=text), parse_options=pyarrow.csv.ParseOptions(newlines_in_values=True))
    found = lambda column, pattern: pc.struct_field(pc.extract_regex(table[column], pattern), [0])
    lot = r"^[^-]*-(?P<a>[^-]*)-[^-]*-(?P<b>[^-]*)"
    parts = pc.extract_regex(table["lot"], lot)
    new = [
        pc.utf8_slice_codeunits(table["lot"], 0, 2),
        pc.struct_field(parts, [0]),
        pc.utf8_lpad(pc.struct_field(parts, [1]), 8, "0"),
        found("badge", r"-(?P<a>[^-]*)$"),
        found("contact", r"@(?P<a>.*)$"),
        pc.replace_substring(found("note", r"(?P<a>\d[\d,]*(?:\.\d+)?)"), ",", ""),
    ]
    for name, column in zip(NEW, new):
        table = table.append_column(name, column)
    pyarrow.parquet.write_table(table, out)


def pandas_csv():
    import pandas

    table = pandas.read_csv(source, dtype=str, keep_default_na=False)
    parts = table["lot"].str.split("-")
    table["house"] = table["lot"].str[:2]
    table["year"] = parts.str[1]
    table["serial"] = parts.str[3].str.rjust(8, "0")
    table["team"] = table["badge"].str.extract(r"-([^-]*)$", expand=False)
    table["domain"] = table["contact"].str.extract(r"@(.*)$", expand=False)
    table["amount"] = table["note"].str.extract(r"(\d[\d,]*(?:\.\d+)?)", expand=False).str.replace(",", "", regex=False)
    table.to_csv(out, index=False)


def cut_rows():
    """Rows with the new cells, by hand."""
    with open(source, encoding="utf-8", newline="") as file:
        rows = csv.reader(file)
        next(rows)
        for row in rows:
            lot, badge, contact, note, _ = row
            parts = lot.split("-")
            amount = NUMBER.search(note)
            part = lambda n: parts[n] if n < len(parts) else None
            serial, team, domain = part(3), badge.rpartition("-")[2], contact.partition("@")[2]
            yield [*row, lot[:2], part(1), serial and serial.rjust(8, "0"), team, domain, amount and amount[0].replace(",", "")]


def sqlite3_db():
    with sqlite3.connect(out) as database:
        database.execute(f"CREATE TABLE t ({', '.join(OLD + NEW)})")
        database.executemany(f"INSERT INTO t VALUES ({', '.join('?' * 11)})", cut_rows())


def xlsxwriter_xlsx():
    import xlsxwriter

    with xlsxwriter.Workbook(out, {"constant_memory": True}) as book:
        sheet = book.add_worksheet()
        sheet.write_row(0, 0, OLD + NEW)
        for n, row in enumerate(cut_rows(), 1):
            for column, cell in enumerate(row):
                sheet.write_string(n, column, cell or "")


def openpyxl_csv():
    import openpyxl

    sheet = openpyxl.load_workbook(source, read_only=True).active
    with open(out, "w", encoding="utf-8", newline="") as file:
        csv.writer(file).writerows(sheet.iter_rows(values_only=True))


if __name__ == "__main__":
    globals()[sys.argv[1]]()
