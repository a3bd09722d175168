/** What a display shows of a step, from across the room: what to play, how loud, what is wanted, what was read last. */
import type { Comparison, Reading, Row, RunView, Step, StepState, Tone } from '@/api/client';

export type ShownStep = {
  step: Step;
  state: StepState;
  /** One of several readings: the one being read, else the first that is still asked for. */
  row: Row | null;
  /** Null where nothing is played, and where nobody has said which of several is being read. */
  tone: Tone | null;
  /** Whether its readings want different tones: one read with another's would be a wrong reading. */
  severalTones: boolean;
  play: string | null;
  volume: string | null;
  target: Step['target'] | null;
  last: Reading | null;
  comparison: Comparison | null;
  sentence: string;
  /** Lines of a checklist that nobody has answered. */
  open: string[];
};

/** `beingRead` is which of several readings the one who holds the run is at, where that is known. */
export function shownStep(view: RunView, key: string, beingRead: string | null = null): ShownStep | null {
  const { run } = view;
  const index = run.steps.findIndex((step) => step.key === key);
  const [step, state] = [run.steps[index], run.states[index]];
  if (!step || !state) return null;
  const row = rowAtHand(step, state, beingRead);
  const asked = row ?? step;
  const { reading = null, comparison = null } = standing(state, row);
  return {
    step,
    state,
    row,
    ...(isKnown(step, row, beingRead) ? played(asked) : SILENT),
    volume: volumeOf(step, state, asked),
    target: asked.target ?? null,
    last: reading ?? lastOf(view, step),
    comparison,
    sentence: state.sentence,
    open: openLines(step, state),
  };
}

type Played = Pick<ShownStep, 'tone' | 'play' | 'severalTones'>;
const SILENT: Played = { tone: null, play: null, severalTones: true };

/** Whether the tone is plain: all readings want the same one, or it is known which is being read. */
function isKnown(step: Step, row: Row | null, beingRead: string | null): boolean {
  const tones = new Set((step.rows ?? []).map((row) => JSON.stringify(row.wants.tone ?? null)));
  return tones.size < 2 || row?.key === beingRead;
}

function played(asked: Step | Row): Played {
  return { tone: asked.wants?.tone ?? null, play: asked.play || null, severalTones: false };
}

function standing(state: StepState, row: Row | null): Partial<Pick<StepState, 'reading' | 'comparison'>> {
  return (row ? state.rows?.find((rowState) => rowState.row === row.key) : state) ?? {};
}

function openLines(step: Step, state: StepState): string[] {
  const answered = new Set(state.answers?.map((answer) => answer.item));
  return (step.items ?? []).filter((item) => !answered.has(item.key)).map((item) => item.text);
}

function rowAtHand(step: Step, state: StepState, beingRead: string | null): Row | null {
  const done = (row: Row) =>
    state.rows?.some((rowState) => rowState.row === row.key && (rowState.reading || rowState.left)) ?? false;
  const rows = step.rows ?? [];
  const told = rows.find((row) => row.key === beingRead);
  return told ?? rows.find((row) => !row.optional && !done(row)) ?? rows.at(-1) ?? null;
}

function volumeOf(step: Step, state: StepState, asked: Step | Row): string | null {
  if (!step.top_volume) return null;
  const number = state.volume_steps?.next_volume ?? asked.wants?.volume;
  return number == null ? 'the clean maximum' : String(number);
}

/** Of a step that is read many times over. */
function lastOf(view: RunView, step: Step): Reading | null {
  if (step.rows?.length) return null;
  return view.readings.filter((reading) => reading.step === step.key && !reading.struck).at(-1) ?? null;
}
