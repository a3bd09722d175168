/** Whether what is done now can be saved now: asked every few seconds, and learnt from every answer. */
import { useQuery } from '@tanstack/vue-query';
import { readonly, ref } from 'vue';
import { api, onAnswer } from '@/api/client';

type Connection = 'ok' | 'lost' | 'database';

const state = ref<Connection>('ok');

onAnswer((status) => {
  state.value = status === 0 || status === 502 ? 'lost' : status === 503 ? 'database' : 'ok';
});

export function useConnection() {
  return readonly(state);
}

/** Keeps asking for as long as the app is open; called once, at the top. */
export function useHealth() {
  return useQuery({
    queryKey: ['health'],
    queryFn: api.health,
    refetchInterval: () => (state.value === 'ok' ? 5000 : 1500),
    refetchIntervalInBackground: true,
    retry: false,
  });
}
