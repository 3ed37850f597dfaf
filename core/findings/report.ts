import type { News, NewsItem } from '../../contract/news.ts';
import { bytesText, plural } from '../figures.ts';

export type ReportFormat = 'md' | 'json' | 'html';

export const reportTypes: Readonly<Record<ReportFormat, string>> = {
  md: 'text/markdown; charset=utf-8',
  json: 'application/json',
  html: 'text/html; charset=utf-8',
};

const shownItems = 60;
const shownStrings = 100;

/** The news of an update as a text of its own, to be read without the program. */
export function writeReport(news: News, format: ReportFormat): string {
  if (format === 'json') return `${JSON.stringify(news, null, 2)}\n`;
  const parts = partsOf(news);
  return format === 'md' ? asMarkdown(parts) : asHtml(parts);
}

/** A report before it is written: titles, paragraphs, lists and tables of plain text. */
type Part =
  | { sort: 'title' | 'heading' | 'text'; text: string }
  | { sort: 'list'; items: string[] }
  | { sort: 'table'; head: string[]; rows: string[][] };

function partsOf(news: News): Part[] {
  const parts: Part[] = [
    { sort: 'title', text: `${news.title}, ${news.channel}: what changed from ${news.from} to ${news.to}` },
    { sort: 'text', text: summaryText(news) },
  ];
  if (news.evidence !== 'done')
    parts.push({
      sort: 'text',
      text: 'The contents were not compared to their end: what follows tells of changed files only that they differ.',
    });
  const section = (title: string, ...more: Part[]): void =>
    void parts.push({ sort: 'heading', text: title }, ...more);
  if (news.news.length > 0)
    section('What is new, the most first', {
      sort: 'table',
      head: ['Points', 'What', 'Where', 'How', 'Why it stands here'],
      rows: news.news.slice(0, shownItems).map(itemRow),
    });
  if (news.families.length > 0)
    section('New families', {
      sort: 'list',
      items: news.families.map(({ name, files, face }) => `${name}: ${plural(files, 'file')}, ${face}`),
    });
  if (news.freshParts.length > 0)
    section('Names never seen', {
      sort: 'list',
      items: news.freshParts
        .slice(0, 40)
        .map(
          ({ part, meaning, assets, examples }) =>
            `${part}${meaning === '' ? '' : ` (${meaning})`}: ${plural(assets, 'file')}, such as ${examples[0] ?? ''}`,
        ),
    });
  if (news.strings.length > 0)
    section(
      'Strings',
      {
        sort: 'text',
        text: `${plural(news.stringsTotal, 'string')} new or changed${news.untranslated > 0 ? `, ${news.untranslated.toLocaleString('en')} untranslated` : ''}.`,
      },
      {
        sort: 'table',
        head: ['Language', 'Key', 'Before', 'Now'],
        rows: news.strings
          .slice(0, shownStrings)
          .map(({ language, key, old, value }) => [language, key, old ?? '', value]),
      },
    );
  section('By kind', {
    sort: 'table',
    head: ['Kind', 'Added', 'Removed', 'Changed', 'Repacked', 'Moved', 'Copied'],
    rows: Object.entries(news.kinds).map(([kind, counts]) => [
      kind,
      ...(['added', 'removed', 'changed', 'repacked', 'moved', 'copied'] as const).map((status) =>
        (counts[status] ?? 0).toLocaleString('en'),
      ),
    ]),
  });
  section('What grew', {
    sort: 'table',
    head: ['Kind', news.from, news.to, 'Files'],
    rows: news.growth.map(({ kind, oldBytes, newBytes, oldFiles, newFiles }) => [
      kind,
      bytesText(oldBytes),
      bytesText(newBytes),
      `${oldFiles.toLocaleString('en')} → ${newFiles.toLocaleString('en')}`,
    ]),
  });
  if (news.containers.length > 0)
    section('Archives that differ', {
      sort: 'list',
      items: news.containers.map(({ path, sentence }) => `${path}: ${sentence}`),
    });
  if (news.folderMoves.length > 0)
    section('Folders that moved', {
      sort: 'list',
      items: news.folderMoves.map(({ from, to, files }) => `${from} → ${to}, ${plural(files, 'file')}`),
    });
  const hiding = news.folds.filter(({ hides }) => hides > 0);
  if (hiding.length > 0)
    section('Folded away as noise', {
      sort: 'list',
      items: hiding.map(({ name, hides }) => `${hides.toLocaleString('en')}: ${name}`),
    });
  return parts;
}

function summaryText({ summary }: News): string {
  const { unchanged, leftOut, ...counts } = summary;
  const said = Object.entries(counts)
    .filter(([, count]) => count > 0)
    .map(([status, count]) => `${count.toLocaleString('en')} ${status}`);
  return `${said.length === 0 ? 'Nothing differs' : said.join(', ')}; ${unchanged.toLocaleString('en')} unchanged${leftOut > 0 ? `, ${leftOut.toLocaleString('en')} left out of one build` : ''}.`;
}

function itemRow({ score, status, kind, path, evidence, reasons }: NewsItem): string[] {
  return [
    String(score),
    `${status} ${kind}`,
    path,
    evidence,
    reasons.map(({ why, points }) => `${why} (${points})`).join('; '),
  ];
}

function asMarkdown(parts: readonly Part[]): string {
  const blocks = parts.map((part) => {
    switch (part.sort) {
      case 'title':
        return `# ${markdownText(part.text)}`;
      case 'heading':
        return `## ${markdownText(part.text)}`;
      case 'text':
        return markdownText(part.text);
      case 'list':
        return part.items.map((item) => `- ${markdownText(item)}`).join('\n');
      case 'table':
        return [part.head, part.head.map(() => '---'), ...part.rows]
          .map((row) => `| ${row.map((cell) => (cell === '---' ? cell : markdownText(cell))).join(' | ')} |`)
          .join('\n');
    }
  });
  return `${blocks.join('\n\n')}\n`;
}

/** Names of files are full of what Markdown takes for emphasis. */
function markdownText(text: string): string {
  return text.replace(/\s+/g, ' ').replace(/[\\`*_[\]<>|]/g, (letter) => `\\${letter}`);
}

const style = `body{font:16px/1.5 Georgia,serif;max-width:70rem;margin:2rem auto;padding:0 1rem;background:#f6f2e9;color:#1d3a38}
h1,h2{font-weight:600}table{border-collapse:collapse;width:100%;font-size:.9rem}th,td{text-align:left;vertical-align:top;padding:.3rem .6rem;border-bottom:1px solid #cbc4b2;overflow-wrap:anywhere}`;

function asHtml(parts: readonly Part[]): string {
  const cells = (row: readonly string[], tag: 'th' | 'td'): string =>
    `<tr>${row.map((cell) => `<${tag}>${htmlText(cell)}</${tag}>`).join('')}</tr>`;
  const blocks = parts.map((part) => {
    switch (part.sort) {
      case 'title':
        return `<h1>${htmlText(part.text)}</h1>`;
      case 'heading':
        return `<h2>${htmlText(part.text)}</h2>`;
      case 'text':
        return `<p>${htmlText(part.text)}</p>`;
      case 'list':
        return `<ul>${part.items.map((item) => `<li>${htmlText(item)}</li>`).join('')}</ul>`;
      case 'table':
        return `<table><thead>${cells(part.head, 'th')}</thead><tbody>${part.rows.map((row) => cells(row, 'td')).join('')}</tbody></table>`;
    }
  });
  const [title] = parts;
  return `<!doctype html>\n<html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>${title?.sort === 'title' ? htmlText(title.text) : ''}</title><style>${style}</style></head><body>${blocks.join('\n')}</body></html>\n`;
}

function htmlText(text: string): string {
  return text.replace(
    /[&<>"]/g,
    (letter) => ({ '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' })[letter] ?? letter,
  );
}
