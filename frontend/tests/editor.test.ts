import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query';
import { mount } from '@vue/test-utils';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { defineComponent, h, ref } from 'vue';
import { api, type Job, type JobSheet, Refusal } from '@/api/client';
import { useSheetEditor } from '@/composables/useSheetEditor';

function job(version: number, note: string): Job {
  return { id: 'j', version, sheet: { note } as JobSheet, created_at: '', changed_at: '' };
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
  beforeEach(() => {
    localStorage.clear();
    vi.useFakeTimers();
  });
  afterEach(() => {
    vi.useRealTimers();
    vi.restoreAllMocks();
  });

  it('saves once after a pause, from the version it was read at', async () => {
    const save = vi.spyOn(api, 'saveSheet').mockResolvedValue(job(2, 'new'));
    const { editor, type } = editing();
    type('n');
    type('new');
    await vi.advanceTimersByTimeAsync(500);
    expect(save).toHaveBeenCalledOnce();
    expect(save).toHaveBeenCalledWith('j', { base_version: 1, sheet: { note: 'new' }, by: 'Wren' });
    expect(editor.state.value).toBe('saved');
    expect(localStorage).toHaveLength(0);
  });

  it('keeps the draft on the device while the server is away, and sends it by itself', async () => {
    const save = vi.spyOn(api, 'saveSheet').mockRejectedValueOnce(new Refusal(0, {}));
    save.mockResolvedValue(job(2, 'new'));
    const { editor, type } = editing();
    type('new');
    await vi.advanceTimersByTimeAsync(500);
    expect(editor.state.value).toBe('waiting');
    expect(localStorage.getItem('rook.draft.j')).toContain('"new"');
    await vi.advanceTimersByTimeAsync(2000);
    expect(editor.state.value).toBe('saved');
  });

  it('takes up a draft that an earlier page left behind', async () => {
    localStorage.setItem('rook.draft.j', JSON.stringify({ base: 1, sheet: { note: 'left behind' } }));
    const save = vi.spyOn(api, 'saveSheet').mockResolvedValue(job(2, 'left behind'));
    const { editor } = editing();
    await vi.advanceTimersByTimeAsync(10);
    expect(save.mock.calls[0]?.[1].sheet).toEqual({ note: 'left behind' });
    expect(editor.state.value).toBe('saved');
  });

  it('follows an edit from elsewhere only while nothing of its own is unsaved', async () => {
    vi.spyOn(api, 'saveSheet').mockRejectedValue(new Refusal(0, {}));
    const { editor, type, newest } = editing();
    newest.value = job(2, 'from elsewhere');
    await vi.advanceTimersByTimeAsync(1);
    expect(editor.sheet.value?.note).toBe('from elsewhere');
    type('mine');
    newest.value = job(3, 'from elsewhere again');
    await vi.advanceTimersByTimeAsync(1);
    expect(editor.sheet.value?.note).toBe('mine');
  });

  it('shows a conflict and lets either side win', async () => {
    const differs = [{ place: 'note', was: 'theirs', now: 'mine', label: 'Note' }];
    const conflict = new Refusal(409, { newest: job(5, 'theirs'), differs });
    const save = vi.spyOn(api, 'saveSheet').mockRejectedValueOnce(conflict);
    const { editor, type } = editing();
    type('mine');
    await vi.advanceTimersByTimeAsync(500);
    expect(editor.conflict.value?.differs).toEqual(differs);
    save.mockResolvedValue(job(6, 'mine'));
    editor.settle('mine');
    await vi.advanceTimersByTimeAsync(10);
    expect(save.mock.calls[1]?.[1].base_version).toBe(5);
    expect(editor.state.value).toBe('saved');

    save.mockRejectedValueOnce(new Refusal(409, { newest: job(8, 'theirs again'), differs }));
    type('mine again');
    await vi.advanceTimersByTimeAsync(500);
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
    type('first');
    await vi.advanceTimersByTimeAsync(500);
    type('second');
    await vi.advanceTimersByTimeAsync(2000);
    expect(save).toHaveBeenCalledTimes(1);
    answer(job(2, 'first'));
    await vi.advanceTimersByTimeAsync(500);
    expect(save.mock.calls[1]?.[1].base_version).toBe(2);
    expect(editor.state.value).toBe('saved');
  });

  it('has a draft of an earlier format brought up by the server', async () => {
    const old = { format: 1, note: 'old' };
    localStorage.setItem('rook.draft.j', JSON.stringify({ base: 1, sheet: old }));
    const save = vi.spyOn(api, 'saveSheet').mockResolvedValue(job(2, 'brought up'));
    const { editor } = editing();
    await vi.advanceTimersByTimeAsync(10);
    expect(save.mock.calls[0]?.[1].sheet).toEqual(old);
    expect(editor.sheet.value?.note).toBe('brought up');
    expect(localStorage.getItem('rook.draft.j')).toBeNull();
  });

  it('loses no draft of an earlier format to a server that is away or a job that moved on', async () => {
    const old = { format: 1, note: 'old' };
    const kept = JSON.stringify({ base: 1, sheet: old });
    localStorage.setItem('rook.draft.j', kept);
    const conflict = new Refusal(409, { newest: job(5, 'theirs'), differs: [] });
    const save = vi
      .spyOn(api, 'saveSheet')
      .mockRejectedValueOnce(new Refusal(0, {}))
      .mockRejectedValueOnce(conflict)
      .mockResolvedValue(job(6, 'brought up'));
    const { editor } = editing();
    await vi.advanceTimersByTimeAsync(10);
    expect(editor.state.value).toBe('waiting');
    expect(localStorage.getItem('rook.draft.j')).toBe(kept);
    await vi.advanceTimersByTimeAsync(2000);
    expect(editor.conflict.value).not.toBeNull();
    expect(localStorage.getItem('rook.draft.j')).toBe(kept);
    editor.settle('mine');
    await vi.advanceTimersByTimeAsync(10);
    expect(save.mock.calls[2]?.[1]).toMatchObject({ base_version: 5, sheet: old });
    expect(editor.sheet.value?.note).toBe('brought up');
    expect(localStorage.getItem('rook.draft.j')).toBeNull();
  });

  it('shows the newest where a draft of an earlier format is refused, and keeps the draft', async () => {
    localStorage.setItem('rook.draft.j', JSON.stringify({ base: 1, sheet: { format: 1, note: 'bad' } }));
    vi.spyOn(api, 'saveSheet').mockRejectedValue(
      new Refusal(422, { field: 'sheet.note', detail: 'too long' }),
    );
    const { editor } = editing();
    await vi.advanceTimersByTimeAsync(10);
    expect(editor.state.value).toBe('refused');
    expect(editor.sheet.value?.format).not.toBe(1);
    expect(localStorage.getItem('rook.draft.j')).toContain('bad');
  });

  it('puts each refusal at its field', async () => {
    const errors = [{ field: 'sheet.vehicle', sentence: 'has at most 80 characters' }];
    vi.spyOn(api, 'saveSheet').mockRejectedValue(new Refusal(422, { errors }));
    const { editor, type } = editing();
    type('x');
    await vi.advanceTimersByTimeAsync(500);
    expect(editor.problems.value).toEqual({ vehicle: 'has at most 80 characters' });
    expect(editor.state.value).toBe('refused');
  });
});
