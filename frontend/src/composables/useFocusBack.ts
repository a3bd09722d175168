/** Gives the focus back to where it was before something opened, once that is gone. */
import { onUnmounted } from 'vue';

export function useFocusBack(): void {
  const before = document.activeElement;
  onUnmounted(() => {
    if (before instanceof HTMLElement && before.isConnected) before.focus();
  });
}
