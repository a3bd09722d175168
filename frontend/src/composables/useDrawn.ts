/** Whether the page's first frame was drawn: what lies below the fold waits for it. */
import { onMounted, ref } from 'vue';

export function useDrawn() {
  const drawn = ref(false);
  onMounted(() => requestAnimationFrame(() => setTimeout(() => (drawn.value = true))));
  return drawn;
}
