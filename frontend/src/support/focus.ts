/** How the focus came to where it is: by Tab, or by a click, a route or the program. */
let tabbing = false;
let byTab = false;

if (typeof window !== 'undefined') {
  window.addEventListener('keydown', (event) => (tabbing = event.key === 'Tab'), true);
  window.addEventListener('pointerdown', () => (tabbing = false), true);
  window.addEventListener('focusin', () => (byTab = tabbing), true);
}

/** Whether somebody went to the focused control with Tab, and so means it. */
export const reachedByTab = () => byTab;

/** Brings the focus to a page's or a step's heading, from where everything is reached and nothing is pressed. */
export function toHeading(heading: HTMLElement | null | undefined): void {
  heading?.focus({ preventScroll: true });
}
