"""
The clean maximum from meter readings alone: volume numbers and volts.

Below its clean maximum a source follows its volume law, a nearly straight line in dB; above it the RMS of a clipped
sine falls short of that line by an amount known in closed form. Every place of the clean maximum is tried with the
best volume law for it, and weighted by how well it fits (Bayes' rule on a grid), so the answer comes with its doubt,
and with a refusal when several numbers are about as likely.
"""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from upper_rook.core.common.errors import BadInput
from upper_rook.core.common.units import format_db, format_value
from upper_rook.core.judge.volume_steps_laws import EXPECTED_SCATTER_DB, Laws, Shape, VolumeLaw, fit_laws, shapes
from upper_rook.core.judge.volume_steps_report import (
    MOST_VOLUME_READINGS,
    OddReading,
    VolumeReading,
    VolumeStepsFinding,
    VolumeStepsJudgement,
    VolumeStepsReport,
)

Array = NDArray[np.float64]

FEWEST_VOLUME_READINGS = 5
_FINE = 10
"""Places tried for the clean maximum between two volume numbers."""
_BEFORE, _BEYOND = 6.0, 3.0
"""How many numbers below the first and above the last the clean maximum is looked for."""
_UNSURE = 0.005
"""Probability of being more than one number off from which no single number is answered."""
_WIDEST, _WIDEST_DB = 4, 4.0
"""Numbers, or decibels where those are more, between surely and perhaps clean, beyond which the answer helps nobody."""
_DOUBT = 0.025
"""Probability up to which a number is taken for clean, or for clipped: the two ends of a doubt of 95 %."""
_SHAPE_DB = 0.06
"""Standard doubt of the clean maximum that the shapes leave: real ones lie between them."""
_FAR = 7.0
"""Log weight by which a volume law is so unlikely that its further shapes aren't tried."""
_TOO_HIGH = 0.25
"""Probability of being too high from which no single number is answered."""
_SLIP_DB, _SLIP_SCATTERS, _SLIP_SHARE = 0.5, 6.0, 0.5
"""A reading this far off a curve, in dB and in scatters, is a slip where without it the scatter falls to this share."""
_UNSEEN_DB = 1.5
"""An overdrive that volume steps may miss at their last number: a soft limiter shows late."""
_WITNESS_SCATTER_DB = 0.03
"""Scatter of the ratio of two meters at the same point."""


def judge_volume_steps(volume_readings: list[VolumeReading], top_volume: int | None = None) -> VolumeStepsJudgement:
    """
    Judges volume steps; several readings at one number count as their median. `top_volume` bounds what to measure next.

    Raises:
        BadInput: for no readings at all, or too many.
    """
    if not volume_readings:
        raise BadInput("No readings: give pairs of volume number and volts.")
    if len(volume_readings) > MOST_VOLUME_READINGS:
        raise BadInput(f"{len(volume_readings)} readings; at most {MOST_VOLUME_READINGS} are judged.")
    steps = _VolumeSteps(volume_readings, top_volume)
    judgement = steps.judgement()
    for number in steps.suspects():
        others = _VolumeSteps(
            [volume_reading for volume_reading in volume_readings if volume_reading.volume != number], top_volume
        )
        without = others.judgement()
        expected_db = others.expected_db(number)
        if expected_db is not None and steps.is_slip(number, expected_db, others):
            return steps.with_slip(number, expected_db, without, others)
    return judgement


@dataclass(frozen=True)
class _Fitted:
    """A shape under a volume law, with the log weight of each place."""

    laws: Laws
    shape: Shape
    log_weight: Array

    @property
    def best(self) -> float:
        """Log weight of its likeliest place."""
        return float(self.log_weight.max())


class _VolumeSteps:
    """The judgement of one set of volume steps, in steps."""

    def __init__(self, volume_readings: list[VolumeReading], top_volume: int | None) -> None:
        self.top = top_volume
        self.volumes = np.unique([reading.volume for reading in volume_readings])
        self.volts = self._medians(volume_readings, [reading.voltage_v for reading in volume_readings])
        pairs = [reading for reading in volume_readings if reading.average_v is not None]
        self.witnessed = len({pair.volume for pair in pairs}) == self.volumes.size
        if self.witnessed:
            average = self._medians(pairs, [pair.average_v or 1.0 for pair in pairs])
            self.witness_db = 20 * np.log10(average / self.volts)
        self.level_db = 20 * np.log10(self.volts)
        averaging = {reading.volume for reading in volume_readings if reading.averaging}
        self.averaging = np.array([number in averaging for number in self.volumes])
        self.weighed = False

    def _medians(self, volume_readings: list[VolumeReading], values: list[float]) -> Array:
        at = np.array([reading.volume for reading in volume_readings])
        every = np.array(values)
        return np.array([np.median(every[at == number]) for number in self.volumes])

    def judgement(self) -> VolumeStepsJudgement:
        if self.volumes.size < FEWEST_VOLUME_READINGS:
            return self._refuse(
                f"{self.volumes.size} different volume numbers; at least {FEWEST_VOLUME_READINGS} are needed.",
                "Measure at more numbers, from half of the scale up.",
            )
        limited = self._limiter()
        if limited:
            return limited
        self._weigh()
        return self._decide()

    def suspects(self) -> list[float]:
        """
        Numbers whose volts stand out from those of their neighbours, both of which stand out the other way.

        A bend doesn't look like that: there all stand out to one side. The last number may be a limiter's, and the one
        below a fall is the highest of a limited source.
        """
        if not self.weighed or self.volumes.size <= FEWEST_VOLUME_READINGS:
            return []
        low, here, high = self.volumes[:-2], self.volumes[1:-1], self.volumes[2:]
        rise = (self.level_db[2:] - self.level_db[:-2]) / (high - low)
        off = self.level_db[1:-1] - self.level_db[:-2] - rise * (here - low)
        sides = np.sign(off)
        found = []
        for place in np.flatnonzero(np.abs(off) > _SLIP_DB):
            near = [index for index in (place - 1, place + 1) if 0 <= index < off.size]
            if all(sides[index] == -sides[place] for index in near):
                found.append(int(place))
        found.sort(key=lambda place: -abs(float(off[place])))
        return [float(self.volumes[place + 1]) for place in found[:2]]

    def expected_db(self, number: float) -> float | None:
        """Level that the fitted curve has at a number, dBV; None where nothing was fitted."""
        if not self.weighed:
            return None
        return float(np.interp(number, self.volumes, self._curve_db()))

    def is_slip(self, number: float, expected_db: float, others: "_VolumeSteps") -> bool:
        """Whether a reading is far off a curve that all the others fit well."""
        off_db = abs(float(self.level_db[self.volumes == number][0]) - expected_db)
        fits = others.scatter_db <= _SLIP_SHARE * self.scatter_db
        return fits and off_db > max(_SLIP_DB, _SLIP_SCATTERS * others.scatter_db)

    def with_slip(
        self, number: float, expected_db: float, without: VolumeStepsJudgement, others: "_VolumeSteps"
    ) -> VolumeStepsJudgement:
        """The judgement on the other readings, which asks for this one again."""
        volts = float(self.volts[self.volumes == number][0])
        odd = OddReading(volume=number, voltage_v=volts, expected_v=10 ** (expected_db / 20))
        report = without.report.model_copy(update={"reasons": (*without.report.reasons, odd.sentence), "odd": odd})
        line_db, curve_db = (
            None if line is None else np.interp(self.volumes, others.volumes, line)
            for line in (without.line_db, without.curve_db)
        )
        return VolumeStepsJudgement(report, line_db, curve_db, (int(number), *without.next_volumes)[:2])

    def _curve_db(self) -> Array:
        level, drive = float(self.laws.level_db[self.best]), self.laws.drive[self.best]
        return np.asarray(self.shape.shown(drive, self.averaging) + level)

    def _limiter(self) -> VolumeStepsJudgement | None:
        """A protective limiter lowers the voltage at one more click, which clipping alone never does."""
        rise = np.diff(self.level_db) / np.diff(self.volumes)
        falls = np.flatnonzero(np.diff(self.level_db) < -4 * EXPECTED_SCATTER_DB)
        if falls.size == 0 or falls[0] < 4:
            return None
        last = int(falls[0])
        usual = float(np.median(rise[:last]))
        # Up to the fall the law must have held evenly, or it may have clipped before it was limited.
        even = bool(np.all(np.abs(rise[:last] - usual) < 3 * EXPECTED_SCATTER_DB))
        goes_on = bool(np.any(np.diff(self.level_db[last + 1 :]) > 0.5 * usual))
        if not even or goes_on:
            return None
        volume, following = int(np.floor(self.volumes[last])), float(self.volumes[last + 1])
        told = (
            f"The voltage falls from {format_value(float(self.volts[last]), 'V')} at {self.volumes[last]:g} to "
            f"{format_value(float(self.volts[last + 1]), 'V')} at {following:g}: a protective limiter."
        )
        between = tuple(range(volume + 1, int(np.ceil(following))))[:2]
        if between:
            return self._refuse(told, f"Measure at {_listed(between)} to say which is the last.", following=between)
        report = VolumeStepsReport(
            verdict=VolumeStepsFinding.FOUND,
            clean_volume=volume,
            clean_v_rms=float(self.volts[last]),
            # The clean maximum lies between this reading and the one that a further step would have given.
            uncertainty_db=max(usual, EXPECTED_SCATTER_DB),
            reasons=(told, f"One click back, {volume}, is the highest clean number."),
        )
        return VolumeStepsJudgement(report, line_db=None, curve_db=self.level_db)

    def _weigh(self) -> None:
        """Posterior weight of every place of the clean maximum on a grid, with the best law for each."""
        # From well below the first number, all of them clipped, to where the last would show no bend.
        self.places = np.arange(-_BEFORE + 0.5 / _FINE, self.volumes[-1] - self.volumes[0] + _BEYOND, 1 / _FINE)
        fitted: list[_Fitted] = []
        for law in VolumeLaw:
            fitted += self._fitted(law, max((other.best for other in fitted), default=-np.inf))
        log_weight = np.array([other.log_weight for other in fitted])
        weight = np.exp(log_weight - log_weight.max())
        self.weights = weight / weight.sum()
        self.weight = self.weights.sum(axis=0)
        likeliest = int(np.argmax(self.weights.max(axis=1)))
        self.every = [other.laws for other in fitted]
        self.laws, self.shape = fitted[likeliest].laws, fitted[likeliest].shape
        self.best = int(np.argmax(self.weights[likeliest]))
        self.scatter_db = float(self.laws.scatter_db[self.best])
        self.weighed = True

    def _fitted(self, law: VolumeLaw, likeliest: float) -> Iterator[_Fitted]:
        """Every shape under one volume law, each place's best; the usual alone where another law is far likelier."""
        there = self.places + self.volumes[0]
        distance = law.distance(self.volumes, there)
        hard: Laws | None = None
        for shape in shapes():
            laws = fit_laws(self.level_db, distance, shape, self.averaging, hard)
            hard = hard or laws
            log_weight = laws.log_weight + np.log(law.chance * shape.chance) + law.log_chance(laws.values[:, 1], there)
            if self.witnessed:
                log_weight = log_weight + self._witness(laws, shape)
            found = _Fitted(laws, shape, log_weight)
            yield found
            if laws is hard and found.best < likeliest - _FAR:
                return

    def _witness(self, laws: Laws, shape: Shape) -> Array:
        """Log weight of two meters' ratio: an average-responding one reads high on a clipped wave."""
        excess = self.witness_db - shape.parted_db(laws.drive)
        rest = excess - np.median(excess, axis=-1, keepdims=True)
        within = np.minimum(rest**2, (3 * _WITNESS_SCATTER_DB) ** 2)
        return np.asarray(-0.5 * np.sum(within, axis=-1) / _WITNESS_SCATTER_DB**2)

    def _decide(self) -> VolumeStepsJudgement:
        chance = self.weight
        first, top = self.volumes[0], self.volumes[-1]
        # The clean maximum is the last whole one not past the place of the clean maximum.
        numbers = np.floor(self.places + first + 1e-9).astype(int)
        chances = {int(number): float(chance[numbers == number].sum()) for number in np.unique(numbers)}
        ranked = tuple(sorted(chances, key=lambda number: -chances[number]))
        unreached = float(chance[self.places + first >= top].sum())
        over = self._over_at_top()
        if unreached > 0.5 and over < _UNSEEN_DB:
            return self._not_reached(over)
        if self.scatter_db > 4 * EXPECTED_SCATTER_DB:
            return self._refuse(
                f"The readings scatter by {format_db(self.scatter_db, 2)} about any volume law: too much to see "
                "a bend.",
                "Wait for the meter at each number, change only the volume, and repeat the readings.",
            )
        if float(chance[self.places < 0].sum()) > _DOUBT:
            return self._refuse(
                f"It may be clipping at {first:g} already.", "Start some numbers lower, at half of the scale or below."
            )
        near = sum(share for number, share in chances.items() if abs(number - ranked[0]) <= 1)
        # A number too high does harm, one too low only costs a little.
        lower = sum(share for number, share in chances.items() if number < ranked[0])
        if near < 1 - _UNSURE or unreached > 0.1 or lower > _TOO_HIGH:
            return self._undecided(tuple(sorted(number for number in ranked[:4] if chances[number] > 0.03)), chances)
        return self._found(ranked, chances)

    def _found(self, ranked: tuple[int, ...], chances: dict[int, float]) -> VolumeStepsJudgement:
        number = ranked[0]
        level, doubt = self._clean_maximum()
        over = max(0.0, float(self.laws.drive[self.best, -1]))
        others = tuple(sorted(number for number in ranked[1:3] if chances[number] > 0.01))
        reasons = [
            f"The readings follow {format_db(self._step_below(), 2)} a number up to {number}, then fall short "
            f"{self.shape.told}: {format_db(over)} over at {self.volumes[-1]:g}.",
            f"{number} is the clean maximum with a probability of {min(99, int(100 * chances[number]))} %"
            + (f"; {_listed(others, 'or')} is possible too." if others else "."),
        ]
        if self.witnessed:
            reasons.append("The two meters part as they do on a clipped wave.")
        report = VolumeStepsReport(
            verdict=VolumeStepsFinding.FOUND,
            clean_volume=number,
            clean_v_rms=float(10 ** (level / 20)),
            uncertainty_db=doubt,
            reasons=tuple(reasons),
        )
        return self._with_curve(report)

    def _undecided(self, likely: tuple[int, ...], chances: dict[int, float]) -> VolumeStepsJudgement:
        following = self._worth_measuring(likely)
        advice = (
            f"Measure also at {_listed(following)} to be exact."
            if following
            else "A meter can’t decide this. Look at the wave, or use the lower number."
        )
        surely, perhaps = _bounds(chances)
        # Only what was read can be kept, and a number that wasn't may lie above one that clips.
        read = [int(number) for number in self.volumes if number <= surely and float(number).is_integer()]
        widest = max(_WIDEST, _WIDEST_DB / max(self._step_below(), EXPECTED_SCATTER_DB))
        beyond = perhaps > self.volumes[-1]
        perhaps = min(perhaps, int(self.volumes[-1]))
        if not read or perhaps - max(read) > widest:
            return self._refuse(f"The clean maximum could be {_listed(likely, 'or')}.", advice, following=following)
        surely = max(read)
        perhaps = max(perhaps, surely)
        report = VolumeStepsReport(
            verdict=VolumeStepsFinding.BOUNDED,
            surely_volume=surely,
            perhaps_volume=perhaps,
            reasons=(f"Surely clean to {surely}, perhaps to {perhaps}{' or beyond' if beyond else ''}.", advice),
        )
        return self._with_curve(report, following)

    def _not_reached(self, over: float) -> VolumeStepsJudgement:
        top = int(np.floor(self.volumes[-1]))
        reasons = [
            f"The readings keep to the line up to {top}: not over by more than {format_db(max(0.1, over))} there."
        ]
        following = self._above()
        if following:
            reasons.append(f"Go on to {_listed(following)}.")
        else:
            reasons.append(f"{top} is the top of the scale: clean throughout, as far as a meter can tell.")
        report = VolumeStepsReport(verdict=VolumeStepsFinding.NOT_REACHED, reasons=tuple(reasons))
        return self._with_curve(report, following)

    def _over_at_top(self) -> float:
        """Overdrive at the last reading below which 95 % of the weight lies, dB."""
        drive = np.concatenate([laws.drive[:, -1] for laws in self.every])
        order = np.argsort(drive)
        share = np.cumsum(self.weights.ravel()[order])
        return float(max(0.0, drive[order][min(order.size - 1, int(np.searchsorted(share, 0.95)))]))

    def _clean_maximum(self) -> tuple[float, float]:
        """The clean maximum in dBV and half of the interval that holds 95 % of the weight, dB."""
        level = np.concatenate([laws.level_db for laws in self.every])
        own = np.concatenate([laws.level_variance for laws in self.every])
        weight = self.weights.ravel()
        mean = float(weight @ level)
        variance = float(weight @ ((level - mean) ** 2 + own)) + _SHAPE_DB**2
        return mean, 2 * float(np.sqrt(variance))

    def _step_below(self) -> float:
        """Decibels a number just below the clean maximum."""
        drive = self.laws.drive[self.best]
        last = max(1, int(np.count_nonzero(drive <= 0)) - 1)
        return float((drive[last] - drive[last - 1]) / (self.volumes[last] - self.volumes[last - 1]))

    def _worth_measuring(self, likely: tuple[int, ...]) -> tuple[int, ...]:
        """Up to two numbers not measured yet that would decide: between the likely ones, then above the last."""
        known = set(self.volumes.tolist())
        between = [
            number
            for number in range(likely[0] + 1, likely[-1] + 2)
            if number not in known and number < self.volumes[-1]
        ]
        return (*between, *self._above())[:2]

    def _above(self) -> tuple[int, ...]:
        top = int(np.floor(self.volumes[-1]))
        return tuple(number for number in (top + 1, top + 2) if self.top is None or number <= self.top)

    def _with_curve(self, report: VolumeStepsReport, following: tuple[int, ...] = ()) -> VolumeStepsJudgement:
        line = self.laws.drive[self.best] + float(self.laws.level_db[self.best])
        return VolumeStepsJudgement(report, line, self._curve_db(), following)

    def _refuse(self, *reasons: str, following: tuple[int, ...] = ()) -> VolumeStepsJudgement:
        report = VolumeStepsReport(verdict=VolumeStepsFinding.CANNOT_TELL, reasons=reasons)
        return VolumeStepsJudgement(report, next_volumes=following)


def _bounds(chances: dict[int, float]) -> tuple[int, int]:
    """The highest numbers that are clean beyond doubt, and that may be clean."""
    numbers = sorted(chances)
    at_least = {number: sum(chances[other] for other in numbers if other >= number) for number in numbers}
    surely = max((number for number in numbers if at_least[number] >= 1 - _DOUBT), default=numbers[0] - 1)
    return surely, max((number for number in numbers if at_least[number] > _DOUBT), default=surely)


def _listed(numbers: tuple[int, ...], word: str = "and") -> str:
    told = [str(number) for number in numbers]
    return told[0] if len(told) == 1 else f"{', '.join(told[:-1])} {word} {told[-1]}" if told else "none"
