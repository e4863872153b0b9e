"""Make the demo's data anew: `python make_data.py`. The seed is fixed, so it always makes the same files.

The Marlow Street Library, its branches and its volumes are made up. The numbers follow a simple story: acid eats
the fibres, every loan folds them, old wood-pulp paper is sour, and damp rooms make all of it worse.
"""

from __future__ import annotations

import csv
import datetime
import math
import random
from pathlib import Path

DATA = Path(__file__).parent / "data"
SEED = 20260302
BRANCHES = {  # branch: volumes surveyed, mean humidity in %, mean temperature in °C, how often books are asked for
    "Quayside": (262, 63.0, 18.6, 1.15),
    "Millpond": (241, 58.5, 18.9, 0.90),
    "Harrow Lane": (298, 49.0, 20.4, 1.30),
    "Northgate": (226, 51.5, 19.8, 0.85),
    "Tannery Row": (181, 55.0, 21.6, 0.65),
}
KINDS = {  # paper: first and last decade printed, mean acidity as pH, share before 1900, share since
    "rag": (1790, 1890, 6.6, 0.55, 0.0),
    "wood pulp": (1870, 1980, 4.7, 0.40, 0.55),
    "coated": (1890, 2000, 5.9, 0.05, 0.15),
    "alkaline": (1950, 2010, 7.7, 0.0, 0.30),
}
REPAIRS = {"none": 0, "mended tear": 14, "new hinge": 32, "rebound": 85, "deacidified": 24, "leaf cast": 140}


def volumes(draw: random.Random) -> list[dict[str, object]]:
    """One row a volume."""
    rows = []
    for branch, (count, humidity, _, asked) in BRANCHES.items():
        for _ in range(count):
            kind = draw.choices(list(KINDS), [0.16, 0.47, 0.15, 0.22])[0]
            first, last, mean_ph, *_ = KINDS[kind]
            decade = draw.randrange(first, last + 10, 10)
            loans = min(240, int(draw.lognormvariate(2.6 + 0.45 * math.log(asked) + (decade - 1900) / 260, 0.85)))
            age = (2026 - decade) / 100
            ph = max(3.4, min(8.6, draw.gauss(mean_ph - 0.22 * age * (kind == "wood pulp") - 0.012 * (humidity - 52), 0.48)))
            log_folds = 3.85 + 0.52 * (ph - 6) - 0.0105 * loans - 0.23 * age - 0.014 * (humidity - 52) + draw.gauss(0, 0.42)
            folds = max(1, round(math.exp(log_folds)))
            cost = 0.0 if folds > 18 else max(0.0, draw.gauss(95 - 4.2 * folds, 18))
            rows.append({
                "shelfmark": f"{branch[0]}{len(rows) + 1:04d}",
                "branch": branch,
                "decade": decade,
                "paper": kind,
                "ph": "" if draw.random() < 0.015 else f"{ph:.2f}",
                "loans": loans,
                "folds": folds,
                "repair_cost": f"{cost:.2f}",
            })  # fmt: skip
    return rows


def climate(draw: random.Random) -> list[dict[str, object]]:
    """One row a branch and day of 2025."""
    rows = []
    for branch, (_, humidity, temperature, _) in BRANCHES.items():
        drift = 0.0
        for number in range(365):
            day = datetime.date(2025, 1, 1) + datetime.timedelta(days=number)
            season = math.sin(2 * math.pi * (number - 110) / 365)
            drift = 0.8 * drift + draw.gauss(0, 1.7)
            rows.append({
                "day": day.isoformat(),
                "branch": branch,
                "temperature": f"{temperature + 3.1 * season + draw.gauss(0, 0.6):.1f}",
                "humidity": f"{min(92.0, max(24.0, humidity + 6.5 * season + drift)):.1f}",
            })  # fmt: skip
    return rows


def repairs(draw: random.Random, books: list[dict[str, object]]) -> list[dict[str, object]]:
    """One row a repair of the last five years."""
    rows = []
    for book in books:
        if float(str(book["repair_cost"])) > 25 and draw.random() < 0.7:
            kind = draw.choices([k for k in REPAIRS if k != "none"], [0.34, 0.24, 0.16, 0.20, 0.06])[0]
            day = datetime.date(2021, 1, 4) + datetime.timedelta(days=draw.randrange(1800))
            cost = REPAIRS[kind] * draw.uniform(0.8, 1.3)
            rows.append({"day": day.isoformat(), "shelfmark": book["shelfmark"], "repair": kind, "cost": f"{cost:.2f}"})
    return sorted(rows, key=lambda row: (str(row["day"]), str(row["shelfmark"])))


def write(name: str, rows: list[dict[str, object]]) -> None:
    """Write rows as CSV with plain line ends."""
    DATA.mkdir(exist_ok=True)
    with (DATA / name).open("w", encoding="utf-8", newline="") as file:
        writer = csv.DictWriter(file, list(rows[0]), lineterminator="\n")
        writer.writeheader()
        writer.writerows(rows)


if __name__ == "__main__":
    random_source = random.Random(SEED)
    surveyed = volumes(random_source)
    write("volumes.csv", surveyed)
    write("climate.csv", climate(random_source))
    write("repairs.csv", repairs(random_source, surveyed))
