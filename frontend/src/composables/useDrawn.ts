/** Whether the page's first frame was drawn: parts below the fold wait for it. */
import { onMounted, ref } from 'vue';

const MOST_MS = 500;

export function useDrawn() {
  const drawn = ref(false);
  const show = () => (drawn.value = true);
  onMounted(() => {
    requestAnimationFrame(() => setTimeout(show));
    // A hidden page draws no frame.
    setTimeout(show, MOST_MS);
  });
  return drawn;
}
