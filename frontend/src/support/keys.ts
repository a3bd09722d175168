/** The keyboard map: what each key does in the run, for the handler and for the help page alike. */
export const KEYS: readonly { key: string; does: string }[] = [
  { key: '0–9', does: 'start typing a reading' },
  { key: 'Enter', does: 'save the reading; in a checklist: done' },
  { key: 'C', does: 'save it as clean, at the source and at the gain' },
  { key: 'X', does: 'save it as clipped; at the gain: it clips first' },
  { key: 'T', does: 'at the source: save the clean maximum that is offered first' },
  { key: 'G', does: 'at the gain: the knob is at its end' },
  { key: 'H', does: 'at the gain: save the volts with the tone 6 dB lower' },
  { key: 'N', does: 'at the gain: save the volts where it just clips' },
  { key: 'M', does: 'at the gain: save the volts where it clips with load resistors' },
  { key: 'A', does: 'in a checklist: doesn’t apply' },
  {
    key: 'L',
    does: 'in a checklist, or at a reading that missed: leave as is, with the reason; at the gain: the limiter holds it',
  },
  { key: '↑ ↓', does: 'step the source volume; in a checklist, or among several readings: move' },
  { key: '→ ←', does: 'next step, previous step' },
  { key: 'S', does: 'skip this step, with the reason' },
  { key: 'U', does: 'undo your last reading or answer from this device' },
  { key: 'P', does: 'put back what was undone last' },
  { key: 'O', does: 'on several devices: request the run, take over, hand over' },
  { key: 'M', does: 'sounds on or off' },
  { key: 'B', does: 'show the simulated bench' },
  { key: 'V', does: 'read from the simulated bench and show it, or type again' },
  { key: '=', does: 'the calculator, on every page' },
  { key: '?', does: 'this help' },
];

/** What works on the list of jobs. */
export const JOBS_KEYS: typeof KEYS = [{ key: 'N', does: 'create a new job' }];

/** What works on the System screen. */
export const SYSTEM_KEYS: typeof KEYS = [
  { key: 'Alt 1–9', does: 'to that path, in the same field' },
  {
    key: 'Alt Shift 1–7',
    does: 'to that part: vehicle, source, processors, amplifier, speakers, filters, methods',
  },
  { key: 'Ctrl Enter', does: 'to the plan' },
  { key: 'Ctrl Z', does: 'undo the last edit' },
  { key: 'Ctrl Y', does: 'do it again' },
];

/** What works while the simulated bench is shown. */
export const BENCH_KEYS: typeof KEYS = [
  { key: 'R', does: 'put the probe on the point of this reading' },
  { key: 'W', does: 'set the bench as this reading wants it: probe, tone, volume, a filter open or in' },
  {
    key: 'D F',
    does: 'gain, trim or dial, whichever the step sets: down or up slightly, with Shift ten times as far',
  },
  { key: 'E', does: 'engine running, or the battery at rest' },
  { key: 'K', does: 'speakers connected or not' },
];

/** Whether a dialog is open, to which all keys belong. */
export const isDialogOpen = () => document.querySelector('.modal.show') !== null;

const WRITTEN = 'input:not([type=checkbox]):not([type=radio]):not([type=range]), textarea';

/** Whether a key goes to a field with text, which has an undo of its own. */
export const isWriting = (event: KeyboardEvent) =>
  event.target instanceof HTMLElement && event.target.matches(WRITTEN);

/** Whether a key belongs to a field that is being typed in. A reading not begun yet leaves the keys to the run. */
export function isTyping(event: KeyboardEvent): boolean {
  const field = event.target;
  if (field instanceof HTMLInputElement && field.dataset.reading !== undefined) return field.value !== '';
  return field instanceof HTMLElement && field.matches(`${WRITTEN}, select`);
}

/** Does what the pressed key stands for; false when it stands for nothing here. */
export function pressed(event: KeyboardEvent, acts: Record<string, () => void>): boolean {
  const act = acts[event.key.length === 1 ? event.key.toLowerCase() : event.key];
  act?.();
  return act !== undefined;
}

const CONTROLS =
  'a[href], button, summary, select, [role], input[type=checkbox], input[type=radio], input[type=range]';

/** Whether Enter or Space presses the control that has the focus, and so is nobody else's. */
export function pressesControl(event: KeyboardEvent): boolean {
  const isPress = event.key === 'Enter' || event.key === ' ';
  return isPress && event.target instanceof HTMLElement && event.target.matches(CONTROLS);
}

/** Whether a key is a single letter or sign, which may be switched off for those who speak to their device. */
export function isLetter(event: KeyboardEvent): boolean {
  return event.key.length === 1 && !/^[\d.,\-−+]$/.test(event.key);
}
