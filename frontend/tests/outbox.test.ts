import 'fake-indexeddb/auto';
import { clear, createStore, set, values } from 'idb-keyval';
import { QueryClient, QueryObserver } from '@tanstack/vue-query';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import type { NewReading } from '@/api/client';
import { asCsv } from '@/outbox/table';

const READING: NewReading = {
  id: '11111111-1111-4111-8111-111111111111',
  step: 'ceiling.source.line',
  quantity: 'ac_volts',
  value: 1.5,
  instrument: 'true-rms',
  circumstances: { volume: 20 },
  seen: 'clean',
  sheet_version: 1,
  taken_at: '2026-05-01T09:00:00Z',
  by: '',
};
const another = (value: number): NewReading => ({ ...READING, id: crypto.randomUUID(), value });

const records = createStore('rook-outbox', 'records');
const kept = async () => (await values(records)).filter((value) => typeof value === 'string');

/** A page that was just opened, and a server whose answers are as given. */
async function page() {
  vi.resetModules();
  const outbox = await import('@/composables/useOutbox');
  const client = await import('@/api/client');
  const mine = outbox.useOutbox(() => 'job');
  type Answer = Awaited<ReturnType<typeof client.api.addReading>>;
  const took = (body: NewReading) => Promise.resolve({ id: body.id } as Answer);
  const addReading = vi.spyOn(client.api, 'addReading').mockImplementation((_, body) => took(body));
  return {
    ...outbox,
    ...mine,
    addReading,
    took,
    api: client.api,
    refuse: (status: number, detail = 'no') => new client.Refusal(status, { status, detail }),
    open: () => outbox.openOutbox(new QueryClient()),
    take: (body: NewReading) => mine.put({ kind: 'reading', body }),
  };
}

describe('the outbox', () => {
  beforeEach(async () => {
    localStorage.clear();
    // The pages of a test live on in one process: they must not hear one another.
    vi.stubGlobal('BroadcastChannel', undefined);
    await clear(records);
  });
  afterEach(() => {
    vi.restoreAllMocks();
    vi.unstubAllGlobals();
  });

  it('keeps a reading until the server has it, through a page that was closed', async () => {
    const first = await page();
    first.addReading.mockRejectedValue(first.refuse(0));
    await first.open();
    void first.take(READING);
    await vi.waitFor(async () => expect(await kept()).toHaveLength(1));

    const second = await page();
    await second.open();
    await vi.waitFor(() => expect(second.waiting.value).toHaveLength(0));
    const [job, body] = second.addReading.mock.calls[0] ?? [];
    expect([job, body?.id, body?.value]).toEqual(['job', READING.id, READING.value]);
    expect(await kept()).toHaveLength(0);
  });

  it('numbers what this device takes, over pages and kinds', async () => {
    const first = await page();
    await first.open();
    void first.take(READING);
    await vi.waitFor(() => expect(first.addReading).toHaveBeenCalledOnce());
    const second = await page();
    await second.open();
    void second.take(another(1.7));
    void second.take(another(1.9));
    await vi.waitFor(() => expect(second.addReading).toHaveBeenCalledTimes(2));
    const from = first.addReading.mock.calls[0]?.[1].sequence ?? 0;
    expect(second.addReading.mock.calls.map(([, body]) => body.sequence)).toEqual([from + 1, from + 2]);
  });

  it('never counts below what it reached, even where the count was lost', async () => {
    const tab = await page();
    await tab.open();
    void tab.take(READING);
    await vi.waitFor(() => expect(tab.addReading).toHaveBeenCalledOnce());
    await clear(records);
    await new Promise((resume) => setTimeout(resume, 5));
    void tab.take(another(1.7));
    await vi.waitFor(() => expect(tab.addReading).toHaveBeenCalledTimes(2));
    const [before = 0, after = 0] = tab.addReading.mock.calls.map(([, body]) => body.sequence ?? 0);
    expect(after).toBeGreaterThan(before);
  });

  it('has a run asked for again that was being fetched when the record got there', async () => {
    const tab = await page();
    const queries = new QueryClient();
    const answers: ((run: string) => void)[] = [];
    const watching = new QueryObserver(queries, {
      queryKey: ['run', 'job'],
      queryFn: () => new Promise<string>((resolve) => answers.push(resolve)),
    });
    const stop = watching.subscribe(() => undefined);
    expect(answers).toHaveLength(1);
    await tab.openOutbox(queries);
    void tab.take(READING);
    await vi.waitFor(() => expect(answers).toHaveLength(2));
    expect(tab.waiting.value.map((entry) => entry.sent)).toEqual([true]);
    answers[0]?.('without it');
    answers[1]?.('with it');
    await vi.waitFor(() => expect(queries.getQueryData(['run', 'job'])).toBe('with it'));
    await vi.waitFor(() => expect(tab.waiting.value).toHaveLength(0));
    stop();
  });

  it('asks for the run now and then, not after each of many records', async () => {
    const tab = await page();
    await tab.open();
    const runs: string[] = [];
    const queries = new QueryClient();
    const stop = new QueryObserver(queries, {
      queryKey: ['run', 'job'],
      queryFn: () => Promise.resolve(runs.push('run')),
    }).subscribe(() => undefined);
    await tab.openOutbox(queries);
    for (let number = 0; number < 40; number++) void tab.take(another(1 + number / 100));
    await vi.waitFor(() => expect(tab.addReading).toHaveBeenCalledTimes(40));
    await vi.waitFor(() => expect(tab.waiting.value).toHaveLength(0), 3000);
    expect(runs.length).toBeLessThan(6);
    stop();
  });

  it('brings up what an earlier version of the app left waiting', async () => {
    const { value, circumstances, ...rest } = READING;
    const older = { ...rest, quantity: undefined, voltage_v: value, volume: circumstances.volume };
    await set(
      'old',
      JSON.stringify({ kind: 'reading', body: older, key: 'old', job: 'job', at: 1 }),
      records,
    );
    const tab = await page();
    await tab.open();
    await vi.waitFor(() => expect(tab.addReading).toHaveBeenCalledOnce());
    expect(tab.addReading.mock.calls[0]?.[1]).toEqual(READING);
  });

  it('sends in the order of taking and does not overtake a record that is stuck', async () => {
    const tab = await page();
    await tab.open();
    let away = true;
    const order: number[] = [];
    tab.addReading.mockImplementation((_, body) => {
      if (away) return Promise.reject(tab.refuse(503));
      order.push(body.value);
      return tab.took(body);
    });
    void tab.take(READING);
    void tab.take(another(1.7));
    await vi.waitFor(async () => expect(await kept()).toHaveLength(2));
    away = false;
    await vi.waitFor(() => expect(order).toEqual([1.5, 1.7]), 4000);
  });

  it('sends what the device could not keep, and says that it is only in this tab until then', async () => {
    const tab = await page();
    await tab.open();
    const { onlyHere } = await import('@/support/onlyHere');
    const put = vi.spyOn(IDBObjectStore.prototype, 'put').mockImplementation(() => {
      throw new DOMException('full', 'QuotaExceededError');
    });
    tab.addReading.mockRejectedValue(tab.refuse(0));
    void tab.take(READING);
    await vi.waitFor(() => expect(tab.addReading).toHaveBeenCalledOnce());
    expect(tab.waiting.value.map((entry) => [entry.kept, entry.fleeting])).toEqual([[false, true]]);
    expect(onlyHere.value).toBe(1);
    put.mockRestore();
    tab.addReading.mockImplementation((_, body) => tab.took(body));
    await vi.waitFor(() => expect(onlyHere.value).toBe(0), 4000);
    expect(tab.addReading).toHaveBeenCalledTimes(2);
  });

  it('lets one person’s reading that has to wait hold up nobody else’s', async () => {
    const tab = await page();
    await tab.open();
    const { currentPerson } = await import('@/support/person');
    const sentBy: (string | null | undefined)[] = [];
    tab.addReading.mockImplementation((_, body, to) => {
      sentBy.push(to?.person);
      return to?.person === 'wren' ? Promise.reject(tab.refuse(421)) : tab.took(body);
    });
    currentPerson.value = 'wren';
    void tab.take(READING);
    void tab.take(another(1.6));
    await vi.waitFor(() => expect(sentBy).toEqual(['wren']));
    currentPerson.value = 'martin';
    void tab.take(another(1.7));
    void tab.take(another(1.8));
    await vi.waitFor(() => expect(sentBy.filter((by) => by === 'martin')).toHaveLength(2), 500);
    await vi.waitFor(() => expect(tab.waiting.value).toHaveLength(2));
    // Wren's own stay in their order, and go once she is back.
    tab.addReading.mockImplementation((_, body) => tab.took(body));
    currentPerson.value = 'wren';
    await vi.waitFor(async () => expect(await kept()).toHaveLength(0), 500);
    expect(tab.addReading.mock.calls.slice(-2).map(([, body]) => body.value)).toEqual([1.5, 1.6]);
    currentPerson.value = null;
  });

  it('sends no undo before the record that it undoes, whoever takes it back', async () => {
    const tab = await page();
    await tab.open();
    const { currentPerson } = await import('@/support/person');
    const order: string[] = [];
    let signedIn = false;
    tab.addReading.mockImplementation((_, body) => {
      if (!signedIn) return Promise.reject(tab.refuse(421));
      order.push('reading');
      return tab.took(body);
    });
    vi.spyOn(tab.api, 'strike').mockImplementation((_, record) => {
      order.push('undo');
      return Promise.resolve({ id: record }) as never;
    });
    currentPerson.value = 'wren';
    void tab.take(READING);
    await vi.waitFor(() => expect(tab.addReading).toHaveBeenCalledOnce());
    currentPerson.value = 'martin';
    void tab.put({ kind: 'strike', record: READING.id, reason: 'misread' });
    await new Promise((resume) => setTimeout(resume, 100));
    expect(order).toEqual([]);
    signedIn = true;
    await vi.waitFor(() => expect(order).toEqual(['reading', 'undo']), 4000);
    currentPerson.value = null;
  });

  it('lets a file that finds no room hold up no smaller one', async () => {
    const tab = await page();
    await tab.open();
    const answers = await import('@/api/client');
    const sent: string[] = [];
    vi.spyOn(answers, 'sendFile').mockImplementation((_, __, told) => {
      sent.push(told.name);
      return told.name === 'large'
        ? Promise.reject(tab.refuse(507))
        : (Promise.resolve({ id: told.id }) as never);
    });
    for (const name of ['large', 'small']) {
      const told = { id: crypto.randomUUID(), name, taken_at: '2026-05-01T09:00:00Z', by: '', device: '' };
      void tab.putFile({ kind: 'capture', told }, new Blob([name]));
    }
    await vi.waitFor(() => expect(sent).toContain('small'), 500);
    await vi.waitFor(() => expect(tab.waiting.value).toHaveLength(1));
  });

  it.each([0, 408, 421, 429, 502, 503, 504, 507])('never gives up a record for a %i', async (status) => {
    const tab = await page();
    await tab.open();
    tab.addReading.mockRejectedValue(tab.refuse(status));
    void tab.take(READING);
    await vi.waitFor(() => expect(tab.addReading).toHaveBeenCalled());
    expect(tab.waiting.value).toHaveLength(1);
    expect(tab.refusedAnywhere.value).toHaveLength(0);
    expect(await kept()).toHaveLength(1);
  });

  it.each([
    ['an answer of another app', { hello: 'world' }],
    ['an empty one', null],
  ])('does not take %s for the word that it was kept', async (_, answer) => {
    const tab = await page();
    await tab.open();
    tab.addReading.mockResolvedValue(answer as never);
    void tab.take(READING);
    await vi.waitFor(() => expect(tab.addReading).toHaveBeenCalled());
    expect(await kept()).toHaveLength(1);
    expect(tab.waiting.value).toHaveLength(1);
  });

  it.each([403, 404, 409, 413, 422])(
    'keeps what was refused with %i, with why, and goes on',
    async (status) => {
      const tab = await page();
      await tab.open();
      tab.addReading.mockImplementation((_, body) =>
        body.value === 1.5
          ? Promise.reject(tab.refuse(status, 'Volume 99 is outside the scale.'))
          : tab.took(body),
      );
      void tab.take(READING);
      void tab.take(another(1.7));
      await vi.waitFor(() => expect(tab.addReading).toHaveBeenCalledTimes(2));
      await vi.waitFor(() => expect(tab.waiting.value).toHaveLength(0));

      const later = await page();
      await later.open();
      expect(later.refusedAnywhere.value.map((entry) => entry.refused?.sentence)).toEqual([
        'Volume 99 is outside the scale.',
      ]);
      expect(later.addReading).not.toHaveBeenCalled();
      const key = later.refusedAnywhere.value[0]?.key ?? '';
      await later.retry(key, { body: { ...READING, value: 1.6 } });
      await vi.waitFor(() => expect(later.addReading.mock.calls[0]?.[1].value).toBe(1.6));
      await vi.waitFor(async () => expect(await kept()).toHaveLength(0));
    },
  );

  it('leaves the device when a person lets it go, and not before', async () => {
    const tab = await page();
    await tab.open();
    tab.addReading.mockRejectedValue(tab.refuse(422));
    void tab.take(READING);
    await vi.waitFor(() => expect(tab.refusedAnywhere.value).toHaveLength(1));
    await tab.letGo(tab.refusedAnywhere.value[0]?.key ?? '');
    expect(await kept()).toHaveLength(0);
  });

  it('puts aside what a server that is there fails at again and again, and keeps it', async () => {
    const tab = await page();
    await tab.open();
    tab.addReading.mockImplementation((_, body) =>
      body.value === 1.5 ? Promise.reject(tab.refuse(500)) : tab.took(body),
    );
    void tab.take(READING);
    void tab.take(another(1.7));
    await vi.waitFor(() => expect(tab.refusedAnywhere.value).toHaveLength(1), { timeout: 9000 });
    await vi.waitFor(() => expect(tab.addReading).toHaveBeenCalledTimes(6));
    expect(await kept()).toHaveLength(1);
  }, 12_000);

  it('sends nothing to a server with the data of another installation', async () => {
    localStorage.setItem('rook.installation', 'ours');
    const tab = await page();
    tab.addReading.mockRejectedValue(tab.refuse(0));
    await tab.open();
    void tab.take(READING);
    await vi.waitFor(() => expect(tab.addReading).toHaveBeenCalledOnce());
    expect(tab.addReading.mock.calls[0]?.[2]).toEqual({ installation: 'ours', person: null });
    await vi.waitFor(async () => expect(await kept()).toHaveLength(1));

    const there = await page();
    vi.spyOn(there.api, 'health').mockResolvedValue({
      installation: 'theirs',
      now: new Date().toISOString(),
    } as Awaited<ReturnType<typeof there.api.health>>);
    const { askHealth } = await import('@/composables/useConnection');
    await askHealth();
    await there.open();
    await new Promise((resume) => setTimeout(resume, 50));
    expect(there.addReading).not.toHaveBeenCalled();
    expect(there.waiting.value.map(there.isElsewheres)).toEqual([true]);
  });

  it('does not take another program on the port for its server', async () => {
    const tab = await page();
    vi.spyOn(tab.api, 'health').mockResolvedValue({ hello: 'world' } as never);
    const { askHealth, useConnection } = await import('@/composables/useConnection');
    await expect(askHealth()).rejects.toThrow('Another program answers here');
    expect(useConnection().connection.value.is).toBe('lost');
    expect(localStorage.getItem('rook.installation')).toBeNull();
  });

  it('gives everything as a table that says why', () => {
    const entry = {
      kind: 'reading',
      body: { ...READING, by: '=Wren' },
      key: 'k',
      job: 'job',
      at: 0,
      installation: null,
      about: { vehicle: 'Gannet, "Marmalade"', step: 'Front gain' },
      refused: { status: 422, sentence: 'Volume 20 is outside the scale.', at: 0 },
    } as const;
    const [head, row] = asCsv([entry]).split('\r\n');
    expect(head).toContain('taken_at,vehicle,job,step,what,value');
    expect(row).toBe(
      '2026-05-01T09:00:00Z,"Gannet, ""Marmalade""",job,ceiling.source.line,1.5 V at 20,1.5,ac_volts,20,clean,\'=Wren,Volume 20 is outside the scale.',
    );
  });
});
