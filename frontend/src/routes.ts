/** The pages and their addresses: plain data, so that a page can be asked for before the router is there. */
import type { RouteRecordRaw } from 'vue-router';

declare module 'vue-router' {
  interface RouteMeta {
    title?: string;
  }
}

export const routes = [
  { path: '/', name: 'jobs', component: () => import('./views/jobs/JobsView.vue'), meta: { title: 'Jobs' } },
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
        path: 'photos/:photo?',
        name: 'photos',
        component: () => import('./views/photos/PhotosView.vue'),
        meta: { title: 'Photos' },
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
    path: '/logbook',
    name: 'logbook',
    component: () => import('./views/logbook/LogbookView.vue'),
    meta: { title: 'Logbook' },
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
    path: '/parts',
    name: 'parts',
    component: () => import('./views/parts/PartsView.vue'),
    meta: { title: 'Parts' },
  },
  {
    path: '/parts/:id',
    name: 'part',
    component: () => import('./views/parts/PartView.vue'),
    meta: { title: 'Part' },
  },
  {
    path: '/tones',
    name: 'tones',
    component: () => import('./views/tones/TonesView.vue'),
    meta: { title: 'Tones' },
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
] satisfies RouteRecordRaw[];

type Load = () => Promise<unknown>;
const pages: { path: string; parts: Load[] }[] = routes.flatMap((route) =>
  'children' in route && route.children
    ? route.children.map((inner) => ({
        path: `${route.path}/${inner.path}`,
        parts: [route.component, inner.component],
      }))
    : [{ path: route.path, parts: [route.component] }],
);
/** A part of a path that begins with a colon is any word, and with a question mark after it it may be missing. */
const isAt = (path: string, address: string) =>
  new RegExp(
    `^${path
      .replace(/\/:\w+\?/, '(/[^/]+)?')
      .replace(/:\w+/, '[^/]+')
      .replace(/\/$/, '')}/?$`,
  ).test(address);

/** The page at an address: its whole path, and the loaders of its parts. */
export const pageAt = (address: string) => pages.find((page) => isAt(page.path, address));

/** Loads the parts of the page at an address. Where that fails, the router loads them again and reports it. */
export function askForPage(address: string): void {
  for (const load of pageAt(address)?.parts ?? []) void load().catch(() => undefined);
}
