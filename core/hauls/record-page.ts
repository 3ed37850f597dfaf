import type { HaulRecord } from '../../contract/hauls.ts';
import { bytesText, plural } from '../figures.ts';

/** The page that lies beside `haul.json`, for people. */
export function recordPage(record: HaulRecord): string {
  const { name, title, channel, version, files, sources } = record;
  const builds = [...new Set(sources.map(({ build }) => build))];
  const count = (verdict: string): number => files.filter((file) => file.verdict === verdict).length;
  const bytes = files.reduce((sum, file) => sum + file.bytes, 0);
  const told = new Map<string, typeof files>();
  for (const file of files) told.set(file.from, [...(told.get(file.from) ?? []), file]);
  return plainPage(
    name,
    `<h1>${escaped(name)}</h1>
<p>${escaped(title)}, channel ${escaped(channel)}, ${builds.length === 1 ? 'build' : 'builds'} ${escaped(builds.join(', '))}. Written by Worvel ${escaped(version)}: ${plural(files.length, 'file')}, ${bytesText(bytes)}.</p>
<p>Each was read again and compared with what it was made of: ${count('the same')} are the same, ${count('differs')} differ, ${count('not checked')} were not checked. <code>worvel haul run haul.json</code> does all of it again.</p>
${gallery(files)}<table>
<thead><tr><th>File</th><th class="number">Size</th><th>Read again</th><th>Taken from</th></tr></thead>
<tbody>
${[...told]
  .map(([from, list]) =>
    list
      .map(
        ({ target, bytes: size, verdict, sentence, sha256 }) =>
          `<tr><td>${escaped(target)}<br><small>${sha256}</small></td><td class="number">${bytesText(size)}</td><td>${escaped(verdict)}${sentence ? `: ${escaped(sentence)}` : ''}</td><td>${escaped(from)}</td></tr>`,
      )
      .join('\n'),
  )
  .join('\n')}
</tbody>
</table>`,
  );
}

const drawn = ['.pose.png', '.pieces.png', '.unmatched.png'];

/** What was drawn of clips and of models in pieces, all at a glance, each with where it came from. */
function gallery(files: HaulRecord['files']): string {
  const shown = files.filter(({ target }) => drawn.some((ending) => target.endsWith(ending)));
  if (shown.length === 0) return '';
  const figures = shown.map(({ target, from }) => {
    const name = target.replace(/^.*\//, '').replace(/\.(pose|pieces|unmatched)\.png$/, '');
    const address = target.split('/').map(encodeURIComponent).join('/');
    return `<figure><img src="${escaped(address)}" alt="${escaped(name)}" loading="lazy" width="160"><figcaption>${escaped(name)}<br><small>${escaped(from)}</small></figcaption></figure>`;
  });
  return `<div class="gallery">\n${figures.join('\n')}\n</div>\n`;
}

/** A page that stands alone, and asks for nothing from elsewhere. @param body as HTML */
export function plainPage(title: string, body: string): string {
  return `<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<title>${escaped(title)}</title>
<style>
body { margin: 0 auto; padding: 1.5rem; max-width: 72rem; background: #f7f2e6; color: #12332f; font: 1rem/1.5 Georgia, serif; }
table { width: 100%; border-collapse: collapse; font: 0.85rem/1.4 ui-monospace, monospace; }
th, td { padding: 0.3rem 0.5rem; border-top: 1px solid #cfc6b0; text-align: left; vertical-align: top; overflow-wrap: anywhere; }
th { font-family: Georgia, serif; }
figure { margin: 0; overflow-wrap: anywhere; font-size: 0.85rem; }
img { max-width: 100%; height: auto; background: #efe7d4; }
.gallery { display: grid; grid-template-columns: repeat(auto-fill, minmax(10rem, 1fr)); gap: 1rem; margin: 1rem 0; }
.number { text-align: right; white-space: nowrap; }
@media (prefers-color-scheme: dark) { body { background: #0f2430; color: #e6e0d0; } th, td { border-color: #35505c; } }
</style>
</head>
<body>
${body}
</body>
</html>
`;
}

export function escaped(text: string): string {
  return text.replace(
    /[&<>"]/g,
    (letter) => ({ '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' })[letter] ?? '',
  );
}
