/** What this device prefers, kept in its own storage. */
import { useLocalStorage } from '@vueuse/core';

const preferences = useLocalStorage(
  'rook.preferences',
  { name: '', sounds: true, meter: 'true-rms', benchOpen: false },
  { mergeDefaults: true },
);

export function usePreferences() {
  return preferences;
}
