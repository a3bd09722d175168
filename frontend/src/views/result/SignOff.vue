<script setup lang="ts">
/** Who answers for the job as it stands: signed by a fitter or the owner, and whether it changed since. */
import { useQuery, useQueryClient } from '@tanstack/vue-query';
import { computed, ref } from 'vue';
import { api, type RunView, type SignOffs } from '@/api/client';
import TextField from '@/components/TextField.vue';
import { useDoor } from '@/composables/useDoor';
import { usePreferences } from '@/composables/usePreferences';
import { useTrying } from '@/composables/useTrying';
import { whenInWords } from '@/support/words';

const props = defineProps<{ job: string; view: RunView; complete: boolean }>();
const queries = useQueryClient();
const preferences = usePreferences();
const { may } = useDoor();
const { trouble, trying } = useTrying();
// Asked anew whenever the run changed.
const key = computed(() => ['sign-offs', props.job, props.view]);
const { data } = useQuery<SignOffs>({
  queryKey: key,
  queryFn: () => api.signOffs(props.job),
  placeholderData: (former) => former,
});
const newest = computed(() => data.value?.signed[0]);
const mayAnswer = computed(() => may('sign_off'));
const note = ref('');
const asked = ref(false);
let id: string = crypto.randomUUID();

const sign = () =>
  trying(async () => {
    const changes = data.value?.changes ?? 0;
    const by = preferences.value.name;
    queries.setQueryData(key.value, await api.signOff(props.job, { id, changes, note: note.value, by }));
    id = crypto.randomUUID();
    note.value = '';
    asked.value = false;
  });
</script>

<template>
  <section v-if="data" class="sheet" :class="{ 'no-print': !newest }" aria-label="Signed off">
    <p v-if="newest" class="mb-2" :class="newest.stands ? 'said-clean' : 'said-edge'">
      <strong>{{ newest.stands ? '✓ Signed off' : '↻ Signed off, and changed since' }}</strong>
      by {{ newest.by || 'somebody' }}, {{ whenInWords(newest.at)
      }}<template v-if="newest.note">: {{ newest.note }}</template
      >.
      <span v-if="newest.covers" class="d-block quiet">Covers {{ newest.covers }}.</span>
    </p>
    <p v-else class="mb-2">Not signed off yet.</p>
    <div v-if="!newest?.stands" class="no-print">
      <p v-if="!mayAnswer" class="quiet mb-0">A fitter or the owner signs it off.</p>
      <form v-else-if="asked" class="door" @submit.prevent="sign">
        <p v-if="!complete" class="said-edge mb-2">Not finished: see the open steps above.</p>
        <TextField v-model="note" label="Note" hint="For example: listened to with the customer" />
        <div class="d-flex gap-2">
          <BButton type="submit" variant="primary">Sign off this job as it is</BButton>
          <BButton variant="plain" @click="asked = false">Leave it</BButton>
        </div>
      </form>
      <BButton v-else variant="plain" @click="asked = true">Sign it off</BButton>
      <p v-if="trouble" class="said-clipped mt-2 mb-0" role="alert">{{ trouble }}</p>
    </div>
  </section>
</template>
