/** The fields of a form: which there are, what they are called, and going to one. */
export type Field = HTMLInputElement | HTMLSelectElement | HTMLTextAreaElement;

export const fieldsOf = (form: HTMLElement) =>
  [...form.querySelectorAll<Field>('input, select, textarea')].filter((field) => !field.disabled);

export const nameOf = (field: HTMLElement) =>
  ('labels' in field ? (field as Field).labels?.[0]?.textContent?.trim() : undefined) ??
  field.getAttribute('aria-label') ??
  '';

export function enter(field: HTMLElement | undefined): void {
  field?.focus();
  if (field instanceof HTMLInputElement && field.type !== 'checkbox') field.select();
}
