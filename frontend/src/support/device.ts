/**
 * What this device keeps by itself: which device it is, which installation it belongs to, and a stand-in where the
 * browser keeps nothing. Imported before everything else, since some packages touch the storage as they are loaded.
 */

/** Storage that lasts as long as the page. */
function forgetful(): Storage {
  const kept = new Map<string, string>();
  return {
    get length() {
      return kept.size;
    },
    clear: () => kept.clear(),
    getItem: (key) => kept.get(key) ?? null,
    key: (index) => [...kept.keys()][index] ?? null,
    removeItem: (key) => void kept.delete(key),
    setItem: (key, value) => void kept.set(key, String(value)),
  };
}

function works(): boolean {
  try {
    localStorage.setItem('rook.probe', '1');
    localStorage.removeItem('rook.probe');
    return true;
  } catch {
    return false;
  }
}

/** Whether this browser keeps anything beyond the page. */
export const keepsThings = works();
if (!keepsThings) {
  for (const name of ['localStorage', 'sessionStorage']) {
    Object.defineProperty(window, name, { value: forgetful(), configurable: true });
  }
}

function remembered(key: string): string {
  const known = localStorage.getItem(key);
  if (known) return known;
  const id = crypto.randomUUID();
  localStorage.setItem(key, id);
  return id;
}

/** Names this device in every record, so that nobody undoes what somebody else took. */
export const DEVICE = remembered('rook.device');

const INSTALLATION = 'rook.installation';

/** The installation that this device last spoke with, or null. */
export const installationKnown = (): string | null => localStorage.getItem(INSTALLATION);
export const rememberInstallation = (id: string): void => localStorage.setItem(INSTALLATION, id);
