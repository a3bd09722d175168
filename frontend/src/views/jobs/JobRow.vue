<script setup lang="ts">
import { computed, nextTick, ref, useTemplateRef } from 'vue';
import type { JobEntry } from '@/api/client';
import StepMap from '@/components/StepMap.vue';
import { dateInWords, whenInWords } from '@/support/words';

const props = defineProps<{ job: JobEntry }>();
const called = computed(
  () => [props.job.summary?.alone, props.job.vehicle].filter(Boolean).join(', ') || 'Unnamed vehicle',
);
const more = computed(() => `More for ${props.job.vehicle ? called.value : 'this job'}`);
/** A menu is made when it is wanted first: a long list of them costs a phone half a second. */
const wanted = ref(false);
const menu = useTemplateRef<{ show: () => void }>('menu');
async function open(): Promise<void> {
  wanted.value = true;
  await nextTick();
  menu.value?.show();
}
const kind = computed(() =>
  [props.job.practice && 'Practice. ', props.job.summary?.alone && 'A source without a vehicle. ']
    .filter(Boolean)
    .join(''),
);
const emit = defineEmits<{ copy: [practice?: true]; archive: [there: boolean]; remove: [there: boolean] }>();
</script>

<template>
  <li class="row-of-job">
    <RouterLink :to="{ name: 'job', params: { id: job.id } }" class="sheet">
      <span class="what">
        <strong>{{ called }}</strong>
        <span class="quiet note">{{ kind }}{{ job.note }}</span>
      </span>
      <StepMap v-if="job.summary?.states?.length" :steps="[]" :states="job.summary.states" small />
      <span v-else />
      <span class="next">
        <span v-if="!job.summary" class="quiet">Being read …</span>
        <span v-else-if="job.summary.stands === 'redo'" class="said-edge fw-bold">
          To redo: {{ job.summary.current }}
        </span>
        <span v-else-if="job.summary.stands === 'unreadable'" class="said-clipped">{{
          job.summary.current
        }}</span>
        <span v-else-if="job.summary.stands === 'finished'" class="said-clean fw-bold">Finished</span>
        <span v-else>Next: {{ job.summary.current }}</span>
        <span class="quiet">{{ whenInWords(job.changed_at) }}</span>
        <span v-if="job.due_on">Due {{ dateInWords(job.due_on) }}</span>
      </span>
    </RouterLink>
    <BDropdown
      v-if="wanted"
      ref="menu"
      variant="plain"
      no-caret
      placement="bottom-end"
      :aria-label="more"
      toggle-class="more"
    >
      <template #button-content><span aria-hidden="true">⋯</span></template>
      <BDropdownItemButton role="menuitem" @click="emit('copy')">Copy this job</BDropdownItemButton>
      <BDropdownItemButton v-if="!job.practice" role="menuitem" @click="emit('copy', true)"
        >Practise on a copy</BDropdownItemButton
      >
      <BDropdownItemButton v-if="!job.deleted_at" role="menuitem" @click="emit('archive', !job.archived_at)">
        {{ job.archived_at ? 'Restore from the archive' : 'Move to the archive' }}
      </BDropdownItemButton>
      <BDropdownItemButton role="menuitem" @click="emit('remove', !job.deleted_at)">
        {{ job.deleted_at ? 'Restore' : 'Move to the bin …' }}
      </BDropdownItemButton>
    </BDropdown>
    <button v-else type="button" class="btn btn-plain more" :aria-label="more" @click="open">
      <span aria-hidden="true">⋯</span>
    </button>
  </li>
</template>

<style scoped lang="scss">
@use '@/styles/breakpoints' as at;

.row-of-job {
  display: grid;
  grid-template-columns: minmax(0, 1fr) max-content;
  gap: 0.4rem;
  align-items: center;
}
.row-of-job a.sheet {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 230px 260px;
  gap: 0.5rem 1.5rem;
  align-items: center;
  color: inherit;
  text-decoration: none;
}
.row-of-job a.sheet:hover {
  background: var(--stone);
}
.row-of-job :deep(.more) {
  width: 44px;
  min-height: 44px;
  padding: 0;
  font-weight: 700;
}
.row-of-job :deep(.more)::after {
  content: none;
}
.what,
.next {
  display: grid;
  min-width: 0;
}
.what strong {
  font-size: 1.2rem;
}
.note {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
@include at.narrow {
  .row-of-job a.sheet {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
