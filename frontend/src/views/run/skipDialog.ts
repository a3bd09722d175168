/** The dialog for a reason, made when it is first wanted: a phone has less to do before the run can be used. */
import { defineAsyncComponent } from 'vue';

const load = () => import('./SkipDialog.vue');
export const SkipDialog = defineAsyncComponent(load);

/** Brings it while nobody waits for it, so that what is typed right after its key is its own. */
export const bringSkipDialog = () => window.setTimeout(() => void load(), 1000);
