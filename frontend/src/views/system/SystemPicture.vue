<script setup lang="ts">
/** All parts of all paths in one picture; any of them is chosen here to be edited beside it. */
import { computed, nextTick, useTemplateRef, watch } from 'vue';
import type { Chain, Doubted } from '@/api/client';
import type { Part } from '@/support/refusals';
import { buildSystemGrid, NAMES, neighbour, type PartBlock } from '@/support/systemGrid';

const props = defineProps<{
  chain: Chain;
  /** The path and part that are open; none where the picture is only looked at. */
  chosen?: number;
  part?: Part;
  /** Paths, and parts of the chosen one, that have something to correct. */
  wrongPaths?: ReadonlySet<number>;
  wrongPart?: (path: number, part: Part) => boolean;
  /** What nobody has confirmed. */
  marks?: readonly Doubted[];
}>();
const emit = defineEmits<{ choose: [path: number, part: Part] }>();

const grid = computed(() => buildSystemGrid(props.chain));
const isOf = (partBlock: PartBlock) => props.chosen !== undefined && partBlock.paths.includes(props.chosen);
const isOpen = (partBlock: PartBlock) => partBlock.part === props.part && isOf(partBlock);
const wrong = (partBlock: PartBlock) =>
  partBlock.paths.some((path) => props.wrongPart?.(path, partBlock.part));
/** One stop for Tab: the part that is open, else its path's name; from there the arrows go on. */
const openBlock = computed(() => grid.value.blocks.find(isOpen));
function unconfirmed(partBlock: PartBlock): boolean {
  // An output has a block of its own above its source's.
  const source = partBlock.key.startsWith('source ');
  return (props.marks ?? []).some(
    ({ place }) => place.startsWith(partBlock.place) && !(source && place.includes('.outputs.')),
  );
}
/** All that a block shows: the others aren't drawn anew when one changes. */
const shownOf = (partBlock: PartBlock): unknown[] => [
  ...Object.values({ ...partBlock, paths: partBlock.paths.join(' ') }),
  props.part,
  props.chosen,
  partBlock === openBlock.value,
  wrong(partBlock),
  unconfirmed(partBlock),
];
const nameOf = (index: number) => props.chain.paths[index]?.name || `Path ${index + 1}`;

const picture = useTemplateRef<HTMLElement>('picture');
watch(
  () => props.chosen,
  async () => {
    await nextTick();
    picture.value
      ?.querySelector('[aria-pressed=true]')
      ?.scrollIntoView({ block: 'nearest', inline: 'nearest' });
  },
);
/** The arrows go from block to block, as in a grid. */
function move(event: KeyboardEvent, row: number, column: number): void {
  const to = neighbour(grid.value, { row, column }, event.key);
  if (!to) return;
  event.preventDefault();
  picture.value?.querySelector<HTMLElement>(`[data-row="${to.row}"][data-column="${to.column}"]`)?.focus();
}
</script>

<template>
  <nav class="scroll" aria-label="Paths of the system">
    <div
      ref="picture"
      class="grid"
      :style="{ gridTemplateColumns: `repeat(${grid.order.length}, minmax(8.2rem, 15rem))` }"
    >
      <template v-if="!part">
        <span
          v-for="(index, column) in grid.order"
          :key="`path ${index}`"
          class="path fw-bold text-center"
          :style="{ gridRow: 1, gridColumn: column + 1 }"
          >{{ nameOf(index) }}</span
        >
      </template>
      <template v-else>
        <BButton
          v-for="(index, column) in grid.order"
          :key="`path ${index}`"
          v-memo="[column, part, nameOf(index), index === chosen, !openBlock, wrongPaths?.has(index)]"
          class="path"
          :variant="index === chosen ? 'primary' : 'plain'"
          :aria-pressed="index === chosen"
          :style="{ gridRow: 1, gridColumn: column + 1 }"
          :tabindex="index === chosen && !openBlock ? 0 : -1"
          :data-row="NAMES"
          :data-column="column"
          @click="emit('choose', index, part)"
          @keydown="(event: KeyboardEvent) => move(event, NAMES, column)"
        >
          {{ nameOf(index) }}<span v-if="wrongPaths?.has(index)" class="wrong"> · correct</span>
        </BButton>
      </template>
      <component
        :is="part ? 'button' : 'div'"
        v-for="block in grid.blocks"
        :key="`${block.key} ${block.column}`"
        v-memo="shownOf(block)"
        :type="part ? 'button' : undefined"
        class="block"
        :class="{ open: isOpen(block), top: block.row === 0, of: isOf(block) || chosen === undefined }"
        :style="{ gridRow: block.row + 2, gridColumn: `${block.column + 1} / span ${block.span}` }"
        :tabindex="block === openBlock ? 0 : -1"
        :aria-current="isOpen(block) || undefined"
        :data-row="block.row"
        :data-column="block.column"
        @click="emit('choose', isOf(block) && chosen !== undefined ? chosen : block.path, block.part)"
        @keydown="(event: KeyboardEvent) => move(event, block.row, block.column)"
      >
        <span class="words">
          <span class="name">{{ block.name }}</span>{{ ' '
          }}<span class="figure digits">{{ block.figure }}</span
          >{{ ' ' }}<span v-if="wrong(block)" class="said-clipped">to correct</span
          ><span v-else-if="unconfirmed(block)" class="said-edge">not confirmed</span>
        </span>
      </component>
    </div>
  </nav>
</template>

<style scoped>
.scroll {
  overflow-x: auto;
  padding: 3px;
}
.grid {
  display: grid;
  gap: 3px;
  justify-content: start;
}
.path {
  margin-bottom: 0.6rem;
  overflow-wrap: anywhere;
}
.block {
  display: flex;
  justify-content: center;
  align-items: center;
  min-height: 44px;
  padding: 0.25rem 0.5rem;
  border: 1.5px solid var(--ink);
  background: var(--stone);
  color: var(--ink);
  text-align: center;
}
/* The words of a wide block stay in sight while the picture is scrolled. */
.words {
  position: sticky;
  left: 0.5rem;
  right: 0.5rem;
  display: flex;
  flex-wrap: wrap;
  justify-content: center;
  gap: 0 0.6rem;
}
.block:not(.of) {
  border-color: var(--grey);
}
.block.open {
  background: var(--clean-wash);
  outline: 3px solid var(--clean);
  outline-offset: -3px;
}
.block:focus-visible {
  outline: 3px solid var(--ochre);
  outline-offset: 0;
}
.name {
  font-weight: 650;
  overflow-wrap: anywhere;
}
/* A row of teeth along the top. */
.block.top {
  position: relative;
}
.block.top::before {
  content: '';
  position: absolute;
  left: -1.5px;
  right: -1.5px;
  top: -9px;
  height: 8px;
  background: repeating-linear-gradient(90deg, var(--ink) 0 14px, transparent 14px 28px);
}
</style>
