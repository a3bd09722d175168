/** Plays the tone of whatever step a run stands at, by this device's own output; silent where none is wanted. */
import { useDocumentVisibility } from '@vueuse/core';
import { computed, onScopeDispose, type Ref, ref, watch } from 'vue';
import { api, Refusal, signalOf, type Tone } from '@/api/client';
import { onLive } from '@/support/liveShare';
import { useAudio } from './useAudio';
import { useConnection } from './useConnection';
import { useDoor } from './useDoor';

export function useTonePlayer(tone: Ref<Tone | null>) {
  const { connection } = useConnection();
  const { away } = useDoor();
  const seen = useDocumentVisibility();
  const along = ref(false);
  const audio = useAudio();
  const trouble = ref('');
  const wanted = computed(() => (along.value && tone.value ? JSON.stringify(tone.value) : ''));

  async function follow(): Promise<void> {
    const now = tone.value;
    if (!wanted.value || !now) return audio.stop();
    try {
      await audio.play(() => api.signal(signalOf(now)), !now.swept);
    } catch (problem) {
      const words = problem instanceof Refusal ? problem.message : 'This browser can’t play it.';
      stop(`The tone can’t be played: ${words}`);
    }
  }
  watch(wanted, follow);

  /** From a press: browsers let nothing sound before one. */
  async function start(): Promise<void> {
    trouble.value = '';
    try {
      await audio.unlock();
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
  const cut = (why: string) => along.value && stop(`Stopped: ${why}`);
  const UNCONNECTED = 'no connection: the run’s tone isn’t known.';
  watch(
    () => connection.value.is === 'lost',
    (lost) => lost && cut(UNCONNECTED),
  );
  onScopeDispose(onLive(({ name }) => void (name === 'lost' && cut(UNCONNECTED))));
  watch(away, (now) => now && cut('this device was locked.'));
  // A page that nobody sees isn't told what changes.
  watch(seen, (now) => now === 'hidden' && cut('this page has to stay in sight to go along with the run.'));
  return { along, sounding: audio.sounding, trouble, start, stop };
}
