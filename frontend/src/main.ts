import '@fontsource-variable/atkinson-hyperlegible-next/wght.css';
import './styles/app.scss';
import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query';
import { createApp } from 'vue';
import App from './App.vue';
import { openOutbox } from './composables/useOutbox';
import { router } from './router';

const queryClient = new QueryClient({
  defaultOptions: { queries: { staleTime: 2000, retry: 1, networkMode: 'always' } },
});
void openOutbox(queryClient);
createApp(App).use(router).use(VueQueryPlugin, { queryClient }).mount('#app');
