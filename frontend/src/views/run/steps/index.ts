/** One component for each kind of step; a kind without its view doesn't compile. */
import type { Component } from 'vue';
import type { MeterEvent, Step } from '@/api/client';
import type { RunDesk } from '@/composables/useRunDesk';
import type { Gate } from '../useGate';
import CheckStep from './CheckStep.vue';
import ChecklistStep from './ChecklistStep.vue';
import GainStep from './GainStep.vue';
import LackingStep from './LackingStep.vue';
import VolumeStepsStep from './VolumeStepsStep.vue';
import MatchStep from './MatchStep.vue';
import RowsStep from './RowsStep.vue';
import KnobPositionsStep from './KnobPositionsStep.vue';

/** What each is given: the run's desk, what comes before the step, and the live meter when the bench is in use. */
export type StepProps = {
  desk: RunDesk;
  gate: Gate;
  meter: MeterEvent | null;
  simulated: boolean;
  /** Whether the live meter still moves. */
  settling: boolean;
};

export const STEPS: Record<Step['kind'], Component> = {
  checklist: ChecklistStep,
  volume_steps: VolumeStepsStep,
  gain: GainStep,
  match: MatchStep,
  lacking: LackingStep,
  supply: RowsStep,
  plug: RowsStep,
  survey: RowsStep,
  factory: RowsStep,
  converter: RowsStep,
  corner: RowsStep,
  prove: RowsStep,
  cabin: RowsStep,
  blend: RowsStep,
  other_ways: RowsStep,
  trims: RowsStep,
  source_sweep: RowsStep,
  knob_positions: KnobPositionsStep,
  check: CheckStep,
};
