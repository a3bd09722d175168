/** The keys that every step of the run shares; the open step is asked first. */
import { useEventListener } from '@vueuse/core';
import { usePreferences } from '@/composables/usePreferences';
import { isLetter, isTyping } from '@/support/keys';

type Actions = {
  /** True when the open step took the key. */
  step: (event: KeyboardEvent) => boolean;
  next: () => void;
  before: () => void;
  undo: () => void;
  putBack: () => void;
  skip: () => void;
  sounds: () => void;
  bench: () => void;
  /** Reads from the bench, or types again. */
  meter: () => void;
  /** Keys of the bench, while it is shown. */
  knobs: () => Record<string, () => void>;
};

export function useRunKeys(actions: Actions): void {
  const shared: Record<string, () => void> = {
    ArrowRight: actions.next,
    ArrowLeft: actions.before,
    u: actions.undo,
    p: actions.putBack,
    s: actions.skip,
    m: actions.sounds,
    b: actions.bench,
    v: actions.meter,
  };
  const preferences = usePreferences();

  useEventListener(window, 'keydown', (event: KeyboardEvent) => {
    if (isCombined(event) || (event.repeat && !event.key.startsWith('Arrow')) || belongsElsewhere(event))
      return;
    if (!preferences.value.letterKeys && isLetter(event)) return;
    if (actions.step(event)) {
      event.preventDefault();
      return;
    }
    const named = event.key.length === 1 ? event.key.toLowerCase() : event.key;
    const act = shared[named] ?? actions.knobs()[named];
    if (!act || isTyping(event)) return;
    event.preventDefault();
    act();
  });
}

function isCombined(event: KeyboardEvent): boolean {
  return event.ctrlKey || event.metaKey || event.altKey;
}

/** In a reading that was begun the step still takes its own keys, none of which belongs to a unit. */
function belongsElsewhere(event: KeyboardEvent): boolean {
  if (document.querySelector('.modal.show')) return true;
  const reading = event.target instanceof HTMLInputElement && event.target.dataset.reading !== undefined;
  return !reading && (isTyping(event) || movesSlider(event));
}

function movesSlider(event: KeyboardEvent): boolean {
  const slider = event.target instanceof HTMLInputElement && event.target.type === 'range';
  return slider && event.key.startsWith('Arrow');
}
