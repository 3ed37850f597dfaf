/** What was said of a thing, in words: of its JSON as the history keeps it. Empty values are left out. */
export function stateText(json: string | null): string {
  return json === null ? 'nothing' : said(JSON.parse(json)) || 'nothing';
}

function said(value: unknown): string {
  if (typeof value === 'string') return value;
  if (typeof value === 'number') return String(value);
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  if (Array.isArray(value)) return value.map(nameOf).filter(Boolean).join(', ');
  if (typeof value !== 'object' || value === null) return '';
  return Object.entries(value)
    .map(([key, inner]) => [wordsOf(key), said(inner)] as const)
    .filter(([, text]) => text !== '')
    .map(([key, text]) => `${key}: ${text}`)
    .join('; ');
}

/** Of a list of rules or recipes their names. */
function nameOf(value: unknown): string {
  return typeof value === 'object' && value !== null && 'name' in value ? said(value.name) : said(value);
}

/** `sinceBuild` is “since build”, and `isRefused` is “refused”. */
function wordsOf(key: string): string {
  return key
    .replace(/^is(?=[A-Z])/, '')
    .replace(/[A-Z]/g, (letter) => ` ${letter.toLowerCase()}`)
    .trim();
}
