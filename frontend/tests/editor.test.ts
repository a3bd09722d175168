import 'fake-indexeddb/auto';
import { clear, createStore, set, values } from 'idb-keyval';
import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query';
import { mount } from '@vue/test-utils';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { defineComponent, h, ref } from 'vue';
import { api, type Job, type JobSheet, Refusal } from '@/api/client';
import { useSheetEditor } from '@/composables/useSheetEditor';
import { currentPerson } from '@/support/person';

function job(version: number, note: string): Job {
  return {
    id: 'j',
    version,
    sheet: { note, not_confirmed: [] as string[] } as unknown as JobSheet,
    created_at: '',
    changed_at: '',
  };
}

const drafts = createStore('rook-drafts', 'drafts');
/** Every draft that is kept, as text. */
const keptDrafts = async () => String(await values(drafts));
/** Time passes, and with it what the storage of the browser has to do. */
async function pass(ms: number): Promise<void> {
  for (let done = 0; done < 4; done++) {
    for (let turn = 0; turn < 8; turn++) await new Promise((resume) => setImmediate(resume));
    await vi.advanceTimersByTimeAsync(ms / 4);
  }
  for (let turn = 0; turn < 8; turn++) await new Promise((resume) => setImmediate(resume));
}

function editing(newest = ref<Job | undefined>(job(1, 'old'))) {
  let editor!: ReturnType<typeof useSheetEditor>;
  const Host = defineComponent({
    setup() {
      editor = useSheetEditor(ref('j'), newest, () => 'Wren');
      return () => h('div');
    },
  });
  mount(Host, { global: { plugins: [[VueQueryPlugin, { queryClient: new QueryClient() }]] } });
  const type = (note: string) => {
    if (editor.sheet.value) editor.sheet.value.note = note;
  };
  return { editor, type, newest };
}

describe('editing a sheet', () => {
  beforeEach(async () => {
    localStorage.clear();
    await clear(drafts);
    vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout'] });
  });
  afterEach(() => {
    vi.useRealTimers();
    vi.restoreAllMocks();
  });

  it('saves once after a pause, from the version it was read at', async () => {
    const save = vi.spyOn(api, 'saveSheet').mockResolvedValue(job(2, 'new'));
    const { editor, type } = editing();
    await pass(1);
    type('n');
    type('new');
    await pass(500);
    expect(save).toHaveBeenCalledOnce();
    expect(save).toHaveBeenCalledWith('j', {
      base_version: 1,
      sheet: { note: 'new', not_confirmed: [] },
      by: 'Wren',
    });
    expect(editor.state.value).toBe('saved');
    expect(await keptDrafts()).toBe('');
  });

  it('never says that the device keeps what its storage refuses, and asks before the page is left', async () => {
    const put = vi.spyOn(IDBObjectStore.prototype, 'put').mockImplementation(() => {
      throw new DOMException('full', 'QuotaExceededError');
    });
    vi.spyOn(api, 'saveSheet').mockRejectedValue(new Refusal(0, {}));
    const { editor, type } = editing();
    await pass(1);
    expect(editor.kept.value).toBe(true);
    type('new');
    await pass(500);
    expect(editor.state.value).toBe('waiting');
    expect(editor.kept.value).toBe(false);
    expect(await keptDrafts()).toBe('');
    const leaving = new Event('beforeunload', { cancelable: true });
    window.dispatchEvent(leaving);
    expect(leaving.defaultPrevented).toBe(true);
    // Room again: the next change is kept, and leaving is free.
    put.mockRestore();
    type('newer');
    await pass(100);
    expect(editor.kept.value).toBe(true);
    const free = new Event('beforeunload', { cancelable: true });
    window.dispatchEvent(free);
    expect(free.defaultPrevented).toBe(false);
  });

  it('keeps the draft on the device while the server is away, and sends it by itself', async () => {
    const save = vi.spyOn(api, 'saveSheet').mockRejectedValueOnce(new Refusal(0, {}));
    save.mockResolvedValue(job(2, 'new'));
    const { editor, type } = editing();
    await pass(1);
    type('new');
    await pass(500);
    expect(editor.state.value).toBe('waiting');
    expect(await keptDrafts()).toContain('"new"');
    await pass(2000);
    expect(editor.state.value).toBe('saved');
  });

  it('takes up a draft that an earlier page left behind', async () => {
    localStorage.setItem(
      'rook.draft.j',
      JSON.stringify({ base: 1, sheet: { note: 'left behind', not_confirmed: [] } }),
    );
    const save = vi.spyOn(api, 'saveSheet').mockResolvedValue(job(2, 'left behind'));
    const { editor } = editing();
    await pass(10);
    expect(save.mock.calls[0]?.[1].sheet).toEqual({ note: 'left behind', not_confirmed: [] });
    expect(editor.state.value).toBe('saved');
  });

  it('follows an edit from elsewhere only while nothing of its own is unsaved', async () => {
    vi.spyOn(api, 'saveSheet').mockRejectedValue(new Refusal(0, {}));
    const { editor, type, newest } = editing();
    await pass(1);
    newest.value = job(2, 'from elsewhere');
    await pass(1);
    expect(editor.sheet.value?.note).toBe('from elsewhere');
    type('mine');
    newest.value = job(3, 'from elsewhere again');
    await pass(1);
    expect(editor.sheet.value?.note).toBe('mine');
  });

  it('shows a conflict and lets either side win', async () => {
    const differs = [{ place: 'note', was: 'theirs', now: 'mine', label: 'Note' }];
    const conflict = new Refusal(409, { status: 409, newest: job(5, 'theirs'), differs });
    const save = vi.spyOn(api, 'saveSheet').mockRejectedValueOnce(conflict);
    const { editor, type } = editing();
    await pass(1);
    type('mine');
    await pass(500);
    expect(editor.conflict.value?.differs).toEqual(differs);
    save.mockResolvedValue(job(6, 'mine'));
    editor.settle('mine');
    await pass(10);
    expect(save.mock.calls[1]?.[1].base_version).toBe(5);
    expect(editor.state.value).toBe('saved');

    save.mockRejectedValueOnce(new Refusal(409, { status: 409, newest: job(8, 'theirs again'), differs }));
    type('mine again');
    await pass(500);
    editor.settle('theirs');
    expect(editor.sheet.value?.note).toBe('theirs again');
    expect(editor.state.value).toBe('saved');
  });

  it('sends one save at a time, the next one on the version that the first one made', async () => {
    let answer: (job: Job) => void = () => undefined;
    const save = vi
      .spyOn(api, 'saveSheet')
      .mockImplementationOnce(() => new Promise((resolve) => (answer = resolve)))
      .mockResolvedValue(job(3, 'second'));
    const { editor, type } = editing();
    await pass(1);
    type('first');
    await pass(500);
    type('second');
    await pass(2000);
    expect(save).toHaveBeenCalledTimes(1);
    answer(job(2, 'first'));
    await pass(500);
    expect(save.mock.calls[1]?.[1].base_version).toBe(2);
    expect(editor.state.value).toBe('saved');
  });

  it('takes in what the server marks of a new part, and sends it on though somebody typed meanwhile', async () => {
    const mark = { place: 'processors.new.highest_output_v', value: 4 };
    const marked = job(2, 'first');
    marked.sheet.not_confirmed = [mark];
    let answer: (saved: Job) => void = () => undefined;
    const save = vi
      .spyOn(api, 'saveSheet')
      .mockImplementationOnce(() => new Promise((resolve) => (answer = resolve)))
      .mockResolvedValue(job(3, 'second'));
    const { editor, type } = editing();
    await pass(1);
    type('first');
    await pass(500);
    type('second');
    answer(marked);
    await pass(500);
    expect(save.mock.calls[1]?.[1].sheet).toEqual({ note: 'second', not_confirmed: [mark] });
    // Taking it in is no edit.
    await pass(2000);
    expect(save).toHaveBeenCalledTimes(2);
    expect(editor.state.value).toBe('saved');
  });

  it('has a draft of an earlier format brought up by the server', async () => {
    const old = { format: 1, note: 'old' };
    localStorage.setItem('rook.draft.j', JSON.stringify({ base: 1, sheet: old }));
    const save = vi.spyOn(api, 'saveSheet').mockResolvedValue(job(2, 'brought up'));
    const { editor } = editing();
    await pass(10);
    expect(save.mock.calls[0]?.[1].sheet).toEqual(old);
    expect(editor.sheet.value?.note).toBe('brought up');
    expect(localStorage.getItem('rook.draft.j')).toBeNull();
  });

  it('loses no draft of an earlier format to a server that is away or a job that moved on', async () => {
    const old = { format: 1, note: 'old' };
    const kept = JSON.stringify({ base: 1, sheet: old });
    localStorage.setItem('rook.draft.j', kept);
    const conflict = new Refusal(409, { status: 409, newest: job(5, 'theirs'), differs: [] });
    const save = vi
      .spyOn(api, 'saveSheet')
      .mockRejectedValueOnce(new Refusal(0, {}))
      .mockRejectedValueOnce(conflict)
      .mockResolvedValue(job(6, 'brought up'));
    const { editor } = editing();
    await pass(10);
    expect(editor.state.value).toBe('waiting');
    expect(localStorage.getItem('rook.draft.j')).toBe(kept);
    await pass(2000);
    expect(editor.conflict.value).not.toBeNull();
    expect(localStorage.getItem('rook.draft.j')).toBe(kept);
    editor.settle('mine');
    await pass(10);
    expect(save.mock.calls[2]?.[1]).toMatchObject({ base_version: 5, sheet: old });
    expect(editor.sheet.value?.note).toBe('brought up');
    expect(localStorage.getItem('rook.draft.j')).toBeNull();
  });

  it('shows the newest where a draft of an earlier format is refused, and keeps the draft', async () => {
    localStorage.setItem('rook.draft.j', JSON.stringify({ base: 1, sheet: { format: 1, note: 'bad' } }));
    vi.spyOn(api, 'saveSheet').mockRejectedValue(
      new Refusal(422, { status: 422, field: 'sheet.note', detail: 'too long' }),
    );
    const { editor } = editing();
    await pass(10);
    expect(editor.state.value).toBe('refused');
    expect(editor.sheet.value?.format).not.toBe(1);
    expect(localStorage.getItem('rook.draft.j')).toContain('bad');
  });

  it('goes on with what a closed tab left, and after it with the next', async () => {
    const draft = (note: string) => JSON.stringify({ base: 1, sheet: { note, not_confirmed: [] } });
    await set('j tab-1', draft('from the first'), drafts);
    await set('j tab-2', draft('from the second'), drafts);
    await set('other tab-1', draft('of another job'), drafts);
    const conflict = new Refusal(409, { status: 409, newest: job(2, 'from the first'), differs: [] });
    const save = vi
      .spyOn(api, 'saveSheet')
      .mockResolvedValueOnce(job(2, 'from the first'))
      .mockRejectedValueOnce(conflict);
    const { editor } = editing();
    await pass(20);
    expect(save.mock.calls.map(([, edit]) => [edit.base_version, edit.sheet.note])).toEqual([
      [1, 'from the first'],
      [1, 'from the second'],
    ]);
    // The second is not written over the first: both are shown.
    expect(editor.conflict.value?.newest.sheet.note).toBe('from the first');
    expect(editor.sheet.value?.note).toBe('from the second');
    expect(await keptDrafts()).toContain('from the second');
    expect(await keptDrafts()).toContain('of another job');
  });

  it('shows nobody what another left on the same device', async () => {
    const draft = JSON.stringify({ base: 1, sheet: { note: 'of Runa', not_confirmed: [] } });
    await set('j tab-1 runa', draft, drafts);
    const save = vi.spyOn(api, 'saveSheet').mockResolvedValue(job(2, 'of Runa'));
    const others = editing();
    await pass(20);
    expect(others.editor.sheet.value?.note).not.toBe('of Runa');
    expect(save).not.toHaveBeenCalled();
    currentPerson.value = 'runa';
    const own = editing();
    await pass(20);
    currentPerson.value = null;
    expect(own.editor.sheet.value?.note).toBe('of Runa');
    expect(save).toHaveBeenCalledOnce();
  });

  it('puts each refusal at its field', async () => {
    const errors = [{ field: 'sheet.vehicle', sentence: 'has at most 80 characters' }];
    vi.spyOn(api, 'saveSheet').mockRejectedValue(new Refusal(422, { status: 422, errors }));
    const { editor, type } = editing();
    await pass(1);
    type('x');
    await pass(500);
    expect(editor.problems.value).toEqual({ vehicle: 'has at most 80 characters' });
    expect(editor.state.value).toBe('refused');
  });
});
