import 'fake-indexeddb/auto';
import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query';
import { mount } from '@vue/test-utils';
import { clear, createStore, values } from 'idb-keyval';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { defineComponent, h, ref } from 'vue';

type Answer = { status: number; response: unknown } | 'broken';
const sent: { address: string; body: unknown }[] = [];
let answers: Answer[] = [];

class FakeRequest {
  status = 0;
  response: unknown = null;
  responseType = '';
  private address = '';
  private readonly heard: Record<string, (() => void)[]> = {};
  readonly upload = {
    addEventListener: (_: string, tell: (event: { loaded: number; total: number }) => void) =>
      tell({ loaded: 50, total: 100 }),
  };
  open(_: string, address: string): void {
    this.address = address;
  }
  setRequestHeader(): void {
    // Nothing here looks at it.
  }
  addEventListener(name: string, hear: () => void): void {
    (this.heard[name] ??= []).push(hear);
  }
  send(body: unknown): void {
    sent.push({ address: this.address, body });
    const answer = answers.shift() ?? 'broken';
    if (answer !== 'broken') Object.assign(this, answer);
    // A server that takes it names it.
    if (this.status === 201) {
      const id = new URL(this.address, 'http://here').searchParams.get('id');
      this.response = { id, headline: 'clean' };
    }
    queueMicrotask(() => this.heard[answer === 'broken' ? 'error' : 'load']?.forEach((hear) => hear()));
  }
}

const answersOf = createStore('rook-outbox', 'records');
const files = createStore('rook-files', 'files');

/** The sending part of a page that was just opened. */
async function sender() {
  vi.resetModules();
  const { useCaptureSender } = await import('@/composables/useCaptures');
  const { api } = await import('@/api/client');
  const { openOutbox, entriesOf, letGo, retry } = await import('@/composables/useOutbox');
  let made: ReturnType<typeof useCaptureSender> | undefined;
  const host = defineComponent({
    setup() {
      made = useCaptureSender(ref('job-1'));
      return () => h('p');
    },
  });
  const queries = new QueryClient();
  mount(host, { global: { plugins: [[VueQueryPlugin, { queryClient: queries }]] } });
  if (!made) throw new Error('not set up');
  await openOutbox(queries);
  return { ...made, api, sending: () => entriesOf('job-1').filter((entry) => !entry.sent), letGo, retry };
}

/** The word of a server that it has the file. */
const taken = () => ({ status: 201, response: 'the one that was sent' });

describe('sending a capture', () => {
  beforeEach(async () => {
    sent.length = 0;
    await clear(answersOf);
    await clear(files);
    vi.stubGlobal('BroadcastChannel', undefined);
    vi.stubGlobal('XMLHttpRequest', FakeRequest);
  });
  afterEach(() => vi.unstubAllGlobals());

  it('tells what it is and leaves the list when it is kept', async () => {
    answers = [taken()];
    const { send, sending } = await sender();
    const kept = await send(new Blob(['1;2']), 'trace & more.csv', { expect_hz: 1000 });
    expect(kept?.headline).toBe('clean');
    expect(sending()).toEqual([]);
    expect(await values(files)).toEqual([]);
    const query = new URL(sent[0]?.address ?? '', 'http://here').searchParams;
    expect(query.get('name')).toBe('trace & more.csv');
    expect(query.get('expect_hz')).toBe('1000');
    expect(Number(query.get('sequence'))).toBeGreaterThan(0);
    expect(query.has('full_scale_v')).toBe(false);
  });

  it('waits on the device while nobody is there, and goes by itself from the next page', async () => {
    answers = ['broken'];
    const first = await sender();
    void first.send(new Blob(['1;2']), 'trace.csv', {});
    await vi.waitFor(() => expect(sent).toHaveLength(1));
    expect(first.sending().map((entry) => entry.kept)).toEqual([true]);
    expect(await values(files)).toHaveLength(1);
    const before = new URL(sent[0]?.address ?? '', 'http://here').searchParams.get('id');

    answers = [taken()];
    const second = await sender();
    await vi.waitFor(() => expect(second.sending()).toEqual([]));
    expect(new URL(sent[1]?.address ?? '', 'http://here').searchParams.get('id')).toBe(before);
    await vi.waitFor(async () => expect(await values(files)).toEqual([]));
  });

  it('keeps what the server cannot read, with why, until it is let go', async () => {
    const detail = 'No numbers in this file.';
    answers = [{ status: 422, response: { status: 422, detail } }];
    const { send, sending, letGo } = await sender();
    expect(await send(new Blob(['?']), 'odd.csv', {})).toBeNull();
    expect(sending().map((entry) => entry.refused?.sentence)).toEqual([detail]);
    expect(await values(files)).toHaveLength(1);
    await letGo(sending()[0]?.key ?? '');
    expect(sending()).toEqual([]);
    expect(await values(files)).toEqual([]);
  });

  it('cuts a name that is too long and never sends none', async () => {
    answers = [taken(), taken()];
    const { send } = await sender();
    await send(new Blob(['x']), 'n'.repeat(200), {});
    await send(new Blob(['x']), '', {});
    const names = sent.map((request) => new URL(request.address, 'http://here').searchParams.get('name'));
    expect(names[0]).toHaveLength(80);
    expect(names[1]).toBe('capture');
  });

  it('captures the simulated scope in one go', async () => {
    answers = [taken()];
    const { keepBench, api } = await sender();
    vi.spyOn(api, 'benchScope').mockResolvedValue(new Blob(['1;2']) as never);
    expect(await keepBench('Front at 24.csv')).toBe('Saved: clean');
  });

  it('says when the device cannot keep so large a file, and sends it all the same', async () => {
    const put = vi.spyOn(IDBObjectStore.prototype, 'put').mockImplementation(() => {
      throw new DOMException('full', 'QuotaExceededError');
    });
    answers = ['broken'];
    const { send, sending } = await sender();
    void send(new Blob(['1;2']), 'large.wav', {});
    await vi.waitFor(() => expect(sending().map((entry) => entry.fleeting)).toEqual([true]));
    await vi.waitFor(() => expect(sent).toHaveLength(1));
    expect(sent[0]?.body).toBeInstanceOf(Blob);
    put.mockRestore();
  });
});
