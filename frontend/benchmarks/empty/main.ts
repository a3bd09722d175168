/** A page of the same stack that shows a heading and a button: what benchmarks/opening.py sets the app's pages beside. */
import '@fontsource-variable/atkinson-hyperlegible-next/wght.css';
import '../../src/styles/app.scss';
import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query';
import { BButton } from 'bootstrap-vue-next/components/BButton';
import { createApp, h } from 'vue';
import { createRouter, createWebHistory, RouterView } from 'vue-router';

const page = { render: () => [h('h1', 'Empty'), h(BButton, () => 'Nothing')] };
const router = createRouter({
  history: createWebHistory(),
  routes: [{ path: '/:rest(.*)*', component: page }],
});
createApp({ render: () => h(RouterView) })
  .use(router)
  .use(VueQueryPlugin, { queryClient: new QueryClient() })
  .mount('#app');
