<script setup lang="ts">
/** The job's customer and the vehicle's stays, for those who may see them. Saved apart from the system. */
import { useQuery, useQueryClient } from '@tanstack/vue-query';
import { computed, ref, watch } from 'vue';
import { api, type Customer, type Schemas } from '@/api/client';
import CheckField from '@/components/CheckField.vue';
import DayField from '@/components/DayField.vue';
import FoldBox from '@/components/FoldBox.vue';
import QuantityField from '@/components/QuantityField.vue';
import TextField from '@/components/TextField.vue';
import { usePreferences } from '@/composables/usePreferences';
import { useTrying } from '@/composables/useTrying';
import { formatNumber } from '@/support/quantity';
import { draftAt, noteDraft } from '@/support/tabDrafts';
import { dateInWords, todayAsWritten } from '@/support/words';

const props = defineProps<{ job: string }>();
const queries = useQueryClient();
const preferences = usePreferences();
const { trouble, said, trying } = useTrying();
const key = computed(() => ['customer', props.job]);
const { data } = useQuery({ queryKey: key, queryFn: () => api.customer(props.job) });

const EMPTY_STAY = { arrived_on: null, due_on: null, left_on: null, mileage_km: null };
/** What is typed, and the version that it was typed from. */
type Draft = { customer: Customer; base: number };
const place = computed(() => `customer ${props.job}`);
const edited = ref<Customer>();
const base = ref(0);
const stay = computed(() => edited.value?.stays.at(-1));
const earlier = computed(() => edited.value?.stays.slice(0, -1) ?? []);
const changed = computed(
  () =>
    edited.value !== undefined &&
    JSON.stringify(edited.value) !== JSON.stringify(shown(data.value?.customer)),
);

/** A customer to edit, nothing left out: there is always a stay to fill in. */
function shown(customer: Schemas['Customer'] | undefined): Customer | undefined {
  if (!customer) return undefined;
  const stays = customer.stays.map((stay) => ({
    arrived_on: stay.arrived_on ?? null,
    due_on: stay.due_on ?? null,
    left_on: stay.left_on ?? null,
    mileage_km: stay.mileage_km ?? null,
  }));
  return {
    ...customer,
    consent_on: customer.consent_on ?? null,
    stays: stays.length ? stays : [{ ...EMPTY_STAY }],
  };
}
function take(): void {
  edited.value = shown(data.value?.customer);
  base.value = data.value?.version ?? 0;
}
// What somebody else saves is shown as long as nothing is typed here.
watch(
  data,
  (now) => {
    if (!now) return;
    const draft = draftAt<Draft>(place.value);
    if (!edited.value && draft) {
      edited.value = draft.customer;
      base.value = draft.base;
    } else if (!draft) take();
  },
  { immediate: true },
);
watch(
  edited,
  (now) => noteDraft(place.value, changed.value && now ? { customer: now, base: base.value } : null),
  { deep: true },
);

const agreed = computed({
  get: () => edited.value?.consent_on != null,
  set: (now) => {
    if (edited.value) edited.value.consent_on = now ? todayAsWritten() : null;
  },
});
const isFilled = (visit: Customer['stays'][number]) => Object.values(visit).some((value) => value !== null);
const save = () =>
  trying(async () => {
    if (!edited.value) return;
    const customer = { ...edited.value, stays: edited.value.stays.filter(isFilled) };
    const by = preferences.value.name;
    const kept = await api.saveCustomer(props.job, { base_version: base.value, customer, by });
    queries.setQueryData(key.value, kept);
    take();
  }, 'Saved.');
function comeAgain(): void {
  edited.value?.stays.push({ ...EMPTY_STAY, arrived_on: todayAsWritten() });
}
const sure = ref(false);
const takeOut = () =>
  trying(async () => {
    await api.takeCustomerOut(props.job);
    sure.value = false;
    await queries.invalidateQueries({ queryKey: key.value });
    take();
  }, 'Taken out. Older backups no longer bring this customer back.');
const somebody = computed(() => (data.value?.version ?? 0) > 0);
function inWords(visit: Customer['stays'][number]): string {
  const days = [
    visit.arrived_on && `arrived ${dateInWords(visit.arrived_on)}`,
    visit.left_on && `left ${dateInWords(visit.left_on)}`,
  ];
  const mileage = visit.mileage_km === null ? '' : `${formatNumber(visit.mileage_km, 7)} km`;
  return [...days, mileage].filter(Boolean).join(', ');
}
</script>

<template>
  <form v-if="edited && stay" class="sheet mt-3" aria-label="Customer" @submit.prevent="save">
    <h2 class="h4">Customer</h2>
    <div class="fields">
      <TextField v-model="edited.name" label="Name" />
      <TextField v-model="edited.phone" label="Phone" />
      <TextField v-model="edited.plate" label="Number plate" />
      <QuantityField v-model="stay.mileage_km" label="Mileage" kind="kilometres" :empty="null" />
      <DayField v-model="stay.arrived_on" label="Arrived" />
      <DayField v-model="stay.due_on" label="Due" />
      <DayField v-model="stay.left_on" label="Left" />
    </div>
    <TextField v-model="edited.note" class="mt-3" label="About the customer" long />
    <CheckField
      v-model="agreed"
      :label="
        edited.consent_on
          ? `The customer agreed on ${dateInWords(edited.consent_on)} that the shop keeps this`
          : 'The customer agrees that the shop keeps this'
      "
    />
    <FoldBox v-if="earlier.length" :title="`Earlier stays (${earlier.length})`">
      <ul class="mb-2">
        <li v-for="(visit, number) in earlier" :key="number">{{ inWords(visit) }}</li>
      </ul>
    </FoldBox>
    <div class="d-flex flex-wrap align-items-center gap-2">
      <BButton type="submit" variant="primary" :disabled="!changed">Save the customer</BButton>
      <BButton v-if="stay.left_on" variant="plain" @click="comeAgain">The vehicle came again</BButton>
      <BButton v-if="changed && somebody" variant="plain" @click="take">Undo what is not saved</BButton>
      <span v-if="changed" class="said-edge" role="status">Not saved yet</span>
      <span v-else-if="said" class="said-clean" role="status">{{ said }}</span>
      <template v-if="somebody && !changed">
        <BButton v-if="!sure" variant="plain" @click="sure = true">Take the customer out …</BButton>
        <template v-else>
          <span>Name, phone, plate and stays are deleted for good. Readings stay.</span>
          <BButton variant="danger" @click="takeOut">Delete them</BButton>
          <BButton variant="plain" @click="sure = false">Keep them</BButton>
        </template>
      </template>
    </div>
    <p v-if="trouble" class="said-clipped mt-2 mb-0" role="alert">{{ trouble }}</p>
    <p class="quiet mt-2 mb-0">
      Kept apart from the system: on the shop’s sheet and in backups, never in an archive, a job file or the
      card.
    </p>
  </form>
</template>

<style scoped lang="scss">
.fields {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(min(100%, 13rem), 1fr));
  gap: 0.2rem 1rem;
}
</style>
