/** Plays the tone of whatever step a run stands at, by this device's own output; silent where none is wanted. */
import { computed, onScopeDispose, type Ref, ref, watch } from 'vue';
import { api, Refusal } from '@/api/client';
import type { Tone } from '@/support/shownStep';
import { useConnection } from './useConnection';
import { useDoor } from './useDoor';

/** As the files of the tones have it: nothing is converted on the way. */
const RATE_HZ = 48_000;
/** So short that nobody waits, and long enough not to click. */
const FADE_S = 0.03;

export function useTonePlayer(tone: Ref<Tone | null>) {
  const { connection } = useConnection();
  const { away } = useDoor();
  const along = ref(false);
  const sounding = ref(false);
  const trouble = ref('');
  const wanted = computed(() => (along.value && tone.value ? JSON.stringify(tone.value) : ''));
  let context: AudioContext | undefined;
  let playing: { source: AudioBufferSourceNode; volume: GainNode } | undefined;
  let turn = 0;

  function hush(): void {
    sounding.value = false;
    if (!playing || !context) return;
    playing.volume.gain.linearRampToValueAtTime(0, context.currentTime + FADE_S);
    playing.source.stop(context.currentTime + FADE_S);
    playing = undefined;
  }

  async function follow(): Promise<void> {
    const mine = ++turn;
    hush();
    const now = tone.value;
    if (!wanted.value || !now || !context) return;
    try {
      const buffer = await context.decodeAudioData(await api.tone(now));
      // The run went on, or somebody stopped it, while the tone was fetched.
      if (mine !== turn) return;
      const source = new AudioBufferSourceNode(context, { buffer, loop: !now.swept });
      const volume = new GainNode(context, { gain: 0 });
      volume.gain.setValueAtTime(0, context.currentTime);
      volume.gain.linearRampToValueAtTime(1, context.currentTime + FADE_S);
      source.connect(volume).connect(context.destination);
      source.start();
      source.onended = () => {
        if (mine === turn) sounding.value = false;
      };
      playing = { source, volume };
      sounding.value = true;
    } catch (problem) {
      if (mine !== turn) return;
      const words = problem instanceof Refusal ? problem.message : 'This browser can’t play it.';
      stop(`The tone can’t be played: ${words}`);
    }
  }
  watch(wanted, follow);

  /** From a press: browsers let nothing sound before one. */
  async function start(): Promise<void> {
    trouble.value = '';
    try {
      context ??= new AudioContext({ sampleRate: RATE_HZ });
      await context.resume();
    } catch {
      trouble.value = 'This browser plays nothing: fetch the tone as a file, at the step.';
      return;
    }
    along.value = true;
  }
  function stop(why = ''): void {
    along.value = false;
    trouble.value = why;
  }
  // What can't be followed any more must not go on sounding: the speakers may be connected by now.
  watch(
    () => connection.value.is === 'lost',
    (lost) => lost && along.value && stop('Stopped: without a connection nobody knows what the run wants.'),
  );
  watch(away, (now) => now && along.value && stop('Stopped: this device was locked.'));
  onScopeDispose(() => {
    turn += 1;
    hush();
    void context?.close();
  });
  return { along, sounding, trouble, start, stop };
}
