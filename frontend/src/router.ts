import { createRouter, createWebHistory } from 'vue-router';
import JobsView from './views/jobs/JobsView.vue';

declare module 'vue-router' {
  interface RouteMeta {
    title?: string;
  }
}

export const router = createRouter({
  history: createWebHistory(),
  // A page begins at its top, where its heading takes the focus; what only stands in the address moves nothing.
  scrollBehavior: (to, from) => (to.path === from.path ? false : { top: 0, left: 0 }),
  routes: [
    { path: '/', name: 'jobs', component: JobsView, meta: { title: 'Jobs' } },
    {
      path: '/jobs/:id',
      component: () => import('./views/JobFrame.vue'),
      children: [
        { path: '', name: 'job', component: () => import('./views/WhereItStopped.vue') },
        {
          path: 'system',
          name: 'system',
          component: () => import('./views/system/SystemView.vue'),
          meta: { title: 'System' },
        },
        {
          path: 'history',
          name: 'history',
          component: () => import('./views/system/HistoryView.vue'),
          meta: { title: 'History' },
        },
        {
          path: 'plan',
          name: 'plan',
          component: () => import('./views/plan/PlanView.vue'),
          meta: { title: 'Plan' },
        },
        {
          path: 'run/:step?',
          name: 'run',
          component: () => import('./views/run/RunView.vue'),
          meta: { title: 'Run' },
        },
        {
          path: 'display',
          name: 'display',
          component: () => import('./views/run/DisplayView.vue'),
          meta: { title: 'Display' },
        },
        {
          path: 'captures/:capture?',
          name: 'captures',
          component: () => import('./views/captures/CapturesView.vue'),
          meta: { title: 'Captures' },
        },
        {
          path: 'result',
          name: 'result',
          component: () => import('./views/result/ResultView.vue'),
          meta: { title: 'Result' },
        },
      ],
    },
    {
      path: '/sources',
      name: 'sources',
      component: () => import('./views/sources/SourcesView.vue'),
      meta: { title: 'Sources' },
    },
    {
      path: '/sources/:id',
      name: 'source',
      component: () => import('./views/sources/SourceView.vue'),
      meta: { title: 'Source' },
    },
    {
      path: '/sign-in',
      name: 'sign-in',
      component: () => import('./views/doors/SignInView.vue'),
      meta: { title: 'Sign in', door: true },
    },
    {
      path: '/come-in',
      name: 'come-in',
      component: () => import('./views/doors/ComeInView.vue'),
      meta: { title: 'Sign in', door: true },
    },
    {
      path: '/people',
      name: 'people',
      component: () => import('./views/doors/PeopleView.vue'),
      meta: { title: 'People' },
    },
    {
      path: '/:rest(.*)*',
      name: 'nowhere',
      component: () => import('./views/NowhereView.vue'),
      meta: { title: 'Nothing here' },
    },
  ],
});
