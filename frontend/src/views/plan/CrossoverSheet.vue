<script setup lang="ts">
/** The crossovers: what every group sounds like together, the bands proposed, and how each corner is set by voltage. */
import { computed } from 'vue';
import type { CrossoverPlan, Group } from '@/api/client';
import ResponsePaper from '@/components/ResponsePaper.vue';
import TheArithmetic from '@/components/TheArithmetic.vue';
import { dashOf } from '@/support/axes';
import { speakerDelays } from '@/support/delays';
import { formatDb, formatFixed, formatSigned, formatValue } from '@/support/quantity';
import CornerCheck from './CornerCheck.vue';

const props = defineProps<{
  plan: CrossoverPlan;
  /** The path that is shown in full: its corners and its groups. */
  path: string | undefined;
}>();
const lines = computed(() =>
  props.plan.responses.map((response, index) => ({
    path: response.path,
    name: response.name,
    dash: dashOf(index),
    levels: response.level_db,
  })),
);
const linesOf = (group: Group) => lines.value.filter((line) => group.paths.includes(line.path));
const own = <One extends { path: string }>(all: readonly One[]) =>
  all.filter((proposal) => proposal.path === props.path);
const corners = computed(() => own(props.plan.corners));
const groups = computed(() => props.plan.groups.filter((group) => group.paths.includes(props.path ?? '')));
/** What is proposed for this path, with all that has to be taken with it. */
const open = computed(() => {
  const unsettled = props.plan.proposals.filter((proposal) => !proposal.settled);
  const mine = unsettled.find((proposal) => proposal.path === props.path);
  return mine
    ? unsettled.filter((proposal) => proposal === mine || mine.together?.includes(proposal.path))
    : [];
});
const aligned = computed(() => props.plan.delays?.every((delay) => delay.settled));
const db = (value: number) => `${formatSigned(value, 1)} dB`;
</script>

<template>
  <section class="sheet">
    <h2 class="h4">Crossovers</h2>
    <ResponsePaper
      v-if="!groups.length"
      label="Filters and equaliser of this path"
      :hertz="plan.frequencies_hz"
      :lines="lines.filter((line) => line.path === path)"
    />
    <template v-for="group in groups" :key="group.name">
      <h3 class="h5 mt-2">{{ group.name }}, together</h3>
      <ResponsePaper
        :label="`Sum of the paths of ${group.name}`"
        :hertz="plan.frequencies_hz"
        :lines="linesOf(group)"
        :sum="group.level_db"
      />
      <ul class="meetings digits">
        <li v-for="crossing in group.crossings" :key="crossing.frequency_hz">
          {{ crossing.lower }} and {{ crossing.upper }} meet at
          {{ formatValue(crossing.frequency_hz, 'Hz', 3) }}, {{ db(crossing.alone_db) }} each,
          {{ db(crossing.sum_db) }} together.
        </li>
      </ul>
    </template>
    <p v-if="groups.length" class="quiet">
      As if every speaker were equally loud in its band; the cabin adds its own. {{ plan.delays_note }}
    </p>
    <template v-if="groups.length && plan.delays?.length">
      <h3 class="h5 mt-3">Delays by distance</h3>
      <p class="quiet mb-1">
        {{ aligned ? 'All speakers arrive together.' : 'Apply them on the System screen, under Speakers.' }}
      </p>
      <ul class="meetings digits">
        <li v-for="delay in plan.delays" :key="delay.path">
          {{ delay.name }}: {{ speakerDelays(delay).join('; ') }}.
        </li>
      </ul>
    </template>
    <template v-if="open.length">
      <h3 class="h5 mt-3">Bands proposed</h3>
      <p class="quiet mb-1">
        From each driver’s range, its box and its neighbours. Apply them on the System screen.
      </p>
      <div class="long" tabindex="0" role="group" aria-label="Bands proposed">
        <div v-for="proposal in open" :key="proposal.path" class="proposal">
          <p class="m-0">
            <strong>{{ proposal.name }}:</strong> {{ proposal.words }}
          </p>
          <TheArithmetic v-if="proposal.because.length" :lines="proposal.because" title="Why so" />
        </div>
      </div>
    </template>
    <article v-for="corner in corners" :key="corner.name" class="corner">
      <h3 class="h5 mb-1">{{ corner.name }}</h3>
      <p class="mb-1">
        Play {{ corner.play }} at volume {{ corner.volume }}, note the volts with the filter open.
        <strong class="digits">Then × {{ formatFixed(corner.ratio, 3) }}</strong> ({{
          formatDb(corner.marked_db)
        }}).
        {{ corner.turn }}
      </p>
      <p class="quiet mb-1">{{ corner.dial }}</p>
      <TheArithmetic v-if="corner.because?.length" :lines="corner.because" title="Why so" />
      <CornerCheck :kind="corner.kind" :corner-hz="corner.frequency_hz" />
    </article>
  </section>
</template>

<style scoped>
.meetings {
  padding-left: 1.2rem;
}
.proposal {
  padding: 0.2rem 0 0.4rem;
}
.corner {
  padding: 0.6rem 0;
  border-top: 1px solid var(--line);
}
</style>
