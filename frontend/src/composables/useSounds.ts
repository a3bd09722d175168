/** Sounds for busy hands: a pitch that rises as the value nears its target, and a distinct one for over. */
import { onScopeDispose } from 'vue';
import type { Comparison } from '@/api/client';
import { nearness } from '@/support/nearness';
import { usePreferences } from './usePreferences';

export function useSounds() {
  const preferences = usePreferences();
  let context: AudioContext | null = null;

  function beep(hertz: number, seconds: number, shape: OscillatorType, delay = 0): void {
    if (!preferences.value.sounds) return;
    context ??= new AudioContext();
    const from = context.currentTime + delay;
    const voice = new OscillatorNode(context, { frequency: hertz, type: shape });
    const level = new GainNode(context, { gain: 0 });
    level.gain.setTargetAtTime(0.12, from, 0.008);
    level.gain.setTargetAtTime(0, from + seconds, 0.02);
    voice.connect(level).connect(context.destination);
    voice.start(from);
    voice.stop(from + seconds + 0.15);
  }

  onScopeDispose(() => void context?.close());

  return {
    /** One update of a live value against its target. */
    near(comparison: Comparison): void {
      if (comparison.fit === 'above') {
        beep(190, 0.07, 'sawtooth');
        beep(150, 0.09, 'sawtooth', 0.11);
      } else {
        beep(nearness(comparison.db), 0.06, 'sine');
        if (comparison.fit !== 'below') beep(nearness(comparison.db), 0.06, 'sine', 0.1);
      }
    },
    taken: () => beep(1200, 0.05, 'triangle'),
    refused: () => beep(160, 0.18, 'square'),
  };
}
