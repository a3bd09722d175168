<script setup lang="ts">
/** One amplifier for several paths, each on channels of its own; and back to one for itself. */
import { computed } from 'vue';
import type { Chain, Path } from '@/api/client';
import SelectField from '@/components/SelectField.vue';
import { useNewParts } from '@/composables/useNewParts';
import { channelsOf, share, shares, unshare } from '@/support/sharing';

const chain = defineModel<Chain>('chain', { required: true });
const path = defineModel<Path>('path', { required: true });
const { fresh } = useNewParts();

const sharers = computed(() =>
  chain.value.paths.filter((other) => other !== path.value && other.amplifier === path.value.amplifier),
);
const channels = computed(() => {
  const amplifier = chain.value.amplifiers.find((amplifier) => amplifier.id === path.value.amplifier);
  return amplifier ? channelsOf(amplifier, path.value.section) : '';
});
const offers = computed(() => shares(chain.value, path.value));
const options = computed(() => [
  { value: '', text: 'choose …' },
  ...offers.value.map((offer) => ({ value: offer.amplifier, text: offer.text })),
]);
const chosen = computed({
  get: () => '',
  set: (id: string) => {
    const wanted = offers.value.find((offer) => offer.amplifier === id);
    const blank = fresh('section');
    if (wanted && blank) share(chain.value, path.value, wanted, blank);
  },
});
</script>

<template>
  <p v-if="sharers.length" class="m-0 shared">
    Channels <strong>{{ channels }}</strong>. Shared with
    {{ sharers.map((sharer) => sharer.name || 'an unnamed path').join(', ') }}.
    <BButton variant="plain" @click="unshare(chain, path)">Use a separate amplifier</BButton>
  </p>
  <SelectField
    v-if="options.length > 1"
    v-model="chosen"
    class="with"
    label="Share an amplifier"
    :options="options"
  />
</template>

<style scoped>
.with {
  flex: 0 1 19rem;
}
.shared {
  flex: 1 1 100%;
}
</style>
