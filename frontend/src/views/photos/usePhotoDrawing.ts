/** Drawing on a photo: by dragging, by tapping, or by keys. What is drawn is saved when it is done, and kept until it is. */
import { computed, type Ref, ref } from 'vue';
import type { PhotoMark } from '@/api/client';
import { draftAt, noteDraft } from '@/support/tabDrafts';
import { edited, inside, type MarkEdit, moved, type Step } from '@/support/photoMarks';

type Kind = PhotoMark['kind'];
type Mark = Required<PhotoMark>;
const STEP = 0.01;
/** Shorter than this, in shares of a side, a drag was a tap. */
const LEAST_DRAG = 0.01;
const KEYS: Record<string, Step> = {
  ArrowLeft: [-STEP, 0],
  ArrowRight: [STEP, 0],
  ArrowUp: [0, -STEP],
  ArrowDown: [0, STEP],
};
/** `save` is given what was done, to be done to the marks as the server has them then. */
export function usePhotoDrawing(
  photo: string,
  canvas: Ref<HTMLElement | null>,
  marks: Ref<readonly PhotoMark[]>,
  save: (edits: readonly MarkEdit[]) => Promise<boolean>,
) {
  const place = `photo ${photo} drawing`;
  const tool = ref<Kind | null>(null);
  const word = ref('');
  const chosen = ref<PhotoMark | null>(null);
  /** What is being dragged. */
  const drawn = ref<Mark | null>(null);
  const waiting = computed(() => draftAt<readonly MarkEdit[]>(place) ?? []);
  const now = computed(() => edited(marks.value, waiting.value));
  const shown = computed(() => (drawn.value ? [...now.value, drawn.value] : now.value));
  const saving = ref(false);
  /** What could not be saved stays to be seen, until it is tried again or left. */
  const unsaved = computed(() => waiting.value.length > 0 && !saving.value);

  async function keep(edit: MarkEdit): Promise<void> {
    noteDraft(place, [...waiting.value, edit]);
    await saveWaiting();
  }
  /** All that waits at once; what is done meanwhile goes next. */
  async function saveWaiting(): Promise<void> {
    if (saving.value) return;
    saving.value = true;
    try {
      while (waiting.value.length) {
        const sent = waiting.value;
        if (!(await save(sent))) return;
        const left = waiting.value.slice(sent.length);
        noteDraft(place, left.length ? left : null);
      }
    } finally {
      saving.value = false;
    }
  }
  const leave = (): void => noteDraft(place, null);

  async function add(mark: Mark): Promise<void> {
    if (mark.kind === 'word' && !mark.text) return;
    chosen.value = mark;
    tool.value = null;
    word.value = '';
    await keep({ from: null, to: mark });
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
  async function put(): Promise<void> {
    if (!tool.value) return;
    await add({ kind: tool.value, x: 0.4, y: 0.5, x2: 0.5, y2: 0.5, text: word.value.trim() });
    canvas.value?.focus();
  }

  function press(event: KeyboardEvent): void {
    const step = KEYS[event.key];
    const mark = chosen.value;
    if (!mark) return;
    if (step) {
      event.preventDefault();
      const to = moved(mark, step, event.shiftKey);
      if (to === mark) return;
      chosen.value = to;
      void keep({ from: mark, to });
    } else if (event.key === 'Delete' || event.key === 'Backspace') {
      event.preventDefault();
      void erase(mark);
    }
  }

  async function erase(mark: PhotoMark): Promise<void> {
    chosen.value = null;
    await keep({ from: mark, to: null });
  }
  function select(mark: PhotoMark): void {
    chosen.value = mark;
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
  return {
    tool,
    word,
    now,
    shown,
    chosen,
    unsaved,
    choose,
    put,
    select,
    erase,
    saveWaiting,
    leave,
    listeners,
  };
}
