import { describe, expect, it } from 'vitest';
import type { RunView } from '@/api/client';
import { shownStep } from '@/support/shownStep';

const tone = (frequency_hz: number) => ({ frequency_hz, level_dbfs: 0, swept: false });
const row = (key: string, hertz: number) => ({
  key,
  name: key,
  unit: 'V',
  play: `${hertz} Hz`,
  wants: { tone: tone(hertz) },
});
const reading = (id: string, volume: number, struck: string | null) => ({
  id,
  step: 'one',
  value: volume / 10,
  quantity: 'ac_volts',
  struck,
  circumstances: { volume },
});

/** As much of a run as a display looks at. */
function viewOf(step: object, state: object, readings: object[] = []): RunView {
  const run = {
    steps: [{ key: 'one', title: 'One', ...step }],
    states: [{ step: 'one', sentence: '', ...state }],
  };
  return { run, readings } as unknown as RunView;
}

describe('what a display shows of a step', () => {
  it('plays the tone of a step with one, and of rows that all want the same', () => {
    expect(shownStep(viewOf({ wants: { tone: tone(40) } }, {}), 'one')?.tone).toEqual(tone(40));
    const same = viewOf({ rows: [row('a', 50), row('b', 50)] }, { rows: [{ row: 'a', reading: {} }] });
    expect(shownStep(same, 'one')).toMatchObject({ tone: tone(50), play: '50 Hz', row: { key: 'b' } });
  });

  it('plays none where rows want different ones: nobody here knows which is being read', () => {
    const shown = shownStep(viewOf({ rows: [row('a', 50), row('b', 80)] }, { rows: [] }), 'one');
    expect(shown).toMatchObject({ tone: null, play: null, severalTones: true, row: { key: 'a' } });
  });

  it('plays that of the reading that whoever holds the run is at', () => {
    const rows = viewOf({ rows: [row('a', 50), row('b', 80)] }, { rows: [] });
    expect(shownStep(rows, 'one', 'b')).toMatchObject({
      tone: tone(80),
      severalTones: false,
      row: { key: 'b' },
    });
    expect(shownStep(rows, 'one', 'of another step')).toMatchObject({ tone: null, row: { key: 'a' } });
  });

  it('shows the last reading of volume steps that stand, and its next number', () => {
    const volumeSteps = viewOf(
      { top_volume: 40, wants: { volume: 20 } },
      { volume_steps: { next_volume: 23 } },
      [reading('1', 21, null), reading('2', 22, 'undone')],
    );
    expect(shownStep(volumeSteps, 'one')).toMatchObject({ volume: '23', last: { id: '1' } });
  });

  it('lists what nobody has answered, and nothing of a step that is not there', () => {
    const items = [
      { key: 'a', text: 'Fuse out' },
      { key: 'b', text: 'Speakers off' },
    ];
    const list = viewOf({ items }, { answers: [{ item: 'a' }] });
    expect(shownStep(list, 'one')?.open).toEqual(['Speakers off']);
    expect(shownStep(list, 'two')).toBeNull();
  });
});
