/** Where the focus goes when a page comes, after a press of the pointer, and when what had it is gone. */

/** Brings the focus to a page's or a step's heading, from where everything is reached and nothing is pressed. */
export function toHeading(heading: HTMLElement | null | undefined): void {
  heading?.focus({ preventScroll: true });
}

const FOCUSABLE =
  'a[href], button:not([disabled]), input:not([disabled]), select:not([disabled]), textarea:not([disabled]), summary, [tabindex]';

function isShown(element: HTMLElement): boolean {
  return element.getClientRects().length > 0;
}

/** The first control within an element, or the element itself where it can have the focus. */
export function firstFocusable(within: Element | null | undefined): HTMLElement | undefined {
  if (!(within instanceof HTMLElement)) return undefined;
  const all = [within, ...within.querySelectorAll<HTMLElement>(FOCUSABLE)];
  return all.find((element) => element.matches(FOCUSABLE) && isShown(element));
}

/** What surrounds a control: at each level what follows it, what comes before it, and what holds it. */
type Surroundings = { after: Element | null; before: Element | null; holder: Element }[];

function surroundingsOf(element: Element): Surroundings {
  const levels: Surroundings = [];
  for (let at: Element = element; at.parentElement && at !== document.body; at = at.parentElement)
    levels.push({
      after: at.nextElementSibling,
      before: at.previousElementSibling,
      holder: at.parentElement,
    });
  return levels;
}

/** The nearest control that is still there: after what is gone, before it, or in what held it. */
function nearest(levels: Surroundings): HTMLElement | undefined {
  const level = levels.find((level) => level.holder.isConnected);
  if (!level) return undefined;
  const beside = [level.after, level.before].filter((element) => element?.isConnected);
  const found = beside.map(firstFocusable).find(Boolean) ?? firstFocusable(level.holder);
  return found ?? nearest(levels.slice(levels.indexOf(level) + 1));
}

/** The focus never falls to the page as a whole: when what had it goes away, what is nearest takes it. */
export function keepFocus(): () => void {
  let last: Element | null = null;
  let levels: Surroundings = [];
  const remember = (event: FocusEvent) => {
    if (event.target instanceof Element && event.target !== document.body) {
      last = event.target;
      levels = surroundingsOf(last);
    }
  };
  const look = () => {
    const isLost = document.activeElement === document.body || document.activeElement === null;
    const isGone = last && (!last.isConnected || last.matches(':disabled'));
    if (!isLost || !isGone) return;
    const heading = document.querySelector<HTMLElement>('main h1[tabindex]');
    (nearest(levels) ?? heading)?.focus({ preventScroll: true });
  };
  const watcher = new MutationObserver(look);
  document.addEventListener('focusin', remember);
  watcher.observe(document.body, {
    subtree: true,
    childList: true,
    attributes: true,
    attributeFilter: ['disabled'],
  });
  return () => {
    watcher.disconnect();
    document.removeEventListener('focusin', remember);
  };
}
