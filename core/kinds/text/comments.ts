/** What stands beside the values of structured texts, by format: comments, and what else is no value. */
const patterns: Readonly<Record<string, RegExp>> = {
  xml: /<!--([\s\S]*?)-->|<\?(?!xml\s)([\s\S]*?)\?>|<!DOCTYPE([^>]*)>/g,
  yaml: /(?:^|\s)#(.*)$/gm,
  ini: /^\s*[;#](.*)$|^\s*([^;#[\s=][^=\n]*)$/gm,
  mtl: /#(.*)$/gm,
  po: /^#(.*)$/gm,
  strings: /^\s*(?:\/\/|[#!])(.*)$|\/\*([\s\S]*?)\*\//gm,
};

/** Words of comments, one after the other, without the spaces around them. Empty where a format has none. */
export function commentsOf(text: string, format: string): string[] {
  const pattern = patterns[format];
  if (!pattern) return [];
  return [...text.matchAll(pattern)]
    .map((match) => (match.slice(1).find((words) => words !== undefined) ?? '').replace(/\s+/g, ' ').trim())
    .filter((words) => words !== '');
}
