import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query';
import { flushPromises, mount } from '@vue/test-utils';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { defineComponent, h, ref } from 'vue';
import { api, type BenchState, type BenchView } from '@/api/client';
import { useBench } from '@/composables/useBench';

const view = (state: Partial<BenchState>) =>
  ({ state: { volume: 20, gain: 0, ...state } }) as unknown as BenchView;

/** Answers that are given when the test says so. */
function held<T>() {
  const waiting: ((answer: T | Error) => void)[] = [];
  const ask = vi.fn(
    () =>
      new Promise<T>((resolve, reject) =>
        waiting.push((answer) => (answer instanceof Error ? reject(answer) : resolve(answer))),
      ),
  );
  const give = async (answer: T | Error) => {
    waiting.shift()?.(answer);
    await flushPromises();
    await new Promise((done) => setTimeout(done, 5));
  };
  return { ask, give };
}

function bench() {
  let made: ReturnType<typeof useBench> | undefined;
  const host = defineComponent({
    setup() {
      made = useBench(ref('job-1'), ref(true));
      return () => h('p');
    },
  });
  mount(host, { global: { plugins: [[VueQueryPlugin, { queryClient: new QueryClient() }]] } });
  if (!made) throw new Error('the host was not set up');
  return made;
}

describe('the simulated bench', () => {
  const got = { value: held<BenchView>() };
  const put = { value: held<BenchView>() };
  beforeEach(() => {
    got.value = held();
    put.value = held();
    vi.spyOn(api, 'bench').mockImplementation(got.value.ask);
    vi.spyOn(api, 'turnBench').mockImplementation(put.value.ask);
  });
  afterEach(() => vi.restoreAllMocks());

  it('keeps what was turned before it was there', async () => {
    const { bench: now, turn } = bench();
    turn({ volume: 21 });
    turn({ volume: 22 });
    expect(api.turnBench).not.toHaveBeenCalled();
    await got.value.give(view({ volume: 20 }));
    expect(now.value?.state.volume).toBe(22);
    expect(api.turnBench).toHaveBeenCalledWith('job-1', { volume: 22, gain: 0 });
  });

  it('sends the newest position, with every knob that was turned', async () => {
    const { bench: now, turn } = bench();
    await got.value.give(view({}));
    turn({ volume: 21 });
    turn({ volume: 25 });
    turn({ gain: 0.5 });
    expect(now.value?.state).toEqual({ volume: 25, gain: 0.5 });
    await put.value.give(view({ volume: 21 }));
    expect(now.value?.state).toEqual({ volume: 25, gain: 0.5 });
    await put.value.give(view({ volume: 25, gain: 0.5 }));
    expect(vi.mocked(api.turnBench).mock.calls.map((call) => call[1])).toEqual([
      { volume: 21, gain: 0 },
      { volume: 25, gain: 0.5 },
    ]);
  });

  it('falls back to where the knobs are when they could not be turned', async () => {
    const { bench: now, turn } = bench();
    await got.value.give(view({}));
    turn({ volume: 30 });
    await put.value.give(new Error('nobody there'));
    await got.value.give(view({ volume: 20 }));
    expect(now.value?.state.volume).toBe(20);
  });
});
