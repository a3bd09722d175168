<script setup lang="ts">
/** The people of the workshop: let in, given a new password, let go. */
import { useQueryClient } from '@tanstack/vue-query';
import { ref } from 'vue';
import { api, type Invitation, type Person, type Role } from '@/api/client';
import SelectField from '@/components/SelectField.vue';
import { useTrying } from '@/composables/useTrying';
import { ROLES, roleInWords } from '@/support/roles';
import LinkCode from './LinkCode.vue';
import { usePeople } from './useWorkshop';

defineProps<{ person: Person }>();
const queries = useQueryClient();
const { data: people } = usePeople();
const { trouble, said, trying } = useTrying();
const role = ref<Role>('fitter');
const made = ref<Invitation>();
const what = ref('');
const leaving = ref<Person>();

const invite = () =>
  trying(async () => {
    made.value = await api.invite({ role: role.value });
    what.value = `For somebody new, as ${roleInWords(role.value).toLowerCase()}`;
  });
const renew = (person: Person) =>
  trying(async () => {
    made.value = await api.invite({ person: person.id });
    what.value = `A new password for ${person.name}`;
  });
const letGo = (person: Person, nameless: boolean) =>
  trying(async () => {
    await api.letGo(person.id, nameless);
    leaving.value = undefined;
    await queries.invalidateQueries({ queryKey: ['people'] });
    await queries.invalidateQueries({ queryKey: ['devices'] });
  }, `${person.name} is signed out everywhere and can’t come back in.`);
</script>

<template>
  <section class="sheet mb-3">
    <h2 class="h4">People here</h2>
    <p v-if="trouble" class="said-clipped" role="alert">{{ trouble }}</p>
    <p v-if="said" class="said-clean" role="status">{{ said }}</p>
    <ul class="people-rows">
      <li v-for="present in people" :key="present.id">
        <span
          ><strong>{{ present.name }}</strong>
          <span class="quiet">{{ roleInWords(present.role) }}</span></span
        >
        <span v-if="present.id !== person.id" class="d-flex flex-wrap justify-content-end gap-2">
          <BButton variant="plain" :aria-label="`New password for ${present.name}`" @click="renew(present)"
            >New password</BButton
          >
          <BButton variant="plain" :aria-label="`Let ${present.name} go`" @click="leaving = present"
            >Let go</BButton
          >
        </span>
      </li>
    </ul>
    <div v-if="leaving" class="mt-2" role="group" :aria-label="`Let ${leaving.name} go`">
      <p class="mb-2">
        {{ leaving.name }} is signed out everywhere at once. Past measurements keep the name. You can remove
        the name from the list of people.
      </p>
      <div class="d-flex flex-wrap gap-2">
        <BButton variant="primary" @click="letGo(leaving, false)">Remove, keep the name</BButton>
        <BButton variant="plain" @click="letGo(leaving, true)">Remove, and the name</BButton>
        <BButton variant="plain" @click="leaving = undefined">Leave it</BButton>
      </div>
    </div>
    <div class="door mt-3">
      <SelectField v-model="role" label="Somebody new, as" :options="ROLES" />
      <BButton variant="primary" @click="invite">Make a link</BButton>
    </div>
    <LinkCode v-if="made" :key="made.link" :made="made" :what="what" />
  </section>
</template>
