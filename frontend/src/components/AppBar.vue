<script setup lang="ts">
import { useColorMode } from 'bootstrap-vue-next/composables/useColorMode';
import { computed, defineAsyncComponent, ref } from 'vue';
import IconMoon from '~icons/bi/moon-stars';
import IconSun from '~icons/bi/sun';
import { useDoor } from '@/composables/useDoor';
import ConnectionMark from './ConnectionMark.vue';
import KeptMark from './KeptMark.vue';
import MainMenu from './MainMenu.vue';

const emit = defineEmits<{ help: []; calculator: [] }>();
const mode = useColorMode({ persist: true, storageKey: 'rook.theme', disableTransition: false });
const SettingsDialog = defineAsyncComponent(() => import('./SettingsDialog.vue'));
const settingsOpen = ref(false);
const { person } = useDoor();
const isDark = computed(() => mode.state.value === 'dark');
const turnTheme = () => (mode.value = isDark.value ? 'light' : 'dark');
</script>

<template>
  <header class="bar no-print">
    <RouterLink :to="{ name: 'jobs' }" class="brand" aria-label="Upper Rook, list of jobs">
      <svg viewBox="0 0 32 32" aria-hidden="true">
        <path d="M6 3h5v4h3V3h4v4h3V3h5v9l-3 3v9l4 3v3H5v-3l4-3v-9l-3-3z" />
      </svg>
      <span>Upper Rook</span>
    </RouterLink>
    <div id="job-head" class="job-head" />
    <KeptMark />
    <ConnectionMark />
    <BButton
      variant="plain"
      class="icon"
      :aria-label="isDark ? 'Light theme' : 'Dark theme'"
      @click="turnTheme"
    >
      <IconSun v-if="isDark" aria-hidden="true" />
      <IconMoon v-else aria-hidden="true" />
    </BButton>
    <BButton variant="plain" class="icon not-touch" aria-label="Keys" title="Keys (?)" @click="emit('help')"
      >?</BButton
    >
    <RouterLink v-if="person" class="btn btn-plain who" :to="{ name: 'people' }">{{
      person.name
    }}</RouterLink>
    <MainMenu @help="emit('help')" @settings="settingsOpen = true" @calculator="emit('calculator')" />
    <SettingsDialog v-if="settingsOpen" v-model="settingsOpen" />
  </header>
</template>

<style scoped lang="scss">
@use '@/styles/breakpoints' as at;

.bar {
  display: flex;
  align-items: center;
  gap: 0.5rem;
  max-width: 1320px;
  margin: 0 auto;
  padding: 0.5rem 1rem;
}
.job-head {
  flex: 1 1 auto;
  min-width: 0;
}
.brand {
  display: inline-flex;
  align-items: center;
  gap: 0.5rem;
  min-height: 44px;
  font-weight: 700;
  font-size: 1.15rem;
  white-space: nowrap;
  color: var(--ink);
  text-decoration: none;
}
.brand svg {
  width: 28px;
  fill: currentColor;
}
.who {
  max-width: 9rem;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.icon {
  width: 44px;
  padding: 0;
  font-weight: 700;
}
@include at.narrow {
  /* Settings lead there as well. */
  .who {
    display: none;
  }
  .bar {
    flex-wrap: wrap;
    gap: 0 0.5rem;
  }
  .brand {
    flex: 1 1 auto;
  }
  .job-head {
    order: 1;
    flex-basis: 100%;
  }
}
/* Its words would push the menu into a line of its own; the rook stays. */
@include at.slim {
  .bar:has(.connection.lost) .brand span {
    display: none;
  }
}
@include at.lying {
  .bar {
    flex-wrap: nowrap;
    padding-block: 0.15rem;
  }
  .brand {
    flex: 0 0 auto;
  }
  .brand span {
    display: none;
  }
  .job-head {
    order: 0;
    flex-basis: 0;
  }
}
@include at.slim {
  .brand span {
    font-size: 1rem;
  }
}
</style>
