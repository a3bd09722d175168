/** The simulated bench by keys: what its panel does, for a hand that stays on the keyboard. */
import type { Ref } from 'vue';
import type { BenchState, BenchView } from '@/api/client';
import type { RunDesk } from '@/composables/useRunDesk';

type Probe = BenchState['probe'];
type Acts = Record<string, () => void>;

const FINE = 0.005;
const COARSE = 0.05;
const RUNNING_V = 14.2;
const RESTING_V = 12.2;

const TERMINALS: Record<string, Probe> = { bridge: 'bridge', right: 'right', other: 'right' };

const rowOf = (desk: RunDesk) => desk.step.value?.rows?.find((one) => one.key === desk.row.value);

/** Where the open step's reading is taken, as a probe of the bench. */
function probeOf(desk: RunDesk): Probe {
  const point = rowOf(desk)?.point ?? desk.step.value?.point;
  if (point?.kind === 'terminals') return TERMINALS[point.terminals] ?? 'left';
  if (point?.kind === 'processor') return 'converter';
  return point?.kind === 'supply' ? 'supply' : 'source';
}

/** What each key does while the bench is shown; nothing while it isn't. */
export function benchKeys(
  bench: Ref<BenchView | undefined>,
  desk: RunDesk,
  turn: (knobs: Partial<BenchState>) => void,
): () => Acts {
  function knob(by: number): void {
    const now = bench.value?.state.gain ?? 0;
    turn({ gain: Math.min(1, Math.max(0, Math.round((now + by) * 1000) / 1000)) });
  }
  function playWanted(): void {
    const tone = (rowOf(desk) ?? desk.step.value)?.wants?.tone;
    turn({ playing: true, ...(tone ? { tone } : {}) });
  }
  return (): Acts => {
    const state = bench.value?.state;
    if (!state) return {};
    return {
      r: () => turn({ probe: probeOf(desk) }),
      w: playWanted,
      ']': () => knob(FINE),
      '[': () => knob(-FINE),
      '}': () => knob(COARSE),
      '{': () => knob(-COARSE),
      e: () => turn({ supply_v: (state.supply_v ?? 0) > 13 ? RESTING_V : RUNNING_V }),
      k: () => turn({ speakers_on: !state.speakers_on }),
    };
  };
}
