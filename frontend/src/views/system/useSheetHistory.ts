/** Edits of a system taken back and done again, in the words of what they touched. */
import { onKeyStroke, useManualRefHistory } from '@vueuse/core';
import { onScopeDispose, type Ref, ref, watch } from 'vue';
import type { JobSheet } from '@/api/client';
import { copyOf } from '@/support/ids';
import { isTyping } from '@/support/keys';

/** What is typed in one go is one edit. */
const PAUSE_MS = 500;
const MOST = 60;

const CHAIN: Record<string, string> = {
  sources: 'the source',
  processors: 'what lies between',
  amplifiers: 'the amplifier',
  loads: 'the speakers',
  paths: 'a path',
};

/** What differs between two sheets, in words. */
function difference(one: JobSheet, other: JobSheet): string {
  const differs = (a: unknown, b: unknown) => JSON.stringify(a) !== JSON.stringify(b);
  const parts = Object.entries(CHAIN).filter(([name]) =>
    differs(one.chain[name as keyof JobSheet['chain']], other.chain[name as keyof JobSheet['chain']]),
  );
  const words = parts.map(([, text]) => text);
  if (one.vehicle !== other.vehicle || one.note !== other.note) words.push('the vehicle');
  if (differs(one.choices, other.choices)) words.push('a school');
  return words.join(', ');
}

/** `adopted` counts the sheets that came from elsewhere: what was done before them is not this page's to undo. */
export function useSheetHistory(sheet: Ref<JobSheet | null>, adopted: Ref<number>) {
  const { commit, undo, redo, clear, canUndo, canRedo } = useManualRefHistory(sheet, {
    capacity: MOST,
    clone: (now: JobSheet | null) => now && copyOf(now),
  });
  const told = ref('');
  let timer: number | undefined;
  let turning = false;
  function keep(): void {
    window.clearTimeout(timer);
    timer = undefined;
    commit();
  }
  watch(
    sheet,
    () => {
      if (turning) return;
      window.clearTimeout(timer);
      timer = window.setTimeout(keep, PAUSE_MS);
    },
    { deep: true, flush: 'sync' },
  );
  watch(
    adopted,
    () => {
      keep();
      clear();
      told.value = '';
    },
    { flush: 'sync' },
  );
  onScopeDispose(() => window.clearTimeout(timer));

  function turn(back: boolean): void {
    if (timer !== undefined) keep();
    const before = sheet.value && copyOf(sheet.value);
    const can = back ? canUndo : canRedo;
    let what = '';
    turning = true;
    // What the server marked as not confirmed came beside an edit, and is none of its own.
    while (can.value && !what) {
      if (back) undo();
      else redo();
      what = before && sheet.value ? difference(before, sheet.value) : '';
    }
    turning = false;
    if (what) told.value = `${back ? 'Undone' : 'Done again'}: ${what}.`;
  }

  // In a field that is typed in, the browser's own undo comes first.
  onKeyStroke(['z', 'Z', 'y'], (event) => {
    if (!(event.ctrlKey || event.metaKey) || isTyping(event)) return;
    event.preventDefault();
    turn(event.key === 'z');
  });
  return { canUndo, canRedo, told, undo: () => turn(true), redo: () => turn(false) };
}
