/** Drawing on a photo: by dragging, by tapping, or by keys; what is drawn is handed on to be saved when it is done. */
import { computed, nextTick, type Ref, shallowRef, ref } from 'vue';
import type { PhotoMark } from '@/api/client';

type Kind = PhotoMark['kind'];
type Mark = Required<PhotoMark>;
const STEP = 0.01;
/** Shorter than this, in shares of a side, a drag was a tap. */
const LEAST_DRAG = 0.01;
const KEYS: Record<string, [number, number]> = {
  ArrowLeft: [-STEP, 0],
  ArrowRight: [STEP, 0],
  ArrowUp: [0, -STEP],
  ArrowDown: [0, STEP],
};
const inside = (share: number): number => Math.min(1, Math.max(0, Math.round(share * 1e4) / 1e4));

export function usePhotoDrawing(
  canvas: Ref<HTMLElement | null>,
  marks: Ref<readonly PhotoMark[]>,
  save: (drawn: PhotoMark[]) => Promise<boolean>,
) {
  const tool = ref<Kind | null>(null);
  const word = ref('');
  const chosen = ref<number | null>(null);
  /** What is being dragged. */
  const drawn = ref<Mark | null>(null);
  /** Marks as they are meant to be, while they are on their way. */
  const meant = shallowRef<PhotoMark[] | null>(null);
  const shown = computed(() => {
    const now = meant.value ?? marks.value;
    return drawn.value ? [...now, drawn.value] : now;
  });

  /** What could not be saved stays to be seen, until it is tried again or left. */
  const unsaved = ref(false);
  let saving = false;
  async function keep(wanted: PhotoMark[]): Promise<void> {
    meant.value = wanted;
    await saveMeant();
  }
  /** One at a time, the newest next: each rests on the revision that the one before it made. */
  async function saveMeant(): Promise<void> {
    if (saving) return;
    saving = true;
    unsaved.value = false;
    try {
      for (let sent: PhotoMark[] | null = null; meant.value && meant.value !== sent; await nextTick()) {
        sent = meant.value;
        if (!(await save(sent))) {
          unsaved.value = true;
          return;
        }
      }
      meant.value = null;
    } finally {
      saving = false;
    }
  }
  function leave(): void {
    meant.value = null;
    unsaved.value = false;
  }
  const now = (): PhotoMark[] => [...(meant.value ?? marks.value)];

  async function add(mark: Mark): Promise<void> {
    if (mark.kind === 'word' && !mark.text) return;
    const wanted = [...now(), mark];
    chosen.value = wanted.length - 1;
    tool.value = null;
    word.value = '';
    await keep(wanted);
  }

  function at(event: PointerEvent): { x: number; y: number } {
    const box = canvas.value?.getBoundingClientRect();
    if (!box) return { x: 0, y: 0 };
    return {
      x: inside((event.clientX - box.left) / box.width),
      y: inside((event.clientY - box.top) / box.height),
    };
  }
  function begin(event: PointerEvent): void {
    if (!tool.value) return;
    event.preventDefault();
    canvas.value?.setPointerCapture(event.pointerId);
    const { x, y } = at(event);
    const text = tool.value === 'word' ? word.value.trim() : '';
    drawn.value = { kind: tool.value, x, y, x2: x, y2: y, text };
  }
  function drag(event: PointerEvent): void {
    if (!drawn.value) return;
    const { x, y } = at(event);
    drawn.value = drawn.value.kind === 'word' ? { ...drawn.value, x, y } : { ...drawn.value, x2: x, y2: y };
  }
  async function end(): Promise<void> {
    const mark = drawn.value;
    drawn.value = null;
    if (!mark) return;
    const length = Math.hypot(mark.x2 - mark.x, mark.y2 - mark.y);
    if (mark.kind === 'word' || length >= LEAST_DRAG) await add(mark);
  }

  /** Puts what the tool draws into the middle, to be moved by keys. */
  async function place(): Promise<void> {
    if (!tool.value) return;
    await add({ kind: tool.value, x: 0.4, y: 0.5, x2: 0.5, y2: 0.5, text: word.value.trim() });
    canvas.value?.focus();
  }

  function moved(mark: PhotoMark, [x, y]: [number, number], end: boolean): PhotoMark {
    const { x2 = 0, y2 = 0 } = mark;
    const other = { x2: inside(x2 + x), y2: inside(y2 + y) };
    const to = end
      ? { ...mark, ...other }
      : { ...mark, x: inside(mark.x + x), y: inside(mark.y + y), ...other };
    // An arrow or circle of no length can't be seen.
    return to.kind !== 'word' && to.x === to.x2 && to.y === to.y2 ? mark : to;
  }
  function press(event: KeyboardEvent): void {
    const step = KEYS[event.key];
    const index = chosen.value;
    const wanted = now();
    const mark = index === null ? undefined : wanted[index];
    if (!mark || index === null) return;
    if (step) {
      event.preventDefault();
      wanted[index] = moved(mark, step, event.shiftKey);
      void keep(wanted);
    } else if (event.key === 'Delete' || event.key === 'Backspace') {
      event.preventDefault();
      void erase(index);
    }
  }

  async function erase(index: number): Promise<void> {
    chosen.value = null;
    await keep(now().filter((_, other) => other !== index));
  }
  function select(index: number): void {
    chosen.value = index;
    canvas.value?.focus();
  }
  function choose(kind: Kind): void {
    tool.value = tool.value === kind ? null : kind;
  }

  const listeners = {
    pointerdown: begin,
    pointermove: drag,
    pointerup: end,
    pointercancel: () => (drawn.value = null),
    keydown: press,
  };
  return { tool, word, shown, chosen, unsaved, choose, place, select, erase, saveMeant, leave, listeners };
}
