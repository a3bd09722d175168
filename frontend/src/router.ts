import { createRouter, createWebHistory } from 'vue-router';
import { routes } from './routes';

export const router = createRouter({
  history: createWebHistory(),
  // A page begins at its top, where its heading takes the focus; what only stands in the address moves nothing.
  scrollBehavior: (to, from) => (to.path === from.path ? false : { top: 0, left: 0 }),
  routes,
});
