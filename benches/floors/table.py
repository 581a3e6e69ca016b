"""Makes a table of the Fernhollow Seed Bank: table.py ROWS FILE [WIDE | TEXT]."""

import random
import sys

rows, path, kind = int(sys.argv[1]), sys.argv[2], (sys.argv[3:] or [""])[0]
chance = random.Random(1)
pick = chance.choice
houses, genera = ["FH", "GR", "ML", "TS"], ["BRA", "ROS", "QUE", "FAG", "TIL", "SAL", "PIN", "MAL"]
names, teams = ["ada.penn", "olga.kovac", "finn.nunes", "wren.ash", "mina.thorne"], ["SOW", "DRY", "COLD", "GATE", "FIELD"]
hosts = ["fernhollow.example", "north.fernhollow.example", "seedswap.example"]
words = "seeds trays cold room shelf dried counted sown retest box label moved north slope keeper".split()


def note():
    n = chance.randrange(100_000)
    text = pick([f"{n:,} seeds counted at the cold room", f"box {n % 97}; germination {n % 100} %", f"retest in {n % 365} d, shelf {pick('ABCDE')}{n % 30}",
                 f'dried at {n % 40}.{n % 10} °C, "{pick(words)}"', f"moved to {pick(words)} {pick(words)}, weight {n / 100:.2f} kg"])
    return '"' + text.replace('"', '""') + '"' if "," in text or '"' in text else text


# The rows repeat after a while, so that a large table is quickly made.
def row(n):
    lot = f"{pick(houses)}-{chance.randrange(2015, 2032)}-{pick(genera)}-{chance.randrange(100_000):05d}-{n % 10}"
    if chance.random() < 0.01:
        lot = lot.replace("-", "/", 1)
    badge = f"R{chance.randrange(1, 10)}-{chance.randrange(100_000):05d}-{pick(teams)}"
    cells = [lot, badge, f"{pick(names)}@{pick(hosts)}", note(), str(chance.randrange(5000))]
    if kind == "WIDE":
        cells += [str(chance.randrange(100_000)) for _ in range(195)]
    if kind == "TEXT":
        cells[3] = '"' + " ".join(pick(words) for _ in range(300)) + f", {n}" + '"'
    return ",".join(cells) + "\n"


header = ["lot", "badge", "contact", "note", "qty"] + ([f"c{n}" for n in range(195)] if kind == "WIDE" else [])
block = [row(n) for n in range(min(rows, 20_000 if kind else 200_000))]
with open(path, "w", encoding="utf-8", newline="") as out:
    out.write(",".join(header) + "\n")
    for at in range(0, rows, len(block)):
        out.writelines(block[: rows - at])
