/** How a part is woken, in words. */
export const TURN_ONS = [
  { value: 'lead' as const, text: 'Remote lead' },
  { value: 'sensing' as const, text: 'Signal sensing' },
];
