/** This device's own output: one sound at a time, none once whoever asked for it is gone. */
import { onScopeDispose, ref } from 'vue';
import { newAudio, playFile, type Playing } from '@/support/audio';

export function useAudio() {
  const sounding = ref(false);
  let context: AudioContext | undefined;
  let playing: Playing | undefined;
  let turn = 0;

  function stop(): void {
    turn += 1;
    playing?.stop();
    playing = undefined;
    sounding.value = false;
  }
  /** From a press: browsers let nothing sound before one. */
  async function unlock(): Promise<void> {
    context ??= newAudio();
    await context.resume();
  }
  /**
   * Plays what `fetched` brings, in place of what sounds now; nothing where it was stopped meanwhile. Throws what
   * fetching or the browser throws.
   */
  async function play(fetched: () => Promise<ArrayBuffer>, loop: boolean): Promise<void> {
    stop();
    const mine = turn;
    try {
      await unlock();
      const file = await fetched();
      if (mine !== turn || !context) return;
      const begun = await playFile(context, file, loop, () => {
        if (mine === turn) sounding.value = false;
      });
      if (mine !== turn) return begun.stop();
      playing = begun;
      sounding.value = true;
    } catch (problem) {
      if (mine === turn) throw problem;
    }
  }
  onScopeDispose(() => {
    stop();
    void context?.close();
  });
  return { sounding, unlock, play, stop };
}
