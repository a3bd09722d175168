/** Delays of speakers in words: "left 0.146 ms (7 samples at 48 kHz)". */
import type { DelayProposal } from '@/api/client';
import { formatValue } from './quantity';

export const speakerDelays = (delay: DelayProposal): string[] =>
  delay.speakers.map((speaker) => {
    const side = speaker.side ? `${speaker.side} ` : '';
    if (!speaker.wanted_ms) return `${side}no delay`;
    return `${side}${formatValue(speaker.wanted_ms, 'ms', 3)} (${speaker.samples} samples at 48 kHz)`;
  });
