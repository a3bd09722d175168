import { createRouter, createWebHistory } from 'vue-router';
import JobsView from './views/jobs/JobsView.vue';

export const router = createRouter({
  history: createWebHistory(),
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
    { path: '/:rest(.*)*', name: 'nowhere', component: () => import('./views/NowhereView.vue') },
  ],
});

router.afterEach((to) => {
  const title = to.meta.title;
  document.title = typeof title === 'string' ? `${title} · Upper Rook` : 'Upper Rook';
});
