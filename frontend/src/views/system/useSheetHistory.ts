/** Edits of a system taken back and done again, in the words of what they touched. */
import { onKeyStroke, useManualRefHistory } from '@vueuse/core';
import { onScopeDispose, type Ref, ref, watch } from 'vue';
import type { JobSheet } from '@/api/client';
import { copyOf } from '@/support/ids';
import { isDialogOpen, isWriting } from '@/support/keys';

/** What is typed in one go is one edit. */
const PAUSE_MS = 500;
const MOST = 60;

const CHAIN: Record<string, string> = {
  sources: 'the source',
  processors: 'a processor',
  amplifiers: 'the amplifier',
  loads: 'the speakers',
  paths: 'a path',
};

/** What differs between two sheets, in words. */
function difference(sheet: JobSheet, other: JobSheet): string {
  const differs = (a: unknown, b: unknown) => JSON.stringify(a) !== JSON.stringify(b);
  const parts = Object.entries(CHAIN).filter(([name]) =>
    differs(sheet.chain[name as keyof JobSheet['chain']], other.chain[name as keyof JobSheet['chain']]),
  );
  const words = parts.map(([, text]) => text);
  if (sheet.vehicle !== other.vehicle || sheet.note !== other.note) words.push('the vehicle');
  if (differs(sheet.choices, other.choices)) words.push('a method');
  return words.join(', ');
}

/**
 * `adopted` counts the sheets that came from elsewhere: what was done before them is not this page's to undo; `changes`
 * counts every change.
 */
export function useSheetHistory(sheet: Ref<JobSheet | null>, adopted: Ref<number>, changes: Ref<number>) {
  const { commit, undo, redo, clear, canUndo, canRedo, redoStack } = useManualRefHistory(sheet, {
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
    changes,
    () => {
      if (turning) return;
      told.value = '';
      window.clearTimeout(timer);
      timer = window.setTimeout(keep, PAUSE_MS);
    },
    { flush: 'sync' },
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

  // What the server marked as not confirmed came beside an edit, and is none of its own: it goes with that edit.
  function back(before: JobSheet): string {
    let what = '';
    while (canUndo.value && !what) {
      undo();
      what = difference(before, sheet.value as JobSheet);
    }
    return what;
  }
  function forth(before: JobSheet): string {
    let what = '';
    while (canRedo.value && (!what || !difference(sheet.value as JobSheet, next() as JobSheet))) {
      redo();
      what = difference(before, sheet.value as JobSheet);
    }
    return what;
  }
  const next = () => redoStack.value[0]?.snapshot;

  function turn(way: 'Undone' | 'Done again'): void {
    if (timer !== undefined) keep();
    if (!sheet.value) return;
    const before = copyOf(sheet.value);
    turning = true;
    const what = way === 'Undone' ? back(before) : forth(before);
    turning = false;
    if (what) told.value = `${way}: ${what}.`;
  }

  // In a field that is typed in, the browser's own undo comes first.
  onKeyStroke(['z', 'Z', 'y', 'Y'], (event) => {
    if (!(event.ctrlKey || event.metaKey) || isWriting(event) || isDialogOpen()) return;
    event.preventDefault();
    turn(event.key.toLowerCase() === 'z' && !event.shiftKey ? 'Undone' : 'Done again');
  });
  return { canUndo, canRedo, told, undo: () => turn('Undone'), redo: () => turn('Done again') };
}
