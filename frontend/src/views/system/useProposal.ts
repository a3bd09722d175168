/** The crossovers and the delay that the plan proposes for the chosen path, and taking them with what belongs to them. */
import { computed, type Ref } from 'vue';
import type { JobSheet, Path, Plan, Proposal } from '@/api/client';
import { copyOf } from '@/support/ids';

export function useProposal(
  sheet: Ref<JobSheet | null>,
  plan: Ref<Plan | undefined>,
  joined: Ref<Path | undefined>,
  /** Whether the plan is still that of an older sheet: what it offers may then leave a hole in what stands now. */
  behind: Ref<boolean>,
) {
  const proposals = computed(() => plan.value?.crossovers.proposals ?? []);
  const proposal = computed(() => proposals.value.find((proposal) => proposal.path === joined.value?.id));

  /** Sets filters and polarity as proposed, on this path and on those that go with it. */
  function take(wanted: Proposal): void {
    if (behind.value) return;
    const paths = [wanted.path, ...(wanted.together ?? [])];
    for (const proposal of proposals.value.filter((proposal) => paths.includes(proposal.path))) {
      const to = sheet.value?.chain.paths.find((path) => path.id === proposal.path);
      if (to) Object.assign(to, { filters: copyOf(proposal.filters), inverted: proposal.inverted });
    }
  }

  const delays = computed(() => plan.value?.crossovers.delays ?? []);
  const delay = computed(() => delays.value.find((delay) => delay.path === joined.value?.id));

  /** Sets the delays of every path as their distances ask for. */
  function align(): void {
    if (behind.value) return;
    for (const delay of delays.value) {
      const to = sheet.value?.chain.paths.find((path) => path.id === delay.path);
      if (!to) continue;
      to.delay_ms = delay.delay_ms;
      to.left.delay_ms = delay.left_ms;
      to.right.delay_ms = delay.right_ms;
    }
  }

  return { proposal, delay, take, align };
}
