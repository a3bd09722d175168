/** A number as it is typed: shown with its unit, read strictly, refused with the reason, given on when it is one. */
import { ref, type Ref, watch } from 'vue';
import { decimalMark } from '@/support/decimalMark';
import { formatValue, parseQuantity, type QuantityKind } from '@/support/quantity';
import quantities from '@/support/quantities.json';

export function useQuantityText<T extends number | null>(
  value: () => T | undefined,
  kind: () => QuantityKind,
  give: (value: T) => void,
  /** What an empty field means; undefined when it must not be empty. */
  empty?: () => T | undefined,
  /** Somebody has emptied it. */
  emptied?: () => void,
): {
  text: Ref<string>;
  reason: Ref<string>;
  typed: (said: string | number | null) => void;
  focus: () => void;
  leave: () => void;
} {
  const shown = (quantity: T | undefined) =>
    quantity == null ? '' : formatValue(quantity, quantities[kind()].unit, 6);
  const text = ref(shown(value()));
  const reason = ref('');
  let focused = false;

  watch([value, decimalMark], () => {
    if (!focused && !reason.value) text.value = shown(value());
  });

  function typed(said: string | number | null): void {
    text.value = String(said ?? '');
    const unknown = empty?.();
    if (unknown !== undefined && !text.value.trim()) {
      reason.value = '';
      if (value() !== unknown) give(unknown);
      emptied?.();
      return;
    }
    const parsed = parseQuantity(text.value, kind());
    reason.value = 'reason' in parsed ? parsed.reason : '';
    if ('value' in parsed && parsed.value !== value()) give(parsed.value as T);
  }

  return {
    text,
    reason,
    typed,
    focus: () => (focused = true),
    leave: () => {
      focused = false;
      if (!reason.value) text.value = shown(value());
    },
  };
}
