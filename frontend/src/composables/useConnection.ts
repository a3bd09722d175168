/** Whether what is done now can be saved now, and with whom: asked every few seconds, and learnt from every answer. */
import { useQuery } from '@tanstack/vue-query';
import { computed, readonly, ref } from 'vue';
import { api, type Health, onAnswer } from '@/api/client';
import { installationKnown, rememberInstallation } from '@/support/device';
import { forgetAnswers } from '@/support/keptAnswers';

type Connection = { is: 'ok' | 'lost' | 'not_now'; words: string };

const OK: Connection = { is: 'ok', words: 'Connected' };
const STRANGER: Connection = { is: 'lost', words: 'Another program answers here' };
const CLOCK_OFF_MS = 120_000;

const state = ref<Connection>(OK);
const health = ref<Health | null>(null);
const clockOffMs = ref(0);

onAnswer((status, problem) => {
  if (status === 0 || status === 502 || status === 504) state.value = { is: 'lost', words: 'No connection' };
  else if (status === 503) state.value = { is: 'not_now', words: problem?.title ?? 'The server is busy' };
  else state.value = OK;
});

/** The installation that answers now, or null while nobody has. */
export const currentInstallation = computed(() => health.value?.installation ?? null);

export function useConnection() {
  return { connection: readonly(state), health: readonly(health), clock: computed(clockWords) };
}

export const healthAnswer = { queryKey: ['health'], queryFn: askHealth };

/** Keeps asking for as long as the app is open; called once, at the top. */
export function useHealth() {
  return useQuery({
    ...healthAnswer,
    refetchInterval: () => (state.value.is === 'ok' ? 5000 : 1500),
    refetchIntervalInBackground: true,
    retry: false,
  });
}

/** Asks how the server does, whose it is and what time it has. */
export async function askHealth(): Promise<Health> {
  const asked = Date.now();
  const answer = await api.health();
  if (typeof answer.installation !== 'string') {
    state.value = STRANGER;
    throw new Error(STRANGER.words);
  }
  // The server looked at its clock somewhere between the asking and now.
  clockOffMs.value = (asked + Date.now()) / 2 - Date.parse(answer.now);
  health.value = answer;
  const before = installationKnown();
  if (before !== answer.installation) {
    rememberInstallation(answer.installation);
    if (before) await forgetAnswers();
  }
  return answer;
}

function clockWords(): string {
  const off = clockOffMs.value;
  if (Math.abs(off) < CLOCK_OFF_MS) return '';
  const minutes = Math.round(Math.abs(off) / 60_000);
  const far =
    minutes < 120
      ? `${minutes} minutes`
      : minutes < 2880
        ? `${Math.round(minutes / 60)} hours`
        : `${Math.round(minutes / 1440)} days`;
  return `This device’s clock is ${far} ${off > 0 ? 'ahead of' : 'behind'} the server’s: set it. Readings keep their order, but their times are this device’s.`;
}
