/** What panel and keys of the simulated bench share. */
import type { BenchState, BenchView } from '@/api/client';

/** The least that a knob is turned by, of its whole turn. */
export const HAIR = 0.005;

/** The two states of a vehicle's supply. */
export const RESTING = { value: 12.2, text: 'Battery at rest, 12.2 V' };
export const RUNNING = { value: 14.2, text: 'Engine running, 14.2 V' };

type Knobs = Partial<BenchState>;

/** Where a dial stands as it was turned here, since the bench's answer may come later; null with its filter out. */
export const dialAt = ({ state }: BenchView, place: number) => state.dials?.[place] ?? null;
export const withDial = (bench: BenchView, place: number, turned: number | null): Knobs => ({
  dials: bench.dials.map((_, index) => (index === place ? turned : dialAt(bench, index))),
});

/** Where a dial is put into the signal: at the end that takes nothing away. */
export const dialOpen = (name: string) => (name === 'high-pass' ? 0 : 1);

/** The trim of the path that is on the bench, likewise. */
export const trimOf = ({ state, trim }: BenchView) => state.trims?.[state.path ?? ''] ?? trim;
export const withTrim = ({ state }: BenchView, turned: number): Knobs => ({
  trims: { ...state.trims, [state.path ?? '']: turned },
});

/** A knob's position between fully down and fully up, without the binary dust of many small turns. */
export const knobAt = (turned: number) => Math.min(1, Math.max(0, Math.round(turned * 1000) / 1000));
