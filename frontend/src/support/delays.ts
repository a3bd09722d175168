/** Delays of speakers in words: "left 0.146 ms (7 samples at 48 kHz)". */
import type { DelayProposal } from '@/api/client';
import { formatValue } from './quantity';

export const speakerDelays = (delay: DelayProposal): string[] =>
  delay.speakers.map((one) => {
    const side = one.side ? `${one.side} ` : '';
    if (!one.wanted_ms) return `${side}no delay`;
    return `${side}${formatValue(one.wanted_ms, 'ms', 3)} (${one.samples} samples at 48 kHz)`;
  });
