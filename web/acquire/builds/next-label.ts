/** A label for the build after this one: its last number, counted up. `0.9` gives `0.10`, `beta 3b` gives `beta 4b`. */
export function nextLabel(label: string): string {
  const last = /(\d+)(?!.*\d)/.exec(label);
  if (!last?.[1]) return '';
  const number = String(Number(last[1]) + 1).padStart(last[1].length, '0');
  return label.slice(0, last.index) + number + label.slice(last.index + last[1].length);
}
