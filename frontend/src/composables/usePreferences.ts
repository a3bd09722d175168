/** What this device prefers, kept in its own storage. */
import { useLocalStorage } from '@vueuse/core';

/** How somebody tells whether a wave is clean. */
type Evidence = 'eye' | 'ear' | 'lamp';

const preferences = useLocalStorage(
  'rook.preferences',
  {
    name: '',
    sounds: true,
    meter: 'true-rms',
    /** Whether somebody was asked for it. */
    meterAsked: false,
    firstLookSeen: false,
    /** What the workshop is called on printed sheets. */
    shop: '',
    /** The one that was typed from before the bench was read. */
    typedMeter: 'true-rms',
    /** By how many percent its display is known to be too high. */
    meterError: 0,
    benchOpen: false,
    letterKeys: true,
    evidence: 'eye' as Evidence,
  },
  { mergeDefaults: true },
);

export function usePreferences() {
  return preferences;
}
