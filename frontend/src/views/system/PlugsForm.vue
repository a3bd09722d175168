<script setup lang="ts">
/** The plugs of a factory system: pins, colours, and what each wire is taken for until it is measured. */
import type { Source } from '@/api/client';
import FoldBox from '@/components/FoldBox.vue';
import SelectField from '@/components/SelectField.vue';
import TextField from '@/components/TextField.vue';
import { useNewParts } from '@/composables/useNewParts';
import { newId } from '@/support/ids';
import { WIRE_ROLES } from '@/support/wires';

type Plug = Source['plugs'][number];
const props = defineProps<{ problems: Record<string, string>; place: string }>();
const source = defineModel<Source>({ required: true });

const MOST_PLUGS = 8;
const MOST_WIRES = 48;
const { fresh } = useNewParts();
function addPlug(): void {
  const part = fresh('plug');
  if (!part) return;
  const name = String.fromCharCode(65 + source.value.plugs.length);
  source.value.plugs.push({ ...part, id: newId('plug'), name });
  addWire(source.value.plugs.at(-1));
}
function addWire(plug: Plug | undefined): void {
  const part = fresh('wire');
  const pin = plug ? String(plug.wires.length + 1) : '';
  if (plug && part) plug.wires.push({ ...part, id: newId('wire'), pin });
}
const at = (field: string) => props.problems[`${props.place}.plugs.${field}`];
</script>

<template>
  <FoldBox :title="`Plugs and wires: ${source.plugs.length || 'none'}`" :open="source.plugs.length > 0">
    <p class="quiet mb-1">Each plug becomes a step: what every wire is, measured pin by pin.</p>
    <fieldset v-for="(plug, index) in source.plugs" :key="plug.id" class="plug">
      <legend class="visually-hidden">Plug {{ index + 1 }}</legend>
      <TextField v-model="plug.name" class="name" label="Plug" :problem="at(`${index}.name`)" />
      <div v-for="(wire, row) in plug.wires" :key="wire.id" class="wire">
        <TextField v-model="wire.pin" label="Pin" :problem="at(`${index}.wires.${row}.pin`)" />
        <TextField v-model="wire.colour" label="Colour" :problem="at(`${index}.wires.${row}.colour`)" />
        <SelectField v-model="wire.role" class="role" label="Taken for" :options="WIRE_ROLES" />
        <TextField
          v-if="wire.role === 'speaker'"
          v-model="wire.speaker"
          class="role"
          label="Speaker"
          hint="front left …"
          :problem="at(`${index}.wires.${row}.speaker`)"
        />
        <BButton
          variant="plain"
          class="out"
          :aria-label="`Remove wire ${wire.pin}`"
          @click="plug.wires.splice(row, 1)"
          >Remove</BButton
        >
      </div>
      <div class="d-flex flex-wrap gap-2">
        <BButton v-if="plug.wires.length < MOST_WIRES" variant="plain" @click="addWire(plug)"
          >Add a wire</BButton
        >
        <BButton variant="plain" @click="source.plugs.splice(index, 1)">Remove plug {{ plug.name }}</BButton>
      </div>
    </fieldset>
    <BButton v-if="source.plugs.length < MOST_PLUGS" variant="plain" class="mt-2" @click="addPlug"
      >Add a plug</BButton
    >
  </FoldBox>
</template>

<style scoped>
.plug {
  border-top: 1px solid var(--line);
  padding: 0.4rem 0;
}
.name {
  max-width: 10rem;
}
.wire {
  display: grid;
  grid-template-columns: 4.5rem minmax(0, 1fr) minmax(0, 1.3fr) minmax(0, 1fr) max-content;
  gap: 0 0.6rem;
  align-items: start;
}
.wire .out {
  grid-column: -2;
  margin-top: 1.9rem;
  min-height: 44px;
}
@media (max-width: 700px) {
  .wire {
    grid-template-columns: 4.5rem minmax(0, 1fr);
    border-bottom: 1px dotted var(--line);
    padding-bottom: 0.4rem;
  }
  .wire .role,
  .wire .out {
    grid-column: 1 / -1;
  }
  .wire .out {
    margin-top: 0.3rem;
  }
}
</style>
