/** Whether the page's first frame was drawn: what lies below the fold waits for it. */
import { onMounted, ref } from 'vue';

const MOST_MS = 500;

export function useDrawn() {
  const drawn = ref(false);
  const show = () => (drawn.value = true);
  onMounted(() => {
    requestAnimationFrame(() => setTimeout(show));
    // A page that nobody sees draws no frame.
    setTimeout(show, MOST_MS);
  });
  return drawn;
}
