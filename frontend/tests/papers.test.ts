import { mount } from '@vue/test-utils';
import { describe, expect, it } from 'vitest';
import VolumeStepsPaper from '@/components/VolumeStepsPaper.vue';
import QuantityField from '@/components/QuantityField.vue';
import VerdictMark from '@/components/VerdictMark.vue';
import { VERDICT_WORDS } from '@/support/words';
import WavePaper from '@/views/captures/WavePaper.vue';

const TIMES = Array.from({ length: 101 }, (_, index) => index / 50);
const SINE = TIMES.map((time) => 2 * Math.sin(2 * Math.PI * time));

describe('the wave on paper', () => {
  it('fills what was cut off, above and below', () => {
    const volts = SINE.map((value) => Math.max(-1.5, Math.min(1.5, value)));
    const drawing = { milliseconds: TIMES, volts, sine: SINE, floor_v: -1.5, ceiling_v: 1.5 };
    const paper = mount(WavePaper, { props: { drawing, name: 'CH1' } });
    const lost = paper.findAll('path.lost').map((path) => path.attributes('d') ?? '');
    // Two cycles: two tops and two bottoms, each closed.
    expect(lost.map((path) => path.split('Z').length - 1)).toEqual([2, 2]);
    expect(paper.find('path.sine').exists()).toBe(true);
    expect(paper.find('svg').attributes('aria-label')).toBe('The wave of CH1');
  });

  it('draws a clean wave alone, and another over it', async () => {
    const drawing = { milliseconds: TIMES, volts: SINE, sine: [], floor_v: null, ceiling_v: null };
    const paper = mount(WavePaper, { props: { drawing, name: 'CH1' } });
    expect(paper.find('path.lost').exists()).toBe(false);
    expect(paper.find('path.other').exists()).toBe(false);
    await paper.setProps({ over: { ...drawing, volts: SINE.map((value) => 3 * value) } });
    expect(paper.find('path.other').exists()).toBe(true);
    expect(paper.html()).not.toContain('NaN');
  });

  it('survives a wave of one value', () => {
    const drawing = { milliseconds: [0], volts: [0], sine: [], floor_v: null, ceiling_v: null };
    expect(mount(WavePaper, { props: { drawing, name: 'CH1' } }).html()).not.toContain('NaN');
  });
});

describe('volume steps on paper', () => {
  const points = [24, 25, 26, 27].map((volume) => ({
    volume,
    voltage_v: 1.1 ** (volume - 20),
    average_v: null,
    line_v: 1.12 ** (volume - 20),
    curve_v: 1.1 ** (volume - 20),
  }));
  const report = {
    verdict: 'found' as const,
    clean_volume: 25,
    clean_v_rms: 1.6,
    uncertainty_db: 0.2,
    reasons: [],
  };

  it('marks every reading and the clean maximum', () => {
    const paper = mount(VolumeStepsPaper, { props: { view: { report, points, next_volumes: [] } } });
    expect(paper.findAll('circle')).toHaveLength(4);
    expect(paper.text()).toContain('25, last clean');
    expect(paper.html()).not.toContain('NaN');
  });

  it('does without a line where none could be told', () => {
    const bare = points.map((point) => ({ ...point, line_v: null, curve_v: null }));
    const none = { ...report, verdict: 'cannot_tell' as const, clean_volume: null };
    const paper = mount(VolumeStepsPaper, {
      props: { view: { report: none, points: bare, next_volumes: [28] } },
    });
    expect(paper.find('path.line').attributes('d')).toBe('');
    expect(paper.find('line.last').exists()).toBe(false);
  });
});

describe('verdict marks', () => {
  it.each(Object.entries(VERDICT_WORDS))('%s says %s beside its shape', (verdict, word) => {
    const mark = mount(VerdictMark, { props: { verdict: verdict as keyof typeof VERDICT_WORDS } });
    expect(mark.text()).toContain(word);
    const told = ['clean', 'edge', 'clipped', 'square', 'distorted'].includes(verdict);
    expect(mark.text().includes('?')).toBe(!told);
  });
});

describe('a number field', () => {
  const field = (props: object) =>
    mount(QuantityField, {
      props: { label: 'Box tuned to', kind: 'hertz', ...props } as never,
      global: { stubs: { BFormInput: { template: '<input />' } } },
    });

  it('gives on what was understood', () => {
    const made = field({ modelValue: 34 });
    const input = made.getComponent('input') as unknown as {
      vm: { $emit: (name: string, value: string) => void };
    };
    input.vm.$emit('update:modelValue', '31,5');
    expect(made.emitted('update:modelValue')).toEqual([[31.5]]);
  });
});
