/** The keys that every step of the run shares; the open step is asked first. */
import { useEventListener } from '@vueuse/core';
import { usePreferences } from '@/composables/usePreferences';
import { isDialogOpen, isLetter, isTyping, pressesControl } from '@/support/keys';

type Actions = {
  /** True when the open step took the key. */
  step: (event: KeyboardEvent) => boolean;
  next: () => void;
  before: () => void;
  undo: () => void;
  putBack: () => void;
  skip: () => void;
  /** Asks for the run, or hands it over. */
  turn: () => void;
  sounds: () => void;
  bench: () => void;
  /** Reads from the bench, or types again. */
  meter: () => void;
  /** Keys of the bench, while it is shown. */
  knobs: () => Record<string, () => void>;
};

/** Keys that go on while they are held: what is turned or stepped. */
const REPEATING = /^(Arrow.*|[df])$/i;

export function useRunKeys(actions: Actions): void {
  const shared: Record<string, () => void> = {
    ArrowRight: actions.next,
    ArrowLeft: actions.before,
    u: actions.undo,
    p: actions.putBack,
    s: actions.skip,
    o: actions.turn,
    m: actions.sounds,
    b: actions.bench,
    v: actions.meter,
  };
  const preferences = usePreferences();

  useEventListener(window, 'keydown', (event: KeyboardEvent) => {
    if (isCombined(event) || (event.repeat && !REPEATING.test(event.key)) || belongsElsewhere(event)) return;
    if (!preferences.value.letterKeys && isLetter(event)) return;
    if (actions.step(event)) {
      event.preventDefault();
      return;
    }
    const act = meant(event, shared) ?? meant(event, actions.knobs());
    if (!act || isTyping(event)) return;
    event.preventDefault();
    act();
  });
}

/** What a key stands for; with Shift it may stand for more. */
function meant(event: KeyboardEvent, acts: Record<string, () => void>): (() => void) | undefined {
  const { key } = event;
  if (key.length > 1) return acts[key];
  return (event.shiftKey ? acts[key.toUpperCase()] : undefined) ?? acts[key.toLowerCase()];
}

function isCombined(event: KeyboardEvent): boolean {
  return event.ctrlKey || event.metaKey || event.altKey;
}

/** In a reading that was begun the step still takes its own keys, none of which belongs to a unit. */
function belongsElsewhere(event: KeyboardEvent): boolean {
  if (isDialogOpen() || pressesControl(event)) return true;
  const reading = event.target instanceof HTMLInputElement && event.target.dataset.reading !== undefined;
  return !reading && (isTyping(event) || movesSlider(event));
}

function movesSlider(event: KeyboardEvent): boolean {
  const slider = event.target instanceof HTMLInputElement && event.target.type === 'range';
  return slider && event.key.startsWith('Arrow');
}
