"""The six columns of the benchmark as an analyst writes them."""

import csv
import re
import sys

number = re.compile(r"\d{1,3}(?:,\d{3})+(?:\.\d+)?|\d+(?:\.\d+)?")
with open(sys.argv[1], newline="", encoding="utf-8") as source, open(sys.argv[2], "w", newline="", encoding="utf-8") as target:
    rows, out = csv.reader(source), csv.writer(target, lineterminator="\n")
    out.writerow(next(rows) + ["house", "year", "serial", "team", "domain", "amount"])
    for row in rows:
        parts = row[0].split("-")
        found = number.search(row[3])
        out.writerow(row + [row[0][:2], parts[1] if len(parts) > 1 else "", parts[3].rjust(8, "0") if len(parts) > 3 else "",
                            row[1].rpartition("-")[2], row[2].partition("@")[2], found[0].replace(",", "") if found else ""])
