"""
What a library of 2,000 source sheets costs to search, over HTTP; and what it comes to on 200 simulated sources.

./rook bench library
"""

import sys
from pathlib import Path
from uuid import uuid4

import httpx2
import numpy as np
from sqlmodel import Session

sys.path.insert(0, str(Path(__file__).parents[1]))

from benchmarks.growth import WORDS, p95, timed
from tests.conftest import empty_database
from tests.servers import Server

from upper_rook.core.sources.combinations import best
from upper_rook.core.sources.source_report import report
from upper_rook.core.sources.source_sheet import SheetOutput, SourceSheet, Unit
from upper_rook.desk.transaction import transaction
from upper_rook.instruments.source_bench import source_bench
from upper_rook.store import source_library
from upper_rook.store.database import make_engine, migrate

SHEETS = 2_000
SOURCES = 200
LIMIT_MS = 50


def sheet(number: int) -> SourceSheet:
    """One of some kinds, with volts between 1 and 5."""
    dice = np.random.default_rng([number, 3])
    shelf = source_bench(top_volume=40, clean_v=float(dice.uniform(1, 5)), overdrive_db=7.3, step_db=1.0, seed=number)
    cells = tuple(shelf.cell("front", trim_db=trim) for trim in (0.0, -3.0, 3.0))
    return SourceSheet(
        name=f"{WORDS[number % 8]} {number}",
        top_volume=40,
        outputs=(SheetOutput(id="front", name="Front"),),
        units=(Unit(id="one", name=f"shelf {number % 50}", cells=cells),),
    )


def searched() -> None:
    with empty_database() as url:
        migrate(url)
        engine = make_engine(url)
        made = [sheet(number) for number in range(100)]
        with Session(engine) as session, transaction(session):
            for number in range(SHEETS):
                source_sheet = made[number % 100]
                source_library.keep_new(
                    session, uuid4(), source_sheet.model_copy(update={"name": f"{WORDS[number % 8]} {number}"})
                )
        engine.dispose()
        server = Server(url).start()
        try:
            with httpx2.Client(base_url=server.url) as client:
                for name, asked in {
                    "newest": {},
                    "a word": {"search": "heron"},
                    "two words": {"search": "heron 12"},
                    "a rare one": {"search": "knot 1999"},
                    "volts and kind": {"from_v": 2, "to_v": 4, "kind": "receiver"},
                }.items():
                    times = timed(lambda _n, asked=asked: client.get("/api/sources", params=asked).raise_for_status())
                    print(f"library of {SHEETS}, {name}: 95th percentile {p95(times):.1f} ms (limit {LIMIT_MS} ms)")
        finally:
            server.stop()


def judged() -> None:
    """The governing number and the best of five trims against the truth of the simulated source."""
    right = lower = near = 0
    for seed in range(SOURCES):
        dice = np.random.default_rng([seed, 7])
        step_db = float(dice.uniform(0.7, 1.4))
        shelf = source_bench(
            top_volume=40,
            clean_v=float(dice.uniform(1.8, 5)),
            overdrive_db=float(dice.uniform(4, 12)),
            step_db=step_db,
            seed=seed,
        )
        trims = (0.0, -6.0, -3.0, 3.0, 6.0)
        source_sheet = SourceSheet(
            name="one",
            top_volume=40,
            outputs=(SheetOutput(id="front"),),
            units=(Unit(id="one", cells=tuple(shelf.cell("front", trim_db=trim) for trim in trims)),),
        )
        told = report(source_sheet)
        if told.governing is None:
            continue
        truth = {trim: most(shelf, trim) for trim in trims}
        right += told.governing.volume == truth[0.0][0]
        lower += told.governing.volume == truth[0.0][0] - 1
        found = best(source_sheet, source_sheet.units[0], "front")
        chosen = float(found.cell.trim or 0) if found else 0.0
        near += 20 * np.log10(max(volts for _, volts in truth.values()) / truth[chosen][1]) <= 0.2
    print(f"governing number: {right} equal to the truth, {lower} one lower, of {SOURCES}")
    print(f"best combination within 0.2 dB of the true best: {near} of {SOURCES}")


def most(shelf, trim_db: float) -> tuple[int, float]:
    """(number, volts) of the highest that the source's own law keeps below its clean maximum."""
    model = shelf.model
    levels = {number: model.volts(number) * 10 ** (trim_db / 20) for number in range(1, 41)}
    clean = max(number for number, volts in levels.items() if volts <= model.clean_v)
    return clean, levels[clean]


if __name__ == "__main__":
    searched()
    judged()
