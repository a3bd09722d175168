/** Time since this device was last touched: the page locks it by that, and says so to the server with each request. */
const TOUCHES = ['pointerdown', 'pointermove', 'keydown', 'wheel', 'touchstart'] as const;
let touched = Date.now();
for (const kind of TOUCHES) window.addEventListener(kind, () => (touched = Date.now()), { passive: true });

export const untouchedMs = (): number => Math.max(0, Date.now() - touched);
