"""Captures from a scope's CSV export, in any common dialect, read as a stream."""

import io
import itertools
import re
from array import array
from dataclasses import dataclass
from typing import Any, BinaryIO

import numpy as np
import pyarrow
import pyarrow.csv
from numpy.typing import NDArray

from upper_rook.core.common.errors import BadInput
from upper_rook.core.signal.trace import Trace
from upper_rook.formats import dialect as dialects
from upper_rook.formats.dialect import Dialect
from upper_rook.formats.progress import Progress
from upper_rook.formats.timeline import Timeline

Array = NDArray[np.float64]

HEAD_BYTES = 65_536
MOST_CHANNELS = 16
FEWEST_SAMPLES = 8
MOST_SAMPLES = 40_000_000
_BLOCK_BYTES = 1 << 20
_LARGEST = 1e12
"""No time or voltage of a capture is larger, in any unit."""
_PREFIXES = {"": 1.0, "p": 1e-12, "n": 1e-9, "u": 1e-6, "µ": 1e-6, "μ": 1e-6, "m": 1e-3, "k": 1e3, "M": 1e6, "G": 1e9}
_UNIT = re.compile(r"(?<![A-Za-z])([numkµμ]?)(seconds?|secs?|s|volts?|v)(?![A-Za-z])", re.IGNORECASE)
_TIME_NAME = re.compile(r"\W*(time|seconds?|secs?|t|x|x-axis|zeit)\b", re.IGNORECASE)
_OTHER_UNIT = re.compile(
    r"(?:[\(\[/]\s*|^\s*)([pnumkMGµμ]?(?:A|amps?|amperes?|W|watts?|Ω|ohms?|dB\w*|°?C|Hz|%|rad|deg|F|H))\s*[\)\]]?\s*$"
)
"""A unit of something else than volts or time, at the end of a heading."""
_SETTING = re.compile(r"(yes|no|on|off|auto|dc|ac|gnd|nan|none|true|false|run|stop|normal)$", re.IGNORECASE)
"""Value beside a setting's name, which is no channel's."""
_INDEX_NAME = re.compile(r"\W*(no|nr|n|#|index|idx|sample|samples|point|points|seq|sequence)\b", re.IGNORECASE)
_INTERVAL_KEY = re.compile(
    r"(sampl\w*|horizontal|x|time|record)?[ _-]*(interval|increment|period|delta|step|resolution)|dt|d[ _-]?t|incr",
    re.IGNORECASE,
)
_RATE_KEY = re.compile(r"(sampl\w*|acquisition)[ _-]*(rate|freq\w*)|fs|sa/s", re.IGNORECASE)
_VALUE = re.compile(r"([+-]?[0-9]*[.,]?[0-9]+(?:[eE][+-]?[0-9]+)?)\s*([pnumkMGµμ]?)\s*([A-Za-z/]*)")


def read_scope_csv(file: BinaryIO, progress: Progress | None = None) -> list[Trace]:
    """
    The channels in `file`.

    Raises:
        BadInput: with one sentence that says what was expected.
    """
    head = file.read(HEAD_BYTES)
    text, encoding = dialects.decode(head)
    dialect = dialects.recognise(text, whole=len(head) < HEAD_BYTES)
    layout = _layout(dialect, text)
    source = _Source(file, head, encoding, dialect, progress)
    times = Timeline(layout.time_unit_s, dialect.first_line) if layout.time is not None else None
    channels = _read_channels(source, dialect, layout, times)
    count = len(channels[0])
    if count < FEWEST_SAMPLES:
        raise BadInput(f"{count} samples are too few to be a capture: some hundred and a few cycles are expected.")
    interval = times.interval_s() if times else layout.interval_s
    if interval is None:
        raise BadInput("There is no time column and no sample interval above the numbers: export it with one of them.")
    return [
        Trace(volts=np.frombuffer(volts), rate_hz=1 / interval, name=channel.name)
        for channel, volts in zip(layout.channels, channels, strict=True)
    ]


@dataclass(frozen=True)
class _Channel:
    column: int
    """Among the number columns."""
    name: str
    unit_v: float


@dataclass(frozen=True)
class _Layout:
    time: int | None
    time_unit_s: float
    interval_s: float | None
    channels: tuple[_Channel, ...]


def _layout(dialect: Dialect, text: str) -> _Layout:
    """Columns of time and channels, and their units."""
    units = [_unit_of(heading) for heading in dialect.headings]
    rows = _sample_rows(dialect, text)
    interval = _preamble_interval(dialect)
    order = list(range(len(dialect.columns)))
    time = _time_column(dialect, units, rows)
    counts = time is not None and _is_index(rows[:, time]) and units[time] is None
    if time is not None and counts and (interval or not _is_named_time(dialect, time)):
        # It counts samples, so time is in the interval alone.
        order.remove(time)
        time = None
    if time is not None:
        order.remove(time)
    first = order[0] if order else None
    if first is not None and len(order) > 1 and _INDEX_NAME.match(_nearest(dialect.headings[first])):
        order.pop(0)
    other = [column for column in order if _is_other(dialect.headings[column])]
    order = [column for column in order if column not in other]
    if other and not order:
        raise BadInput("Its columns aren’t volts by their units: export a channel in volts.")
    if not order:
        raise BadInput("The file has a time column but no volts.")
    if len(order) > MOST_CHANNELS:
        raise BadInput(f"{len(order)} channels: at most {MOST_CHANNELS} are read.")
    names = [_name_of(dialect.headings[column], place) for place, column in enumerate(order, 1)]
    # Two columns may be headed alike.
    told = [f"{name} {place}" if names.count(name) > 1 else name for place, name in enumerate(names, 1)]
    channels = tuple(
        _Channel(column, name, _volts_unit(units[column])) for column, name in zip(order, told, strict=True)
    )
    scale = units[time][0] if time is not None and units[time] else 1.0  # type: ignore[index]
    return _Layout(time, scale, interval, channels)


def _nearest(headings: tuple[str, ...]) -> str:
    """Name of a column: a setting's NO above its name is no name, unless nothing else is there."""
    named = [heading for heading in headings if not _SETTING.fullmatch(heading)]
    return (named or list(headings) or [""])[0]


def _sample_rows(dialect: Dialect, text: str) -> Array:
    """The first numbers, (row, number column)."""
    rows = []
    for line in text.splitlines()[dialect.first_line : dialect.first_line + 200]:
        cells = dialects.split(line, dialect.delimiter)
        if len(cells) != dialect.fields:
            continue
        values = [dialects.number(cells[column], dialect.decimal) for column in dialect.columns]
        if all(value is not None for value in values):
            rows.append(values)
    return np.array(rows, dtype=np.float64).reshape(-1, len(dialect.columns))


def _time_column(dialect: Dialect, units: list[tuple[float, str] | None], rows: Array) -> int | None:
    for column, unit in enumerate(units):
        if unit and unit[1] == "s":
            return column
    for column in range(len(units)):
        if _is_named_time(dialect, column):
            return column
    if len(units) > 1 and rows.shape[0] > 2 and units[0] is None:
        steps = np.diff(rows[:, 0])
        # Backwards too: that is refused later, with a word.
        one_way = bool(np.all(steps > 0) or np.all(steps < 0))
        if one_way and np.ptp(steps) < 0.5 * abs(np.median(steps)):
            # An index before the time is passed over.
            later = np.diff(rows[:, 1])
            also = _is_index(rows[:, 0]) and np.all(later > 0) and np.ptp(later) < 0.01 * np.median(later)
            return 1 if also and len(units) > 2 else 0
    return None


def _is_named_time(dialect: Dialect, column: int) -> bool:
    return any(_TIME_NAME.match(heading) for heading in dialect.headings[column])


def _is_index(values: Array) -> bool:
    # Where a stretch of a longer record was exported its numbers begin anywhere.
    whole = values.size > 2 and bool(values[0] == np.round(values[0]))
    return bool(whole and np.all(np.diff(values) == 1))


def _unit_of(headings: tuple[str, ...]) -> tuple[float, str] | None:
    """(factor, "s" or "V") from the texts above a column, the nearest first."""
    for text in reversed(headings):
        found = list(_UNIT.finditer(text))
        if found:
            prefix, base = found[-1][1], found[-1][2].lower()
            # "MS" and "MV" are a careless way to write milli; a scope exports no megavolts.
            prefix = prefix if prefix in _PREFIXES and prefix != "M" else prefix.lower()
            return _PREFIXES[prefix], "s" if base.startswith("s") else "V"
    return None


def _is_other(headings: tuple[str, ...]) -> bool:
    """Whether a column is said to be in another unit than volts: amperes of a current probe, decibels of a sum."""
    if any(_UNIT.search(text) for text in headings):
        return False
    # A lone letter is a name; under a name it is a unit.
    said = [text for text in headings if len(headings) > 1 or re.search(r"[\(\[/]", text)]
    return any(_OTHER_UNIT.search(text.strip()) for text in said)


def _volts_unit(unit: tuple[float, str] | None) -> float:
    return unit[0] if unit and unit[1] == "V" else 1.0


def _name_of(headings: tuple[str, ...], place: int) -> str:
    for text in reversed(headings):
        name = re.sub(r"[\(\[].*?[\)\]]", "", text)
        name = re.sub(r"\bin\s*$|[/,]\s*[mµuk]?V\s*$", "", name.strip()).strip(" :,/")
        unit = _UNIT.fullmatch(name) or (len(headings) > 1 and text == headings[-1] and _OTHER_UNIT.fullmatch(name))
        known = unit or _SETTING.fullmatch(name)
        if name and not known and dialects.number(name) is None:
            return name[:40]
    return f"CH{place}"


def _preamble_interval(dialect: Dialect) -> float | None:
    """Seconds between samples, from a key above the numbers: in the cell itself, in those after it, or below it."""
    lines = dialect.preamble
    for place, row in enumerate(lines):
        for column, cell in enumerate(row):
            key, _, attached = cell.replace("=", ":").partition(":")
            kind = "interval" if _INTERVAL_KEY.search(key) else "rate" if _RATE_KEY.search(key) else None
            if kind is None or len(key) > 60:
                continue
            own_unit = "".join(re.findall(r"[\(\[](.*?)[\)\]]", key)[:1])
            after = [*row[column + 1 :], ""]
            below = lines[place + 1][column : column + 1] if place + 1 < len(lines) else ()
            tries = [(attached, ""), *itertools.pairwise(after), *((text, "") for text in below)]
            found = (_seconds(text, unit or own_unit, kind) for text, unit in tries)
            value = next((value for value in found if value is not None), None)
            if value is not None:
                return value
    return None


def _seconds(text: str, unit: str, kind: str) -> float | None:
    found = _VALUE.fullmatch(text.strip())
    if not found:
        return None
    prefix = found[2]
    if not found[3] and not prefix and unit:
        told = re.match(r"\s*([pnumkMGµμ]?)(s|hz|sa)", unit, re.IGNORECASE)
        prefix = told[1] if told else ""
    value = float(found[1].replace(",", ".")) * _PREFIXES.get(prefix, 1.0)
    if value <= 0 or not np.isfinite(value):
        return None
    seconds = 1 / value if kind == "rate" else value
    return seconds if 1e-12 < seconds < 10 else None


class _Source(io.RawIOBase):
    """The file from its first line of numbers on, as UTF-8 with one delimiter between cells."""

    def __init__(self, file: BinaryIO, head: bytes, encoding: str, dialect: Dialect, progress: Progress | None) -> None:
        super().__init__()
        self._file, self._progress = file, progress
        self._squeeze = dialect.delimiter == " "
        self._decoder = None if encoding == "utf-8" else _decoder(encoding)
        self._done = len(head)
        self._waiting = _without_lines(self._clean(head), dialect.first_line)

    def readable(self) -> bool:
        """Always."""
        return True

    def readinto(self, buffer: Any) -> int:
        """Fills `buffer` with what comes next."""
        while not self._waiting:
            more = self._file.read(len(buffer))
            if not more:
                return 0
            self._done += len(more)
            if self._progress:
                self._progress(self._done)
            self._waiting = self._clean(more)
        piece = self._waiting[: len(buffer)]
        self._waiting = self._waiting[len(buffer) :]
        buffer[: len(piece)] = piece
        return len(piece)

    def _clean(self, data: bytes) -> bytes:
        if self._decoder:
            data = self._decoder.decode(data).encode()
        if self._squeeze:
            data = re.sub(rb"[ \t]+", b" ", data).replace(b"\n ", b"\n").replace(b" \r", b"\r").replace(b" \n", b"\n")
        return data


def _decoder(encoding: str) -> Any:
    import codecs

    return codecs.getincrementaldecoder(encoding)(errors="replace")


def _without_lines(data: bytes, count: int) -> bytes:
    parts = data.splitlines(keepends=True)
    return b"".join(parts[count:])


def _read_channels(source: _Source, dialect: Dialect, layout: _Layout, times: Timeline | None) -> "list[array[float]]":
    """The channels in volts; they grow in place, so that a large file is held once."""
    names = [f"f{column}" for column in dialect.columns]
    broken: list[int | None] = []

    def on_broken(row: Any) -> str:
        broken.append(row.number)
        return "skip" if len(broken) < 100 else "error"

    channels = [array("d") for _ in layout.channels]
    blank_from: int | None = None
    try:
        reader = pyarrow.csv.open_csv(
            io.BufferedReader(source, _BLOCK_BYTES),
            read_options=pyarrow.csv.ReadOptions(
                block_size=_BLOCK_BYTES, autogenerate_column_names=True, use_threads=False
            ),
            parse_options=pyarrow.csv.ParseOptions(delimiter=dialect.delimiter, invalid_row_handler=on_broken),
            convert_options=pyarrow.csv.ConvertOptions(
                column_types={name: pyarrow.float64() for name in names},
                include_columns=names,
                decimal_point=dialect.decimal,
                null_values=[""],
            ),
        )
        for batch in reader:
            columns = [np.asarray(batch.column(name).to_numpy(zero_copy_only=False), np.float64) for name in names]
            filled = _filled(columns, dialect.first_line + len(channels[0]), blank_from is not None)
            blank_from = len(channels[0]) + filled if filled < columns[0].size else blank_from
            if times and layout.time is not None:
                times.add(columns[layout.time][:filled])
            for volts, channel in zip(channels, layout.channels, strict=True):
                volts.frombytes((columns[channel.column][:filled] * channel.unit_v).tobytes())
            if len(channels[0]) > MOST_SAMPLES:
                raise BadInput(f"More than {MOST_SAMPLES:,} samples: cut the capture shorter.")
    except (pyarrow.ArrowInvalid, pyarrow.ArrowKeyError) as error:
        raise BadInput(_sentence(str(error), dialect)) from None
    # A last line may be cut off where the export was stopped.
    if len(broken) > 1 or (broken and broken[0] is not None and broken[0] < len(channels[0])):
        line = (broken[0] or 0) + dialect.first_line
        raise BadInput(f"About line {line} the columns differ: every line is expected to have the same.")
    return channels


def _sentence(told: str, dialect: Dialect) -> str:
    value = re.search(r"invalid value '([^']*)'", told)
    row = re.search(r"Row #([0-9]+)", told)
    where = f" in line {int(row[1]) + dialect.first_line}" if row else ""
    if value:
        return f"“{value[1][:24]}”{where} is not a number: every line is expected to hold a time and volts."
    return "The lines of the table differ: each is expected to have the same columns of numbers."


def _filled(columns: list[Array], above: int, ended: bool) -> int:
    """How many rows stand before rows of empty cells, as spreadsheets leave them; refuses what isn't a number."""
    empty = np.all([np.isnan(column) for column in columns], axis=0)
    filled = np.flatnonzero(~empty)
    end = int(filled[-1]) + 1 if filled.size else 0
    bad = ~np.all([np.isfinite(column[:end]) for column in columns], axis=0)
    if ended and end:
        raise BadInput(f"Above line {above + 1} lines are empty: every line is expected to be complete.")
    if np.any(bad):
        line = int(np.argmax(bad)) + 1 + above
        raise BadInput(f"About line {line} a cell is empty or not a number: every line is expected to be complete.")
    if any(float(np.max(np.abs(column[:end]), initial=0.0)) > _LARGEST for column in columns):
        raise BadInput("There are values beyond any voltage in it: a table of times and volts is expected.")
    return end
