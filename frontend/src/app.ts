/** The app itself: everything that each of its pages needs. */
// First: it stands in for a storage that the browser blocks.
import './support/device';
import '@fontsource-variable/atkinson-hyperlegible-next/wght.css';
import './styles/app.scss';
import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query';
import { createApp } from 'vue';
import App from './App.vue';
import { openOutbox } from './composables/useOutbox';
import { askForAnswers } from './firstAnswers';
import { router } from './router';
import { keepAnswers } from './support/keptAnswers';

const queryClient = new QueryClient({
  defaultOptions: { queries: { staleTime: 2000, retry: 1, networkMode: 'always' } },
});
void openOutbox(queryClient);
// Kept answers show at once, and while the server is away.
void keepAnswers(queryClient).finally(() => {
  askForAnswers(queryClient, window.location);
  createApp(App).use(router).use(VueQueryPlugin, { queryClient }).mount('#app');
});
