"""A system whose filters and polarities are tried out: its sums with and without a change, and its faults."""

from collections.abc import Iterable
from functools import cached_property

import numpy as np

from upper_rook.core.common.finding import Finding, Severity
from upper_rook.core.common.finding_kinds import FindingKind
from upper_rook.core.crossover.corner_findings import crossover_findings
from upper_rook.core.crossover.driver_groups import as_grouped, members_of, subs_of
from upper_rook.core.crossover.groups import CANCELS_DB, Group, beside, groups, uneven
from upper_rook.core.crossover.path_responses import PathResponses, middles_of, path_response
from upper_rook.core.crossover.timing import timing_of
from upper_rook.core.signal.filters import Complex, level_db
from upper_rook.core.system.chain import Chain
from upper_rook.core.system.path import Path
from upper_rook.core.system.playing import Side

NO_WORSE_DB = 0.05
"""Holes this much deeper count as equal."""
_EDGE = 1.001


class TrialSystem:
    """One state of a system: its paths as they are, or with some of them changed."""

    def __init__(self, sheet_chain: Chain, chain: Chain, voices: PathResponses, found: tuple[Group, ...]) -> None:
        self._sheet_chain = sheet_chain
        """As the sheet has it, without the groups that are only supposed."""
        self.chain, self.groups, self._voices = chain, found, voices
        # By identity, which costs less than a path's hash; the path is kept so that its identity lasts.
        self._tried: dict[int, tuple[Path, Complex, float]] = {}

    def changed(self, changed: dict[str, Path]) -> "TrialSystem":
        """The system with the filters and polarities of `changed`, by the paths' ids."""
        paths = (
            path.model_copy(update={"filters": new.filters, "inverted": new.inverted})
            if (new := changed.get(path.id))
            else path
            for path in self._sheet_chain.paths
        )
        sheet_chain = self._sheet_chain.model_copy(update={"paths": tuple(paths)})
        chain, _ = as_grouped(sheet_chain)
        timing, before, own = timing_of(chain, Side.LEFT), self._voices, {path.id: path for path in self.chain.paths}
        responses = {}
        for path in {
            path.id: path for _, members in members_of(chain) if len(members) > 1 for path in members
        }.values():
            if path == own[path.id] and path.id in before.responses and timing.of(path) == before.timing.of(path):
                responses[path.id] = before.responses[path.id]
                continue
            responses[path.id] = path_response(
                path, chain.load_of(path), before.equalisers[path.id], before.bank, late_s=timing.of(path)
            )
        voices = PathResponses(before.frequency_hz, before.equalisers, responses, before.bank, timing)
        return TrialSystem(sheet_chain, chain, voices, groups(chain, voices))

    @cached_property
    def faults(self) -> frozenset[tuple[FindingKind, tuple[str, ...]]]:
        """Findings about its filters that are more than a note, each by its kind and paths."""
        found: Iterable[Finding] = (
            *crossover_findings(self.chain),
            *uneven(self.groups),
            *beside(self.chain, self._voices.responses),
        )
        return frozenset(
            (finding.kind, tuple(sorted(finding.paths))) for finding in found if finding.severity is not Severity.NOTE
        )

    def is_as_good_as(self, other: "TrialSystem") -> bool:
        """Whether it has no fault, and no group of it a deeper hole, that `other` hasn't."""
        before = {group.name: group.least_db for group in other.groups}
        deeper = (group.least_db < min(-CANCELS_DB, before.get(group.name, 0.0)) - NO_WORSE_DB for group in self.groups)
        return self.faults <= other.faults and not any(deeper)

    def least_db(self, changed: dict[str, Path]) -> dict[str, tuple[float, float]]:
        """
        The least of each group's sum as it is and with some paths changed; louder than the pass band is no gain.

        Between the middles that the lowest and the highest of the group have then: the ends of the band are no holes.
        """
        found, hertz, responses = {}, self._voices.frequency_hz, self._voices.responses
        for name, places, before, middles_before in self._sums:
            touched = [key for key in changed if key in places]
            if not touched:
                continue
            after, middles = before, middles_before.copy()
            for key in touched:
                new, middles[places[key]] = self._response(changed[key])
                after = after + self._weight[key] * (new - responses[key])
            low, high = 2 ** float(middles.min()) / _EDGE, 2 ** float(middles.max()) * _EDGE
            inner = (hertz >= low) & (hertz <= high)
            found[name] = (_least(before[inner]), _least(after[inner]))
        return found

    @cached_property
    def _weight(self) -> dict[str, float]:
        """All subs of a group count as one that is as loud as the rest."""
        subs = subs_of(self.chain)
        return {key: 1 / len(subs) if key in subs else 1.0 for key in self._voices.responses}

    @cached_property
    def _sums(self) -> list[tuple[str, dict[str, int], Complex, np.ndarray]]:
        """Every group with its paths' places, their sum and their middles."""
        responses = self._voices.responses
        keys = list(responses)
        rows = middles_of([responses[key] for key in keys], self._voices.frequency_hz) if keys else np.zeros(0)
        middle = dict(zip(keys, rows.tolist(), strict=True))
        return [
            (
                name,
                {path.id: place for place, path in enumerate(paths)},
                np.sum([self._weight[path.id] * responses[path.id] for path in paths], axis=0),
                np.array([middle[path.id] for path in paths]),
            )
            for name, paths in members_of(self.chain)
            if len(paths) > 1
        ]

    def _response(self, path: Path) -> tuple[Complex, float]:
        """The response of a path as it would be, and its middle as log2 of hertz."""
        known = self._tried.get(id(path))
        if known is None:
            load, voices = self.chain.load_of(path), self._voices
            late_s = voices.timing.of(path)
            response = path_response(path, load, voices.equalisers[path.id], voices.bank, late_s=late_s)
            known = self._tried[id(path)] = path, response, float(middles_of([response], voices.frequency_hz)[0])
        return known[1:]


def is_deeper(leasts: dict[str, tuple[float, float]]) -> bool:
    """Whether some group's sum gets a deeper hole."""
    return any(after < before - NO_WORSE_DB for before, after in leasts.values())


def _least(total: Complex) -> float:
    return min(0.0, float(level_db(total).min())) if total.size else 0.0
