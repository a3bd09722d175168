/** This device's own output: a buffer that fades in and out, since a step in it would click. */

/** As the files of the tones have it: nothing is converted on the way. */
const RATE_HZ = 48_000;
/** So short that nobody waits, and long enough not to click. */
const FADE_S = 0.03;

export const newAudio = (): AudioContext => new AudioContext({ sampleRate: RATE_HZ });

export type Playing = { stop: () => void };

/** Plays a file's samples; `ended` is called when they end by themselves or are stopped. */
export async function playFile(
  context: AudioContext,
  file: ArrayBuffer,
  loop: boolean,
  ended: () => void,
): Promise<Playing> {
  const buffer = await context.decodeAudioData(file);
  const source = new AudioBufferSourceNode(context, { buffer, loop });
  const volume = new GainNode(context, { gain: 0 });
  volume.gain.setValueAtTime(0, context.currentTime);
  volume.gain.linearRampToValueAtTime(1, context.currentTime + FADE_S);
  source.connect(volume).connect(context.destination);
  source.onended = ended;
  source.start();
  return {
    stop: () => {
      volume.gain.linearRampToValueAtTime(0, context.currentTime + FADE_S);
      source.stop(context.currentTime + FADE_S);
    },
  };
}
