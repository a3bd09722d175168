"""A source of a job from its sheet: its outputs, and what another unit measured, to be counted with until checked."""

from collections.abc import Iterator
from uuid import UUID

from upper_rook.core.common.units import LONGEST_NAME, Key
from upper_rook.core.sources.combinations import costs
from upper_rook.core.sources.matrix import usual
from upper_rook.core.sources.source_sheet import Cell, SourceSheet, Unit
from upper_rook.core.sources.spread import spreads
from upper_rook.core.system.chain import Chain
from upper_rook.core.system.from_sheet import FromSheet, ToldClean, ToldSetting
from upper_rook.core.system.path import Path
from upper_rook.core.system.source import Output, PlayingInput, Source

_SETTINGS = 100
_VOLUME_READINGS = 12
"""Readings below the clean maximum that go along: gains are set within these."""
_WITHIN_DB = 2.0
"""Farther apart nobody calls two units the same, however few were measured (common practice, no source)."""


def source_for_job(sheet: SourceSheet, source_id: Key, sheet_id: UUID | None = None, unit: Key | None = None) -> Source:
    """
    The source as a job has it under `source_id`, given by a unit of its sheet; without one by the unit measured last.

    A sheet of which nothing is measured yet tells its outputs and the end of its scale.
    """
    chosen = sheet.unit(unit)
    told = tuple(_told(sheet, chosen)) if chosen else ()
    ways = dict.fromkeys(clean.way for clean in told if clean.way)
    return Source(
        id=source_id,
        name=sheet.name,
        kind=sheet.kind,
        top_volume=sheet.top_volume,
        outputs=tuple(
            Output(id=output.id, name=output.name, kind=output.kind, sides=output.sides, rated=output.rated)
            for output in sheet.outputs
        ),
        inputs=tuple(PlayingInput(kind=way) for way in ways)[:8],
        from_sheet=_from_sheet(sheet, sheet_id, chosen, told) if chosen and told else None,
    )


def _from_sheet(sheet: SourceSheet, sheet_id: UUID | None, unit: Unit, told: tuple[ToldClean, ...]) -> FromSheet:
    return FromSheet(
        sheet=sheet_id,
        name=sheet.name,
        unit=unit.name,
        measured_on=unit.measured_on,
        clean=told,
        settings=tuple(
            ToldSetting(name=f"{cost.tried.setting} {cost.tried.value}".strip()[:LONGEST_NAME], db=cost.db)
            for cost in costs(unit)[:_SETTINGS]
        ),
    )


def _told(sheet: SourceSheet, unit: Unit) -> Iterator[ToldClean]:
    """Of each output, side and way the lowest clean maximum over the tones, its settings as they are usually left."""
    within = {spread.cell.spot: spread.next_db for spread in spreads(sheet) if not spread.best_at}
    widest = max(within.values(), default=0.0)
    left = usual(unit)
    lowest: dict[tuple[object, ...], Cell] = {}
    for cell in unit.cells:
        spot = (cell.output, cell.side, cell.way)
        if cell.settings != left or cell.clean_v is None or cell.clean == 0:
            continue
        if spot not in lowest or cell.clean < lowest[spot].clean:
            lowest[spot] = cell
    for cell in lowest.values():
        yield ToldClean(
            output=cell.output,
            side=cell.side,
            way=cell.way,
            clean=cell.clean,
            clean_v=cell.clean_v or 0.0,
            doubt_v=cell.doubt_v or 0.0,
            # What was copied from another is known no better than the least known.
            within_db=min(_WITHIN_DB, within.get(cell.spot, widest)),
            shown=cell.settings.words[:LONGEST_NAME],
            volume_readings=tuple(
                sorted(
                    (volume_reading for volume_reading in cell.volume_readings if volume_reading.volume < cell.clean),
                    key=lambda volume_reading: volume_reading.volume,
                )
            )[-_VOLUME_READINGS:],
        )


def with_source(chain: Chain, source: Source) -> Chain:
    """
    The chain with `source` in place of the one of that id; its paths lead from the outputs that answer to their own.

    An output answers by its id, else by its turn among those of its kind, else the first does. The way
    of playing is the customer's, whatever the sheet was measured by.
    """
    former = next(other for other in chain.sources if other.id == source.id)
    if former.inputs:
        source = source.model_copy(update={"inputs": former.inputs})
    answers = _answers(former, source)
    return chain.model_copy(
        update={
            "sources": tuple(source if other.id == source.id else other for other in chain.sources),
            "paths": tuple(_led(path, answers) if path.source == source.id else path for path in chain.paths),
        }
    )


def _answers(former: Source, source: Source) -> dict[str, str]:
    kept = {output.id for output in source.outputs}
    free = [output for output in source.outputs if output.id not in {output.id for output in former.outputs}]
    answers = {}
    for output in former.outputs:
        if output.id in kept:
            answers[output.id] = output.id
            continue
        found = next((other for other in free if other.kind is output.kind), None)
        if found is not None:
            free.remove(found)
        else:
            found = next((other for other in source.outputs if other.kind is output.kind), source.outputs[0])
        answers[output.id] = found.id
    return answers


def _led(path: Path, answers: dict[str, str]) -> Path:
    output = answers[path.output]
    also = dict.fromkeys(answers[text] for text in path.also)
    return path.model_copy(update={"output": output, "also": tuple(text for text in also if text != output)})
