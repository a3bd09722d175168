/** The simulated bench by keys: what its panel does, for a hand that stays on the keyboard. */
import type { Ref } from 'vue';
import type { BenchState, BenchView } from '@/api/client';
import type { RunDesk } from '@/composables/useRunDesk';
import {
  dialAt,
  dialOpen,
  HAIR,
  knobAt,
  RESTING,
  RUNNING,
  trimOf,
  withDial,
  withTrim,
} from '@/support/bench';

type Probe = BenchState['probe'];
type Acts = Record<string, () => void>;

const FAR = 10;

const TERMINALS: Record<string, Probe> = { bridge: 'bridge', right: 'right', other: 'right' };

const PROBES: Record<string, Probe> = {
  processor: 'converter',
  supply: 'supply',
  'output right': 'source_right',
};

/** Where the open step's reading is taken, as a probe of the bench. */
function probeOf(desk: RunDesk): Probe {
  const point = desk.asked.value?.point ?? desk.step.value?.point;
  if (point?.kind === 'terminals') return TERMINALS[point.terminals] ?? 'left';
  const side = point && 'side' in point && point.kind === 'output' ? point.side : null;
  return PROBES[[point?.kind, side].filter(Boolean).join(' ')] ?? 'source';
}

/** What each key does while the bench is shown; nothing while it isn't. */
export function benchKeys(
  bench: Ref<BenchView | undefined>,
  desk: RunDesk,
  turn: (knobs: Partial<BenchState>) => void,
): () => Acts {
  /** The dial that the open step sets, if it sets one. */
  const dial = () => bench.value?.dials.findIndex((dial) => dial.step === desk.step.value?.key) ?? -1;

  /** Turns what the step is about: its filter's dial, the converter's trim, or the gain. */
  function knob(by: number): void {
    const now = bench.value;
    if (!now) return;
    const place = dial();
    const set = now.dials[place];
    if (set) turn(withDial(now, place, knobAt((dialAt(now, place) ?? dialOpen(set.name)) + by)));
    else if (desk.step.value?.kind === 'converter') turn(withTrim(now, knobAt((trimOf(now) ?? 0) + by)));
    else turn({ gain: knobAt((now.state.gain ?? 0) + by) });
  }
  /** Sets the bench as the reading wants it: probe, tone, volume, the filter at hand open or in. */
  function setAsWanted(): void {
    const now = bench.value;
    const wants = desk.asked.value?.wants;
    if (!now || !wants) return;
    const place = dial();
    const set = now.dials[place];
    turn({
      playing: true,
      probe: probeOf(desk),
      ...(wants.tone ? { tone: wants.tone } : {}),
      ...(wants.volume == null ? {} : { volume: wants.volume }),
      ...(set
        ? withDial(now, place, desk.row.value === 'open' ? null : (dialAt(now, place) ?? dialOpen(set.name)))
        : {}),
    });
  }
  return (): Acts => {
    const state = bench.value?.state;
    if (!state) return {};
    return {
      r: () => turn({ probe: probeOf(desk) }),
      w: setAsWanted,
      f: () => knob(HAIR),
      d: () => knob(-HAIR),
      F: () => knob(FAR * HAIR),
      D: () => knob(-FAR * HAIR),
      e: () => turn({ supply_v: (state.supply_v === RUNNING.value ? RESTING : RUNNING).value }),
      k: () => turn({ speakers_on: !state.speakers_on }),
    };
  };
}
