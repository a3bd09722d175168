import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query';
import { mount } from '@vue/test-utils';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { defineComponent, h, ref } from 'vue';
import * as client from '@/api/client';
import { useCaptureSender } from '@/composables/useCaptures';

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
    queueMicrotask(() => this.heard[answer === 'broken' ? 'error' : 'load']?.forEach((hear) => hear()));
  }
}

function sender() {
  let made: ReturnType<typeof useCaptureSender> | undefined;
  const host = defineComponent({
    setup() {
      made = useCaptureSender(ref('job-1'));
      return () => h('p');
    },
  });
  mount(host, { global: { plugins: [[VueQueryPlugin, { queryClient: new QueryClient() }]] } });
  if (!made) throw new Error('not set up');
  return made;
}

const KEPT = { id: 'x', headline: 'clean' };

describe('sending a capture', () => {
  beforeEach(() => {
    sent.length = 0;
    vi.stubGlobal('XMLHttpRequest', FakeRequest);
  });
  afterEach(() => vi.unstubAllGlobals());

  it('tells what it is and leaves the list when it is kept', async () => {
    answers = [{ status: 201, response: KEPT }];
    const { send, sending } = sender();
    const kept = await send(new Blob(['1;2']), 'trace & more.csv', { expect_hz: 1000 });
    expect(kept).toEqual(KEPT);
    expect(sending.value).toEqual([]);
    const query = new URL(sent[0]?.address ?? '', 'http://here').searchParams;
    expect(query.get('name')).toBe('trace & more.csv');
    expect(query.get('expect_hz')).toBe('1000');
    expect(query.has('full_scale_v')).toBe(false);
  });

  it('keeps a file that could not be sent, and sends it again under the same name', async () => {
    answers = ['broken', { status: 201, response: KEPT }];
    const { send, sending, attempt } = sender();
    expect(await send(new Blob(['1;2']), 'trace.csv', {})).toBeNull();
    const [waiting] = sending.value;
    expect(waiting?.passing).toBe(true);
    expect(waiting?.sentence).toContain('waits here');
    expect(waiting?.share).toBe(0.5);
    expect(await attempt(waiting?.told.id ?? '')).toEqual(KEPT);
    const [first, second] = sent.map((one) => new URL(one.address, 'http://here').searchParams.get('id'));
    expect(second).toBe(first);
    expect(sending.value).toEqual([]);
  });

  it('says why a file was refused and does not offer to send it again', async () => {
    answers = [{ status: 422, response: { detail: 'This is not text.' } }];
    const { send, sending, dismiss } = sender();
    expect(await send(new Blob(['x']), 'photo.csv', {})).toBeNull();
    expect(sending.value[0]?.sentence).toBe('This is not text.');
    expect(sending.value[0]?.passing).toBe(false);
    dismiss(sending.value[0]?.told.id ?? '');
    expect(sending.value).toEqual([]);
  });

  it('cuts a name that is too long and never sends none', async () => {
    answers = [
      { status: 201, response: KEPT },
      { status: 201, response: KEPT },
    ];
    const { send } = sender();
    await send(new Blob(['x']), 'n'.repeat(200), {});
    await send(new Blob(['x']), '', {});
    const names = sent.map((one) => new URL(one.address, 'http://here').searchParams.get('name'));
    expect(names[0]).toHaveLength(80);
    expect(names[1]).toBe('capture');
  });

  it('captures the simulated scope in one go', async () => {
    answers = [{ status: 201, response: KEPT }];
    vi.spyOn(client.api, 'benchScope').mockResolvedValue(new Blob(['1;2']) as never);
    expect(await sender().keepBench('at 30.csv')).toBe('Kept: clean');
    vi.spyOn(client.api, 'benchScope').mockRejectedValue(new client.Refusal(0, {}));
    expect(await sender().keepBench('at 30.csv')).toContain('can’t be reached');
  });
});
