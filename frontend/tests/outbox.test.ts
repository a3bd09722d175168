import 'fake-indexeddb/auto';
import { clear, createStore, set, values } from 'idb-keyval';
import { QueryClient, QueryObserver } from '@tanstack/vue-query';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { api, type NewReading, Refusal } from '@/api/client';

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

const store = createStore('rook-outbox', 'records');

async function fresh() {
  vi.resetModules();
  const { openOutbox, useOutbox } = await import('@/composables/useOutbox');
  const { api: mocked, Refusal: Kind } = await import('@/api/client');
  return { openOutbox, outbox: useOutbox(() => 'job'), api: mocked, Refusal: Kind };
}

describe('the outbox', () => {
  beforeEach(async () => {
    await clear(store);
  });
  afterEach(() => {
    vi.restoreAllMocks();
  });

  it('keeps a reading until the server has it, through a page that was closed', async () => {
    const first = await fresh();
    vi.spyOn(first.api, 'addReading').mockRejectedValue(new first.Refusal(0, {}));
    first.outbox.put({ kind: 'reading', body: READING });
    await vi.waitFor(() => expect(first.outbox.kept.value).toBe(1));
    expect(await values(store)).toHaveLength(1);

    const second = await fresh();
    const sent = vi
      .spyOn(second.api, 'addReading')
      .mockResolvedValue({} as Awaited<ReturnType<typeof api.addReading>>);
    await second.openOutbox(new QueryClient());
    expect(sent).toHaveBeenCalledWith('job', READING);
    expect(second.outbox.waiting.value).toHaveLength(0);
    await vi.waitFor(async () => expect(await values(store)).toHaveLength(0));
  });

  it('has a run asked for again that was being fetched when the record got there', async () => {
    const { openOutbox, outbox, api: mocked } = await fresh();
    vi.spyOn(mocked, 'addReading').mockResolvedValue({} as Awaited<ReturnType<typeof api.addReading>>);
    const queries = new QueryClient();
    const answers: ((run: string) => void)[] = [];
    const watching = new QueryObserver(queries, {
      queryKey: ['run', 'job'],
      queryFn: () => new Promise<string>((resolve) => answers.push(resolve)),
    });
    const stop = watching.subscribe(() => undefined);
    expect(answers).toHaveLength(1);
    await openOutbox(queries);
    outbox.put({ kind: 'reading', body: READING });
    await vi.waitFor(() => expect(answers).toHaveLength(2));
    answers[0]?.('without it');
    answers[1]?.('with it');
    await vi.waitFor(() => expect(queries.getQueryData(['run', 'job'])).toBe('with it'));
    await vi.waitFor(() => expect(outbox.waiting.value).toHaveLength(0));
    stop();
  });

  it('brings up what an earlier version of the app left waiting', async () => {
    const { value, circumstances, quantity, ...kept } = READING;
    const older = { ...kept, voltage_v: value, volume: circumstances.volume };
    await set('old', JSON.stringify({ kind: 'reading', body: older, key: 'old', job: 'job', at: 1 }), store);
    const { outbox, openOutbox, api: mocked } = await fresh();
    const sent: NewReading[] = [];
    vi.spyOn(mocked, 'addReading').mockImplementation((_, body) => {
      sent.push(body);
      return Promise.resolve({} as Awaited<ReturnType<typeof api.addReading>>);
    });
    await openOutbox(new QueryClient());
    await vi.waitFor(() => expect(outbox.waiting.value).toHaveLength(0));
    expect(sent).toEqual([{ ...READING, quantity }]);
  });

  it('sends in the order of taking and does not overtake a record that is stuck', async () => {
    const { outbox, api: mocked, Refusal: Kind } = await fresh();
    const order: number[] = [];
    let away = true;
    vi.spyOn(mocked, 'addReading').mockImplementation((_, body) => {
      if (away) return Promise.reject(new Kind(503, {}));
      order.push(body.value);
      return Promise.resolve({} as Awaited<ReturnType<typeof api.addReading>>);
    });
    outbox.put({ kind: 'reading', body: READING });
    outbox.put({ kind: 'reading', body: { ...READING, id: crypto.randomUUID(), value: 1.7 } });
    await vi.waitFor(() => expect(outbox.kept.value).toBe(2));
    away = false;
    await vi.waitFor(() => expect(order).toEqual([1.5, 1.7]), 4000);
  });

  it('says what the server refused and goes on with the next', async () => {
    const { outbox, api: mocked, Refusal: Kind } = await fresh();
    vi.spyOn(mocked, 'addReading').mockRejectedValue(
      new Kind(422, { detail: 'Volume 99 is outside the scale.' }),
    );
    const strike = vi.spyOn(mocked, 'strike').mockResolvedValue({} as Awaited<ReturnType<typeof api.strike>>);
    outbox.put({ kind: 'reading', body: READING });
    outbox.put({ kind: 'strike', record: READING.id, reason: 'undone' });
    await vi.waitFor(() => expect(outbox.waiting.value).toHaveLength(0));
    expect(outbox.refused.value.map((one) => one.sentence)).toEqual(['Volume 99 is outside the scale.']);
    expect(strike).toHaveBeenCalledOnce();
  });

  it('knows which refusals pass by themselves', () => {
    expect([0, 502, 503, 409, 422, 500].map((status) => new Refusal(status, {}).passing)).toEqual([
      true,
      true,
      true,
      false,
      false,
      false,
    ]);
  });
});
