"""What is measured: cuts, a jig, and whole commands over the table of floors/table.py."""

NATIVE = ["house = {lot} | first 2", 'year = {lot} | part 2 by "-"', 'serial = {lot} | part 4 by "-" | pad left 8 with "0"',
          'team = {badge} | after last "-"', 'domain = {contact} | after "@"', "amount = {note} | number"]
ONE_REGEX = NATIVE[:5] + [r"amount = {note} | match /(\d+) (?:seeds|%|d)/ group 1"]
REGEXES = [r"house = {lot} | match /^([A-Z]{2})/ group 1", r"year = {lot} | match /-(\d{4})-/ group 1", r"serial = {lot} | match /-(\d{5})-/ group 1",
           r"team = {badge} | match /-([A-Z]+)$/ group 1", r"domain = {contact} | match /@(.+)$/ group 1"]
# The forms of one word stand in one line; none should cost more than one and a half times another.
FORMS = """
{lot} | first 2 · {lot} | last 5 · {lot} | chars 4..7 · {lot} | chars -5.. · {lot} | bytes 4..7
{lot} | drop first 3 · {lot} | drop last 2 · {lot} | drop leading "GR"
{lot} | before "-" · {lot} | before last "-" · {lot} | after 2nd "-" · {lot} | through "-" · {lot} | between "-" and "-"
{lot} | part 2 by "-" · {lot} | part -1 by "-" · {lot} | part 2..3 by "-" · {lot} | part 2 of 5 by "-" · {lot} | part 2 by any of "-/" · {lot} | parts by "-" | pick 2 · a, b, c, d, e = {lot} | parts by "-"
{note} | word 2 · {note} | word last
{lot} | block 2 of digits · {lot} | block last of digits · {lot} | digits · {lot} | keep digits
{note} | number · {note} | number 2 · {note} | number last · {note} | number decimal either
{lot} | upper · {lot} | lower · {lot} | title · {lot} | without marks
{note} | trim · {note} | trim left · {note} | trim any of "x " · {note} | neaten
{lot} | remove "-" · {lot} | replace "-" with "/" · {lot} | clip 8 · {lot} | clip 8 ending "…"
{qty} | pad left 8 with "0" · {qty} | pad right 8 with "0"
{lot} | match /[A-Z]+-(\\d+)/ group 1 · {lot} | matches /\\d+/ | pick 2
{lot} | check has "-" · {lot} | check length 10..20 · {lot} | check is not digits
{lot} | part 9 by "-" else first 2 · {lot} | first 2 if {lot} has "-" · "{lot}/{badge}"
"""
# A jig as analysts write it: of two in a hundred rows something is to be said (half of them divided by a slash, half with a low serial).
JIG = """column = "lot"
[lists]
houses = ["FH", "GR", "ML", "TS"]
teams = ["SOW", "DRY", "COLD", "GATE", "FIELD"]
[columns]
lot = { required = true, check = 'has exactly 4 "-"' }
qty = { required = true, check = 'is digits' }
[cuts]
house = 'part 1 by "-" | check is in houses'
year = 'part 2 by "-" | check value 2015..2031'
genus = 'part 3 by "-" | check is upper and length 3'
serial = 'part 4 by "-" | check is digits and value 1000..99999 | pad left 8 with "0"'
digit = 'part 5 by "-"'
desk = '{badge} | before "-"'
team = '{badge} | after last "-" | check is in teams'
name = '{contact} | before "@"'
domain = '{contact} | after "@"'
amount = '{note} | number'
[checks]
"an address" = '{contact} is email'
"""
# One that a quarter of the rows fail.
FAILING_JIG = """column = "lot"
[lists]
houses = ["FH", "GR", "ML"]
[columns]
lot = { required = true, check = 'has exactly 4 "-"' }
[cuts]
house = 'part 1 by "-" | check is in houses'
year = 'part 2 by "-" | check value 2015..2031'
serial = 'part 4 by "-" | check is digits and length 5 | pad left 8 with "0"'
team = '{badge} | after last "-" | check is upper'
[checks]
"an address" = '{contact} is email'
"""

# Commands that benches/guard watches, each with the name of what it writes: NOTCH, TABLE and OUT stand for the program, the files and the folder.
WATCHED = {
    "six cuts": ["carve", "TABLE.csv", *NATIVE, "-q", "-o", "OUT.csv"],
    "one regex of six": ["carve", "TABLE.csv", *ONE_REGEX, "-q", "-o", "OUT.csv"],
    "five regexes": ["carve", "TABLE.csv", *REGEXES, "-q", "-o", "OUT.csv"],
    "a jig with checks and findings": ["carve", "TABLE.csv", "-j", "JIG", "-q", "-o", "OUT.csv", "--findings", "FOUND.csv", "--rejects", "REJECTED.csv"],
    "a jig that a quarter of the rows fail": ["carve", "TABLE.csv", "-j", "FAILING", "-q", "-o", "OUT.csv", "--findings", "FOUND.csv"],
    "else, a template and a condition": ["carve", "TABLE.csv", 'a = {lot} | part 9 by "-" else first 2', 'b = "{lot | first 2}/{badge}"',
                                         'c = {lot} | last 1 if {badge} has "SOW"', "-q", "-o", "OUT.csv"],
    "check": ["check", "TABLE.csv", "-j", "JIG"],
    "CSV to JSON Lines": ["carve", "TABLE.csv", *NATIVE, "-q", "-o", "OUT.jsonl"],
    "JSON Lines to CSV": ["carve", "TABLE.jsonl", *NATIVE, "-q", "-o", "OUT.csv"],
    "CSV to Parquet": ["carve", "TABLE.csv", *NATIVE, "-q", "-o", "OUT.parquet"],
    "Parquet to Parquet": ["carve", "TABLE.parquet", *NATIVE, "-q", "-o", "OUT.parquet"],
    "CSV to SQLite": ["carve", "TABLE.csv", *NATIVE, "-q", "-o", "OUT.db"],
    "SQLite to CSV": ["carve", "TABLE.db", *NATIVE, "-q", "-o", "OUT.csv"],
    "CSV to a workbook": ["carve", "TABLE.csv", *NATIVE, "-q", "-o", "OUT.xlsx"],
    "a workbook to CSV": ["carve", "TABLE.xlsx", *NATIVE, "-q", "-o", "OUT.csv"],
    "survey of all columns": ["survey", "TABLE.csv"],
    "survey of free text": ["survey", "TABLE.csv", "-c", "note"],
    "survey of addresses": ["survey", "TABLE.csv", "-c", "contact"],
}
