import { describe, expect, it } from 'vitest';
import { isReactive, reactive } from 'vue';
import { copyOf, freeSections, takeOutAmplifier } from '@/support/ids';
import type { Chain } from '@/api/client';

describe('copies of parts', () => {
  it('leave what Vue wraps around them behind, at any depth', () => {
    const sheet = reactive({ marks: [{ place: 'a', value: 4 as number | null }] });
    // A filtered list of wrapped things is itself plain, with wrapped things in it.
    const copy = copyOf({ marks: sheet.marks.filter(() => true) });
    expect(copy).toEqual({ marks: [{ place: 'a', value: 4 }] });
    expect(isReactive(copy.marks[0])).toBe(false);
    expect(() => structuredClone(copy)).not.toThrow();
    for (const mark of copy.marks) mark.value = null;
    expect(sheet.marks).toEqual([{ place: 'a', value: 4 }]);
  });
});

describe('amplifiers with sections', () => {
  const chain = {
    amplifiers: [{ id: 'four', sections: [{ id: 'one' }, { id: 'two' }] }],
    processors: [{ id: 'dsp', inside: 'four' }],
    paths: [{ amplifier: 'four', section: 'one' }],
  } as unknown as Chain;

  it('have the sections to spare that no path uses', () => {
    expect(chain.amplifiers.map((amplifier) => freeSections(chain, amplifier))).toEqual([['two']]);
  });

  it('go only with their last path, and let go of what is built into them', () => {
    const own = copyOf(chain);
    takeOutAmplifier(own, 'four');
    expect(own.amplifiers).toHaveLength(1);
    own.paths = [];
    takeOutAmplifier(own, 'four');
    expect(own.amplifiers).toHaveLength(0);
    expect(own.processors[0]?.inside).toBeNull();
  });
});
